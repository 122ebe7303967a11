"""Options that several commands share, and the reading of ``TAG=PATH`` pairs."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

import typer

from zweistimme.project.errors import ZweistimmeError
from zweistimme.project.languages import language_tag
from zweistimme.project.model import Preference, Style

ProjectArgument = typer.Argument(..., help="The project folder.", metavar="PROJECT")
ToOption = typer.Option(
    [], "--to", help="Only this version (a language tag); may be repeated. Default: all.", metavar="TAG"
)
StyleOption = typer.Option(Style.PHRASE_SYNC, "--style", help="How closely the dub follows the original.")
PreferOption = typer.Option(Preference.BALANCED, "--prefer", help="What is kept first when a line is too long.")


def pairs(values: Sequence[str], option: str) -> dict[str, Path]:
    """``TAG=PATH`` values as a mapping from language tag to path."""
    result = {}
    for value in values:
        tag, equals, path = value.partition("=")
        if not equals or not path:
            raise ZweistimmeError(f"{option} wants TAG=PATH, such as {option} de-DE=file; “{value}” is not that.")
        result[language_tag(tag)] = Path(path)
    return result


def chosen_tags(wanted: Sequence[str], there: Sequence[str]) -> list[str]:
    """The versions a command is for: those named, or all."""
    tags = [language_tag(tag) for tag in wanted] or list(there)
    for tag in tags:
        if tag not in there:
            raise ZweistimmeError(f"This project has no version {tag}. Versions: {', '.join(there) or 'none yet'}.")
    if not tags:
        raise ZweistimmeError("This project has no target version yet. Make it with: zweistimme new … --to de-DE")
    return tags
