"""Everything that can be done is in a menu, under the pointer where it can be meant, and found by its words."""

from __future__ import annotations

from collections import Counter
from functools import partial
from pathlib import Path

import pytest
from PyQt6.QtCore import QPoint, QPointF, Qt, QTimer
from PyQt6.QtGui import QContextMenuEvent, QKeySequence
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QMenu, QWidget
from pytestqt.qtbot import QtBot

from driving import canvas_of, middle_of, speakers_of, view_of
from helpers import project_with
from zweistimme.project.speaker_edits import rename_speaker
from zweistimme.store.document import Document
from zweistimme.window.actions import ACTIONS, BY_ID, holds_on
from zweistimme.window.adding_version import AddVersionDialog
from zweistimme.window.app import make_app
from zweistimme.window.finder import CommandFinder, found
from zweistimme.window.main_window import MainWindow
from zweistimme.window.menus import CONTEXT, LANGUAGES, MENUS, RECENT, SPEAKERS
from zweistimme.window.recent import remember


@pytest.fixture
def offered(window: MainWindow, monkeypatch: pytest.MonkeyPatch) -> list[QMenu]:
    """Menus that are shown; they are not waited for."""
    shown: list[QMenu] = []
    monkeypatch.setattr(QMenu, "popup", lambda menu, _at: shown.append(menu))
    return shown


def right_press(widget: QWidget, at: QPoint, reason: QContextMenuEvent.Reason = QContextMenuEvent.Reason.Mouse) -> None:
    QApplication.sendEvent(widget, QContextMenuEvent(reason, at, widget.mapToGlobal(at)))


def words_of(menu: QMenu) -> list[str]:
    return [action.text() for action in menu.actions() if not action.isSeparator()]


def test_every_action_stands_in_the_menu_bar_once() -> None:
    there = Counter(item for menu in MENUS for item in menu.items if item)
    assert there.pop(RECENT) == there.pop(SPEAKERS) == there.pop(LANGUAGES) == 1
    wanted = {spec.id for spec in ACTIONS if not spec.id.startswith("speaker_") and spec.listed} - {"new_speaker"}
    assert set(there) == wanted
    assert set(there.values()) == {1}


def test_what_is_offered_under_the_pointer_is_there() -> None:
    for kind, items in CONTEXT.items():
        assert set(items) - {"", SPEAKERS} <= set(BY_ID), kind


@pytest.mark.parametrize(
    ("column", "kind"),
    [
        ("original", "original"),
        ("original_wave", "original"),
        ("ribbon", "ribbon"),
        ("dub_wave", "take"),
        ("dub", "dub"),
    ],
)
def test_a_right_press_selects_and_offers(window: MainWindow, offered: list[QMenu], column: str, kind: str) -> None:
    view = view_of(window)
    third = view.desk.project.segments[2].id
    view.page.score.show_segment(third)
    right_press(canvas_of(view), middle_of(view, third, column))
    assert view.desk.segment_id == third
    first = BY_ID[next(item for item in CONTEXT[kind] if item)].text
    assert words_of(offered[0])[0] == first


def test_a_right_press_on_one_of_several_leaves_them_chosen(window: MainWindow, offered: list[QMenu]) -> None:
    view = view_of(window)
    ids = [segment.id for segment in view.desk.project.segments[:2]]
    view.desk.choose(ids)
    right_press(canvas_of(view), middle_of(view, ids[1], "dub"))
    assert view.desk.chosen == set(ids)
    assert offered


def test_the_menu_key_offers_what_is_selected(window: MainWindow, offered: list[QMenu]) -> None:
    view = view_of(window)
    right_press(canvas_of(view), QPoint(5, 5), QContextMenuEvent.Reason.Keyboard)
    assert words_of(offered[0])[0] == BY_ID["edit_source"].text


def test_a_line_is_given_to_somebody_by_the_menu(window: MainWindow, offered: list[QMenu]) -> None:
    view = view_of(window)
    view.desk.select(view.desk.project.segments[0].id)
    right_press(canvas_of(view), middle_of(view, view.desk.segment_id, "original"))
    give = next(a.menu() for a in offered[0].actions() if a.text() == "&Give to")
    assert give is not None
    give.aboutToShow.emit()
    names = [speaker.name for speaker in view.desk.project.speakers.values()]
    assert words_of(give) == [*(f"{name}\t{n}" for n, name in enumerate(names, 1)), BY_ID["new_speaker"].text]
    give.actions()[1].trigger()
    segment = view.desk.segment()
    assert segment is not None
    assert view.desk.project.speakers[segment.speaker_id].name == names[1]


def test_words_takes_speakers_and_the_overview_offer_too(
    window: MainWindow, qtbot: QtBot, offered: list[QMenu]
) -> None:
    view = view_of(window)
    closeup, segment = view.page.closeup, view.desk.project.segments[0]
    view.desk.select(segment.id)
    closeup.grab()
    word = segment.words[3]
    right_press(closeup, QPointF(closeup.x_of((word.start_us + word.end_us) / 2), 40).toPoint())
    assert view.desk.word == 3
    right_press(closeup, QPoint(300, 120))
    right_press(view.page.overview, QPoint(10, 60))
    firsts = [words_of(menu)[0] for menu in offered]
    assert firsts == [BY_ID["from_word"].text, BY_ID["play_take"].text, BY_ID["play"].text]
    take = view.page.line.takes.buttons[0]
    shown = [action.text() for action in take.actions()]
    assert (shown[:2], shown[-1]) == (["Hear take 1", "Use take 1"], BY_ID["another_take"].text)
    assert "Score 5 of 5" in shown
    view.navigation.show_page("Speakers")
    qtbot.waitUntil(lambda: speakers_of(view).rows[0].name.isVisible())
    row = speakers_of(view).rows[0]
    rename, first = row.when.actions()
    rename.trigger()
    assert window.focusWidget() is row.name
    first.trigger()
    assert view.pages.current == "Score"


def test_undo_and_redo_say_what_they_would_do(window: MainWindow) -> None:
    view, actions = view_of(window), window.actions_by_id
    for name in ("Ada", "Bea"):
        view.desk.apply(f"Rename to {name}", partial(rename_speaker, speaker_id="p1", name=name))
    assert actions["undo"].text() == "Undo: Rename to Bea"
    assert not actions["redo"].isEnabled()
    actions["undo"].trigger()
    assert actions["undo"].text() == "Undo: Rename to Ada"
    assert actions["redo"].text() == "Do again: Rename to Bea"
    assert actions["redo"].isEnabled()


def test_one_goes_back_in_the_history_and_on_again(window: MainWindow) -> None:
    view = view_of(window)
    for name in ("Ada", "Bea", "Cleo"):
        view.desk.apply(f"Rename to {name}", partial(rename_speaker, speaker_id="p1", name=name))
    QTest.keySequence(window, QKeySequence("Ctrl+Shift+H"))
    panel = view.history
    assert panel.list.currentRow() == 0
    assert not panel.go.isEnabled()
    panel.list.setCurrentRow(2)
    heard: list[object] = []
    view.desk.changed.connect(heard.append)
    QTest.mouseClick(panel.go, Qt.MouseButton.LeftButton)
    assert view.desk.project.speakers["p1"].name == "Ada"
    assert len(heard) == 1, "two steps, and all views look once"
    shown = [panel.list.item(row) for row in range(3)]
    assert [item.text() for item in shown if item] == [
        "Rename to Cleo (undone)",
        "Rename to Bea (undone)",
        "Rename to Ada",
    ]
    panel.list.setCurrentRow(1)
    assert panel.go.text() == "Do it again, up to here"
    QTest.mouseClick(panel.go, Qt.MouseButton.LeftButton)
    assert view.desk.project.speakers["p1"].name == "Bea"
    view.desk.apply("Rename to Dora", partial(rename_speaker, speaker_id="p1", name="Dora"))
    assert [step.label for step in view.desk.document.history(2)] == ["Rename to Dora", "Rename to Bea"]


def test_a_run_is_one_step_of_the_history(tmp_path: Path) -> None:
    with Document.create(tmp_path / "p", project_with([(1.0, 2.0, "So.")])) as document:
        for name in ("Ada", "Bea"):
            document.apply("Name them", partial(rename_speaker, speaker_id="p1", name=name), gesture="run 1")
        document.apply("Name her", partial(rename_speaker, speaker_id="p1", name="Cleo"))
        assert [step.label for step in document.history()] == ["Name her", "Name them"]
        document.undo()
        assert [step.undone for step in document.history()] == [True, False]
        assert (document.undo_label(), document.redo_label()) == ("Name them", "Name her")
        document.undo()
        assert (document.undo_label(), document.redo_label()) == (None, "Name them")


def test_commands_are_found_by_some_of_their_words() -> None:
    assert found("unpin", ACTIONS)[0].id == "pin"
    assert found("ctrl+9", ACTIONS) == []
    assert found("", ACTIONS) == list(ACTIONS)
    assert "page_Cast" in [spec.id for spec in found("cast", ACTIONS)]


def test_a_command_that_is_found_is_done(window: MainWindow) -> None:
    view = view_of(window)

    def type_and_return() -> None:
        finder = window.findChild(CommandFinder)
        assert finder is not None
        QTest.keyClicks(finder.line, "show the")
        QTest.keyClick(finder.line, Qt.Key.Key_Down)
        QTest.keyClick(finder.line, Qt.Key.Key_Return)

    QTimer.singleShot(100, type_and_return)
    QTest.keySequence(window, QKeySequence("F2"))
    assert view.pages.current == "Speakers"


def test_what_cannot_be_meant_here_is_not_done(window: MainWindow) -> None:
    view_of(window).navigation.show_page("Cast")
    finder = CommandFinder(window.actions_by_id, window)
    finder.line.setText("merge with")
    row = finder.list.topLevelItem(0)
    assert row is not None
    assert row.isDisabled()
    finder._choose()
    assert finder.chosen == ""


def test_lanes_are_heard_left_out_and_heard_alone(window: MainWindow) -> None:
    view = view_of(window)
    line_up, transport = view.playback.mixer.line_up, view.transport
    QTest.mouseClick(transport.lanes["Bed"][0], Qt.MouseButton.LeftButton)
    assert line_up.factors()["Bed"] == 0.0
    assert not transport.lanes["Bed"][0].isChecked()
    QTest.keySequence(window, QKeySequence("Alt+Shift+3"))
    assert line_up.factors() == {"Original": 0.0, "Bed": 0.0, "Dub": 1.0}
    assert transport.lanes["Dub"][0].text() == "Dub alone"
    QTest.keySequence(window, QKeySequence("Alt+1"))
    assert line_up.factors() == {"Original": 1.0, "Bed": 0.0, "Dub": 1.0}
    QTest.keySequence(window, QKeySequence("Alt+1"))
    QTest.keySequence(window, QKeySequence("Alt+Shift+3"))
    QTest.keySequence(window, QKeySequence("Alt+2"))
    assert line_up.factors() == {"Original": 0.0, "Bed": 1.0, "Dub": 1.0}


def test_without_a_project_the_menu_opens_one(qtbot: QtBot, demo_folder: Path) -> None:
    remember(demo_folder)
    make_app()
    window = MainWindow()
    qtbot.addWidget(window)
    window.show()
    on = {action_id for action_id, action in window.actions_by_id.items() if action.isEnabled()}
    assert on == {spec.id for spec in ACTIONS if holds_on(spec, "")}
    bar = window.menuBar()
    assert bar is not None
    project = bar.actions()[0].menu()
    assert project is not None
    recent = next(action.menu() for action in project.actions() if action.text() == "Open &lately")
    assert recent is not None
    recent.aboutToShow.emit()
    recent.actions()[0].trigger()
    assert window.view is not None
    assert window.actions_by_id["split"].isEnabled()
    window.actions_by_id["close"].trigger()
    assert window.view is None
    assert not window.actions_by_id["split"].isEnabled()
    assert not window.actions_by_id["undo"].isEnabled()


def test_a_version_that_is_there_is_not_proposed(window: MainWindow, monkeypatch: pytest.MonkeyPatch) -> None:
    def accept(dialog: AddVersionDialog) -> int:
        dialog.add.click()
        return 1

    monkeypatch.setattr(AddVersionDialog, "exec", accept)
    window.actions_by_id["add_version"].trigger()
    assert view_of(window).desk.tag == "en-US"
    window.actions_by_id["add_version"].trigger()
    assert view_of(window).desk.tag == "es-MX"


def test_no_two_actions_are_on_one_key() -> None:
    keys = [spec.keys for spec in BY_ID.values() if spec.keys]
    assert sorted(keys) == sorted(set(keys))
