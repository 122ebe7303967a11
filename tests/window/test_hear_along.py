"""Takes heard while others are made."""

from __future__ import annotations

from PyQt6.QtTest import QTest
from pytestqt.qtbot import QtBot

from driving import notices_of, view_of
from zweistimme.window.main_window import MainWindow


def test_takes_are_heard_as_they_are_made(window: MainWindow, qtbot: QtBot) -> None:
    view = view_of(window)
    heard: list[str] = []
    view.hear_along._hear = heard.append
    said = notices_of(view.desk)
    window.actions_by_id["hear_along"].trigger()
    assert said[-1] == "Takes are heard as they are made."
    view.desk.select("s0003")
    view.desk.choose(["s0003", "s0006"])
    view.again.takes()
    qtbot.waitUntil(lambda: not view.desk.jobs.runs, timeout=30_000)
    version = view.desk.version
    assert version is not None
    made = {line.take_id for key, line in version.lines.items() if key in ("s0003", "s0006")}
    qtbot.waitUntil(lambda: set(heard) == made, timeout=10_000)
    window.actions_by_id["hear_along"].trigger()
    view.again.takes()
    qtbot.waitUntil(lambda: not view.desk.jobs.runs, timeout=30_000)
    QTest.qWait(100)
    assert len(heard) == 2
