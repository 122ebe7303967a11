"""``zweistimme engines budget``: what may be spent on an engine."""

from __future__ import annotations

import json
from dataclasses import asdict

import typer

from zweistimme.cli.app import CommandError
from zweistimme.cli.console import out
from zweistimme.cli.options import JsonOption
from zweistimme.engines.connections import find_connection
from zweistimme.engines.ledger import Budget, Ledger, Period
from zweistimme.engines.registry import engine
from zweistimme.messages import tr


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
        out.print(tr("{name} has no budget: what is asked for is spent.", name=name))
    else:
        when = {Period.DAY: tr(" today"), Period.MONTH: tr(" this month")}.get(there.period, "")
        out.print(
            tr(
                "{name}: {spent:,.2f} of {amount:,.2f} {currency} spent{when}.",
                name=name,
                spent=spent,
                amount=there.amount,
                currency=there.currency,
                when=when,
            ),
        )
