"""What checks notice, in the window: under the line, by key from one to the next, mended or let be."""

from __future__ import annotations

from functools import partial

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QInputDialog, QLabel, QMenu, QToolButton
from pytestqt.qtbot import QtBot

from driving import notices_of, view_of
from zweistimme.project.line_edits import set_line_text
from zweistimme.window.desk_view import DeskView
from zweistimme.window.main_window import MainWindow

ALT = Qt.KeyboardModifier.AltModifier


def written(view: DeskView, place: int, text: str) -> str:
    desk = view.desk
    segment_id = desk.project.segments[place].id
    desk.apply("Write", partial(set_line_text, tag=desk.tag, segment_id=segment_id, text=text))
    return segment_id


def until_noticed(view: DeskView, qtbot: QtBot, segment_id: str, *codes: str) -> None:
    noticing = view.page.line.noticing
    wanted = set(codes)
    qtbot.waitUntil(lambda: wanted == {one.code for one in noticing.of_line(segment_id)}, timeout=5_000)


def rows(view: DeskView) -> list[str]:
    return [label.text() for label in view.page.line.remarks.findChildren(QLabel) if label.isVisible()]


def test_remarks_are_gone_through_and_mended_by_key(window: MainWindow, qtbot: QtBot) -> None:
    view = view_of(window)
    desk = view.desk
    first = written(view, 1, "Die Uhr muss das vor vor uns wissen.")
    other = written(view, 8, "In Varnholm fragt niemand, wie spät es ist")
    until_noticed(view, qtbot, first, "word-doubled")
    until_noticed(view, qtbot, other, "end-missing")
    desk.select(desk.project.segments[0].id)
    QTest.keyClick(QApplication.focusWidget() or window, Qt.Key.Key_N, ALT)
    assert desk.segment_id == first
    assert rows(view) == ["“vor” stands twice in a row."]
    QTest.keyClick(QApplication.focusWidget() or window, Qt.Key.Key_M, ALT)
    assert desk.line().text == "Die Uhr muss das vor uns wissen."  # type: ignore[union-attr]
    until_noticed(view, qtbot, first)
    assert not view.page.line.remarks.isVisible()
    said = notices_of(desk)
    QTest.keyClick(QApplication.focusWidget() or window, Qt.Key.Key_M, ALT)
    assert said[-1] == "Nothing in this line can be mended by a key."
    desk.undo()
    until_noticed(view, qtbot, first, "word-doubled")


def test_a_remark_is_let_be_with_a_reason(window: MainWindow, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch) -> None:
    view = view_of(window)
    desk = view.desk
    first = written(view, 1, "Die Uhr muss das vor uns um 7 wissen.")
    until_noticed(view, qtbot, first, "number-added")
    desk.select(first)
    monkeypatch.setattr(QInputDialog, "getText", lambda *_: ("said so on the stage", True))
    buttons = [one for one in view.page.line.remarks.findChildren(QToolButton) if one.menu() is not None]
    menu = buttons[-1].menu()
    assert isinstance(menu, QMenu)
    menu.actions()[1].trigger()
    until_noticed(view, qtbot, first)
    assert desk.version is not None
    assert desk.version.let_be == {f"{first}/number-added": "said so on the stage"}
    desk.undo()
    until_noticed(view, qtbot, first, "number-added")


def test_another_version_has_its_own_remarks(window: MainWindow, qtbot: QtBot) -> None:
    view = view_of(window)
    first = written(view, 1, "Die Uhr muss das vor vor uns wissen.")
    until_noticed(view, qtbot, first, "word-doubled")
    view.desk.select(first)
    view.desk.show_version("es-ES")
    assert rows(view) == []
    until_noticed(view, qtbot, first)
    view.desk.show_version("de-DE")
    until_noticed(view, qtbot, first, "word-doubled")
