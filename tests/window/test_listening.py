"""The listening desk: takes heard back in the window, gone through by key, marked in the close-up."""

from __future__ import annotations

from dataclasses import replace
from functools import partial

import numpy as np
import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtGui import QKeySequence
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QMessageBox
from pytestqt.qtbot import QtBot

from driving import notices_of, view_of
from zweistimme.engines.offers import Price
from zweistimme.project.edits import add_take, choose_engine
from zweistimme.project.facts import chosen_take
from zweistimme.window.bridge import Desk
from zweistimme.window.desk_view import DeskView
from zweistimme.window.listening import ListeningPanel
from zweistimme.window.main_window import MainWindow

QUIET, SPOILT = "s0003", "s0005"


def spoil(desk: Desk, segment_id: str, gain: float, *, word: bool) -> None:
    """Give a line a take that is too soft, or one without its second word."""
    version = desk.version
    assert version is not None
    take = chosen_take(version, version.lines[segment_id])
    assert take is not None
    samples = desk.document.clips.get(take.clip) * np.float32(gain)
    if word:
        a, b = (round(at * 0.048) for at in (take.words[1].start_us, take.words[1].end_us))
        samples = np.concatenate((samples[:a], samples[b:]))
    made = replace(
        take, id=f"spoilt-{segment_id}", clip=desk.document.clips.put(samples), length_samples=len(samples),
        speech_start_samples=0, speech_end_samples=len(samples), pauses_samples=(), words=(),
    )  # fmt: skip
    desk.apply("Spoil", partial(add_take, tag=desk.tag, take=made))


@pytest.fixture
def view(window: MainWindow) -> DeskView:
    made = view_of(window)
    spoil(made.desk, SPOILT, 1.0, word=True)
    spoil(made.desk, QUIET, 0.2, word=False)
    QTest.keySequence(window, QKeySequence("Ctrl+H"))
    assert made.page.drawer.shown == "Takes heard back"
    return made


@pytest.fixture
def panel(view: DeskView, qtbot: QtBot) -> ListeningPanel:
    """Heard, the whole version."""
    made = view.page.listening
    made.all.click()
    qtbot.waitUntil(lambda: bool(view.desk.jobs.runs), timeout=5_000)
    qtbot.waitUntil(lambda: not view.desk.jobs.runs, timeout=120_000)
    qtbot.waitUntil(lambda: sum(one.heard is not None for one in made.known.values()) == 18, timeout=5_000)
    qtbot.waitUntil(lambda: not made._soon.isActive() and made.table.rowCount() == 18, timeout=5_000)
    return made


def shown(panel: ListeningPanel, row: int, column: int) -> str:
    item = panel.table.item(row, column)
    assert item is not None
    return item.text()


def test_the_worst_take_comes_first_with_its_words_and_sound(panel: ListeningPanel, view: DeskView) -> None:
    assert panel._rows[0] == SPOILT
    assert float(shown(panel, 0, 2)) < 100
    label = panel.table.cellWidget(0, 3)
    assert "<s>" in label.text() or "<u>" in label.text()  # type: ignore[union-attr]
    row = panel._rows.index(QUIET)
    assert "dB beside its others (set its level)" in shown(panel, row, 4)
    view.desk.select(SPOILT)
    assert view.desk.heard[f"spoilt-{SPOILT}"].faults
    view.page.closeup.grab()


def test_only_some_are_shown(panel: ListeningPanel) -> None:
    everything = panel.table.rowCount()
    panel.filter.setCurrentIndex(panel.filter.findData("any"))
    panel.filter.activated.emit(1)
    assert {SPOILT, QUIET} <= set(panel._rows)
    assert panel.table.rowCount() < everything
    panel.filter.setCurrentIndex(panel.filter.findData("speaker p3"))
    panel.filter.activated.emit(1)
    assert panel.table.rowCount() == 5
    panel.filter.setCurrentIndex(panel.filter.findData("sound level"))
    panel.filter.activated.emit(1)
    assert panel._rows == [QUIET]


def test_it_is_gone_through_by_key(panel: ListeningPanel, view: DeskView, qtbot: QtBot) -> None:
    heard: list[str] = []
    asked: list[bool] = []
    panel.heard.connect(heard.append)
    panel.again_wanted.disconnect()
    panel.again_wanted.connect(lambda: asked.append(True))
    panel.table.setFocus()
    panel.table.setCurrentCell(0, 0)
    assert view.desk.segment_id == SPOILT
    QTest.keyClick(panel.table, Qt.Key.Key_Return)
    assert heard == [f"spoilt-{SPOILT}"]
    QTest.keyClick(panel.table, Qt.Key.Key_A)
    assert asked == [True]
    QTest.keyClick(panel.table, Qt.Key.Key_G)
    assert SPOILT not in panel._rows
    assert view.desk.segment_id == panel._rows[0]
    panel.table.setCurrentCell(panel._rows.index(QUIET), 0)
    QTest.keyClick(panel.table, Qt.Key.Key_E)
    qtbot.waitUntil(lambda: not view.desk.jobs.busy, timeout=20_000)
    line = view.desk.line(QUIET)
    assert line is not None
    assert line.take_id != f"spoilt-{QUIET}"


def test_what_cannot_be_mended_is_said(panel: ListeningPanel, view: DeskView) -> None:
    said = notices_of(view.desk)
    sound = next(key for key in panel._rows if not panel.known[key].looked.faults)  # type: ignore[union-attr]
    panel.table.setCurrentCell(panel._rows.index(sound), 0)
    panel.mend()
    assert "can be mended" in said[0]


def test_they_are_played_in_a_row(panel: ListeningPanel, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch) -> None:
    heard: list[str] = []
    panel.heard.connect(heard.append)
    panel.table.setCurrentCell(0, 0)
    panel.row.click()
    assert panel._next.isActive()
    panel._next.start(1)
    qtbot.waitUntil(lambda: len(heard) == 2)
    panel.row.click()
    assert not panel._next.isActive()


def test_asking_again_until_it_is_right(panel: ListeningPanel, view: DeskView, qtbot: QtBot) -> None:
    panel.filter.setCurrentIndex(panel.filter.findData("any"))
    panel.filter.activated.emit(1)
    panel.until.click()
    qtbot.waitUntil(lambda: not view.desk.jobs.busy, timeout=120_000)
    line = view.desk.line(SPOILT)
    assert line is not None
    assert line.take_id != f"spoilt-{SPOILT}"


def test_what_was_heard_of_another_version_is_not_shown(panel: ListeningPanel, view: DeskView) -> None:
    other = next(tag for tag in view.desk.project.versions if tag != view.desk.tag)
    view.desk.show_version(other)
    assert panel.table.rowCount() == 0


def test_no_is_no_where_hearing_or_asking_costs(
    panel: ListeningPanel, view: DeskView, monkeypatch: pytest.MonkeyPatch
) -> None:
    asked: list[str] = []

    def question(_parent: object, _title: str, words: str, _buttons: object) -> QMessageBox.StandardButton:
        asked.append(words)
        return QMessageBox.StandardButton.No

    monkeypatch.setattr(QMessageBox, "question", question)
    info = view.desk.book.info("bundled")
    assert info is not None
    priced = replace(info, price=Price(0.001, 0.01, "EUR"), voices=tuple(replace(v, tiers=()) for v in info.voices))
    monkeypatch.setattr(view.desk.book, "info", lambda _name: priced)
    panel.until.click()
    assert "EUR" in asked[0]
    view.desk.apply("Use", lambda p: choose_engine(p, "recognise", "quay"))
    panel.all.click()
    assert "costs at most: " in asked[1]
    assert not view.desk.jobs.runs
