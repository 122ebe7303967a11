"""Engines compared in the window: side by side, blind, taken line by line or all of one."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import Qt
from pytestqt.qtbot import QtBot

from driving import view_of
from zweistimme.engines.connections import Connection, Kind, connect
from zweistimme.window.main_window import MainWindow

LITTLE = Path(__file__).parents[2] / "docs" / "examples" / "little-engine" / "little.toml"


def test_two_engines_put_the_same_lines_and_one_is_chosen_blind_or_for_all(window: MainWindow, qtbot: QtBot) -> None:
    connect(Connection("little", Kind.PROGRAM, str(LITTLE)))
    view = view_of(window)
    desk, panel = view.desk, view.page.comparing
    desk.book.refresh()
    view.navigation.open_panel("Engines compared")
    qtbot.waitUntil(lambda: panel.wanted() == ["bundled", "little"], timeout=8_000)
    first, second = desk.project.segments[:2]
    panel.ask([first.id, second.id])
    qtbot.waitUntil(lambda: len(panel.comparison.asked) == 2, timeout=15_000)
    table = panel.list.table
    assert table.rowCount() == 4
    heads = [table.item(row, 1).text() for row in range(4)]  # type: ignore[union-attr]
    assert heads == ["bundled", "little"] * 2
    panel.blind.setChecked(True)
    heads = [table.item(row, 1).text() for row in range(4)]  # type: ignore[union-attr]
    assert heads == ["A", "B"] * 2
    assert "not shown" in panel.about.text()
    panel.blind.setChecked(False)
    place = panel.every.findData("little")
    panel.every.setCurrentIndex(place)
    panel.every.activated.emit(place)
    assert [table.item(row, 0).checkState() == Qt.CheckState.Checked for row in range(4)] == [False, True] * 2  # type: ignore[union-attr]
    panel._take_over(desk.tag, panel.comparison)
    assert panel.list.wanted() == [1, 3], "what was ticked stays when another result comes"
    other = table.item(0, 0)
    assert other is not None
    other.setCheckState(Qt.CheckState.Checked)
    assert panel.list.wanted() == [0, 3], "a line takes one wording"
    other = table.item(1, 0)
    assert other is not None
    other.setCheckState(Qt.CheckState.Checked)
    assert panel.list.wanted() == [1, 3]
    panel.take.click()
    lines = desk.project.versions[desk.tag].lines
    assert [lines[one.id].text.isupper() or "(DE" in lines[one.id].text.upper() for one in (first, second)] == [
        True,
        True,
    ]
    desk.undo()
    assert desk.project.versions[desk.tag].lines[first.id].text.startswith("Zweimal")
