"""``zweistimme compare``: the same lines by several engines, side by side."""

from __future__ import annotations

import json
from dataclasses import asdict
from functools import partial
from pathlib import Path

import typer

from zweistimme.cli.app import CommandError
from zweistimme.cli.console import out
from zweistimme.cli.desk import opened_project, run
from zweistimme.cli.line_commands import segment_of
from zweistimme.cli.options import JsonOption, LineOption, ProjectArgument, chosen_tags
from zweistimme.engines.registry import engine
from zweistimme.messages import money, tr
from zweistimme.project.languages import language_tag
from zweistimme.stages.translate.comparing import Comparison, take_wordings
from zweistimme.stages.translate.comparing import compare as compared


def register(app: typer.Typer) -> None:
    """Add the command of this file."""
    app.command()(compare)


def compare(
    project: Path = ProjectArgument,
    to: str = typer.Option(..., "--to", help="The version.", metavar="TAG"),
    engines: list[str] = typer.Option(..., "--engine", help="An engine; given several times.", metavar="NAME"),
    line: list[int] = LineOption,
    take: str = typer.Option(
        "", help="Take the wordings of this engine, for lines nobody has settled.", metavar="NAME"
    ),
    as_json: bool = JsonOption,
) -> None:
    """Have the same lines put by several engines, and say how long, how alike and how dear each is."""
    tag = language_tag(to)
    if take and take not in engines:
        raise CommandError("“{name}” is not among the engines that are compared.", name=take)
    with opened_project(project) as document:
        chosen_tags([tag], list(document.project.versions))
        ids = [segment_of(document.project, number).id for number in line] or None
        found = run(document, f"Compare engines {tag}", compared, [engine(name) for name in engines], tag, ids)
        if take:
            open_lines = (one for one in found.lines if not one.settled)
            theirs = ((one.segment_id, said) for one in open_lines for said in one.candidates if said.engine == take)
            wanted = [(key, said.text, said.engine) for key, said in theirs]
            document.apply("Take wordings of engines", partial(take_wordings, tag=tag, wanted=wanted))
    if as_json:
        typer.echo(json.dumps(asdict(found), ensure_ascii=False, indent=1))
        return
    _print(found)


def _print(found: Comparison) -> None:
    for line in found.lines:
        out.print(f"{line.number:4}  {line.source}")
        for one in line.candidates:
            noticed = tr("{n:thing|things} noticed", n=one.remarks) if one.remarks else ""
            about = "  ".join(filter(None, (f"{one.spoken_s:.1f} s", f"{one.alike:.0f}", noticed)))
            out.print(f"      {one.engine}: {one.text}  ({about})")
    for spent in found.asked:
        price = money(spent.cost.amount, spent.cost.currency, 4) if spent.cost.amount else tr("free")
        words = tr("{engine}: {price}, {seconds:.1f} s", engine=spent.engine, price=price, seconds=spent.seconds)
        out.print(words)
