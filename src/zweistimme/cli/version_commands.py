"""``zweistimme versions``, ``undo`` and ``redo``: a project's target languages, and what was done last."""

from __future__ import annotations

import json
from functools import partial
from pathlib import Path

import typer

from zweistimme.cli.app import CommandError
from zweistimme.cli.console import out
from zweistimme.cli.desk import opened_project
from zweistimme.cli.options import ProjectArgument
from zweistimme.messages import tr, tr_act
from zweistimme.project.access import find_version
from zweistimme.project.delivery_edits import leave_out as leave_out_of_it
from zweistimme.project.edits import add_version, remove_version, rename_version, set_version_style
from zweistimme.project.errors import ZweistimmeError
from zweistimme.project.languages import language_tag
from zweistimme.project.model import Preference, Project, Style
from zweistimme.project.regions import set_basis
from zweistimme.store.read_only import project_in


def register(app: typer.Typer) -> None:
    """Add the commands of this file."""
    app.command()(versions)
    app.command()(undo)
    app.command()(redo)


def versions(
    project: Path = ProjectArgument,
    add: list[str] = typer.Option([], "--add", help="A target language to add; may be repeated.", metavar="TAG"),
    remove: list[str] = typer.Option(
        [], "--remove", help="A version to take away, with its lines and takes; undo brings it back.", metavar="TAG"
    ),
    name: list[str] = typer.Option(
        [],
        "--name",
        help="A name of its own for a version, so that its language can be there twice.",
        metavar="TAG=NAME",
    ),
    basis: list[str] = typer.Option(
        [],
        "--basis",
        help="A version takes its words from another of the same language: es-MX=es-ES; nothing behind = ends it.",
        metavar="TAG=TAG",
    ),
    leave_out: list[str] = typer.Option(
        [], "--leave-out", help="A version that is worked on and not handed over.", metavar="TAG"
    ),
    take_in: list[str] = typer.Option(
        [], "--take-in", help="A version that was left out, and is handed over again.", metavar="TAG"
    ),
    to: list[str] = typer.Option([], "--to", help="Only these get the style; default: all.", metavar="TAG"),
    style: Style | None = typer.Option(None, help="How closely the dub follows the original."),
    prefer: Preference | None = typer.Option(None, help="What is kept first when a line is too long."),
    as_json: bool = typer.Option(False, "--json", help="Print them as JSON."),
) -> None:
    """List a project's versions; add, remove, name or restyle them."""
    if add or remove or style or prefer or name or basis or leave_out or take_in:
        with opened_project(project) as document:
            for tag in add:
                made = partial(add_version, tag=tag, style=style or Style.PHRASE_SYNC)
                document.apply(f"Add {tag}", partial(made, preference=prefer or Preference.BALANCED))
            for tag in remove:
                document.apply(f"Remove {tag}", partial(remove_version, tag=language_tag(tag)))
            for given in name:
                tag, equals, words = given.partition("=")
                if not equals:
                    raise CommandError("“{value}” names no version. Write TAG=NAME.", value=given)
                document.apply(f"Name {tag}", partial(rename_version, tag=language_tag(tag), name=words))
            for given in basis:
                tag, equals, other = given.partition("=")
                if not equals:
                    raise CommandError("“{value}” names no basis. Write TAG=TAG, such as es-MX=es-ES.", value=given)
                there = language_tag(other) if other else ""
                document.apply(f"Basis of {tag}", partial(set_basis, tag=language_tag(tag), basis=there))
            for tag in map(language_tag, leave_out):
                document.apply(f"Leave out {tag}", partial(leave_out_of_it, tag=tag, left_out=True))
            for tag in map(language_tag, take_in):
                document.apply(f"Take in {tag}", partial(leave_out_of_it, tag=tag, left_out=False))
            if (style or prefer) and not add:
                for tag in map(language_tag, to) if to else list(document.project.versions):
                    document.apply(f"Style of {tag}", partial(_restyled, tag=tag, style=style, prefer=prefer))
    _list(project_in(project), as_json=as_json)


def _restyled(project: Project, tag: str, style: Style | None, prefer: Preference | None) -> Project:
    version = find_version(project, tag)
    return set_version_style(project, tag, style or version.style, prefer or version.preference)


def _list(project: Project, *, as_json: bool) -> None:
    if as_json:
        rows = {
            tag: {
                "style": version.style.value,
                "prefer": version.preference.value,
                "lines": len(version.lines),
                "left_out": version.left_out,
                "basis": version.basis,
            }
            for tag, version in project.versions.items()
        }
        typer.echo(json.dumps(rows, ensure_ascii=False, indent=1))
        return
    for tag, version in project.versions.items():
        left_out = tr("not handed over") if version.left_out else ""
        basis = tr("from {name}", name=version.basis) if version.basis else ""
        out.print(f"{tag:12} {version.style.value:12} {version.preference.value:12} {basis} {left_out}".rstrip())
    if not project.versions:
        out.print(tr("No target version yet."))


def undo(project: Path = ProjectArgument) -> None:
    """Take back what was done last."""
    _step(project, back=True)


def redo(project: Path = ProjectArgument) -> None:
    """Do again what was taken back last."""
    _step(project, back=False)


def _step(folder: Path, *, back: bool) -> None:
    with opened_project(folder) as document:
        label = document.undo() if back else document.redo()
    if label is None:
        raise ZweistimmeError("There is nothing to take back." if back else "There is nothing to do again.")
    out.print(
        tr("Taken back: {act}.", act=tr_act(label)) if back else tr("Done again: {act}.", act=tr_act(label)),
    )
