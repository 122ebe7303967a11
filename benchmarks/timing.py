"""The best of several runs: the least disturbed one."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterator

Row = tuple[str, str, str]
Rows = Iterator[Row]


def seconds(work: Callable[[], object], runs: int = 3) -> float:
    """The shortest of *runs* runs, after one to warm up."""
    work()
    times = []
    for _ in range(runs):
        began = time.perf_counter()
        work()
        times.append(time.perf_counter() - began)
    return min(times)
