"""Directions proposed from the original, in the window."""

from __future__ import annotations

from functools import partial

from PyQt6.QtGui import QKeySequence
from PyQt6.QtTest import QTest
from pytestqt.qtbot import QtBot

from driving import view_of
from zweistimme.project.edits import set_direction
from zweistimme.window.main_window import MainWindow


def test_what_is_ticked_is_taken_over(window: MainWindow, qtbot: QtBot) -> None:
    view = view_of(window)
    key = next(one.id for one in view.desk.project.segments if one.text.startswith("Listen"))
    view.desk.apply("Forget", partial(set_direction, tag=view.desk.tag, segment_id=key, direction=""))
    QTest.keySequence(window, QKeySequence("Ctrl+Shift+D"))
    assert view.page.drawer.shown == "Directions proposed"
    panel = view.page.directing
    assert not panel.take.isEnabled()
    panel.listen.click()
    qtbot.waitUntil(lambda: bool(panel.proposed), timeout=20_000)
    assert [one.direction for one in panel.proposed] == ["whispering"]
    assert "0 % of it has a pitch" in panel.list.table.item(0, 1).text()  # type: ignore[union-attr]
    panel.take.click()
    line = view.desk.line(key)
    assert line is not None
    assert line.direction == "whispering"
    assert not panel.proposed
    view.desk.show_version("es-ES")
    assert panel.list.table.rowCount() == 0
