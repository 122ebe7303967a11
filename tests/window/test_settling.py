"""How far lines are, in the window: by key, by the panel, in both scales of the Score."""

from __future__ import annotations

from functools import partial

from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QMenu
from pytestqt.qtbot import QtBot

from driving import notices_of, view_of
from zweistimme.project.line_edits import put_translation, set_note, set_states
from zweistimme.project.transcript import set_segment_text
from zweistimme.project.wordings import LineState
from zweistimme.window.desk_view import DeskView
from zweistimme.window.main_window import MainWindow
from zweistimme.window.score.lines_model import Column
from zweistimme.window.writing import Kind

SHIFT = Qt.KeyboardModifier.ShiftModifier


def states(view: DeskView, count: int = 4) -> list[LineState]:
    version = view.desk.version
    assert version is not None
    return [version.lines[segment.id].state for segment in view.desk.project.segments[:count]]


def key(window: MainWindow, which: Qt.Key, held: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier) -> None:
    QTest.keyClick(QApplication.focusWidget() or window, which, held)


def test_a_version_is_gone_through_with_one_key(window: MainWindow) -> None:
    view = view_of(window)
    desk, ids = view.desk, [segment.id for segment in view.desk.project.segments]
    desk.select(ids[0])
    for _ in range(3):
        key(window, Qt.Key.Key_Q)
    assert states(view) == [LineState.TRANSLATED] * 3 + [LineState.INITIAL]
    assert desk.segment_id == ids[3]
    desk.select(ids[0])
    key(window, Qt.Key.Key_Q, SHIFT)
    assert (states(view)[0], desk.segment_id) == (LineState.REVIEWED, ids[1])
    key(window, Qt.Key.Key_N, SHIFT)
    assert desk.segment_id == ids[3]
    desk.undo()
    assert states(view)[0] is LineState.TRANSLATED
    said = notices_of(desk)
    tag = desk.tag
    desk.apply("All", partial(set_states, tag=tag, segment_ids=ids, state=LineState.FINAL))
    key(window, Qt.Key.Key_N, SHIFT)
    assert said[-1] == "Every line of this version is translated or further."


def test_locked_words_are_not_written_over(window: MainWindow, qtbot: QtBot) -> None:
    view = view_of(window)
    desk, panel = view.desk, view.page.line
    desk.select(desk.project.segments[0].id)
    key(window, Qt.Key.Key_Z)
    line = desk.line()
    assert line is not None
    assert line.locked
    assert panel.wording.isReadOnly()
    assert "locked" in panel.standing.state.text()
    said = notices_of(desk)
    key(window, Qt.Key.Key_Return)
    assert not view.page.score.editor.isVisible()
    assert "Z unlocks them" in said[-1]
    key(window, Qt.Key.Key_Z)
    assert not panel.wording.isReadOnly()
    key(window, Qt.Key.Key_Return)
    assert view.page.score.editor.isVisible()


def test_a_note_is_written_by_key_and_those_of_others_stand_above_it(window: MainWindow) -> None:
    view = view_of(window)
    desk, standing, first = view.desk, view.page.line.standing, view.desk.project.segments[0].id
    tag = desk.tag
    desk.select(first)
    desk.apply("Note", partial(set_note, tag=tag, segment_id=first, author="Ida", text="Ferry?", written="2026-05-01"))
    assert standing.note.text() == "1 note"
    key(window, Qt.Key.Key_M, Qt.KeyboardModifier.ControlModifier)
    assert standing.field.hasFocus()
    QTest.keyClicks(standing.field, "The tide.")
    desk.select(desk.project.segments[1].id)  # nothing is lost, nor moves along
    line = desk.line(first)
    assert line is not None
    assert [(note.author, note.text) for note in line.notes] == [("Ida", "Ferry?"), ("", "The tide.")]
    assert standing.draft.text == ""
    desk.select(first)
    assert (standing.draft.text, standing.draft.place is not None and standing.draft.place.kind) == (
        "The tide.",
        Kind.NOTE,
    )


def test_the_state_is_given_in_the_panel_and_read_by_assistive_technology(window: MainWindow) -> None:
    view = view_of(window)
    desk, standing = view.desk, view.page.line.standing
    first = desk.project.segments[0].id
    desk.select(first)
    menu = standing.state.menu()
    assert isinstance(menu, QMenu)
    menu.aboutToShow.emit()
    choices = {action.text(): action for action in menu.actions()}
    choices["reviewed"].trigger()
    assert (states(view)[0], desk.segment_id) == (LineState.REVIEWED, first), "a menu goes nowhere"
    assert standing.state.text() == "reviewed"
    row = view.page.lines.lines.index(0, Column.DUB)
    assert row.data(Qt.ItemDataRole.AccessibleTextRole).endswith("reviewed")
    assert not row.data().endswith("reviewed")


def test_what_changed_in_the_original_is_marked_word_by_word(window: MainWindow) -> None:
    view = view_of(window)
    desk, panel, segment = view.desk, view.page.line, view.desk.project.segments[0]
    tag, line = desk.tag, desk.line(segment.id)
    desk.select(segment.id)
    desk.apply(
        "Translate",
        partial(put_translation, tag=tag, segment_id=segment.id, wordings=["Neu."], source=segment, instead_of=line),
    )
    assert not panel.changed.isVisible()
    desk.apply("Correct", partial(set_segment_text, segment_id=segment.id, text=f"Now {segment.text}"))
    assert panel.changed.isVisible()
    assert "<u>Now</u>" in panel.changed.text()
    assert panel.standing.origin.text() == "the original has changed"


def test_corrections_of_the_original_are_followed_where_nobody_has_settled(window: MainWindow, qtbot: QtBot) -> None:
    view = view_of(window)
    desk, first, second = view.desk, *view.desk.project.segments[:2]
    tags = list(desk.project.versions)
    assert len(tags) > 1
    desk.apply("Settle", partial(set_states, tag=tags[0], segment_ids=[second.id], state=LineState.TRANSLATED))
    view.following.flip()
    view.page.edit("original")
    QTest.keyClicks(view.page.score.editor, " ")
    for segment, text in ((first, "Hand me the lantern."), (second, "I heard it go.")):
        desk.apply("Correct", partial(set_segment_text, segment_id=segment.id, text=text))
    qtbot.wait(1_500)
    assert not desk.jobs.busy, "somebody is at the original"
    assert desk.project.versions[tags[0]].lines[first.id].text != "Gib mir die Laterne."
    view.page.take_keyboard()
    qtbot.waitUntil(
        lambda: desk.project.versions[tags[1]].lines[second.id].original == "I heard it go.", timeout=20_000
    )
    lines = desk.project.versions["de-DE"].lines
    assert lines[first.id].text == "Gib mir die Laterne."
    assert lines[second.id].original != "I heard it go.", "what somebody has settled is left to them"
    qtbot.waitUntil(lambda: not desk.jobs.busy, timeout=20_000)
    view.following.flip()
    desk.apply("Correct", partial(set_segment_text, segment_id=first.id, text="Listen, it is still ticking."))
    qtbot.wait(1_500)
    assert not desk.jobs.busy
    assert desk.project.versions["de-DE"].lines[first.id].text == "Gib mir die Laterne."


def test_the_original_is_copied_by_key(window: MainWindow) -> None:
    view = view_of(window)
    first = view.desk.project.segments[0]
    view.desk.select(first.id)
    key(window, Qt.Key.Key_C, SHIFT)
    line = view.desk.line(first.id)
    assert line is not None
    assert (line.text, line.state) == (first.text, LineState.INITIAL)
    view.desk.undo()
    line = view.desk.line(first.id)
    assert line is not None
    assert line.text != first.text
