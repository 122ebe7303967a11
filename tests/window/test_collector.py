"""Garbage that may hold widgets is collected on the GUI thread, whoever allocates."""

from __future__ import annotations

import threading

from pytestqt.qtbot import QtBot

from zweistimme.window.app import make_app


class Cycle:
    """Something only the collector can free; it writes down who did."""

    def __init__(self, freed_by: list[int]) -> None:
        self.me, self.freed_by = self, freed_by

    def __del__(self) -> None:
        self.freed_by.append(threading.get_ident())


def test_a_worker_that_allocates_frees_nothing_of_the_window(qtbot: QtBot) -> None:
    make_app()
    freed_by: list[int] = []
    Cycle(freed_by)
    worker = threading.Thread(target=lambda: [[k] for k in range(200_000)])
    worker.start()
    worker.join()
    assert not freed_by
    made: list[object] = []

    def at_work() -> bool:
        """The window goes on making things, which is what lets it collect."""
        made.append([[k] for k in range(1_000)])
        return bool(freed_by)

    qtbot.waitUntil(at_work, timeout=5_000)
    assert freed_by == [threading.get_ident()]
