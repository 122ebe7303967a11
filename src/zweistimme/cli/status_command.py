"""``zweistimme status``: asked often, so it loads no more than it needs."""

from __future__ import annotations

import json
from pathlib import Path

import typer
from rich.table import Table

from zweistimme.cli.console import out
from zweistimme.cli.options import JsonOption, ProjectArgument
from zweistimme.messages import tr
from zweistimme.project.progress import progress
from zweistimme.store.read_only import project_in


def register(app: typer.Typer) -> None:
    """Add the command of this file."""
    app.command()(status)


def status(
    project: Path = ProjectArgument,
    as_json: bool = JsonOption,
) -> None:
    """Say how far every step of every version is."""
    state = project_in(project)
    rows = {
        tag: {step.value: (p.done, p.stale, p.missing, p.clashes) for step, p in progress(state, version).items()}
        for tag, version in state.versions.items()
    }
    if as_json:
        named = {
            tag: {k: dict(zip(("done", "stale", "missing", "clashes"), v, strict=True)) for k, v in r.items()}
            for tag, r in rows.items()
        }
        typer.echo(json.dumps({"title": state.title, "versions": named}, ensure_ascii=False, indent=1))
        return
    table = Table(tr("Version"), tr("Step"), tr("Done"), tr("Stale"), tr("Missing"), tr("Clashes"), title=state.title)
    for tag, steps in rows.items():
        for step, counts in steps.items():
            table.add_row(tag, tr(step), *map(str, counts))
    out.print(table if rows else tr("{title}: no target version yet.", title=state.title))
