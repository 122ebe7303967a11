"""``zweistimme choose``: the wordings on offer that fit, for whole versions at once."""

from __future__ import annotations

import json
from dataclasses import asdict
from functools import partial
from pathlib import Path

import typer

from zweistimme.cli.console import out
from zweistimme.cli.desk import opened_project
from zweistimme.cli.options import JsonOption, ProjectArgument, ToOption, chosen_tags
from zweistimme.messages import tr
from zweistimme.stages.translate.choosing import choices_that_fit
from zweistimme.stages.translate.choosing import choose as chosen
from zweistimme.store.read_only import project_in


def register(app: typer.Typer) -> None:
    """Add the command of this file."""
    app.command()(choose)


def choose(
    project: Path = ProjectArgument,
    to: list[str] = ToOption,
    look: bool = typer.Option(False, "--look", help="Say what would change, and change nothing."),
    as_json: bool = JsonOption,
) -> None:
    """Choose among the wordings on offer, for the whole version at once, the fullest that can be placed well."""
    state = project_in(project)
    tags = chosen_tags(to, list(state.versions))
    found = {tag: choices_that_fit(state, tag) for tag in tags}
    if not look and any(one.choices for one in found.values()):
        with opened_project(project) as document:
            for tag, one in found.items():
                if one.choices:
                    document.apply("Choose what fits", partial(chosen, tag=tag, choices=one.choices))
    if as_json:
        typer.echo(json.dumps({tag: asdict(one) for tag, one in found.items()}, ensure_ascii=False, indent=1))
        return
    for tag, one in found.items():
        for choice in one.choices:
            head = f"{tag}  {choice.number:4}"
            out.print(f"{head}  − {choice.before} ({choice.before_s:.1f} s, ×{choice.before_tempo:.2f})")
            then = f"({choice.after_s:.1f} s, ×{choice.after_tempo:.2f})"
            out.print(f"{'':{len(head)}}  + {choice.after} {then}")
        words = tr(
            "{version}: {n:line|lines} worded otherwise; at a comfortable tempo {after} % instead of {before} %.",
            version=tag,
            n=len(one.choices),
            before=round(100 * one.comfort_before),
            after=round(100 * one.comfort_after),
        )
        out.print(words)
