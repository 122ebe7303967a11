"""Work off the GUI thread: the newest wins, and what nobody waits for any more ends."""

from __future__ import annotations

import threading

from pytestqt.qtbot import QtBot

from zweistimme.window.background import Latest


def test_work_that_asks_ends_when_something_newer_is_wanted(qtbot: QtBot) -> None:
    latest, given, steps = Latest("test"), [], []
    latest.ready.connect(given.append)
    begun = threading.Event()

    def long_work() -> str:
        for step in range(100_000):
            begun.set()
            latest.go_on()
            steps.append(step)
            threading.Event().wait(0.001)
        return "old"

    latest.want(long_work)
    assert begun.wait(5)
    latest.want(lambda: "new")
    qtbot.waitUntil(lambda: bool(given), timeout=5_000)
    assert given == ["new"]
    assert len(steps) < 5_000
    begun.clear()
    latest.want(long_work)
    assert begun.wait(5)
    latest.close()
    latest._thread.join(5)
    assert not latest._thread.is_alive()
    assert given == ["new"]
