"""Pieces of numeric work side by side: NumPy and SciPy let go of the interpreter while they count."""

from __future__ import annotations

import os
from collections.abc import Callable, Sequence
from concurrent.futures import ThreadPoolExecutor, wait
from functools import lru_cache
from typing import TypeVar

Result = TypeVar("Result")


@lru_cache(maxsize=1)
def cores() -> int:
    """How many cores this process may use."""
    return len(os.sched_getaffinity(0))


@lru_cache(maxsize=1)
def _others() -> ThreadPoolExecutor:
    return ThreadPoolExecutor(max(1, cores() - 1), thread_name_prefix="numeric")


def together(tasks: Sequence[Callable[[], Result]]) -> list[Result]:
    """The results of *tasks*, in order. What no other core has begun is done here, so that one may call this within
    another. What a task raises is raised once all that were begun have ended."""
    if len(tasks) < 2 or cores() < 2:
        return [task() for task in tasks]
    begun = [_others().submit(task) for task in tasks[1:]]
    try:
        first = tasks[0]()
        rest = [task() if future.cancel() else future.result() for task, future in zip(tasks[1:], begun, strict=True)]
    finally:  # where one has failed, none goes on behind the caller's back
        wait([future for future in begun if not future.cancel()])
    return [first, *rest]
