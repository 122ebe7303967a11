"""The memory in the window: matches under the line, keys for them, the panel that searches it, and what is kept."""

from __future__ import annotations

import sqlite3
from functools import partial
from pathlib import Path

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QLabel
from pytestqt.qtbot import QtBot

from driving import notices_of, opened, view_of
from zweistimme.memory.memory import Memory, memory_file
from zweistimme.project.line_edits import set_line_text
from zweistimme.project.units import Unit
from zweistimme.project.wordings import LineState, Origin, OriginKind
from zweistimme.store.document import Document
from zweistimme.store.own_projects import Whose, set_whose
from zweistimme.store.settings import MEMORY, read_settings, write_settings
from zweistimme.window.main_window import MainWindow

CTRL, ALT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.AltModifier


def keep(*units: Unit) -> None:
    with Memory() as memory:
        memory.put(units)


def like(window: MainWindow, old: str, new: str, target: str) -> Unit:
    """A unit whose source is that of the first line but for a word."""
    desk = view_of(window).desk
    source = desk.project.segments[0].text
    assert old in source
    return Unit("en-GB", desk.tag, source.replace(old, new), target, origin="Harbour Notices", made="2026-05-01")


def matched(window: MainWindow, qtbot: QtBot, count: int) -> None:
    recollection = view_of(window).page.line.recollection
    recollection.look(again=True)
    qtbot.waitUntil(lambda: len(recollection.matches) == count, timeout=5_000)


def test_matches_stand_under_the_line_marked_and_are_taken_by_key(window: MainWindow, qtbot: QtBot) -> None:
    view = view_of(window)
    desk, offers, first = view.desk, view.page.line.offers, view.desk.project.segments[0]
    before = desk.line(first.id)
    assert before is not None
    keep(like(window, "Twice", "Thrice", "Dreimal am Tag kommt die Flut."))
    desk.select(first.id)
    matched(window, qtbot, 1)
    row = offers.rows[0]
    assert (row.text, row.share) == ("Dreimal am Tag kommt die Flut.", "97 %")
    assert "<s>Thrice</s>" in row.said
    assert "<u>Twice</u>" in row.said
    assert any("Harbour Notices" in label.text() for label in offers.findChildren(QLabel))
    QTest.keyClick(QApplication.focusWidget() or window, Qt.Key.Key_1, CTRL | ALT)
    line = desk.line(first.id)
    assert line is not None
    assert (line.text, line.state) == ("Dreimal am Tag kommt die Flut.", LineState.TRANSLATED)
    assert line.origin == Origin(OriginKind.MEMORY, "Harbour Notices", 97)
    assert before.text in [offer.text for offer in line.offers], "the one there was is on offer"
    assert "97 % like a line of “Harbour Notices”" in view.page.line.standing.origin.text()
    said = notices_of(desk)
    QTest.keyClick(QApplication.focusWidget() or window, Qt.Key.Key_9, CTRL | ALT)
    assert said[-1] == "There is no wording 9 on offer for this line."


def test_the_memory_is_searched_changed_and_used(window: MainWindow, qtbot: QtBot) -> None:
    view = view_of(window)
    desk, panel = view.desk, view.page.memory
    keep(like(window, "Twice", "Thrice", "Dreimal."), Unit("en-GB", desk.tag, "Twice over.", "Gleich zweimal."))
    desk.select(desk.project.segments[1].id)
    QTest.keyClick(QApplication.focusWidget() or window, Qt.Key.Key_K, CTRL)
    assert view.page.drawer.shown == "Search the translation memory"
    assert panel.what.hasFocus()
    QTest.keyClicks(panel.what, "twice OVER")
    qtbot.waitUntil(lambda: [unit.target for unit in panel.units] == ["Gleich zweimal."], timeout=5_000)
    panel.table.item(0, 1).setText("Zweimal sogar.")  # type: ignore[union-attr]
    qtbot.waitUntil(lambda: [unit.target for unit in panel.units] == ["Zweimal sogar."], timeout=5_000)
    panel.use.click()
    assert desk.line().text == "Zweimal sogar."  # type: ignore[union-attr]
    panel.what.setText("thrice")
    qtbot.waitUntil(lambda: [unit.target for unit in panel.units] == ["Dreimal."], timeout=5_000)
    desk.select(desk.project.segments[0].id)
    matched(window, qtbot, 1)
    panel.mute.click()
    matched(window, qtbot, 0)
    panel.delete.click()
    qtbot.waitUntil(lambda: not panel.units, timeout=5_000)
    assert "Nothing was settled" in panel.count.text()


def test_what_is_settled_is_kept_when_the_project_is_closed(window: MainWindow) -> None:
    desk = view_of(window).desk
    first = desk.project.segments[0]
    edit = partial(set_line_text, tag=desk.tag, segment_id=first.id, text="Zweimal kommt die Flut.")
    desk.apply("Write", edit)
    window.close_project()
    with Memory() as memory:
        (unit,) = memory.all_of()
    assert (unit.source, unit.target, unit.segment) == (first.text, "Zweimal kommt die Flut.", first.id)
    assert unit.origin == "The Tide Clock of Varnholm"


def test_who_wants_no_memory_has_none(window: MainWindow, qtbot: QtBot) -> None:
    view = view_of(window)
    keep(like(window, "Twice", "Thrice", "Dreimal."))
    view.desk.select(view.desk.project.segments[0].id)
    matched(window, qtbot, 1)
    write_settings(read_settings().having(MEMORY, False))
    matched(window, qtbot, 0)
    first, tag = view.desk.project.segments[0].id, view.desk.tag
    view.desk.apply("Write", lambda p: set_line_text(p, tag, first, "Nur hier."))
    window.close_project()
    with Memory() as memory:
        assert [unit.target for unit in memory.all_of()] == ["Dreimal."]


def test_a_memory_that_cannot_be_read_is_no_reason_to_stop(
    window: MainWindow, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    view = view_of(window)
    recollection = view.page.line.recollection
    monkeypatch.setattr(recollection, "opened", lambda: Memory(file=view.desk.document.folder))  # a folder
    recollection.look(again=True)
    view.desk.select(view.desk.project.segments[2].id)
    qtbot.wait(100)
    assert recollection.matches == ()


def test_settling_a_line_words_those_that_say_the_same(window: MainWindow) -> None:
    view = view_of(window)
    desk, tag = view.desk, view.desk.tag
    first, second, third = desk.project.segments[:3]
    desk.apply("Same", lambda p: same_text(p, [second.id, third.id], first.text))
    desk.apply("Write", lambda p: set_line_text(p, tag, third.id, "Meins."))
    desk.select(first.id)
    said = notices_of(desk)
    QTest.keyClick(QApplication.focusWidget() or window, Qt.Key.Key_Q)
    lines = desk.project.versions[tag].lines
    assert lines[second.id].text == lines[first.id].text
    assert (lines[second.id].state, lines[third.id].text) == (LineState.INITIAL, "Meins.")
    assert "1 line that says the same got these words." in said
    desk.undo()
    assert desk.project.versions[tag].lines[second.id].text != lines[first.id].text


def same_text(project, ids, text):  # type: ignore[no-untyped-def]
    from zweistimme.project.transcript import set_segment_text

    for segment_id in ids:
        project = set_segment_text(project, segment_id, text)
    return project


def test_what_fits_is_chosen_for_the_whole_version(window: MainWindow, qtbot: QtBot) -> None:
    view = view_of(window)
    desk, panel = view.desk, view.page.choosing
    before = dict(desk.project.versions[desk.tag].lines)
    QTest.keyClick(QApplication.focusWidget() or window, Qt.Key.Key_K, CTRL | Qt.KeyboardModifier.ShiftModifier)
    assert view.page.drawer.shown == "Choose what fits"
    qtbot.waitUntil(lambda: len(panel.choices) > 2, timeout=10_000)
    assert "would be worded otherwise; at a comfortable tempo" in panel.about.text()
    count = len(panel.choices)
    left = panel.choices[0].segment_id
    panel.list.table.item(0, 0).setCheckState(Qt.CheckState.Unchecked)  # type: ignore[union-attr]
    panel.take.click()
    lines = desk.project.versions[desk.tag].lines
    changed = [key for key, line in lines.items() if line.text != before[key].text]
    assert len(changed) == count - 1
    assert left not in changed
    qtbot.waitUntil(lambda: len(panel.choices) < count, timeout=10_000)
    desk.undo()
    assert {key: line.text for key, line in desk.project.versions[desk.tag].lines.items()} == {
        key: line.text for key, line in before.items()
    }


def test_a_version_is_said_back_beside_its_original(window: MainWindow, qtbot: QtBot) -> None:
    view = view_of(window)
    desk, panel = view.desk, view.page.saying_back
    QTest.keyClick(QApplication.focusWidget() or window, Qt.Key.Key_B, CTRL)
    assert view.page.drawer.shown == "Said back"
    desk.select(desk.project.segments[10].id)
    panel.chosen.click()
    qtbot.waitUntil(lambda: len(panel.said) == 1, timeout=20_000)
    panel.all.click()
    qtbot.waitUntil(lambda: len(panel.said) == len(desk.project.segments), timeout=20_000)
    scores = [float(panel.list.table.item(row, 1).text()) for row in range(panel.list.table.rowCount())]  # type: ignore[union-attr]
    assert scores == sorted(scores)
    assert "said back, alike by" in panel.about.text()
    segment, tag = desk.project.segments[10].id, desk.tag
    desk.apply("Write", lambda p: set_line_text(p, tag, segment, "Etwas ganz anderes."))
    assert segment not in panel.said, "it was said back of another wording"
    desk.show_version("es-ES")
    assert panel.said == {}


def test_what_a_desk_settled_that_was_killed_is_kept_when_it_is_opened_again(demo_folder: Path, qtbot: QtBot) -> None:
    with Document.open(demo_folder) as document:  # which is closed without giving the memory anything
        first = document.project.segments[0].id
        document.apply("Write", lambda p: set_line_text(p, "de-DE", first, "Zweimal am Tag."))
    window = opened(qtbot, demo_folder)
    with Memory() as memory:
        qtbot.waitUntil(lambda: [unit.target for unit in memory.all_of()] == ["Zweimal am Tag."], timeout=5_000)
    window.close_project()


def test_what_was_found_for_one_version_is_not_used_in_another(window: MainWindow, qtbot: QtBot) -> None:
    view = view_of(window)
    desk, panel = view.desk, view.page.memory
    keep(Unit("en-GB", "de-DE", "Twice over.", "Gleich zweimal."), Unit("en-GB", "es-ES", "Twice over.", "Dos veces."))
    panel.what.setText("twice over")
    view.navigation.open_panel("Search the translation memory")
    panel.look()
    qtbot.waitUntil(lambda: [unit.target for unit in panel.units] == ["Gleich zweimal."], timeout=5_000)
    desk.show_version("es-ES")
    assert panel.units == []
    assert not panel.use.isEnabled()
    qtbot.waitUntil(lambda: [unit.target for unit in panel.units] == ["Dos veces."], timeout=5_000)


def test_a_memory_that_cannot_be_read_is_said_once(window: MainWindow, qtbot: QtBot) -> None:
    view = view_of(window)
    desk, recollection = view.desk, view.page.line.recollection
    recollection.look(again=True)
    qtbot.waitUntil(lambda: recollection._memory is not None, timeout=5_000)
    with sqlite3.connect(memory_file()) as connection:
        connection.execute("DROP TABLE unit")
    connection.close()
    said = notices_of(desk)
    recollection.look(again=True)
    qtbot.waitUntil(lambda: len(said) == 1, timeout=5_000)
    assert "The translation memory" in said[0]
    desk.select(desk.project.segments[4].id)
    qtbot.wait(300)
    assert len(said) == 1


def test_a_received_project_says_that_it_keeps_its_lines_to_itself(demo_folder: Path, qtbot: QtBot) -> None:
    with Document.open(demo_folder) as document:
        document.apply("x", partial(set_line_text, tag="de-DE", segment_id=document.project.segments[0].id, text="So."))
        identity = document.id
    set_whose(identity, demo_folder, Whose.RECEIVED)
    window = opened(qtbot, demo_folder)
    view = view_of(window)
    said = notices_of(view.desk)
    view.page.line.recollection._keep()
    qtbot.waitUntil(lambda: any("was not made on this desk" in text for text in said), timeout=5_000)
    box = view.page.memory.whose
    assert box.currentText() == "Settled lines stay in this project"
    box.setCurrentIndex(0)
    box.activated.emit(0)
    with Memory() as memory:
        qtbot.waitUntil(lambda: [unit.target for unit in memory.all_of()] == ["So."], timeout=5_000)
    window.close_project()
