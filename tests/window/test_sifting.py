"""Looking at some lines alone, in both scales, and at another version beside."""

from __future__ import annotations

from functools import partial

from PyQt6.QtTest import QTest
from pytestqt.qtbot import QtBot

from driving import view_of
from zweistimme.project.edits import remove_version
from zweistimme.project.line_edits import set_line_text
from zweistimme.window.main_window import MainWindow
from zweistimme.window.score.lines_model import Column


def test_lines_are_sifted_by_speaker_words_and_remarks_and_keys_go_through_them(
    window: MainWindow, qtbot: QtBot
) -> None:
    view = view_of(window)
    desk, page = view.desk, view.page
    page.flip_scale()
    window.actions_by_id["sift"].trigger()
    bar, lines, segments = page.sieve, page.lines, desk.project.segments
    assert bar.isVisible()
    index = bar.speaker.findText("Juna")
    bar.speaker.setCurrentIndex(index)
    bar.speaker.activated.emit(index)
    juna = [s.id for s in segments if desk.project.speakers[s.speaker_id].name == "Juna"]
    shown = [segments[row].id for row in range(len(segments)) if not lines.isRowHidden(row)]
    assert set(shown) == {*juna, desk.segment_id}
    desk.step_selection(1)
    assert desk.segment_id == juna[0]
    desk.step_selection(1)
    assert desk.segment_id == juna[1]
    window.actions_by_id["choose_all"].trigger()
    assert desk.chosen == frozenset(juna), "what is not looked at is not chosen"
    bar.clear()
    assert not any(lines.isRowHidden(row) for row in range(len(segments)))
    QTest.keyClicks(bar.text, "ferry")
    qtbot.waitUntil(lambda: desk.sifting.kept is not None and len(desk.sifting.kept) == 1, timeout=2_000)
    first = segments[0]
    desk.apply("x", partial(set_line_text, tag=desk.tag, segment_id=first.id, text="The ferry (."))
    assert desk.sifting.keeps(first.id)
    bar.clear()
    qtbot.waitUntil(lambda: bool(page.line.noticing.of_line(first.id)), timeout=5_000)
    bar.refresh()
    bar.remark.setCurrentIndex(1)
    bar.remark.activated.emit(1)
    assert desk.sifting.kept == frozenset(page.line.noticing.by_line)
    page.flip_scale()
    assert page.score.grab().width() > 0
    window.actions_by_id["sift"].trigger()
    assert desk.sifting.kept is None
    assert not bar.isVisible()


def test_another_version_stands_beside(window: MainWindow) -> None:
    page, desk = view_of(window).page, view_of(window).desk
    page.flip_scale()
    page.flip_sieve()
    place = page.sieve.beside.findData("es-ES")
    page.sieve.beside.setCurrentIndex(place)
    page.sieve.beside.activated.emit(place)
    assert not page.lines.isColumnHidden(Column.BESIDE)
    wanted = desk.project.versions["es-ES"].lines[desk.project.segments[0].id].text
    assert page.lines.lines.index(0, Column.BESIDE).data() == wanted
    page.flip_sieve()
    assert page.lines.isColumnHidden(Column.BESIDE)


def test_a_version_goes_and_another_comes_while_some_lines_are_looked_at(window: MainWindow) -> None:
    view = view_of(window)
    desk, bar = view.desk, view.page.sieve
    view.page.flip_sieve()
    index = bar.standing.findText("not settled")
    bar.standing.setCurrentIndex(index)
    bar.standing.activated.emit(index)
    assert desk.sifting.kept == frozenset(segment.id for segment in desk.project.segments)
    for tag in ("de-DE", "es-ES"):
        desk.apply("Take a version away", partial(remove_version, tag=tag))
    assert desk.sifting.kept == frozenset(segment.id for segment in desk.project.segments)
    desk.undo()
    assert desk.sifting.kept is not None
    view.page.flip_sieve()
    assert desk.sifting.kept is None
