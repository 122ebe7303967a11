"""What is built with the package: the catalogues of messages, which are read compiled."""

from pathlib import Path

from babel.messages.mofile import write_mo
from babel.messages.pofile import read_po
from setuptools import setup
from setuptools.command.build_py import build_py


class BuildWithCatalogues(build_py):
    """Compiles every catalogue first, so that whoever installs the wheel alone has all languages."""

    def run(self) -> None:
        for catalogue in Path(__file__).parent.glob("src/zweistimme/messages/locales/*/LC_MESSAGES/*.po"):
            with catalogue.open("rb") as written, catalogue.with_suffix(".mo").open("wb") as made:
                write_mo(made, read_po(written, locale=catalogue.parts[-3]))
        super().run()


setup(cmdclass={"build_py": BuildWithCatalogues})
