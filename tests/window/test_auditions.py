"""The audition desk by mouse and by key; lines with voices of their own; somebody new is told of."""

from __future__ import annotations

from functools import partial

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtGui import QKeySequence
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QMessageBox
from pytestqt.qtbot import QtBot

from driving import cast_of, notices_of, view_of
from zweistimme.engines.offers import Price
from zweistimme.project.cast_edits import cast_voice
from zweistimme.project.facts import cast_voice_of
from zweistimme.project.model import Manner
from zweistimme.project.speaker_edits import add_speaker
from zweistimme.window.auditions import AuditionPanel
from zweistimme.window.desk_view import DeskView
from zweistimme.window.main_window import MainWindow
from zweistimme.window.panel.voice_row import VoiceRow


@pytest.fixture
def view(window: MainWindow) -> DeskView:
    made = view_of(window)
    QTest.keySequence(window, QKeySequence("Ctrl+Shift+A"))
    assert made.page.drawer.shown == "Auditions"
    return made


def done(view: DeskView, qtbot: QtBot) -> None:
    qtbot.waitUntil(lambda: not view.desk.jobs.runs, timeout=30_000)


@pytest.fixture
def panel(view: DeskView, qtbot: QtBot) -> AuditionPanel:
    """Mira, whose strongest line is known, in the voices of Alva and Edda."""
    made = view.page.auditions
    qtbot.waitUntil(lambda: made.sheet is not None and len(made.sheet.lines) == 3, timeout=5_000)
    made.voice.setCurrentIndex(made.voice.findData("edda"))
    made.voice.activated.emit(made.voice.currentIndex())
    qtbot.waitUntil(lambda: len(view.desk.version.auditions) == 6, timeout=30_000)  # type: ignore[union-attr]
    done(view, qtbot)
    return made


def words(panel: AuditionPanel, row: int, column: int) -> str:
    item = panel.table.item(row, column)
    assert item is not None
    return item.text()


def test_voices_are_heard_scored_and_preferred_by_key(panel: AuditionPanel, view: DeskView, qtbot: QtBot) -> None:
    heard: list[float] = []
    panel.heard.connect(lambda _samples, at: heard.append(at))
    table = panel.table
    assert [words(panel, row, 0) for row in range(3)] == ["Original", "Alva (cast)", "Edda"]
    table.setFocus()
    table.setCurrentCell(1, 1)
    assert panel.sheet is not None
    segment = panel.sheet.lines[0]
    for row in (0, 1, 2):
        table.setCurrentCell(row, 1)
        with qtbot.waitSignal(panel.heard, timeout=5_000):
            QTest.keyClick(table, Qt.Key.Key_Return)
    assert heard == [segment.start_us] * 3, "the picture is shown from where the line begins"
    QTest.keyClick(table, Qt.Key.Key_P)
    QTest.keyClick(table, Qt.Key.Key_4)
    assert panel.sheet is not None
    standing = panel.sheet.standing["edda"]
    assert (standing.won, standing.compared, standing.score) == (1, 1, 4.0)
    with qtbot.waitSignal(panel.heard, timeout=5_000):
        QTest.keyClick(table, Qt.Key.Key_T)
    assert table.place()[0] == "alva", "the two in turn"
    QTest.keyClick(table, Qt.Key.Key_T)
    assert table.place()[0] == "edda"
    QTest.keyClick(table, Qt.Key.Key_G)
    version = view.desk.version
    assert version is not None
    assert version.cast[segment.speaker_id] == "edda"
    view.steps.go_on()
    done(view, qtbot)
    QTest.keyClick(table, Qt.Key.Key_Delete)
    assert {one.voice for one in view.desk.version.auditions.values()} == {"alva"}  # type: ignore[union-attr]


def test_blind_nobody_knows_which_voice_is_which(panel: AuditionPanel) -> None:
    panel.blind.click()
    shown = {words(panel, row, 0) for row in range(3)}
    assert shown == {"Original", "Voice A", "Voice B"}
    assert all("Edda" not in panel.table.item(row, 0).toolTip() for row in range(3))  # type: ignore[union-attr]
    panel.blind.click()
    assert "Edda" in {words(panel, row, 0) for row in range(3)}


def test_a_preference_needs_two_voices_of_one_line(panel: AuditionPanel, view: DeskView) -> None:
    said = notices_of(view.desk)
    panel.prefer()
    assert "Hear the same line in two voices" in said[-1]


def test_a_whole_scene_and_chosen_lines_are_heard(panel: AuditionPanel, view: DeskView, qtbot: QtBot) -> None:
    panel.table.setCurrentCell(2, 2)
    with qtbot.waitSignal(panel.heard, timeout=30_000) as heard:
        panel.scene.click()
    assert len(heard.args[0]) > 10 * 48_000
    done(view, qtbot)
    cast = {one.segment_id: one.voice for one in view.desk.version.auditions.values()}  # type: ignore[union-attr]
    assert set(cast.values()) >= {"brandt", "cosma", "edda"}
    view.desk.select("s0001")
    panel.lines.click()
    done(view, qtbot)
    assert panel.sheet is not None
    assert "s0001" in [line.id for line in panel.sheet.lines]
    assert panel.sheet.at("edda", "s0001") is not None


def test_the_most_alike_are_offered_and_nothing_is_asked_that_is_too_dear(
    panel: AuditionPanel, view: DeskView, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    from dataclasses import replace

    asked: list[str] = []

    def no(_parent: object, _title: str, words: str, _buttons: object) -> QMessageBox.StandardButton:
        asked.append(words)
        return QMessageBox.StandardButton.No

    monkeypatch.setattr(QMessageBox, "question", no)
    test = view.desk.book.tests["bundled"]
    assert test.info is not None
    dear = replace(test.info, price=Price(0.01, 0.0, "EUR"))
    view.desk.book.tests["bundled"] = replace(test, info=dear)
    panel.like.click()
    qtbot.waitUntil(lambda: bool(asked), timeout=10_000)
    assert "9 lines to be spoken; that costs about:" in asked[0]
    assert len(view.desk.version.auditions) == 6  # type: ignore[union-attr]
    view.desk.book.tests["bundled"] = test
    panel.like.click()
    qtbot.waitUntil(lambda: len(view.desk.version.auditions) == 15, timeout=30_000)  # type: ignore[union-attr]
    done(view, qtbot)


def test_it_opens_for_the_person_on_the_map(view: DeskView, qtbot: QtBot) -> None:
    view.page.drawer.shut()
    view.navigation.show_page("Cast")
    page = cast_of(view)
    qtbot.waitUntil(lambda: page.map.made is not None, timeout=10_000)
    page.map.choose_person("p2")
    page.acts.audition.click()
    assert view.page.drawer.shown == "Auditions"
    assert view.page.auditions.person.currentText() == "Tobin"


def test_a_version_without_words_has_nothing_to_hear(view: DeskView, qtbot: QtBot) -> None:
    view.versions.add("gl-ES")
    panel = view.page.auditions
    view.navigation.audition("p1")
    assert panel.table.rowCount() == 0
    assert "no line with a wording" in panel.about.text()


def test_chosen_lines_get_a_voice_of_their_own_and_give_it_back(window: MainWindow, qtbot: QtBot) -> None:
    view = view_of(window)
    desk = view.desk
    desk.select("s0002")
    desk.choose(["s0002", "s0004"])
    row = view.page.line.findChild(VoiceRow)
    assert row is not None
    row.own.click()
    row.voice.setCurrentIndex(row.voice.findData("hale"))
    row.voice.activated.emit(row.voice.currentIndex())
    version = desk.version
    assert version is not None
    assert [version.lines[key].voice for key in ("s0002", "s0004", "s0007")] == ["hale", "hale", ""]
    assert version.cast["p2"] == "brandt", "the person's voice is as it was"
    desk.select("s0001")
    assert not row.own.isChecked()
    desk.select("s0004")
    assert row.own.isChecked()
    segment = desk.segment()
    assert segment is not None
    assert cast_voice_of(version, segment) == "hale"
    row.own.click()
    assert desk.line().voice == ""  # type: ignore[union-attr]
    assert row.voice.currentData() == "brandt"


def test_all_that_are_chosen_are_spoken_as_one_is(window: MainWindow) -> None:
    view = view_of(window)
    desk, said = view.desk, notices_of(view.desk)
    desk.select("s0002")
    view.page.line.findChild(VoiceRow).manner.chosen.emit(Manner(1.1))  # type: ignore[union-attr]
    desk.apply("Direct", lambda p: p)
    desk.choose(["s0002"])
    QTest.keySequence(window, QKeySequence("Ctrl+Shift+M"))
    assert "Choose several lines first" in said[-1]
    desk.choose(["s0002", "s0003", "s0004"])
    QTest.keySequence(window, QKeySequence("Ctrl+Shift+M"))
    version = desk.version
    assert version is not None
    assert {version.lines[key].manner for key in ("s0002", "s0003", "s0004")} == {Manner(1.1)}
    desk.undo()
    assert desk.version.lines["s0003"].manner == Manner()  # type: ignore[union-attr]


def test_somebody_new_without_a_voice_is_told_of(window: MainWindow) -> None:
    view = view_of(window)
    said = notices_of(view.desk)
    view.desk.apply("Add", partial(add_speaker, name="Ilse"))
    key = next(key for key, one in view.desk.project.speakers.items() if one.name == "Ilse")
    assert said[-1] == "Ilse has no voice yet in Deutsch (Deutschland), Español (España). Choose one on the Cast page."
    view.desk.apply("Cast", partial(cast_voice, tag="de-DE", speaker_id=key, voice="gunda"))
    assert len([one for one in said if "Ilse" in one]) == 1
