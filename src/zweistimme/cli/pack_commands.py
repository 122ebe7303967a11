"""``zweistimme pack``, ``unpack`` and ``clean``: a project as one file, and what of its folder can go."""

from __future__ import annotations

import json
from pathlib import Path

import typer

from zweistimme.cli.app import CommandError
from zweistimme.cli.console import err, out
from zweistimme.cli.desk import opened_project, reporting
from zweistimme.cli.options import JsonOption, ProjectArgument
from zweistimme.messages import tr
from zweistimme.store.cleaning import removable, removed
from zweistimme.store.names import PACKED


def register(app: typer.Typer) -> None:
    """Add the commands of this file."""
    for command in (pack, unpack, clean):
        app.command()(command)


def pack(
    project: Path = ProjectArgument,
    target: Path | None = typer.Argument(None, help="The file to write; default: PROJECT.zweistimme.", metavar="FILE"),
    media: bool = typer.Option(False, "--media", help="With the programme and its bed."),
) -> None:
    """Write a project as one file, to keep it or to send it."""
    from zweistimme.store.packing import pack as pack_project

    file = target or project.absolute().with_name(f"{project.absolute().name}{PACKED}")
    if file.suffix != PACKED:
        raise CommandError("{file} must end in {packed}.", file=file.name, packed=PACKED)
    with reporting("Pack") as report:
        missing = pack_project(project, file, media=media, report=report)
    for path in missing:
        err.print(
            tr("  note: {path} is not there any more, or another file now; it is not in the package.", path=path),
        )
    out.print(tr("{file}: {size:,.1f} MB.", file=file, size=file.stat().st_size / 1e6))


def unpack(
    package: Path = typer.Argument(..., help="A packed project.", metavar="FILE"),
    folder: Path | None = typer.Argument(None, help="The folder to make; default: as the file.", metavar="PROJECT"),
) -> None:
    """Make a packed project a folder again."""
    from zweistimme.store.packing import unpack as unpack_project

    place = folder or package.absolute().with_suffix("")
    with reporting("Unpack") as report:
        unpack_project(package, place, report)
    out.print(tr("{place} is ready.", place=place))


def clean(
    project: Path = ProjectArgument,
    clips: bool = typer.Option(False, "--clips", help="Remove clips that nothing speaks of any more."),
    cache: bool = typer.Option(False, "--cache", help="Remove what can be made again."),
    as_json: bool = JsonOption,
) -> None:
    """Say what of a project's folder can go, and how much that is; or remove it."""
    with opened_project(project):
        found = removable(project)
        sizes = {some.kind: {"files": len(some.files), "bytes": some.size_bytes} for some in found}
        for some, wanted in zip(found, (clips, cache), strict=True):
            if wanted:
                removed(some)
    done = tr("removed") if clips or cache else tr("can go")
    if as_json:
        typer.echo(json.dumps(sizes))
        return
    about = {"clips": tr("clips that nothing speaks of any more"), "cache": tr("files that can be made again")}
    for some, wanted in zip(found, (clips, cache), strict=True):
        size = sizes[some.kind]
        state = done if wanted or not (clips or cache) else tr("left")
        out.print(
            tr(
                "{size:10,.1f} MB  {files:,} {about}: {state}",
                size=size["bytes"] / 1e6,
                files=size["files"],
                about=about[some.kind],
                state=state,
            ),
        )
