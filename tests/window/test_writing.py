"""What somebody writes belongs where it was begun, and nothing that happens elsewhere touches it."""

from __future__ import annotations

import shutil
import time
from dataclasses import replace
from pathlib import Path

import pytest
from PyQt6.QtCore import QEvent, QPoint, Qt
from PyQt6.QtGui import QFocusEvent, QKeySequence
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from driving import canvas_of, cast_of, middle_of, notices_of, opened, view_of
from zweistimme.project.access import put_line
from zweistimme.project.model import Project
from zweistimme.project.transcript import delete_segments
from zweistimme.stages.work import Work
from zweistimme.window.bridge import Desk
from zweistimme.window.desk_view import DeskView
from zweistimme.window.main_window import MainWindow
from zweistimme.window.writing import Kind, Place


def dub(view: DeskView, segment_id: str, tag: str | None = None) -> str:
    return view.desk.text_at(Place(Kind.WORDING, segment_id, tag or view.desk.tag))


def deliver(desk: Desk, segment_id: str, text: str, tag: str | None = None) -> None:
    """What a job does with a wording it has found."""
    where = tag or desk.tag

    def edit(project: Project) -> Project:
        line = project.versions[where].lines[segment_id]
        return put_line(project, where, replace(line, text=text))

    desk.document.apply("Translate", edit)


def press(key: Qt.Key, keys: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier) -> None:
    focus = QApplication.focusWidget()
    assert focus is not None
    QTest.keyClick(focus, key, keys)


def write(words: str) -> None:
    focus = QApplication.focusWidget()
    assert focus is not None
    QTest.keyClicks(focus, words)


def test_a_result_that_arrives_leaves_the_open_card_alone(window: MainWindow) -> None:
    view = view_of(window)
    here, other = (segment.id for segment in view.desk.project.segments[:2])
    count = len(view.desk.project.segments)
    press(Qt.Key.Key_Return)
    write("mm")
    deliver(view.desk, other, "Von der Maschine.")
    view.page.score.centre_on(20_000_000)
    view.page.score.show_playhead(60_000_000.0, follow=True)
    assert QApplication.focusWidget() is view.page.score.editor
    write(" 2 m")
    press(Qt.Key.Key_Return)
    assert dub(view, here).endswith("mm 2 m")
    assert dub(view, other) == "Von der Maschine."
    assert len(view.desk.project.segments) == count, "no letter was taken for a command"


def test_nothing_follows_the_playhead_while_somebody_writes(window: MainWindow) -> None:
    view = view_of(window)
    view.page.line.wording.setFocus()
    top = view.page.score.scale.top_us
    view.page.score.show_playhead(60_000_000.0, follow=True)
    assert view.page.score.scale.top_us == top
    view.page.score.setFocus()
    view.page.score.show_playhead(60_000_000.0, follow=True)
    assert view.page.score.scale.top_us > top


def test_what_is_typed_goes_to_the_version_it_was_typed_for(window: MainWindow) -> None:
    view, here = view_of(window), view_of(window).desk.segment_id
    first, second = view.desk.project.versions
    other = dub(view, here, second)
    view.page.line.wording.setFocus()
    view.page.line.wording.selectAll()
    write("Ganz anders.")
    view.desk.show_version(second)
    assert dub(view, here, first) == "Ganz anders."
    assert dub(view, here, second) == other
    assert view.page.line.wording.toPlainText() == other
    write("Y otra cosa ")
    window.outfit.flip_theme()
    assert view_of(window).desk.text_at(Place(Kind.WORDING, here, second)).endswith("Y otra cosa")


@pytest.mark.parametrize("field", ["wording", "source", "card"])
def test_closing_keeps_what_is_being_typed(window: MainWindow, qtbot: QtBot, field: str) -> None:
    view, here, folder = view_of(window), view_of(window).desk.segment_id, view_of(window).desk.document.folder
    place = Place(Kind.ORIGINAL, here) if field == "source" else Place(Kind.WORDING, here, view.desk.tag)
    if field == "card":
        press(Qt.Key.Key_Return)
    else:
        getattr(view.page.line, field).setFocus()
    QTest.keySequence(QApplication.focusWidget(), QKeySequence("Ctrl+End"))
    write(" Nicht verloren")
    window.close()
    again = opened(qtbot, folder)
    assert view_of(again).desk.text_at(place).endswith(" Nicht verloren")
    again.close_project()


def test_a_trailing_space_stays_where_the_caret_is(window: MainWindow, qtbot: QtBot) -> None:
    view, here = view_of(window), view_of(window).desk.segment_id
    wording = view.page.line.wording
    wording.setFocus()
    wording.moveCursor(wording.textCursor().MoveOperation.End)
    write(" und ")
    qtbot.wait(900)
    view.desk.writing.keep()
    deliver(view.desk, view.desk.project.segments[3].id, "Anderswo.")
    assert wording.toPlainText().endswith(" und ")
    assert wording.textCursor().atEnd()
    write("weiter")
    view.page.score.setFocus()
    assert dub(view, here).endswith(" und weiter")


def test_words_keep_their_times_through_an_empty_field(window: MainWindow, qtbot: QtBot) -> None:
    view = view_of(window)
    segment = view.desk.segment()
    assert segment is not None
    view.page.line.source.setFocus()
    view.page.line.source.selectAll()
    press(Qt.Key.Key_Delete)
    qtbot.wait(900)
    write(segment.text + " Indeed")
    view.page.score.setFocus()
    after = view.desk.segment()
    assert after is not None
    assert after.text == segment.text + " Indeed"
    assert after.words[: len(segment.words)] == segment.words


def test_escape_closes_the_card_and_stops_nothing(window: MainWindow, qtbot: QtBot) -> None:
    view, here = view_of(window), view_of(window).desk.segment_id
    before = dub(view, here)

    def slow(work: Work) -> None:
        while True:
            work.report(0.5)
            time.sleep(0.02)

    assert view.desk.jobs.start("Slow", slow)
    press(Qt.Key.Key_Return)
    write("nothing of this")
    press(Qt.Key.Key_Escape)
    assert not view.page.score.editor.isVisible()
    assert QApplication.focusWidget() is view.page.score
    qtbot.wait(100)
    assert view.desk.jobs.busy, "it runs on"
    view.page.score.setFocus()
    assert dub(view, here) == before
    view.desk.jobs.stop()
    qtbot.waitUntil(lambda: not view.desk.jobs.busy)


def test_keys_of_the_score_are_the_scores_alone(window: MainWindow) -> None:
    view = view_of(window)
    segments = view.desk.project.segments
    for page in ("Cast", "Hand-over", "Speakers", "Engines"):
        view.navigation.show_page(page)
        for key in (Qt.Key.Key_Delete, Qt.Key.Key_M, Qt.Key.Key_2, Qt.Key.Key_Return):
            QTest.keyClick(window, key)
        assert view.desk.project.segments is segments, page
        assert not view.page.score.editor.isVisible()
    view.navigation.show_page("Score")
    QTest.keyClick(window, Qt.Key.Key_M)
    assert len(view.desk.project.segments) == len(segments) - 1


def test_letters_find_in_a_list_of_voices(window: MainWindow) -> None:
    view, segments = view_of(window), view_of(window).desk.project.segments
    view.page.line.spoken.voice.setFocus()
    press(Qt.Key.Key_M)
    assert view.desk.project.segments is segments


def test_a_free_direction_is_written_and_kept(window: MainWindow) -> None:
    view, here = view_of(window), view_of(window).desk.segment_id
    place = Place(Kind.DIRECTION, here, view.desk.tag)
    view.page.line.spoken.direction.setFocus()
    write("warmly, as to a child")
    deliver(view.desk, view.desk.project.segments[3].id, "Anderswo.")
    press(Qt.Key.Key_Return)
    assert not view.page.score.editor.isVisible()
    assert view.desk.text_at(place) == "warmly, as to a child"
    view.page.line.spoken.direction.lineEdit().selectAll()  # type: ignore[union-attr]
    write("coldly")
    view.desk.step_selection(1)
    assert view.desk.text_at(place) == "coldly"


def test_the_cast_page_is_that_of_the_version_on_the_desk(window: MainWindow) -> None:
    view = view_of(window)
    first, second = view.desk.project.versions
    view.navigation.show_page("Cast")
    row = cast_of(view).rows[0]
    row.name.setFocus()
    row.name.selectAll()
    write("Marta Lund")
    view.desk.show_version(second)
    assert view.desk.project.speakers[row.key].name == "Marta Lund"
    assert "Español" in cast_of(view)._title.text()
    assert cast_of(view).rows[0] is row, "the field one writes in is not made anew"
    row.voice.setCurrentIndex(0)
    row.voice.activated.emit(0)
    assert row.key not in view.desk.project.versions[second].cast
    assert row.key in view.desk.project.versions[first].cast


def test_what_belongs_to_a_line_that_is_gone_is_said(window: MainWindow) -> None:
    view = view_of(window)
    here, said = view.desk.segment_id, notices_of(view.desk)
    press(Qt.Key.Key_Return)
    write("So viel Arbeit")
    view.desk.document.apply("Listen", lambda project: delete_segments(project, [here]))
    assert any("So viel Arbeit" in words for words in said)


def test_another_window_in_front_closes_no_card(window: MainWindow) -> None:
    view, here = view_of(window), view_of(window).desk.segment_id
    press(Qt.Key.Key_Return)
    write(" schon da")
    editor = view.page.score.editor
    QApplication.sendEvent(editor, QFocusEvent(QEvent.Type.FocusOut, Qt.FocusReason.ActiveWindowFocusReason))
    assert editor.isVisible()
    assert dub(view, here).endswith(" schon da")


def test_a_click_that_trembles_pins_nothing(window: MainWindow, qtbot: QtBot) -> None:
    view = view_of(window)
    here = view.desk.segment_id
    at = middle_of(view, here, "dub_wave")
    canvas = canvas_of(view)
    qtbot.mousePress(canvas, Qt.MouseButton.LeftButton, pos=at)
    qtbot.mouseMove(canvas, at + QPoint(1, 1))
    qtbot.mouseRelease(canvas, Qt.MouseButton.LeftButton, pos=at + QPoint(1, 1))
    assert view.desk.line().pin is None  # type: ignore[union-attr]


def test_escape_puts_back_what_is_dragged(window: MainWindow, qtbot: QtBot) -> None:
    view = view_of(window)
    at, canvas = middle_of(view, view.desk.segment_id, "dub_wave"), canvas_of(view)
    qtbot.mousePress(canvas, Qt.MouseButton.LeftButton, pos=at)
    qtbot.mouseMove(canvas, at + QPoint(0, 40))
    QTest.keyClick(view.page.score, Qt.Key.Key_Escape)
    qtbot.mouseRelease(canvas, Qt.MouseButton.LeftButton, pos=at + QPoint(0, 40))
    assert view.desk.line().pin is None  # type: ignore[union-attr]


def test_a_take_that_is_dragged_to_the_edge_scrolls_on(window: MainWindow, qtbot: QtBot) -> None:
    view = view_of(window)
    at, canvas = middle_of(view, view.desk.segment_id, "dub_wave"), canvas_of(view)
    top = view.page.score.scale.top_us
    qtbot.mousePress(canvas, Qt.MouseButton.LeftButton, pos=at)
    qtbot.mouseMove(canvas, QPoint(at.x(), canvas.height() - 4))
    qtbot.waitUntil(lambda: view.page.score.scale.top_us > top + 500_000, timeout=3000)
    qtbot.mouseRelease(canvas, Qt.MouseButton.LeftButton, pos=QPoint(at.x(), canvas.height() - 4))
    assert view.desk.line().pin is not None  # type: ignore[union-attr]


def test_nudges_in_a_row_are_one_step_and_typings_two(window: MainWindow) -> None:
    view = view_of(window)
    segment, here = view.desk.segment(), view.desk.segment_id
    assert segment is not None
    for _ in range(5):
        window.actions_by_id["end_later"].trigger()
    assert view.desk.segment().end_us == segment.end_us + 50_000  # type: ignore[union-attr]
    view.desk.undo()
    assert view.desk.segment().end_us == segment.end_us  # type: ignore[union-attr]
    before = dub(view, here)
    for word in (" eins", " zwei"):
        view.page.line.wording.setFocus()
        QTest.keySequence(view.page.line.wording, QKeySequence("Ctrl+End"))
        write(word)
        view.page.score.setFocus()
    view.desk.undo()
    assert dub(view, here) == before + " eins"
    view.desk.undo()
    assert dub(view, here) == before


def test_two_runs_of_two_sittings_are_two_steps(window: MainWindow, qtbot: QtBot) -> None:
    folder, ids = view_of(window).desk.document.folder, [s.id for s in view_of(window).desk.project.segments[:2]]

    def run(made: MainWindow, segment_id: str, text: str) -> None:
        view = view_of(made)

        def edit(project: Project) -> Project:
            line = project.versions[view.desk.tag].lines[segment_id]
            return put_line(project, view.desk.tag, replace(line, text=text))

        assert view.desk.jobs.start("Translate", lambda work: work.deliver("Translate", edit))
        qtbot.waitUntil(lambda: not view.desk.jobs.busy)

    run(window, ids[0], "Erster Lauf.")
    window.close_project()
    again = opened(qtbot, folder)
    run(again, ids[1], "Zweiter Lauf.")
    view_of(again).desk.undo()
    assert dub(view_of(again), ids[0]) == "Erster Lauf."
    assert dub(view_of(again), ids[1]) != "Zweiter Lauf."
    again.close_project()


def test_what_is_being_written_outlives_the_process(window: MainWindow, qtbot: QtBot, tmp_path: Path) -> None:
    view, here = view_of(window), view_of(window).desk.segment_id
    folder, place = view.desk.document.folder, Place(Kind.WORDING, here, view.desk.tag)
    before = dub(view, here)
    view.page.line.wording.setFocus()
    QTest.keySequence(view.page.line.wording, QKeySequence("Ctrl+End"))
    write(" mitten im Satz")
    qtbot.waitUntil((folder / "writing.json").is_file)
    killed = tmp_path / "killed"
    shutil.copytree(folder, killed)
    view.page.score.setFocus()
    assert not (folder / "writing.json").exists()
    again = opened(qtbot, killed)
    assert view_of(again).desk.text_at(place) == before + " mitten im Satz"
    assert not (killed / "writing.json").exists()
    assert "mitten im Satz" in view_of(again).foot.words.text()
    view_of(again).desk.undo()
    assert view_of(again).desk.text_at(place) == before
    again.close_project()


@pytest.mark.parametrize(
    "left",
    [
        b"no json",
        b'[{"kind": "X", "key": "s1", "tag": "", "text": "Verwaist"}]',
        b'[{"kind": "WORDING", "key": "s0001", "tag": "xx", "text": "Verwaist"}]',
        b'[{"kind": "DIRECTION", "key": "gone", "tag": "de-DE", "text": "Verwaist"}]',
    ],
)
def test_spoilt_or_orphaned_writing_stops_nobody(qtbot: QtBot, demo_folder: Path, left: bytes) -> None:
    (demo_folder / "writing.json").write_bytes(left)
    made = opened(qtbot, demo_folder)
    assert ("Verwaist" in view_of(made).foot.words.text()) == (b"Verwaist" in left)
    made.close_project()
