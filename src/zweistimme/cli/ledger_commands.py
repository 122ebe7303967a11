"""``zweistimme ledger``: what engines were asked and charged."""

from __future__ import annotations

import json
from dataclasses import asdict
from pathlib import Path

import typer
from rich.table import Table

from zweistimme.cli.console import out
from zweistimme.cli.options import JsonOption
from zweistimme.engines.ledger import Ledger
from zweistimme.store.read_only import id_of


def register(app: typer.Typer) -> None:
    """Add the commands of this file."""
    app.command()(ledger)


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
        out.print("No engine that costs something was asked.", markup=False)
        return
    table = Table("Day", "Engine", "Project", "For", "Asked", "Answered", "Charged")
    for entry in entries:
        charged = f"{entry.cost.amount:,.4f} {entry.cost.currency}"
        table.add_row(
            entry.day, entry.engine, entry.title, entry.role, f"{entry.asked:,}", f"{entry.answered:,}", charged
        )
    out.print(table)
