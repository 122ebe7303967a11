"""Whether the system can write a language, and what to install where it cannot."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Final

import langcodes
from PyQt6.QtGui import QFontDatabase

from zweistimme.messages import tr
from zweistimme.project.languages import language_name

_System = QFontDatabase.WritingSystem
_SCRIPTS: Final[Mapping[str, tuple[_System, str]]] = {
    "Latn": (_System.Latin, "fonts-dejavu-core"), "Grek": (_System.Greek, "fonts-dejavu-core"),
    "Cyrl": (_System.Cyrillic, "fonts-dejavu-core"), "Armn": (_System.Armenian, "fonts-dejavu-core"),
    "Hebr": (_System.Hebrew, "fonts-noto-core"), "Arab": (_System.Arabic, "fonts-noto-core"),
    "Deva": (_System.Devanagari, "fonts-noto-core"), "Beng": (_System.Bengali, "fonts-noto-core"),
    "Guru": (_System.Gurmukhi, "fonts-noto-core"), "Gujr": (_System.Gujarati, "fonts-noto-core"),
    "Orya": (_System.Oriya, "fonts-noto-core"), "Taml": (_System.Tamil, "fonts-noto-core"),
    "Telu": (_System.Telugu, "fonts-noto-core"), "Knda": (_System.Kannada, "fonts-noto-core"),
    "Mlym": (_System.Malayalam, "fonts-noto-core"), "Sinh": (_System.Sinhala, "fonts-noto-core"),
    "Thai": (_System.Thai, "fonts-noto-core"), "Laoo": (_System.Lao, "fonts-noto-core"),
    "Tibt": (_System.Tibetan, "fonts-noto-core"), "Mymr": (_System.Myanmar, "fonts-noto-core"),
    "Geor": (_System.Georgian, "fonts-dejavu-core"), "Khmr": (_System.Khmer, "fonts-noto-core"),
    "Hans": (_System.SimplifiedChinese, "fonts-noto-cjk"), "Hant": (_System.TraditionalChinese, "fonts-noto-cjk"),
    "Jpan": (_System.Japanese, "fonts-noto-cjk"), "Kore": (_System.Korean, "fonts-noto-cjk"),
}  # fmt: skip
"""The writing systems that Qt tells apart, by their ISO 15924 codes, and Debian's package with a font for each."""


def missing_font(tag: str) -> str:
    """What to say where no font of the system has the letters of a language; empty where one has."""
    script = langcodes.get(tag).maximize().script or "Latn"
    system, package = _SCRIPTS.get(script, (None, ""))
    if system is None or QFontDatabase.families(system):
        return ""
    return tr(
        "This system has no font for {language}: its letters will be shown as boxes. The package {package} has one.",
        language=language_name(tag),
        package=package,
    )
