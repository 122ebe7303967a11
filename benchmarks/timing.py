"""What benchmarks give, and how they take time: the best of several runs, the least disturbed one."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterator
from typing import Final, NamedTuple

GREATER_IS_BETTER: Final = frozenset({"x real time", "a second"})


class Row(NamedTuple):
    """A figure as it is printed, beside something named; *value* and *unit* where it can be compared with the last."""

    what: str
    figure: str
    against: str = ""
    value: float | None = None
    unit: str = ""


Rows = Iterator[Row]


def figure(what: str, value: float, unit: str, against: str = "") -> Row:
    """A row with a number: ms, s, MB are better small; "x real time" and "a second" are better large."""
    digits = 0 if value >= 100 else 1 if value >= 10 else 2
    return Row(what, f"{value:,.{digits}f} {unit}", against, value, unit)


def seconds(work: Callable[[], object], runs: int = 3) -> float:
    """The shortest of *runs* runs, after one to warm up."""
    work()
    return min(once(work) for _ in range(runs))


def once(work: Callable[[], object]) -> float:
    """How long it takes, in seconds."""
    began = time.perf_counter()
    work()
    return time.perf_counter() - began


def in_turn(works: dict[str, Callable[[], object]], runs: int = 4) -> dict[str, float]:
    """The shortest run of each, taken in turn: what slows the machine down for a while slows all of them."""
    for work in works.values():
        work()
    times: dict[str, list[float]] = {name: [] for name in works}
    for _ in range(runs):
        for name, work in works.items():
            times[name].append(once(work))
    return {name: min(taken) for name, taken in times.items()}
