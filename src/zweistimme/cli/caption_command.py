"""``zweistimme captions``: what captions are held to."""

from __future__ import annotations

import json
from dataclasses import asdict, replace
from functools import partial
from pathlib import Path
from typing import Any

import typer

from zweistimme.cli.app import CommandError
from zweistimme.cli.console import out
from zweistimme.cli.desk import opened_project
from zweistimme.cli.options import ProjectArgument, chosen_tags
from zweistimme.messages import tr
from zweistimme.project.delivery_edits import captioned, set_caption_limits
from zweistimme.project.model import CaptionLimits, Project
from zweistimme.project.times import SECOND_US
from zweistimme.stages.caption import rules_for
from zweistimme.store.read_only import project_in


def register(app: typer.Typer) -> None:
    """Add the command of this file."""
    app.command()(captions)


def captions(
    project: Path = ProjectArgument,
    to: list[str] = typer.Option(
        [], "--to", help="Only these languages, the original's among them; default: all.", metavar="TAG"
    ),
    lines: int | None = typer.Option(None, help="Lines of a caption: 1 or 2.", metavar="N"),
    letters: float | None = typer.Option(None, help="Letters of a line at most.", metavar="N"),
    speed: float | None = typer.Option(None, help="Letters a second at most.", metavar="N"),
    shortest: float | None = typer.Option(None, help="Seconds a caption stands at least.", metavar="S"),
    longest: float | None = typer.Option(None, help="Seconds a caption stands at most.", metavar="S"),
    gap: float | None = typer.Option(None, help="Seconds between two captions at least.", metavar="S"),
    usual: bool = typer.Option(False, "--usual", help="Hold them to what is usual in their language again."),
    as_json: bool = typer.Option(False, "--json", help="Print them as JSON."),
) -> None:
    """Say what captions are held to, language by language, or set it."""
    said: dict[str, Any] = {"lines": lines, "line_letters": letters, "most_speed": speed}
    said |= {
        name: None if seconds is None else round(seconds * SECOND_US)
        for name, seconds in (("shortest_us", shortest), ("longest_us", longest), ("gap_us", gap))
    }
    said = {name: value for name, value in said.items() if value is not None}
    if usual and said:
        raise CommandError("What is usual and a limit of one's own cannot be had at once. Leave --usual out.")
    if said or usual:
        with opened_project(project) as document:
            for tag in chosen_tags(to, captioned(document.project)):
                before = document.project.caption_limits.get(tag, CaptionLimits())
                limits = CaptionLimits() if usual else replace(before, **said)
                document.apply("Set the captions", partial(set_caption_limits, tag=tag, limits=limits))
    _list(project_in(project), to, as_json=as_json)


def _list(project: Project, to: list[str], *, as_json: bool) -> None:
    tags = chosen_tags(to, captioned(project))
    rules = {tag: rules_for(tag, project.caption_limits.get(tag)) for tag in tags}
    if as_json:
        typer.echo(json.dumps({tag: asdict(rule) for tag, rule in rules.items()}, ensure_ascii=False, indent=1))
        return
    for tag, rule in rules.items():
        held = tr(
            "{lines:line|lines} of {letters:g} letters, {speed:g} letters a second, "
            "{shortest_s:.2f} to {longest_s:.1f} s, {gap_s:.2f} s apart",
            lines=rule.lines,
            letters=rule.line_letters,
            speed=rule.most_speed,
            shortest_s=rule.shortest_us / SECOND_US,
            longest_s=rule.longest_us / SECOND_US,
            gap_s=rule.gap_us / SECOND_US,
        )
        own = tr("set for this project") if tag in project.caption_limits else ""
        out.print(f"{tag:12} {held}  {own}".rstrip())
