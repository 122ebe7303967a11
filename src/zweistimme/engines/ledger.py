"""The ledger: what engines that cost something were asked, what they answered and charged, and how much may be spent.

One SQLite file among the desk's own data serves all projects and processes: ``entry`` counts by day, engine, project
and role; ``budget`` holds what a person is willing to spend. A question is counted before it is asked, and what it
will cost is set aside until its answer is there, so that questions asked at once do not exceed a budget together.
"""

from __future__ import annotations

import sqlite3
import threading
from collections.abc import Callable, Iterator
from contextlib import closing, contextmanager
from dataclasses import dataclass, field
from datetime import date
from enum import StrEnum
from pathlib import Path
from typing import Final, Protocol

import platformdirs

from zweistimme.engines.offers import Cost, Role
from zweistimme.messages import tr
from zweistimme.project.errors import BudgetReached, EngineError, EngineRefused
from zweistimme.store.settings import BUDGET, read_settings

_TABLES: Final = """
CREATE TABLE IF NOT EXISTS entry(
    day TEXT, engine TEXT, project TEXT, role TEXT, currency TEXT, title TEXT NOT NULL,
    asked INTEGER NOT NULL, answered INTEGER NOT NULL, characters INTEGER NOT NULL, seconds REAL NOT NULL,
    amount REAL NOT NULL, PRIMARY KEY(day, engine, project, role, currency));
CREATE TABLE IF NOT EXISTS budget(
    engine TEXT PRIMARY KEY, amount REAL NOT NULL, currency TEXT NOT NULL, period TEXT NOT NULL);
"""
_WAIT_S: Final = 20.0
_NEARLY: Final = 1e-9


class Charge(Protocol):
    """Says what a question was charged; *answered* is False where an engine may have charged for nothing."""

    def __call__(self, cost: Cost, answered: bool = True) -> None: ...


class Period(StrEnum):
    """For how long a budget is."""

    DAY = "day"
    MONTH = "month"
    EVER = "ever"


@dataclass(frozen=True, slots=True)
class Budget:
    """What may be spent on an engine in a period, all projects together."""

    engine: str
    amount: float
    currency: str
    period: Period = Period.MONTH


@dataclass(frozen=True, slots=True)
class Entry:
    """What one engine was asked in one role on one day (ISO 8601) for one project, and what it charged. *asked* beyond
    *answered* are questions without an answer that could be used."""

    day: str
    engine: str
    project: str
    title: str
    role: str
    asked: int
    answered: int
    cost: Cost


@dataclass(slots=True)
class Bill:
    """What one run has cost so far, by currency.

    >>> bill = Bill()
    >>> for amount in (0.1, 0.2):
    ...     bill.add(Cost(amount=amount, currency="EUR"))
    >>> bill.spent
    {'EUR': 0.3}
    """

    spent: dict[str, float] = field(default_factory=dict)

    def add(self, cost: Cost) -> None:
        """An engine has charged something for it."""
        if cost.amount:
            self.spent[cost.currency] = round(self.spent.get(cost.currency, 0.0) + cost.amount, 6)


def ledger_file() -> Path:
    """Where the ledger lies."""
    return Path(platformdirs.user_data_dir("zweistimme")) / "ledger.sqlite"


_set_aside: dict[str, float] = {}
_one_at_a_time = threading.Lock()


@dataclass(frozen=True, slots=True)
class Ledger:
    """The ledger as one project writes it: *project* is its id, *title* how it is shown."""

    project: str = ""
    title: str = ""
    file: Path = field(default_factory=ledger_file)
    told: Callable[[Cost], None] = field(default=lambda _cost: None)
    """Is told what is charged, when it is written down."""

    @contextmanager
    def question(self, engine: str, role: Role, expected: Cost) -> Iterator[Charge]:
        """Ask one question within: it is counted, and *expected* set aside; the yielded function says what was
        charged, and whether there is an answer for it. What costs nothing is not written down. BudgetReached, before
        anything is asked, where more would be spent than the budget."""
        if expected.amount:
            self._reserved(engine, role, expected)
        try:
            yield lambda cost, answered=True: self._charged(
                engine, role, cost, counted=bool(expected.amount), answered=answered
            )
        finally:
            if expected.amount:
                with _one_at_a_time:
                    _set_aside[engine] -= expected.amount

    def entries(self, *, engine: str = "", project: str = "") -> list[Entry]:
        """What was asked, the latest day first; of one engine or project alone, if wanted."""
        query = (
            "SELECT day, engine, project, title, role, asked, answered, characters, seconds, amount, currency"
            " FROM entry WHERE (?1 = '' OR engine = ?1) AND (?2 = '' OR project = ?2) ORDER BY day DESC, engine, role"
        )
        with self._opened() as there:
            rows = there.execute(query, (engine, project)).fetchall()
        return [
            Entry(day, engine_, id_, title, role, asked, answered, Cost(*used))
            for day, engine_, id_, title, role, asked, answered, *used in rows
        ]

    def spent(self, engine: str, period: Period, currency: str) -> float:
        """What an engine has charged in a period, until now."""
        with self._opened() as there:
            return _spent(there, engine, period, currency)

    def budget(self, engine: str) -> Budget | None:
        """What may be spent on an engine, if a person said."""
        with self._opened() as there:
            return _budget(there, engine)

    def set_budget(self, budget: Budget) -> None:
        """Say what may be spent on an engine."""
        if not 0 < budget.amount < 1e9:
            raise EngineError("A budget is an amount above 0. To ask an engine for nothing, choose another one.")
        with self._opened(writing=True) as there:
            row = (budget.engine, budget.amount, budget.currency, budget.period.value)
            there.execute("INSERT OR REPLACE INTO budget VALUES(?, ?, ?, ?)", row)

    def remove_budget(self, engine: str) -> None:
        """Spend what is asked for."""
        with self._opened(writing=True) as there:
            there.execute("DELETE FROM budget WHERE engine = ?", (engine,))

    def _reserved(self, engine: str, role: Role, expected: Cost) -> None:
        with _one_at_a_time, self._opened(writing=True) as there:
            budget = _budget(there, engine) or _for_any(engine, expected.currency)
            if budget is not None:
                self._check(there, budget, expected)
            _set_aside[engine] = _set_aside.get(engine, 0.0) + expected.amount
            self._count(there, engine, role, Cost(currency=expected.currency), asked=1)

    def _check(self, there: sqlite3.Connection, budget: Budget, expected: Cost) -> None:
        engine, currency = budget.engine, budget.currency
        if expected.currency != currency:
            raise BudgetReached(
                "The budget of {engine} is in {currency}, but it charges in {charged}. Set it anew.",
                engine=engine,
                currency=currency,
                charged=expected.currency,
            )
        spent = _spent(there, engine, budget.period, currency)
        if spent + _set_aside.get(engine, 0.0) + expected.amount > budget.amount + _NEARLY:
            when = {"day": tr(" today"), "month": tr(" this month")}.get(budget.period, "")
            raise BudgetReached(
                "The budget of {engine} is reached: {spent:,.2f} of {amount} are "
                "spent{when}, and more would be. Everything that was answered is kept. Raise it on the "
                "Engines page, or with: zweistimme engines budget {engine} AMOUNT",
                engine=engine,
                spent=spent,
                amount=tr("{amount:,.2f} {currency}", amount=budget.amount, currency=currency).strip(),
                when=when,
            )

    def _charged(self, engine: str, role: Role, cost: Cost, *, counted: bool, answered: bool) -> None:
        if counted or cost.amount:
            with _one_at_a_time, self._opened(writing=True) as there:
                self._count(there, engine, role, cost, asked=0 if counted else 1, answered=int(answered))
            self.told(cost)

    def _count(
        self, there: sqlite3.Connection, engine: str, role: Role, cost: Cost, asked: int, answered: int = 0
    ) -> None:
        there.execute(
            "INSERT INTO entry VALUES(?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?) ON CONFLICT DO UPDATE SET"
            " title = excluded.title,"
            " asked = asked + excluded.asked, answered = answered + excluded.answered,"
            " characters = characters + excluded.characters, seconds = seconds + excluded.seconds,"
            " amount = round(amount + excluded.amount, 6)",
            (
                date.today().isoformat(), engine, self.project, role.value, cost.currency, self.title,
                asked, answered, cost.characters, cost.seconds, cost.amount,
            ),
        )  # fmt: skip

    @contextmanager
    def _opened(self, *, writing: bool = False) -> Iterator[sqlite3.Connection]:
        """The file for one transaction. Who writes waits for another process that does; who reads waits for nobody."""
        try:
            self.file.parent.mkdir(parents=True, exist_ok=True)
            with closing(sqlite3.connect(self.file, timeout=_WAIT_S)) as connection, connection:
                connection.executescript(f"PRAGMA journal_mode = WAL; PRAGMA synchronous = NORMAL; {_TABLES}")
                connection.execute("BEGIN IMMEDIATE" if writing else "BEGIN")
                yield connection
        except (sqlite3.Error, OSError) as error:
            raise EngineRefused(
                "The ledger of what engines charge, {file}, cannot be used ({why}). Nothing that costs "
                "something is asked without it: mend its folder, or move the file away to begin a new "
                "one.",
                file=self.file,
                why=error,
            ) from error


def _budget(there: sqlite3.Connection, engine: str) -> Budget | None:
    row = there.execute("SELECT engine, amount, currency, period FROM budget WHERE engine = ?", (engine,)).fetchone()
    return Budget(row[0], row[1], row[2], Period(row[3])) if row else None


def _for_any(engine: str, currency: str) -> Budget | None:
    """What any engine may charge in a month that has no budget of its own, in whatever it charges in."""
    amount = read_settings().text(BUDGET)
    return Budget(engine, float(amount), currency, Period.MONTH) if amount else None


def _spent(there: sqlite3.Connection, engine: str, period: Period, currency: str) -> float:
    today = date.today().isoformat()
    since = {Period.DAY: today, Period.MONTH: today[:7], Period.EVER: ""}[period]
    query = "SELECT coalesce(sum(amount), 0) FROM entry WHERE engine = ? AND currency = ? AND day >= ?"
    (amount,) = there.execute(query, (engine, currency, since)).fetchone()
    return float(amount)
