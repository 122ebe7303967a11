"""``zweistimme export`` and ``import``: versions sent to people who have no desk, and taken back."""

from __future__ import annotations

import json
from dataclasses import asdict
from functools import partial
from pathlib import Path

import typer

from zweistimme.cli.console import out
from zweistimme.cli.desk import opened_project, say_note
from zweistimme.cli.options import JsonOption, ProjectArgument, chosen_tags
from zweistimme.media.atomic import written_bytes
from zweistimme.messages import tr
from zweistimme.project.languages import language_tag
from zweistimme.sentences import STATES
from zweistimme.stages.translate.exchange import Change, doubts, proposed, read_exchange, take_back, written_exchange
from zweistimme.store.read_only import project_in

VersionOption = typer.Option(..., "--to", help="The version.", metavar="TAG")


def register(app: typer.Typer) -> None:
    """Add the commands of this file."""
    app.command("export")(export)
    app.command("import")(bring_back)


def export(
    project: Path = ProjectArgument,
    file: Path = typer.Argument(
        ..., help="The file to write: .xlf, .docx, .xlsx or .csv.", dir_okay=False, metavar="FILE"
    ),
    to: str = VersionOption,
    pictures: bool = typer.Option(False, "--pictures", help="With what is seen at each line; .docx and .xlsx."),
) -> None:
    """Write a version for people who have no desk: XLIFF 2.1, a Word table, a workbook, or CSV."""
    state, tag = project_in(project), language_tag(to)
    chosen_tags([tag], list(state.versions))
    written_bytes(file, written_exchange(state, tag, file.suffix, with_pictures=pictures))
    out.print(tr("{file} is written.", file=file))


def bring_back(
    project: Path = ProjectArgument,
    file: Path = typer.Argument(..., help="A file that export wrote.", exists=True, dir_okay=False, metavar="FILE"),
    to: str = VersionOption,
    look: bool = typer.Option(False, "--look", help="Say what would change, and change nothing."),
    every: bool = typer.Option(
        False, "--all", help="Take also what was changed here meanwhile, is locked, or was emptied."
    ),
    as_json: bool = JsonOption,
) -> None:
    """Take back a version that somebody looked over: wordings, states and notes, line by line."""
    tag = language_tag(to)
    exchange = read_exchange(file)
    if look:
        state = project_in(project)
        chosen_tags([tag], list(state.versions))
        changes, said = proposed(state, tag, exchange)
        taken: list[Change] = []
    else:
        with opened_project(project) as document:
            chosen_tags([tag], list(document.project.versions))
            changes, said = proposed(document.project, tag, exchange)
            taken = [change for change in changes if every or change.sure]
            if taken:
                edit = partial(take_back, tag=tag, changes=taken, file=file.name)
                document.apply(f"Take back {file.name}", edit)
    for finding in said:
        say_note(finding)
    if as_json:
        rows = [{**asdict(change), "taken": change in taken} for change in changes]
        typer.echo(json.dumps(rows, ensure_ascii=False, indent=1))
        return
    for change in changes:
        _print(change, taken=change in taken)
    words = tr("{n:line|lines} would change.", n=len(changes)) if look else tr("{n:line|lines} taken.", n=len(taken))
    out.print(words)
    left = len(changes) - len(taken)
    if left and not look:
        out.print(tr("{n:line was|lines were} left as they are; --all takes them, too.", n=left))


def _print(change: Change, *, taken: bool) -> None:
    head = f"{change.number:4} "
    about = ", ".join((tr(STATES[change.state]), *doubts(change)))
    out.print(f"{head} {'✓' if taken else ' '} {about}")
    if change.before != change.after:
        out.print(f"{'':{len(head)}}   − {change.before}")
        out.print(f"{'':{len(head)}}   + {change.after}")
    for note in change.notes:
        out.print(f"{'':{len(head)}}   “{': '.join(filter(None, (note.author, note.text)))}”")
