"""The Score by text: the same lines, selection and keys, each as high as its words need."""

from __future__ import annotations

from dataclasses import replace

import pytest
from PyQt6.QtCore import QModelIndex, QPoint, Qt
from PyQt6.QtGui import QKeySequence, QPainter
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QStyleOptionViewItem
from pytestqt.qtbot import QtBot

from driving import view_of
from zweistimme.project.access import put_line
from zweistimme.project.model import Project
from zweistimme.project.transcript import delete_segments, set_segment_text
from zweistimme.window.desk_view import DeskView
from zweistimme.window.main_window import MainWindow
from zweistimme.window.score.lines_delegate import LinesDelegate
from zweistimme.window.score.lines_model import Column


@pytest.fixture
def view(window: MainWindow, qtbot: QtBot) -> DeskView:
    """The desk with the Score by text."""
    made = view_of(window)
    QTest.keySequence(window, QKeySequence("F6"))
    assert made.page.by_text
    qtbot.waitUntil(made.page.lines.hasFocus)
    return made


def press(key: Qt.Key, keys: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier) -> None:
    focus = QApplication.focusWidget()
    assert focus is not None
    QTest.keyClick(focus, key, keys)


def cell(view: DeskView, row: int, column: Column) -> QModelIndex:
    return view.page.lines.lines.index(row, column)


def middle(view: DeskView, row: int, column: Column) -> QPoint:
    return view.page.lines.visualRect(cell(view, row, column)).center()


def test_every_line_is_a_row_with_its_words(view: DeskView) -> None:
    segments, model = view.desk.project.segments, view.page.lines.lines
    assert model.rowCount() == len(segments)
    row = [model.index(2, column).data() for column in Column]
    line = view.desk.line(segments[2].id)
    assert line is not None
    assert row == ["3", "0:11.8", "Juna", "And if it doesn't?", "×1.00", line.text.rstrip("."), ""]


def test_what_is_chosen_here_is_chosen_everywhere(view: DeskView) -> None:
    segments, lines = view.desk.project.segments, view.page.lines
    canvas = lines.viewport()
    assert canvas is not None
    QTest.mouseClick(canvas, Qt.MouseButton.LeftButton, pos=middle(view, 2, Column.ORIGINAL))
    assert view.desk.segment_id == segments[2].id
    QTest.mouseClick(
        canvas, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.ShiftModifier, middle(view, 4, Column.ORIGINAL)
    )
    assert view.desk.chosen_ids() == [segment.id for segment in segments[2:5]]
    view.desk.select(segments[7].id)
    chosen = lines.selectionModel()
    assert chosen is not None
    assert [index.row() for index in chosen.selectedRows()] == [7]
    assert lines.rect().intersects(lines.visualRect(cell(view, 7, Column.DUB)))


def test_the_keys_are_those_of_the_score(view: DeskView) -> None:
    segments = view.desk.project.segments
    view.desk.select(segments[1].id)
    press(Qt.Key.Key_Down)
    assert view.desk.segment_id == segments[2].id
    press(Qt.Key.Key_M)
    assert len(view.desk.project.segments) == len(segments) - 1
    assert view.page.lines.lines.rowCount() == len(segments) - 1
    press(Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert view.page.lines.lines.rowCount() == len(segments)
    press(Qt.Key.Key_2)
    assert view.desk.project.segments[2].speaker_id == list(view.desk.project.speakers)[1]
    playing = view.playback.player.playing
    press(Qt.Key.Key_Space)
    assert view.playback.player.playing is not playing
    press(Qt.Key.Key_Space)


def test_lines_are_written_in_place(view: DeskView, qtbot: QtBot) -> None:
    first = view.desk.project.segments[0]
    view.desk.select(first.id)
    press(Qt.Key.Key_Return)
    editor = view.page.lines.editor
    assert editor.hasFocus()
    height = editor.height()
    QTest.keyClicks(editor, " und das ist noch lange nicht alles, was man dazu sagen kann und sagen muss")
    assert editor.height() > height, "it grows with what is written"
    assert view.page.line.gauge.words.split()[0] != "20"
    press(Qt.Key.Key_Return)
    line = view.desk.line(first.id)
    assert line is not None
    assert line.text.endswith("sagen muss")
    assert view.page.lines.hasFocus()
    press(Qt.Key.Key_Return, Qt.KeyboardModifier.ShiftModifier)
    assert editor.accessibleName() == "The original's words"
    press(Qt.Key.Key_Escape)
    assert view.desk.project.segments[0].text == first.text


def test_an_original_is_split_where_the_caret_is(view: DeskView) -> None:
    count = len(view.desk.project.segments)
    view.desk.select(view.desk.project.segments[0].id)
    press(Qt.Key.Key_Return, Qt.KeyboardModifier.ShiftModifier)
    press(Qt.Key.Key_Home, Qt.KeyboardModifier.ControlModifier)
    for _ in range(4):
        press(Qt.Key.Key_Right, Qt.KeyboardModifier.ControlModifier)
    press(Qt.Key.Key_Return, Qt.KeyboardModifier.ControlModifier)
    assert len(view.desk.project.segments) == count + 1
    assert cell(view, 0, Column.ORIGINAL).data() == "Twice a day the"


def test_a_double_click_writes_what_lies_under_it(view: DeskView) -> None:
    canvas = view.page.lines.viewport()
    assert canvas is not None
    for column, name in ((Column.ORIGINAL, "The original's words"), (Column.DUB, "The line's wording")):
        QTest.mouseDClick(canvas, Qt.MouseButton.LeftButton, pos=middle(view, 3, column))
        assert view.page.lines.editor.accessibleName() == name
        assert view.desk.segment_id == view.desk.project.segments[3].id
        press(Qt.Key.Key_Escape)


@pytest.mark.parametrize("text", ["時計塔の鐘が" * 20, "الساعة في البرج " * 20, "long words without end " * 20])
def test_rows_are_as_high_as_their_words_need(view: DeskView, qtbot: QtBot, text: str) -> None:
    lines = view.page.lines
    before = lines.rowHeight(2)
    segment_id, tag = view.desk.project.segments[2].id, view.desk.tag

    def written(project: Project) -> Project:
        return put_line(project, tag, replace(project.versions[tag].lines[segment_id], text=text))

    view.desk.apply("Write", written)
    qtbot.wait(20)
    assert lines.rowHeight(2) > before + 3 * lines.fontMetrics().lineSpacing()
    view.desk.undo()
    qtbot.wait(20)
    assert lines.rowHeight(2) == before
    lines.grab()


def test_what_needs_somebody_is_said_in_its_row(view: DeskView) -> None:
    first = view.desk.project.segments[0]
    view.desk.apply("Write", lambda project: set_segment_text(project, first.id, "Something else altogether."))
    assert "the original has changed" in cell(view, 0, Column.DUB).data()


def test_the_row_at_the_playhead_is_marked_and_followed(view: DeskView) -> None:
    segments = view.desk.project.segments
    view.page.show_playhead(segments[-1].start_us + 1_000, follow=True)
    lines = view.page.lines
    assert lines._delegate.heard_row == len(segments) - 1
    assert lines.rect().intersects(lines.visualRect(cell(view, len(segments) - 1, Column.DUB)))


def test_back_by_time_the_same_line_is_in_sight(view: DeskView, window: MainWindow) -> None:
    last = view.desk.project.segments[-1]
    view.desk.select(last.id)
    QTest.keySequence(window, QKeySequence("F6"))
    score = view.page.score
    assert score.hasFocus()
    assert score.scale.top_us <= last.start_us < score.scale.top_us + score.scale.span_us(score.canvas().height())


def test_assistive_technology_reads_a_table(view: DeskView) -> None:
    assert view.page.lines.accessibleName().startswith("Lines of the programme")
    model = view.page.lines.lines
    said = model.index(0, Column.DUB).data(Qt.ItemDataRole.AccessibleTextRole)
    assert said.startswith("Zweimal am Tag")


def test_the_overview_shows_what_is_seen_whichever_way(view: DeskView, window: MainWindow, qtbot: QtBot) -> None:
    overview, segments = view.page.overview, view.desk.project.segments
    view.desk.select(segments[-1].id)
    seen = overview._visible
    assert seen[1] == segments[-1].end_us, "that of the rows, not of the Score that nobody sees"
    QTest.keySequence(window, QKeySequence("F6"))
    score = view.page.score
    assert overview._visible[0] == score.scale.top_us
    QTest.keySequence(window, QKeySequence("F6"))
    qtbot.waitUntil(lambda: overview._visible == seen)


def test_without_a_transcript_the_ways_to_one_stay_in_sight(view: DeskView, window: MainWindow) -> None:
    QTest.keySequence(window, QKeySequence("F6"))
    everything = [segment.id for segment in view.desk.project.segments]
    view.desk.apply("Delete all", lambda project: delete_segments(project, everything))
    QTest.keySequence(window, QKeySequence("F6"))
    assert not view.page.by_text


def test_everything_is_chosen_as_one_stretch(view: DeskView) -> None:
    press(Qt.Key.Key_A, Qt.KeyboardModifier.ControlModifier)
    chosen = view.page.lines.selectionModel()
    assert chosen is not None
    assert len(chosen.selectedRows()) == len(view.desk.project.segments)
    assert len(chosen.selection()) == 1


def test_scrolling_paints_what_came_into_sight(view: DeskView, monkeypatch: pytest.MonkeyPatch, qtbot: QtBot) -> None:
    lines, painted = view.page.lines, []
    paint = LinesDelegate.paint

    def counted(self: LinesDelegate, painter: QPainter, option: QStyleOptionViewItem, index: QModelIndex) -> None:
        painted.append(index.row())
        paint(self, painter, option, index)

    monkeypatch.setattr(LinesDelegate, "paint", counted)
    lines.viewport().repaint()  # type: ignore[union-attr]
    everything, bar = len(painted), lines.verticalScrollBar()
    assert bar is not None
    bar.setValue(bar.minimum() + 40)
    qtbot.waitUntil(lambda: len(painted) > everything)
    painted.clear()
    bar.setValue(bar.value() + 8)
    qtbot.waitUntil(lambda: bool(painted))
    assert len(painted) <= everything // 3
    assert min(painted) > 0, "what was painted is moved, not painted again"
