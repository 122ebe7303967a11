"""Messages of the desk: gathered from the code, merged into its translations, compiled.

    tools/messages.py update      gather all messages and merge them into every language's .po
    tools/messages.py compile     make the .mo that are read at run time, where a .po is newer

Where a message stands is known by what it is given to, as with the keywords of xgettext: ``tr`` and ``msg``, errors,
tables that are shown elsewhere, what an edit or a run is called, help of the command line. Of a literal with places
filled in by the code (an f-string) only the name of an act may be one: what it was done to follows it.
"""

from __future__ import annotations

import ast
import sys
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from pathlib import Path

from babel.messages.catalog import Catalog
from babel.messages.mofile import write_mo
from babel.messages.pofile import read_po, write_po

from zweistimme.project import errors

ROOT = Path(__file__).parents[1]
CODE = ROOT / "src" / "zweistimme"
LOCALES = CODE / "messages" / "locales"
ACT = "act"
"""The context of what was or can be done."""
ARGUMENTS = {
    "tr": (0,), "msg": (0,), "ActionSpec": (1, 3), "MenuSpec": (0,), "PageSpec": (1,), "Entry": (1,),
}  # fmt: skip
"""Which arguments of a call are messages."""
ACTS = {
    "msg_act": (0,), ".apply": (0,), ".deliver": (0,), "._each": (0,), ".start": (0,),
    ".read": (0,), "run": (1,), "reporting": (0,),
}  # fmt: skip
"""Which arguments of a call name an act."""
ERRORS = frozenset(
    name for name, kind in vars(errors).items() if isinstance(kind, type) and issubclass(kind, Exception)
) | {"CommandError"}
"""Whose first argument is a sentence."""
SHOWN = frozenset(["Step", "Role", "Style", "Preference"])
"""Enumerations whose values are shown."""
SENTENCES = CODE / "sentences"
PACKAGES = {"typer": ("core",)}
"""What the command line says by packages of others, which look their messages up where we say."""


@dataclass(frozen=True)
class Message:
    """A message, its context or none, and where it stands; *plural* where a package counts by two messages."""

    text: str
    context: str | None
    place: tuple[str, int]
    plural: str = ""

    @property
    def id(self) -> str | tuple[str, str]:
        """As catalogues know it."""
        return (self.text, self.plural) if self.plural else self.text


class Unclear(Exception):
    """Where a message should stand there is something that cannot be translated."""


def messages_in(code: str, file: str, *, sentences: bool = False, command_line: bool = False) -> Iterator[Message]:
    """The messages of a piece of code: with *sentences*, also all values of its tables; of the *command_line*, also
    its help."""
    tree = ast.parse(code)
    for node in ast.walk(tree):
        if isinstance(node, ast.Call):
            yield from _of_call(node, file)
            for word in node.keywords if command_line else ():
                if word.arg == "help":
                    yield from _message(word.value, None, file)
        elif isinstance(node, ast.Dict) and sentences:
            for value in node.values:
                if value is not None and isinstance(value, ast.Constant):
                    yield from _message(value, None, file)
        elif isinstance(node, ast.ClassDef) and node.name in SHOWN:
            for line in node.body:
                if isinstance(line, ast.Assign):
                    yield from _message(line.value, None, file)
        elif isinstance(node, ast.FunctionDef) and command_line and _is_command(node):
            yield Message(ast.get_docstring(node) or "", None, (file, node.lineno))


def _is_command(node: ast.FunctionDef) -> bool:
    """Whether a function's docstring is the help of a command: its arguments are options, or a decorator says so."""
    if node.name.startswith("_") or not ast.get_docstring(node):
        return False
    decorators = [_called(one.func) for one in node.decorator_list if isinstance(one, ast.Call)]
    given = [
        one.id if isinstance(one, ast.Name) else _called(one.func) if isinstance(one, ast.Call) else ""
        for one in node.args.defaults
    ]
    return (
        ".command" in decorators
        or ".callback" in decorators
        or any(name.endswith(("Option", "Argument")) for name in given)
    )


def _of_call(node: ast.Call, file: str) -> Iterator[Message]:
    name = _called(node.func)
    for place in ARGUMENTS.get(name, (0,) if name in ERRORS else ()):
        if place < len(node.args):
            yield from _message(node.args[place], None, file)
    for place in ACTS.get(name, ()):
        if place < len(node.args):
            yield from _message(node.args[place], ACT, file)


def _called(function: ast.expr) -> str:
    if isinstance(function, ast.Attribute):
        return f".{function.attr}"
    return function.id if isinstance(function, ast.Name) else ""


def _message(node: ast.expr, context: str | None, file: str) -> Iterator[Message]:
    if isinstance(node, ast.Constant) and isinstance(node.value, str) and node.value.strip():
        yield Message(node.value, context, (file, node.lineno))
    elif isinstance(node, ast.IfExp):
        yield from _message(node.body, context, file)
        yield from _message(node.orelse, context, file)
    elif isinstance(node, ast.JoinedStr):
        first = node.values[0]
        if context is None:
            raise Unclear(f"{file}:{node.lineno}: {ast.unparse(node)}")
        if isinstance(first, ast.Constant):
            yield Message(str(first.value).strip(), context, (file, node.lineno))


def all_messages() -> Iterator[Message]:
    """Every message of the desk, and what the command line says by packages of others."""
    for path in sorted(CODE.rglob("*.py")):
        kind = path.relative_to(CODE).parts[0]
        if kind in ("standin", "server"):  # which speak English to programs
            continue
        yield from messages_in(
            path.read_text(),
            str(path.relative_to(ROOT)),
            sentences=path.is_relative_to(SENTENCES),
            command_line=kind == "cli",
        )
    yield from _of_packages()


def _of_packages() -> Iterator[Message]:
    from importlib import import_module

    for package, modules in PACKAGES.items():
        for module in modules:
            path = Path(str(import_module(f"{package}.{module}").__file__))
            for node in ast.walk(ast.parse(path.read_text())):
                if isinstance(node, ast.Call) and _called(node.func) in ("_", "ngettext"):
                    ids = [one.value for one in node.args[:2] if isinstance(one, ast.Constant)]
                    if ids:
                        yield Message(ids[0], None, (f"{package}/{module}.py", node.lineno), *ids[1:])


def template(messages: Iterable[Message] | None = None) -> Catalog:
    """All messages as a catalogue without translations."""
    made = Catalog(project="Zweistimme", charset="utf-8", fuzzy=False, copyright_holder="the Zweistimme developers")
    for one in messages or all_messages():
        # their places are those of str.format, which tools know as python-brace-format
        flags = ("python-brace-format",) if "{" in one.text else ()
        made.add(one.id, locations=[(one.place[0], 0)], context=one.context, flags=flags)
    return made


def translations() -> dict[str, Path]:
    """The .po of every language there is."""
    return {path.parts[-3]: path for path in sorted(LOCALES.glob("*/LC_MESSAGES/zweistimme.po"))}


def update() -> None:
    """Merge all messages into every language."""
    gathered = template()
    for language, path in translations().items():
        with path.open("rb") as file:
            catalogue = read_po(file, locale=language)
        catalogue.update(gathered, no_fuzzy_matching=True, update_creation_date=False)
        catalogue.obsolete.clear()
        with path.open("wb") as file:
            write_po(file, catalogue, width=110, sort_by_file=True, ignore_obsolete=True, include_lineno=False)
        missing = sum(not (all(one.string) if one.pluralizable else one.string) for one in catalogue if one.id)
        print(f"{language}: {len(catalogue)} messages, {missing} not translated")


def compile_all() -> None:
    """Make the .mo of every language whose .po is newer."""
    for language, path in translations().items():
        target = path.with_suffix(".mo")
        if target.exists() and target.stat().st_mtime >= path.stat().st_mtime:
            continue
        with path.open("rb") as file:
            catalogue = read_po(file, locale=language)
        made = target.with_suffix(".new")
        with made.open("wb") as out:
            write_mo(out, catalogue)
        made.replace(target)


if __name__ == "__main__":
    commands = {"update": update, "compile": compile_all}
    if len(sys.argv) != 2 or sys.argv[1] not in commands:
        sys.exit(__doc__)
    commands[sys.argv[1]]()
