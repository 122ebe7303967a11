"""Everything can be done without a mouse, and one sees where the keyboard is."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtGui import QImage, QKeySequence
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QAbstractButton, QAbstractSpinBox, QApplication, QComboBox, QLineEdit, QWidget
from pytestqt.qtbot import QtBot

from driving import notices_of, view_of
from zweistimme.project.speaker_edits import rename_speaker
from zweistimme.project.words import spoken_words
from zweistimme.window.actions import ACTIONS
from zweistimme.window.finder import CommandFinder
from zweistimme.window.main_window import MainWindow
from zweistimme.window.pages import PAGES

TAB, BACK = Qt.Key.Key_Tab, Qt.Key.Key_Backtab


@pytest.fixture
def recorded(window: MainWindow) -> Iterator[list[str]]:
    """What was done, instead of doing it."""
    done: list[str] = []
    for action_id, action in window.actions_by_id.items():
        action.triggered.disconnect()
        action.triggered.connect(lambda _on=False, action_id=action_id: done.append(action_id))
        action.setEnabled(True)
    yield done
    window.actions_by_id["close"].setEnabled(False)


def test_every_action_is_found_by_its_words_and_done_by_return(
    window: MainWindow, qtbot: QtBot, recorded: list[str]
) -> None:
    finder = CommandFinder(window.actions_by_id, window)
    finder.show()
    qtbot.waitExposed(finder)
    qtbot.wait(50)
    for spec in ACTIONS:
        finder.chosen = ""
        finder.line.setText(spec.words)
        QTest.keyClick(finder.line, Qt.Key.Key_Return)
        assert finder.chosen == spec.id, spec.words
        finder.show()
    finder.close()


def test_every_key_does_its_action_and_no_other(window: MainWindow, recorded: list[str]) -> None:
    score = view_of(window).page.score
    for spec in ACTIONS:
        if spec.key:
            recorded.clear()
            score.setFocus()
            QTest.keySequence(score, QKeySequence(spec.key))
            assert recorded == [spec.id], spec.key


def walked(window: MainWindow, key: Qt.Key) -> list[QWidget]:
    """The widgets that get the keyboard one after the other, until it comes round."""
    found: list[QWidget] = []
    for _ in range(400):
        here = QApplication.focusWidget()
        if here is None or here in found:
            return found
        found.append(here)
        QTest.keyClick(here, key)
    raise AssertionError("the keyboard never comes round")


def controls(window: MainWindow) -> list[QWidget]:
    """What can be pressed, chosen or written in, of what is in sight."""
    kinds = (QAbstractButton, QComboBox, QLineEdit)
    there = [one for one in window.findChildren(QWidget) if isinstance(one, kinds)]
    there = [one for one in there if one.isVisible() and one.isEnabled() and one.window() is window]
    return [
        one
        for one in there
        if not (isinstance(one, QLineEdit) and isinstance(one.parent(), QComboBox | QAbstractSpinBox))
    ]


@pytest.mark.parametrize("page", [spec.id for spec in PAGES])
def test_the_keyboard_comes_to_every_control(window: MainWindow, qtbot: QtBot, page: str) -> None:
    view_of(window).navigation.show_page(page)
    qtbot.wait(100)
    bar = window.menuBar()
    assert bar is not None
    view_of(window).transport.button.setFocus()
    reached = walked(window, TAB)
    missed = [
        one
        for one in controls(window)
        if one not in reached
        and not any(one.isAncestorOf(other) for other in reached)
        and not bar.isAncestorOf(one)  # what stands there is in the menus
        and one.objectName() not in ("qt_toolbar_ext_button",)
        and not (isinstance(one, QAbstractButton) and _in_radio_group(one, reached))
    ]
    assert not [f"{type(one).__name__} {one.accessibleName() or one.toolTip()}" for one in missed]


def _in_radio_group(button: QAbstractButton, reached: list[QWidget]) -> bool:
    """Of buttons of which one is chosen, Tab comes to that one, arrows to the others."""
    group = button.group()
    return group is not None and any(other in reached for other in group.buttons())


def picture_of(widget: QWidget) -> QImage:
    return widget.grab().toImage()


@pytest.mark.parametrize("page", [spec.id for spec in PAGES])
def test_where_the_keyboard_is_can_be_seen(window: MainWindow, qtbot: QtBot, page: str) -> None:
    view_of(window).navigation.show_page(page)
    qtbot.wait(100)
    view_of(window).transport.button.setFocus()
    unseen = []
    window.setAttribute(Qt.WidgetAttribute.WA_KeyboardFocusChange)  # as the first Tab of a person does
    for widget in walked(window, TAB):
        widget.setFocus(Qt.FocusReason.TabFocusReason)
        QApplication.processEvents()
        having = picture_of(widget)
        other = view_of(window).transport.button
        (other if widget is not other else view_of(window).transport.speed).setFocus(Qt.FocusReason.TabFocusReason)
        QApplication.processEvents()
        if picture_of(widget) == having:
            unseen.append(f"{type(widget).__name__} {widget.accessibleName() or widget.toolTip()}")
    assert not unseen


def test_edges_of_words_are_moved_by_key(window: MainWindow, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("zweistimme.window.bridge.monotonic", lambda: 1.0)  # a hand in a row, however slow the machine
    desk, score = view_of(window).desk, view_of(window).page.score
    notices = notices_of(desk)
    score.setFocus()
    QTest.keySequence(score, QKeySequence("Alt+Shift+Right"))
    assert "Put the cursor on a word behind the first" in notices[-1]
    desk.put_cursor(2)
    before = desk.project
    words = spoken_words(desk.segment())  # type: ignore[arg-type]
    for _ in range(3):
        QTest.keySequence(score, QKeySequence("Alt+Shift+Right"))
    moved = spoken_words(desk.segment())  # type: ignore[arg-type]
    assert moved[2].start_us == words[2].start_us + 30_000
    assert moved[2].text == words[2].text
    for _ in range(100):
        view_of(window).transcribing.edges.move_word(-1)
    assert spoken_words(desk.segment())[2].start_us > words[1].start_us  # type: ignore[arg-type]
    desk.undo()
    assert desk.project.segments == before.segments, "moves in a row are one step"


def test_a_take_is_pinned_moved_and_lengthened_by_key(window: MainWindow) -> None:
    desk, score = view_of(window).desk, view_of(window).page.score
    desk.select("s0004")
    placed = desk.placed()
    assert placed is not None
    start = placed[0].start_us
    score.setFocus()
    QTest.keySequence(score, QKeySequence("Ctrl+Down"))
    line, placed = desk.line(), desk.placed()
    assert line is not None
    assert line.pin is not None
    assert placed is not None
    assert (line.pin.start_us, placed[0].start_us) == (start + 10_000, start + 10_000)
    length = placed[0].length_us  # a pinned line is placed as a whole
    QTest.keySequence(score, QKeySequence("Ctrl+Shift+Down"))
    line = desk.line()
    assert line is not None
    assert line.pin is not None
    assert line.pin.length_us == length + 10_000
    desk.undo()
    line = desk.line()
    assert line is not None
    assert line.pin is None


@pytest.mark.parametrize("page", [spec.id for spec in PAGES])
def test_keys_of_the_desk_are_not_taken_by_a_field_nobody_went_to(window: MainWindow, qtbot: QtBot, page: str) -> None:
    view = view_of(window)
    speaker = next(iter(view.desk.project.speakers))
    view.desk.apply("Rename a speaker", partial(rename_speaker, speaker_id=speaker, name="Ilse"))
    QTest.keySequence(view.page.score, QKeySequence(f"Ctrl+{[spec.id for spec in PAGES].index(page) + 1}"))
    qtbot.wait(50)
    assert view.pages.current == page
    QTest.keySequence(QApplication.focusWidget() or window, QKeySequence("Ctrl+Z"))
    assert view.desk.project.speakers[speaker].name != "Ilse"
