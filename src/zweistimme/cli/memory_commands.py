"""``zweistimme memory``: what was ever settled, across projects: looked through, changed, brought in and given away."""

from __future__ import annotations

import json
from dataclasses import asdict
from pathlib import Path
from typing import Any

import typer

from zweistimme import __version__
from zweistimme.cli.app import App, CommandError
from zweistimme.cli.console import out
from zweistimme.cli.options import JsonOption
from zweistimme.messages import tr
from zweistimme.project.languages import language_tag

FromOption = typer.Option("", "--from", help="What was said: its language.", metavar="TAG")
IntoOption = typer.Option("", "--to", help="What it is in another language: that language.", metavar="TAG")
UnitsArgument = typer.Argument(..., help="Numbers of units, as “search” shows them.", metavar="NUMBER …")

ProjectsArgument = typer.Argument(..., help="Project folders.", metavar="PROJECT …")


def register(app: typer.Typer) -> None:
    """Add the commands of this file."""
    memory = App(name="memory", help="Look through the translation memory, change it, bring in or write TMX.")
    for name, command in (
        ("status", status), ("search", search), ("import", bring_in), ("export", write), ("edit", edit),
        ("delete", delete), ("mute", mute), ("keep", keep), ("leave", leave),
    ):  # fmt: skip
        memory.command(name)(command)
    app.add_typer(memory, name="memory")


def status(as_json: bool = JsonOption) -> None:
    """Say how much it holds, pair by pair, and where it lies."""
    from zweistimme.memory.memory import Memory, memory_file

    with Memory() as memory:
        counts = memory.counts()
    if as_json:
        rows = [{"from": source, "to": target, "units": count} for source, target, count in counts]
        typer.echo(json.dumps({"file": str(memory_file()), "pairs": rows}, ensure_ascii=False, indent=1))
        return
    for source, target, count in counts:
        out.print(tr("{source} to {target}: {n:unit|units}", source=source, target=target, n=count))
    if not counts:
        out.print(tr("Nothing yet. What you settle in a project goes into it, and “import” reads TMX."))
    out.print(tr("It lies in {file}.", file=memory_file()))


def search(
    text: str = typer.Argument(..., help="Any stretch of text, in either language.", metavar="TEXT"),
    source: str = FromOption,
    target: str = IntoOption,
    like: bool = typer.Option(False, "--like", help="What is at least 70 % like the whole text; with --from and --to."),
    most: int = typer.Option(20, min=1, max=1_000, help="How many at most.", metavar="N"),
    as_json: bool = JsonOption,
) -> None:
    """Find what was settled: all that holds a stretch of text, or all that is like a sentence."""
    from zweistimme.memory.memory import Memory

    tags = [language_tag(tag) if tag else "" for tag in (source, target)]
    if like and not all(tags):
        raise CommandError("Say between which languages: --like goes with --from and --to.")
    with Memory() as memory:
        if like:
            found = memory.matches(text, *tags, most=most)
            rows = [{"percent": m.percent, "use": m.target, **asdict(m.unit)} for m in found]
        else:
            units = memory.holding(text, source_tag=tags[0], target_tag=tags[1], most=most)
            rows = [asdict(unit) for unit in units]
    if as_json:
        typer.echo(json.dumps(rows, ensure_ascii=False, indent=1))
        return
    for row in rows:
        _print(row)
    if not rows:
        out.print(tr("Nothing was settled that has “{text}”.", text=text))


def _print(row: dict[str, Any]) -> None:
    share = f"  {row['percent']} %" if "percent" in row else ""
    out.print(f"{row['id']:>7}{share}  {row['source_tag']}  {row['source']}")
    out.print(f"{'':7}{'':{len(share)}}  {row['target_tag']}  {row.get('use', row['target'])}")
    about = " · ".join(filter(None, (row["origin"], row["author"], row["made"][:10])))
    out.print(f"{'':7}{'':{len(share)}}  {about}")


def bring_in(
    files: list[Path] = typer.Argument(..., help="TMX files.", exists=True, dir_okay=False, metavar="FILE …"),
) -> None:
    """Take in the units of TMX files; what is there already is there once."""
    from zweistimme.formats.tmx import TmxCount, read_tmx
    from zweistimme.memory.memory import Memory

    with Memory() as memory:
        for file in files:
            count = TmxCount()
            new = memory.put(read_tmx(file, count))
            words = tr("{file}: {n:unit|units}, {new:,} of them new.", file=file.name, n=count.units, new=new)
            if count.left_out:
                words += " " + tr(
                    "{n:unit was|units were} left out: without a text in two languages.", n=count.left_out
                )
            out.print(words)


def write(
    file: Path = typer.Argument(..., help="The TMX file to write.", dir_okay=False, metavar="FILE"),
    source: str = FromOption,
    target: str = IntoOption,
) -> None:
    """Write the memory, or a pair of languages of it, as TMX 1.4b."""
    from zweistimme.formats.tmx import write_tmx
    from zweistimme.media.atomic import appearing
    from zweistimme.memory.memory import Memory

    tags = [language_tag(tag) if tag else "" for tag in (source, target)]
    with Memory() as memory, appearing(file) as temporary, temporary.open("wb") as there:
        count = write_tmx(there, memory.all_of(source_tag=tags[0], target_tag=tags[1]), __version__)
    out.print(tr("{file}: {n:unit|units}.", file=file, n=count))


def edit(
    number: int = typer.Argument(..., help="The number of a unit, as “search” shows it.", metavar="NUMBER"),
    text: str = typer.Option(..., help="What it is to be in the other language.", metavar="TEXT"),
) -> None:
    """Give a unit another wording."""
    from zweistimme.memory.memory import Memory

    with Memory() as memory:
        memory.set_target(number, text)
        (unit,) = memory.of_ids([number])
    _print(asdict(unit))


def delete(numbers: list[int] = UnitsArgument) -> None:
    """Take units away."""
    from zweistimme.memory.memory import Memory

    with Memory() as memory:
        memory.remove(numbers)
    out.print(tr("{n:unit is|units are} gone.", n=len(set(numbers))))


def mute(
    numbers: list[int] = UnitsArgument,
    project: Path = typer.Option(..., help="The project in which they are not to be offered.", metavar="PROJECT"),
    again: bool = typer.Option(False, "--again", help="Offer them there again."),
) -> None:
    """Do not offer units in a project, or offer them there again."""
    from zweistimme.memory.memory import Memory
    from zweistimme.store.read_only import id_of

    with Memory() as memory:
        memory.mute(numbers, id_of(project), muted=not again)


def keep(
    projects: list[Path] = ProjectsArgument,
) -> None:
    """Take in what projects have settled, now and from now on, as happens by itself with those that are made here."""
    from zweistimme.stages.translate.remembering import remember, remembers
    from zweistimme.store.own_projects import Whose, set_whose
    from zweistimme.store.read_only import id_of, project_in

    if not remembers():
        raise CommandError("The translation memory is switched off: zweistimme settings memory on")
    for folder in projects:
        set_whose(id_of(folder), folder, Whose.OWN)
        count = remember(project_in(folder), id_of(folder), folder)
        out.print(tr("{folder}: {n:line|lines} taken in.", folder=folder, n=count))


def leave(projects: list[Path] = ProjectsArgument) -> None:
    """Leave projects out of the memory: what is settled in them from now on stays with them."""
    from zweistimme.store.own_projects import Whose, set_whose
    from zweistimme.store.read_only import id_of

    for folder in projects:
        set_whose(id_of(folder), folder, Whose.LEFT_OUT)
        out.print(tr("{folder} is left out of the memory.", folder=folder))
