"""``zweistimme say-back``: a version in the language of the original again, for whoever does not know its own."""

from __future__ import annotations

import json
from dataclasses import asdict
from pathlib import Path

import typer

from zweistimme.cli.console import out
from zweistimme.cli.desk import opened_project, run
from zweistimme.cli.line_commands import segment_of
from zweistimme.cli.options import JsonOption, LineOption, ProjectArgument, chosen_tags
from zweistimme.engines.offers import Role
from zweistimme.engines.registry import engine
from zweistimme.project.languages import language_tag
from zweistimme.stages.engine_choice import engine_for
from zweistimme.stages.translate.saying_back import say_back as said_back


def register(app: typer.Typer) -> None:
    """Add the command of this file."""
    app.command("say-back")(say_back)


def say_back(
    project: Path = ProjectArgument,
    to: str = typer.Option(..., "--to", help="The version.", metavar="TAG"),
    line: list[int] = LineOption,
    by: str = typer.Option("", help="Another language on the way back.", metavar="TAG"),
    as_json: bool = JsonOption,
) -> None:
    """Have wordings put back into the language of the original, and say how alike they are, the worst first."""
    tag = language_tag(to)
    with opened_project(project) as document:
        chosen_tags([tag], list(document.project.versions))
        ids = [segment_of(document.project, number).id for number in line] or None
        name = engine_for(document.project, Role.TRANSLATE, tag)
        said = run(document, f"Say back {tag}", said_back, engine(name), tag, ids, by=language_tag(by) if by else "")
    if as_json:
        typer.echo(json.dumps([asdict(one) for one in said], ensure_ascii=False, indent=1))
        return
    for one in said:
        head = f"{one.number:4} {one.score:4.0f}"
        out.print(f"{head}  {one.source}")
        out.print(f"{'':{len(head)}}  {one.text}")
        out.print(f"{'':{len(head)}}  {one.back}")
