"""What was done: ``zweistimme ledger``, what engines were asked and charged; ``runs``, what was run on a project."""

from __future__ import annotations

import json
from dataclasses import asdict
from datetime import datetime
from pathlib import Path

import msgspec
import typer
from rich.table import Table

from zweistimme.cli.console import out
from zweistimme.cli.options import JsonOption, ProjectArgument
from zweistimme.engines.ledger import Ledger
from zweistimme.messages import money, tr, tr_act
from zweistimme.sentences import sentence_of
from zweistimme.store.read_only import id_of
from zweistimme.store.run_log import read_runs


def register(app: typer.Typer) -> None:
    """Add the commands of this file."""
    for command in (ledger, runs):
        app.command()(command)


def ledger(
    project: Path | None = typer.Argument(None, help="Only this project; default: all.", metavar="PROJECT"),
    name: str = typer.Option("", "--engine", help="Only this engine.", metavar="NAME"),
    as_json: bool = JsonOption,
) -> None:
    """Say what engines that cost something were asked, and what they charged, day by day."""
    entries = Ledger().entries(engine=name, project=id_of(project) if project else "")
    if as_json:
        typer.echo(json.dumps([asdict(entry) for entry in entries], ensure_ascii=False, indent=1))
        return
    if not entries:
        out.print(tr("No engine that costs something was asked."))
        return
    table = Table(tr("Day"), tr("Engine"), tr("Project"), tr("For"), tr("Asked"), tr("Answered"), tr("Charged"))
    for entry in entries:
        charged = money(entry.cost.amount, entry.cost.currency, 4)
        table.add_row(
            entry.day, entry.engine, entry.title, tr(entry.role), f"{entry.asked:,}", f"{entry.answered:,}", charged
        )
    out.print(table)


def runs(
    project: Path = ProjectArgument,
    latest: int = typer.Option(30, min=1, help="How many, the newest first.", metavar="N"),
    as_json: bool = JsonOption,
) -> None:
    """Say what was run on a project, how it ended, and what it said and cost."""
    id_of(project)  # says what it is, where it is no project
    entries = read_runs(project, latest)
    if as_json:
        typer.echo(json.dumps(msgspec.to_builtins(entries), ensure_ascii=False, indent=1))
        return
    if not entries:
        out.print(tr("Nothing was run on this project yet."))
    for entry in entries:
        took = "" if entry.took_s is None else tr(", {seconds:,.1f} s", seconds=entry.took_s)
        charged = "".join(f", {money(amount, currency, 4)}" for currency, amount in entry.spent.items())
        when = datetime.fromisoformat(entry.began).astimezone()
        state = tr("goes on, or was cut off") if entry.state == "running" else tr(entry.state)
        out.print(f"{when:%Y-%m-%d %H:%M}  {tr_act(entry.name)}: {state}{took}{charged}")
        for finding in (*entry.said, entry.why):
            if finding is not None:
                out.print(f"    {sentence_of(finding)}")
