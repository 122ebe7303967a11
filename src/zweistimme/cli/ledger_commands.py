"""``zweistimme ledger``: what engines were asked and charged; ``zweistimme engines budget``: what may be spent."""

from __future__ import annotations

import json
from dataclasses import asdict
from pathlib import Path

import typer
from rich.table import Table

from zweistimme.cli.desk import out
from zweistimme.cli.engine_commands import engines
from zweistimme.cli.options import CommandError, JsonOption
from zweistimme.engines.connections import find_connection
from zweistimme.engines.ledger import Budget, Ledger, Period
from zweistimme.engines.registry import engine
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


@engines.command()
def budget(
    name: str = typer.Argument(..., help="The connection.", metavar="NAME"),
    amount: float | None = typer.Argument(
        None, help="What may be spent; default: say how it stands.", metavar="AMOUNT"
    ),
    per: Period = typer.Option(Period.MONTH, help="For how long that is."),
    no_budget: bool = typer.Option(False, "--none", help="Spend what is asked for."),
    as_json: bool = JsonOption,
) -> None:
    """Set what may be spent on an engine: a run that would spend more stops and says so."""
    if amount is not None and no_budget:
        raise CommandError("Give either an amount or --none, not both.")
    find_connection(name)
    kept = Ledger()
    if no_budget:
        kept.remove_budget(name)
    elif amount is not None:
        kept.set_budget(Budget(name, amount, engine(name).info().price.currency, per))
    there = kept.budget(name)
    spent = kept.spent(name, there.period, there.currency) if there else 0.0
    if as_json:
        typer.echo(json.dumps({"budget": asdict(there) if there else None, "spent": spent}, ensure_ascii=False))
    elif there is None:
        out.print(f"{name} has no budget: what is asked for is spent.", markup=False)
    else:
        when = {Period.DAY: " today", Period.MONTH: " this month"}.get(there.period, "")
        out.print(f"{name}: {spent:,.2f} of {there.amount:,.2f} {there.currency} spent{when}.", markup=False)
