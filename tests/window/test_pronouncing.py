"""How words are said, in the window: written, heard before and after, and exchanged."""

from __future__ import annotations

from pathlib import Path

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtGui import QContextMenuEvent, QKeySequence
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QToolButton
from pytestqt.qtbot import QtBot

from driving import notices_of, view_of
from zweistimme.project.facts import take_is_stale
from zweistimme.project.sayings import Saying
from zweistimme.stages.voice.own_sayings import keep_own, own_sayings
from zweistimme.window.desk_view import DeskView
from zweistimme.window.main_window import MainWindow
from zweistimme.window.pronouncing import PronouncingPanel

WORD = "Uhrmacher"


@pytest.fixture
def view(window: MainWindow) -> DeskView:
    made = view_of(window)
    QTest.keySequence(window, QKeySequence("Ctrl+Shift+W"))
    assert made.page.drawer.shown == "How words are said"
    return made


@pytest.fixture
def panel(view: DeskView) -> PronouncingPanel:
    return view.page.pronouncing


def write(panel: PronouncingPanel, word: str, how: str, kind: str = "like") -> None:
    panel.word.setText(word)
    panel.kind.setCurrentIndex(panel.kind.findData(kind))
    panel.kind.activated.emit(0)
    panel.how.setText(how)


def stale_lines(view: DeskView) -> list[str]:
    project, version = view.desk.project, view.desk.version
    assert version is not None
    lines = [(segment, version.lines[segment.id]) for segment in project.segments]
    return [
        line.text
        for segment, line in lines
        if take_is_stale(project, version, segment, line, version.takes[line.take_id or ""])
    ]


def test_a_word_is_written_kept_and_forgotten(view: DeskView, panel: PronouncingPanel) -> None:
    write(panel, WORD, "Uhrmahcher")
    QTest.keyClick(panel.how, Qt.Key.Key_Return)
    assert panel.table.rowCount() == 1
    assert panel.table.item(0, 1).text() == "like “Uhrmahcher”"  # type: ignore[union-attr]
    assert stale_lines(view) == [text for text in _texts(view) if WORD in text] != []
    panel.table.setCurrentCell(0, 0)
    panel.forget.click()
    assert stale_lines(view) == []
    view.desk.undo()
    assert len(stale_lines(view)) > 0


def _texts(view: DeskView) -> list[str]:
    version = view.desk.version
    assert version is not None
    return [version.lines[segment.id].text for segment in view.desk.project.segments]


def test_signs_of_ipa_have_keys(view: DeskView, panel: PronouncingPanel) -> None:
    write(panel, WORD, "", "ipa")
    assert panel.symbols.isVisible()
    for key in panel.symbols.findChildren(QToolButton)[:3]:
        key.click()
    assert panel.how.text() == "ˈˌː"
    panel.own.setChecked(True)
    panel.keep.click()
    assert [one.ipa for one in own_sayings(view.desk.tag)] == ["ˈˌː"]


def test_it_is_heard_before_and_after(view: DeskView, panel: PronouncingPanel, qtbot: QtBot) -> None:
    heard: list[int] = []
    panel.heard.connect(lambda samples, last: heard.append(len(samples)))
    write(panel, WORD, "Uhrmaaaacherei")
    for button in (panel.before, panel.after):
        count = len(heard)
        button.click()
        qtbot.waitUntil(lambda count=count: len(heard) > count and not view.desk.jobs.runs, timeout=20_000)  # type: ignore[misc]
    assert heard[0] != heard[-1]
    assert len(view.desk.project.sayings) == 0


def test_what_is_no_saying_is_said(view: DeskView, panel: PronouncingPanel) -> None:
    said = notices_of(view.desk)
    panel.keep.click()
    assert "A word is needed" in said[0]
    write(panel, "", "")
    panel.before.click()
    assert "Write a word first" in said[1]


def test_a_lexicon_is_read_and_written(view: DeskView, panel: PronouncingPanel, tmp_path: Path) -> None:
    write(panel, WORD, "Uhrmahcher")
    panel.keep.click()
    file = tmp_path / "a.pls"
    panel.write_to(file)
    panel.forget.click()
    panel.read_from(file)
    assert panel.table.rowCount() == 1
    said = notices_of(view.desk)
    view.desk.show_version("es-ES")
    panel.read_from(file)
    assert "not for es-ES" in said[-1]
    panel.write_to(tmp_path / "nowhere" / "b.pls")
    panel.read_from(tmp_path / "none.pls")
    assert "cannot be read" in said[-1]


def test_one_s_own_words_are_offered(view: DeskView, panel: PronouncingPanel) -> None:
    keep_own([Saying(WORD, "de", like="Uhrmahcher")], view.desk.tag)
    view.page.drawer.shut()
    view.navigation.open_panel("How words are said")
    assert panel.from_own.text() == "Use 1 word of mine"
    panel.from_own.click()
    assert panel.table.rowCount() == 1
    assert not panel.from_own.isVisible()


def test_a_word_that_sounds_wrong_opens_it(window: MainWindow, view: DeskView, panel: PronouncingPanel) -> None:
    segment = next(one for one in view.desk.project.segments if WORD in (view.desk.line(one.id).text))  # type: ignore[union-attr]
    view.desk.select(segment.id)
    closeup = view.page.closeup
    closeup.grab()
    word = next(one for one in closeup._take_words if one.text.startswith(WORD))
    at = closeup.rect().center()
    at.setX(round(closeup.x_of((word.start_us + word.end_us) / 2)))
    at.setY(closeup.height() - 20)
    asked: list[str] = []
    closeup.menu_wanted.disconnect()
    closeup.menu_wanted.connect(lambda kind, _at: asked.append(kind))
    event = QContextMenuEvent(QContextMenuEvent.Reason.Mouse, at, closeup.mapToGlobal(at))
    QApplication.sendEvent(closeup, event)
    assert asked == ["take"]
    window.actions_by_id["pronounce"].trigger()
    assert panel.word.text() == WORD
