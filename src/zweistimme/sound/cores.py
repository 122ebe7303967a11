"""Pieces of numeric work side by side: NumPy and SciPy let go of the interpreter while they count."""

from __future__ import annotations

import os
import threading
from collections.abc import Callable, Sequence
from concurrent.futures import Future, ThreadPoolExecutor, wait
from functools import lru_cache
from typing import Generic, TypeVar

Result = TypeVar("Result")


@lru_cache(maxsize=1)
def cores() -> int:
    """How many cores this process may use."""
    return len(os.sched_getaffinity(0))


@lru_cache(maxsize=1)
def _others() -> tuple[ThreadPoolExecutor, threading.Semaphore]:
    """Threads for the other cores, and how many of them have nothing to do."""
    count = max(1, cores() - 1)
    return ThreadPoolExecutor(count, thread_name_prefix="numeric"), threading.Semaphore(count)


def together(tasks: Sequence[Callable[[], Result]]) -> list[Result]:
    """The results of *tasks*, in order. Cores that have nothing else to do help; one may call this within another.
    What a task raises is raised once all that were begun have ended; none is begun after that."""
    run = _Run(tasks)
    helpers: list[Future[None]] = []
    if cores() > 1:
        pool, idle = _others()
        # nothing is ever put behind something else: what waited in a queue would keep its arrays
        while len(helpers) < len(tasks) - 1 and idle.acquire(blocking=False):
            helpers.append(pool.submit(run.help, idle))
    run.work()
    wait(helpers)
    return run.results()


class _Run(Generic[Result]):
    """Tasks that several threads take one by one."""

    def __init__(self, tasks: Sequence[Callable[[], Result]]) -> None:
        self._tasks = tasks
        self._done: dict[int, Result] = {}
        self._failed: dict[int, BaseException] = {}
        self._next, self._turn = 0, threading.Lock()

    def help(self, idle: threading.Semaphore) -> None:
        """Work on another core, and be idle again."""
        try:
            self.work()
        finally:
            idle.release()

    def work(self) -> None:
        """Take tasks as long as there are any, and none has failed."""
        while (number := self._taken()) is not None:
            try:
                self._done[number] = self._tasks[number]()
            except BaseException as error:  # raised again where the results are wanted
                self._failed[number] = error

    def _taken(self) -> int | None:
        with self._turn:
            if self._failed or self._next >= len(self._tasks):
                return None
            self._next += 1
            return self._next - 1

    def results(self) -> list[Result]:
        """All results; the first error if there is one."""
        if self._failed:
            raise self._failed[min(self._failed)]
        return [self._done[number] for number in range(len(self._tasks))]
