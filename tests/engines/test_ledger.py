"""What engines are asked and charge is written down; over a budget nothing more is asked."""

from __future__ import annotations

import multiprocessing
from pathlib import Path

import pytest

from zweistimme.engines.ledger import Budget, Ledger, Period, ledger_file
from zweistimme.engines.offers import Cost, Role
from zweistimme.project.errors import BudgetReached, EngineError, EngineRefused

ONE = Cost(100, 0.0, 0.5, "EUR")


def ask(ledger: Ledger, cost: Cost = ONE, *, answered: bool = True, engine: str = "quay") -> None:
    with ledger.question(engine, Role.SPEAK, cost) as charge:
        if answered:
            charge(cost)


def test_what_is_asked_answered_and_charged_is_counted_by_project_and_day() -> None:
    tide, other = Ledger("a1", "Tide"), Ledger("b2", "Other")
    ask(tide)
    ask(tide, answered=False)
    ask(other)
    (first, second) = sorted(tide.entries(), key=lambda one: one.title)
    assert (first.title, first.asked, first.answered, first.cost) == ("Other", 1, 1, ONE)
    assert (second.title, second.asked, second.answered) == ("Tide", 2, 1)
    assert second.cost == ONE
    assert [one.title for one in tide.entries(project="a1")] == ["Tide"]
    assert tide.entries(engine="nobody") == []
    assert tide.spent("quay", Period.DAY, "EUR") == tide.spent("quay", Period.EVER, "EUR") == 1.0


def test_what_is_free_leaves_no_trace_but_what_is_charged_unannounced_does() -> None:
    ledger = Ledger("a1", "Tide")
    ask(ledger, Cost(100))
    assert not ledger_file().exists()
    with ledger.question("odd", Role.TRANSLATE, Cost(10)) as charge:
        charge(Cost(10, 0.0, 0.2, "EUR"))
    assert [(one.engine, one.asked, one.answered) for one in ledger.entries()] == [("odd", 1, 1)]


def test_over_the_budget_nothing_is_asked() -> None:
    ledger = Ledger("a1", "Tide")
    ledger.set_budget(Budget("quay", 1.2, "EUR", Period.MONTH))
    ask(ledger)
    ask(ledger)
    asked = False
    with (
        pytest.raises(BudgetReached, match=r"1\.00 of 1\.20 EUR are spent this month"),
        ledger.question("quay", Role.SPEAK, ONE),
    ):
        asked = True
    assert not asked
    ask(ledger, engine="another")
    ledger.set_budget(Budget("quay", 2.0, "EUR", Period.MONTH))
    ask(ledger)
    with pytest.raises(BudgetReached, match="budget of quay is in EUR, but it charges in USD"):
        ask(ledger, Cost(1, 0.0, 0.1, "USD"))
    ledger.remove_budget("quay")
    for _ in range(3):
        ask(ledger)
    with pytest.raises(EngineError, match="above 0"):
        ledger.set_budget(Budget("quay", -1.0, "EUR"))


def test_questions_at_once_do_not_exceed_it_together() -> None:
    ledger = Ledger("a1", "Tide")
    ledger.set_budget(Budget("quay", 0.9, "EUR", Period.EVER))
    with ledger.question("quay", Role.SPEAK, ONE), pytest.raises(BudgetReached):
        ask(ledger)
    ask(ledger)  # the first was not answered and charged nothing


def _ask_often(count: int) -> None:
    for _ in range(count):
        ask(Ledger("a1", "Tide"), Cost(1, 0.0, 0.01, "EUR"))


def test_two_processes_write_in_one_ledger() -> None:
    both = [multiprocessing.get_context("fork").Process(target=_ask_often, args=(40,)) for _ in range(2)]
    for one in both:
        one.start()
    for one in both:
        one.join()
    (entry,) = Ledger().entries()
    assert (entry.asked, entry.answered, entry.cost.amount) == (80, 80, 0.8)


def test_without_a_ledger_nothing_that_costs_something_is_asked(tmp_path: Path) -> None:
    damaged = tmp_path / "ledger.sqlite"
    damaged.write_bytes(b"no database at all" * 100)
    with pytest.raises(EngineRefused, match="ledger of what engines charge"):
        ask(Ledger("a1", "Tide", damaged))
    ask(Ledger("a1", "Tide", damaged), Cost(5))
