"""The Cast page: the voice map by hand and by keys, its list, proposals, and the list of voices one likes."""

from __future__ import annotations

import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QMessageBox
from pytestqt.qtbot import QtBot

from driving import cast_of, view_of
from zweistimme.project.cast_edits import cast_voice
from zweistimme.project.speaker_edits import rename_speaker
from zweistimme.stages.cast.shortlist import shortlist
from zweistimme.window.casting.map_view import VoiceMapView
from zweistimme.window.casting.page import CastPage
from zweistimme.window.desk_view import DeskView
from zweistimme.window.main_window import MainWindow


@pytest.fixture
def view(window: MainWindow, qtbot: QtBot) -> DeskView:
    made = view_of(window)
    made.navigation.show_page("Cast")
    qtbot.waitUntil(lambda: cast_of(made).map.made is not None, timeout=10_000)
    return made


@pytest.fixture
def page(view: DeskView) -> CastPage:
    return cast_of(view)


def place_of(shown: VoiceMapView, name: str) -> QPoint:
    """Where a person or a voice is on the map."""
    assert shown.map is not None
    people, voices = shown.map.people_places, shown.map.voice_places
    at = shown.map.people_at[people[name]] if name in people else shown.map.voices_at[voices[name]]
    x, y = shown._on_screen(at[None])[0]
    return QPoint(round(x), round(y))


def test_a_person_is_dragged_onto_a_voice(view: DeskView, page: CastPage) -> None:
    shown = page.map.view
    QTest.mousePress(shown, Qt.MouseButton.LeftButton, pos=place_of(shown, "p2"))
    QTest.mouseMove(shown, place_of(shown, "p2") + QPoint(30, -20))
    QTest.mouseMove(shown, place_of(shown, "dario"))
    shown.grab()
    QTest.mouseRelease(shown, Qt.MouseButton.LeftButton, pos=place_of(shown, "dario"))
    version = view.desk.version
    assert version is not None
    assert (version.cast["p2"], version.cast_chosen) == ("dario", ("p2",))
    assert page.rows[1].settled.text() == "chosen"
    view.desk.undo()
    assert view.desk.version is not None
    assert view.desk.version.cast["p2"] == "brandt"


def test_letting_go_beside_gives_nobody_anything(view: DeskView, page: CastPage) -> None:
    shown, before = page.map.view, view.desk.project
    QTest.mousePress(shown, Qt.MouseButton.LeftButton, pos=place_of(shown, "p1"))
    QTest.mouseRelease(shown, Qt.MouseButton.LeftButton, pos=QPoint(4, 4))
    assert view.desk.project is before


def test_the_keys_go_from_person_to_person_and_voice_to_voice(view: DeskView, page: CastPage) -> None:
    shown = page.map.view
    shown.setFocus()
    assert shown.person == "p1"
    QTest.keyClick(shown, Qt.Key.Key_PageDown)
    assert (shown.person, shown.voice) == ("p2", "brandt")
    QTest.keyClick(shown, Qt.Key.Key_Right)
    assert shown.voice == "dario"
    assert page.map.panel.list.currentItem().data(Qt.ItemDataRole.UserRole) == "dario"  # type: ignore[union-attr]
    QTest.keyClick(shown, Qt.Key.Key_Return)
    assert view.desk.version is not None
    assert view.desk.version.cast["p2"] == "dario"
    QTest.keyClick(shown, Qt.Key.Key_Plus)
    assert shown._zoom > 1
    QTest.keyClick(shown, Qt.Key.Key_PageUp)
    assert shown.person == "p1"


def test_the_list_says_the_same_and_gives_by_return(view: DeskView, page: CastPage) -> None:
    panel = page.map.panel
    panel.list.setFocus()
    assert panel.list.count() == 8
    assert panel.give.text() == "Give to Mira"
    panel.list.setCurrentRow(3)
    QTest.keyClick(panel.list, Qt.Key.Key_Return)
    assert view.desk.version is not None
    assert view.desk.version.cast["p1"] == page.map.view.voice != "alva"


def test_voices_are_found(page: CastPage) -> None:
    panel = page.map.panel
    panel.text.setText("quick")
    assert [panel.list.item(row).data(Qt.ItemDataRole.UserRole) for row in range(panel.list.count())] == ["cosma"]  # type: ignore[union-attr]
    panel.text.clear()
    panel.kind.setCurrentIndex(panel.kind.findData("man"))
    panel.kind.activated.emit(2)
    assert panel.list.count() == 3
    panel.kind.setCurrentIndex(0)
    panel.more.setCurrentIndex(panel.more.findData("direction whispering"))
    panel.more.activated.emit(1)
    assert panel.list.count() == 8


def test_a_voice_is_kept_on_the_list_with_a_note(page: CastPage, qtbot: QtBot) -> None:
    panel = page.map.panel
    page.map.view.choose(voice="edda")
    page.map.refresh()
    panel.star.click()
    assert shortlist() == {"edda": ""}
    qtbot.waitUntil(lambda: page.map.made is not None and "edda" in page.map.made.listed)
    panel.note.setFocus()
    QTest.keyClicks(panel.note, "for a nurse")
    QTest.keyClick(panel.note, Qt.Key.Key_Return)
    assert shortlist() == {"edda": "for a nurse"}
    panel.star.click()
    assert shortlist() == {}


def test_everybody_is_proposed_for_and_nobody_s_choice_is_touched(view: DeskView, page: CastPage, qtbot: QtBot) -> None:
    tag = view.desk.tag
    view.desk.apply("Cast", lambda p: cast_voice(p, tag, "p1", "gunda"))
    page.rows[1].voice.setCurrentIndex(page.rows[1].voice.findData("fenn"))
    page.rows[1].voice.activated.emit(1)
    assert page.rows[1].settled.isChecked()
    page.rows[1].settled.click()
    page.acts.propose.click()
    qtbot.waitUntil(lambda: not view.desk.jobs.busy, timeout=60_000)
    assert view.desk.version is not None
    assert dict(view.desk.version.cast) == {"p1": "gunda", "p2": "brandt", "p3": "cosma"}


def test_voices_are_measured_when_asked(view: DeskView, page: CastPage, qtbot: QtBot) -> None:
    assert page.acts.measure.isVisible(), "the bundled voices were measured for whoever made this demo"
    assert page.acts.measure.text() == "Measure 8 voices"
    page.acts.measure.click()
    qtbot.waitUntil(lambda: not view.desk.jobs.busy, timeout=60_000)
    qtbot.waitUntil(lambda: page.map.made is not None and not page.map.made.unmeasured, timeout=10_000)
    assert not page.acts.measure.isVisible()
    assert "measured: 2" in page.map.panel.about.text()


def test_who_is_easily_confused_is_said(view: DeskView, page: CastPage) -> None:
    tag = view.desk.tag
    view.desk.apply("Cast", lambda p: cast_voice(p, tag, "p1", "brandt"))
    page.map.choose_person("p2")
    assert "Easily taken for Mira" in page.map.panel.why.text()
    page.map.view.grab()


def test_the_map_follows_the_version_and_names(view: DeskView, page: CastPage, qtbot: QtBot) -> None:
    view.desk.apply("Name", lambda p: rename_speaker(p, "p1", "Ålva"))
    qtbot.waitUntil(lambda: page.map.made is not None and page.map.made.map.people[0].name == "Ålva")
    other = next(tag for tag in view.desk.project.versions if tag != view.desk.tag)
    view.desk.show_version(other)
    qtbot.waitUntil(lambda: page.map.made is not None and page.map.made.tag == other)


def test_no_is_no_where_measuring_costs(view: DeskView, page: CastPage, monkeypatch: pytest.MonkeyPatch) -> None:
    asked = []

    def question(_parent: object, _title: str, words: str, _buttons: object) -> QMessageBox.StandardButton:
        asked.append(words)
        return QMessageBox.StandardButton.No

    monkeypatch.setattr(QMessageBox, "question", question)
    assert not page.acts._agreed(["quay: 3 voices, some 1.20 EUR"])
    assert "1.20 EUR" in asked[0]
