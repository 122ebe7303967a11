"""Options that several commands share, and the reading of ``TAG=PATH`` pairs."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

import typer

from zweistimme.cli.app import CommandError
from zweistimme.engines.offers import Role
from zweistimme.messages import tr
from zweistimme.project.languages import language_tag
from zweistimme.project.model import Preference, Style

JsonOption = typer.Option(False, "--json", help="Print it as JSON.")
KeepGoingOption = typer.Option(
    False, "--keep-going", help="Go on with the rest where a part cannot be done; exit code 4 says that there was one."
)
LineOption = typer.Option(
    [], "--line", min=1, help="Only this line, as “lines” numbers it; may be repeated.", metavar="LINE"
)
AnewOption = typer.Option(
    False, "--anew", help="Ask the engine anew, and pay anew, for what it has answered before; with --line."
)
ProjectArgument = typer.Argument(..., help="The project folder.", metavar="PROJECT")
ToOption = typer.Option(
    [], "--to", help="Only this version (a language tag); may be repeated. Default: all.", metavar="TAG"
)
EncodingOption = typer.Option(
    "", help="How the given text files are encoded, such as cp1251; default: found out.", metavar="NAME"
)
OffsetOption = typer.Option(
    "", help="What to add to the times of the given file: seconds, or a timecode (-10:00:00:00).", metavar="TIME"
)
SoundOption = typer.Option(
    "",
    "--sound",
    help="Which of its sound is the dialogue: a track (2), two of one channel (5+6), a track's channels (1:FC). "
    "Default: where speech is heard.",
    metavar="SOUND",
)
BedSoundOption = typer.Option(
    "", "--bed-sound", help="Which sound of the bed's file, or of the programme's, is the bed.", metavar="SOUND"
)
RestOption = typer.Option(
    False, "--rest-as-bed", help="The channels of the track that are not the dialogue are the bed."
)
StyleOption = typer.Option(Style.PHRASE_SYNC, "--style", help="How closely the dub follows the original.")
EngineOption = typer.Option(
    [],
    "--engine",
    help="An engine to use instead of the bundled one: NAME, or recognise=NAME, translate=NAME, speak=NAME.",
    metavar="[ROLE=]NAME",
)
PreferOption = typer.Option(Preference.BALANCED, "--prefer", help="What is kept first when a line is too long.")


def pairs(values: Sequence[str], option: str) -> dict[str, Path]:
    """``TAG=PATH`` values as a mapping from language tag to path."""
    result = {}
    for value in values:
        tag, equals, path = value.partition("=")
        if not equals or not path:
            raise CommandError(
                "{option} wants TAG=PATH, such as {option} de-DE=file; “{value}” is not that.",
                option=option,
                value=value,
            )
        result[language_tag(tag)] = Path(path)
    return result


def engine_choices(values: Sequence[str]) -> dict[Role, str]:
    """``ROLE=NAME`` or ``NAME`` values as a mapping from role to connection. A name alone stands for all it can do."""
    from zweistimme.engines.registry import engine

    choices: dict[Role, str] = {}
    for value in values:
        role, equals, name = value.partition("=")
        if not equals:
            choices |= dict.fromkeys(engine(value).info().roles, value)
            continue
        if role not in set(Role):
            raise CommandError("“{role}” is no role of an engine. Roles: {names}.", role=role, names=", ".join(Role))
        if Role(role) not in engine(name).info().roles:
            raise CommandError(
                "{name} does not {role}. It can {names}.",
                name=name,
                role=role,
                names=" and ".join(engine(name).info().roles),
            )
        choices[Role(role)] = name
    return choices


def hints_from(file: Path | None) -> tuple[str, ...]:
    """The lines of a file of hints that are not empty."""
    from zweistimme.formats.text import read_text

    lines = read_text(file)[0].splitlines() if file else []
    return tuple(line.strip()[:500] for line in lines if line.strip())[:5_000]


def chosen_tags(wanted: Sequence[str], there: Sequence[str]) -> list[str]:
    """The versions a command is for: those named, or all."""
    tags = [language_tag(tag) for tag in wanted] or list(there)
    for tag in tags:
        if tag not in there:
            raise CommandError(
                "This project has no version {tag}. Versions: {names}.",
                tag=tag,
                names=", ".join(there) or tr("none yet"),
            )
    if not tags:
        raise CommandError("This project has no target version yet. Make it with: zweistimme new … --to de-DE")
    return tags
