"""Takes, phrases and words in the hand: what moves is seen at once, and what would help is one key away."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

import numpy as np
import pytest
from PyQt6.QtCore import QEvent, QPointF, Qt
from PyQt6.QtGui import QMouseEvent
from PyQt6.QtTest import QTest
from pytestqt.qtbot import QtBot

from driving import notices_of, view_of
from zweistimme.project.edits import set_cuts
from zweistimme.project.fit_limits import Limits
from zweistimme.project.hand_fit import FitAs
from zweistimme.stages.fit.remedies import Help
from zweistimme.stages.fit.ways import HeardWay, Way
from zweistimme.window.closeup_dub import placed_words
from zweistimme.window.closeup_hand import rows_of
from zweistimme.window.desk_view import DeskView
from zweistimme.window.fitting.page import FitPage
from zweistimme.window.main_window import MainWindow
from zweistimme.window.playback import sounds_other


def mouse(kind: QEvent.Type, x: float, y: float) -> QMouseEvent:
    at, left = QPointF(x, y), Qt.MouseButton.LeftButton
    return QMouseEvent(kind, at, at, left, left, Qt.KeyboardModifier.NoModifier)


def take_in_hand(view: DeskView, place: int, *by: float) -> float:
    """Take hold of a take on the Score and drag it by so many pixels; where it was taken."""
    segment, score = view.desk.project.segments[place], view.page.score
    score.show_segment(segment.id)
    card, scene = score.dubs.find(segment.id), score.scene()
    assert card is not None
    x, y = scene.columns.dub_wave[0] + 20, (scene.scale.y(card.start_us) + scene.scale.y(card.end_us)) / 2
    score.mousePressEvent(mouse(QEvent.Type.MouseButtonPress, x, y))
    for pixels in by:
        score.mouseMoveEvent(mouse(QEvent.Type.MouseMove, x, y + pixels))
    return y


def let_go(view: DeskView) -> None:
    view.page.score.mouseReleaseEvent(mouse(QEvent.Type.MouseButtonRelease, 0, 0))


def test_what_a_drag_shows_is_what_letting_go_makes(window: MainWindow) -> None:
    view = view_of(window)
    desk, key = view.desk, view.desk.project.segments[4].id
    before = desk.project
    take_in_hand(view, 4, 10, 25, 40)
    assert desk.project is before, "nothing is changed while it is held"
    shown = desk.shown_version
    assert shown is not None
    assert shown.placements[key].start_us > before.versions[desk.tag].placements[key].start_us + 400_000
    moved = [one for one, placed in shown.placements.items() if placed != before.versions[desk.tag].placements.get(one)]
    assert len(moved) > 1, "its neighbours move along"
    card = view.page.score.dubs.find(key)
    assert card is not None
    assert card.start_us == shown.placements[key].start_us
    names = [ghost.name for ghost in view.page.score._pointer.ghosts()]
    assert "as planned" in names
    assert "as before" in names
    view.page.score.grab()
    let_go(view)
    assert desk.version is not None
    assert {k: replace(p, why=()) for k, p in desk.version.placements.items()} == {
        k: replace(p, why=()) for k, p in shown.placements.items()
    }
    desk.undo()
    assert desk.project == before


def test_a_take_that_is_let_go_where_the_plan_has_it_is_the_plan_s(window: MainWindow) -> None:
    view = view_of(window)
    desk, key = view.desk, view.desk.project.segments[4].id
    start = desk.project.versions[desk.tag].placements[key].start_us
    take_in_hand(view, 4, 20, 40)
    let_go(view)
    line = desk.line(key)
    assert line is not None
    assert line.pin is not None
    scale = view.page.score.scale.pixels_per_second
    back = (start - line.pin.start_us) / 1e6 * scale
    take_in_hand(view, 4, back / 2, back + 3)
    (near,) = [ghost for ghost in view.page.score._pointer.ghosts() if ghost.near]
    assert near.name == "as planned"
    let_go(view)
    line = desk.line(key)
    assert line is not None
    assert line.pin is None
    assert desk.project.versions[desk.tag].placements[key].start_us == start


def test_escape_puts_everything_back(window: MainWindow) -> None:
    view = view_of(window)
    before = view.desk.project
    take_in_hand(view, 4, 20, 40)
    QTest.keyClick(view.page.score, Qt.Key.Key_Escape)
    assert view.desk.shown_version is view.desk.version
    assert view.desk.project is before


def drag_word(view: DeskView, word: int, by: float) -> None:
    """Drag the name of a word of the take in the close-up."""
    closeup, placed = view.page.closeup, view.desk.placed()
    assert placed is not None
    closeup.grab()
    x, y = closeup.x_of(placed_words(*placed)[word].start_us), rows_of(closeup.height()).lower - 6
    closeup.mousePressEvent(mouse(QEvent.Type.MouseButtonPress, x, y))
    for share in (0.3, 0.7, 1.0):
        closeup.mouseMoveEvent(mouse(QEvent.Type.MouseMove, x + by * share, y))


def test_a_word_is_held_and_let_go_in_the_close_up(window: MainWindow) -> None:
    view = view_of(window)
    desk = view.desk
    desk.select(desk.project.segments[4].id)
    placed = desk.placed()
    assert placed is not None
    was = placed_words(*placed)[4].start_us
    drag_word(view, 4, 40.0)
    held = desk.placed()
    assert held is not None
    at = placed_words(*held)[4].start_us
    assert at > was + 100_000
    view.page.closeup.mouseReleaseEvent(mouse(QEvent.Type.MouseButtonRelease, 0, 0))
    line, now = desk.line(), desk.placed()
    assert line is not None
    assert now is not None
    assert [pin.word for pin in line.word_pins] == [4]
    assert placed_words(*now)[4].start_us == pytest.approx(at, abs=2_000)
    closeup = view.page.closeup
    closeup.grab()
    x, y = closeup.x_of(placed_words(*now)[4].start_us), rows_of(closeup.height()).lower - 6
    closeup.mouseDoubleClickEvent(mouse(QEvent.Type.MouseButtonDblClick, x, y))
    line = desk.line()
    assert line is not None
    assert not line.word_pins
    drag_word(view, 4, 40.0)
    desk.select(desk.project.segments[5].id)
    assert desk.shown_version is desk.version, "another line is selected: what was held stays"


def test_a_word_goes_to_the_marker_and_to_cuts_that_are_near(window: MainWindow) -> None:
    view = view_of(window)
    desk = view.desk
    desk.select(desk.project.segments[4].id)
    placed = desk.placed()
    assert placed is not None
    closeup, was = view.page.closeup, placed_words(*placed)[4].start_us
    closeup.grab()
    wanted = round(closeup.time_at(closeup.x_of(was) + 43))
    drag_word(view, 4, 40.0)
    assert closeup._hand._held is not None
    assert abs(closeup._hand._held[1] - wanted) > 1_000
    closeup._hand.drop()
    closeup.show_playhead(wanted)
    drag_word(view, 4, 40.0)
    assert closeup._hand._held == (4, wanted), "the marker"
    closeup._hand.drop()
    closeup.show_playhead(0)
    desk.apply("Cuts", lambda p: set_cuts(p, p.programme.sound, (1_000, wanted)))
    drag_word(view, 4, 40.0)
    assert closeup._hand._held == (4, wanted), "a cut of the picture"
    closeup.mouseReleaseEvent(mouse(QEvent.Type.MouseButtonRelease, 0, 0))


def test_a_word_is_held_at_the_marker_by_key_and_let_go(window: MainWindow, press: Callable[..., None]) -> None:
    view = view_of(window)
    desk, keys = view.desk, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier
    desk.select(desk.project.segments[4].id)
    placed = desk.placed()
    assert placed is not None
    said = notices_of(desk)
    at = placed_words(*placed)[4].start_us + 60_000
    view.playback.player.seek(at)
    press(Qt.Key.Key_P, keys)
    line, now = desk.line(), desk.placed()
    assert line is not None
    assert now is not None
    assert [(pin.word, pin.start_us) for pin in line.word_pins] == [(4, at)]
    assert placed_words(*now)[4].start_us == pytest.approx(at, abs=2_000)
    assert any("is held at" in one for one in said)
    press(Qt.Key.Key_P, keys)
    line = desk.line()
    assert line is not None
    assert line.word_pins == ()
    view.playback.player.seek(at + 40_000_000)
    press(Qt.Key.Key_P, keys)
    assert any("far from this line" in one for one in said)


def test_in_the_close_up_other_places_are_shown_and_taken(window: MainWindow) -> None:
    view = view_of(window)
    desk, closeup = view.desk, view.page.closeup
    key = desk.project.segments[4].id
    desk.select(key)
    closeup.grab()
    start_us = desk.project.versions[desk.tag].placements[key].start_us
    y = rows_of(closeup.height()).lower + 12

    def drag(by: float, back: float | None = None) -> None:
        placed = desk.placed()
        assert placed is not None
        x = closeup.x_of(placed[0].start_us + placed[0].length_us * 0.53)
        closeup.mousePressEvent(mouse(QEvent.Type.MouseButtonPress, x, y))
        for pixels in (by / 2, by) if back is None else (by / 2, by, back):
            closeup.mouseMoveEvent(mouse(QEvent.Type.MouseMove, x + pixels, y))

    drag(30, back=2)
    ghosts = closeup._hand.ghosts()
    assert "as planned" in [one.name for one in ghosts]
    assert [one.name for one in ghosts if one.near] == ["as planned"]
    assert not closeup.ways.isVisible()
    closeup.grab()
    closeup.mouseReleaseEvent(mouse(QEvent.Type.MouseButtonRelease, 0, 0))
    assert closeup.ways.isVisible()
    line = desk.line()
    assert line is not None
    assert line.pin is None, "let go where the plan has it, it is the plan's"
    closeup.grab()
    wanted_us = start_us + closeup.time_at(60) - closeup.time_at(0)
    drag(60)
    closeup.mouseReleaseEvent(mouse(QEvent.Type.MouseButtonRelease, 0, 0))
    line = desk.line()
    assert line is not None
    assert line.pin is not None
    assert line.pin.start_us == pytest.approx(wanted_us, abs=2_000), "where the pointer took it, no further"
    assert line.pin.length_us is None


def test_all_pins_of_what_is_chosen_are_freed_by_key(window: MainWindow) -> None:
    view = view_of(window)
    desk, said = view.desk, notices_of(view.desk)
    before = desk.project.versions[desk.tag].placements
    take_in_hand(view, 4, 20, 40)
    let_go(view)
    desk.select(desk.project.segments[4].id)
    window.actions_by_id["free_pins"].trigger()
    line = desk.line()
    assert line is not None
    assert line.pin is None
    key = desk.segment_id
    assert desk.project.versions[desk.tag].placements[key].start_us == before[key].start_us
    window.actions_by_id["free_pins"].trigger()
    assert "Nothing of what is chosen is pinned." in said


def test_what_would_help_is_shown_and_taken(window: MainWindow, qtbot: QtBot) -> None:
    view = view_of(window)
    desk, helps = view.desk, view.page.line.helps
    desk.select(desk.project.segments[13].id)
    qtbot.waitUntil(lambda: helps.shown is not None and bool(helps.shown.remedies), timeout=10_000)
    assert helps.isVisible()
    found = helps.shown
    assert found is not None
    number = next(k for k, one in enumerate(found.remedies) if one.help is Help.OFF_SCREEN)
    before = desk.placed()
    window.actions_by_id[f"help_{number + 1}"].trigger()
    line, after = desk.line(), desk.placed()
    assert line is not None
    assert before is not None
    assert after is not None
    assert line.hand.fit_as is FitAs.OFF_SCREEN
    assert after[0].tempo < before[0].tempo
    desk.undo()
    qtbot.waitUntil(lambda: helps.shown is not None and bool(helps.shown.remedies), timeout=10_000)
    late, tag, other = helps.shown, desk.tag, next(one for one in desk.project.versions if one != desk.tag)
    assert late is not None
    desk.show_version(other)
    helps._take_over(late)
    assert helps.shown is not late, "what would help one version is not offered in another"
    desk.show_version(tag)
    desk.select(desk.project.segments[0].id)
    assert helps.shown is None
    said = notices_of(desk)
    window.actions_by_id["help_5"].trigger()
    assert "There is no remedy 5 for this line." in said


def test_a_line_is_fitted_by_hand_and_left_to_the_plan_again(window: MainWindow) -> None:
    view = view_of(window)
    desk, row = view.desk, view.page.line.hand
    ids = [segment.id for segment in desk.project.segments[4:6]]
    desk.select(ids[0])
    desk.choose(ids)
    row.tempo.setValue(1.2)
    heard: list[bool] = []
    desk.changed.connect(lambda change: heard.append(sounds_other(change, desk.tag)))
    row.gain.setValue(-3.0)
    assert heard == [True], "what moves nothing is heard all the same"
    row.fade_out.setValue(0.25)
    for key in ids:
        line = desk.line(key)
        assert line is not None
        assert (line.hand.tempo, line.hand.gain_db, line.hand.fade_out_us) == (1.2, -3.0, 250_000)
        assert desk.project.versions[desk.tag].placements[key].tempo == pytest.approx(1.2, abs=0.005)
    row.tempo.setValue(row.tempo.minimum())
    line = desk.line()
    assert line is not None
    assert line.hand.tempo is None
    row.fit_as.setCurrentIndex(1)
    row.fit_as.activated.emit(1)
    line = desk.line()
    assert line is not None
    assert line.hand.fit_as is FitAs.OFF_SCREEN


def test_a_phrase_is_fitted_by_hand(window: MainWindow) -> None:
    view = view_of(window)
    desk, row = view.desk, view.page.line.hand
    by_itself = [k for k, one in desk.project.versions[desk.tag].placements.items() if len(one.phrases) == 2]
    desk.select(by_itself[0])
    assert row.part.count() == 3
    row.part.setCurrentIndex(2)
    row.part.activated.emit(2)
    row.pause.setValue(0.5)
    row.gain.setValue(-3.0)
    line, placed = desk.line(), desk.placed()
    assert line is not None
    assert placed is not None
    one, two = placed[0].phrases
    assert two.start_us - one.start_us - one.length_us == pytest.approx(500_000, abs=1_000)
    assert [(hand.pause_us, hand.gain_db) for hand in line.hand.phrases] == [(500_000, -3.0)]
    assert (line.hand.gain_db, row.part.currentIndex(), row.fit_as.isEnabled()) == (0.0, 2, False)
    row.part.setCurrentIndex(0)
    row.part.activated.emit(0)
    assert row.gain.value() == 0.0
    row.gain.setValue(2.0)
    line = desk.line()
    assert line is not None
    assert (line.hand.gain_db, line.hand.phrases[0].gain_db) == (2.0, -3.0)
    alone = next(k for k, take in enumerate(desk.project.segments) if take.id not in by_itself)
    desk.select(desk.project.segments[alone].id)
    assert row.part.currentIndex() == 0


def test_a_line_is_heard_in_several_fits_blind_if_wanted(window: MainWindow, qtbot: QtBot) -> None:
    view = view_of(window)
    desk, bar = view.desk, view.page.closeup.ways
    heard: list[tuple[np.ndarray, float]] = []
    bar.heard.connect(lambda samples, start: heard.append((samples, start)))
    desk.select(desk.project.segments[4].id)
    window.actions_by_id["way_2"].trigger()
    qtbot.waitUntil(lambda: len(heard) == 1, timeout=20_000)
    segment = desk.segment()
    assert segment is not None
    assert len(heard[0][0]) == pytest.approx((segment.end_us - segment.start_us) * 0.048, abs=2)
    said = notices_of(desk)
    bar.hear(list(Way).index(Way.BEFORE))
    qtbot.waitUntil(lambda: "This line has not been anywhere else yet." in said, timeout=20_000)
    desk.select(desk.project.segments[5].id)
    bar._play([HeardWay(Way.UNIFORM, heard[0][0], 0)])
    assert len(heard) == 1, "what was asked of another line is heard no more"
    bar.blind.setChecked(True)
    assert [button.text() for button in bar.buttons] == list("ABCDE")
    bar.blind.setChecked(False)
    assert bar.buttons[0].text() == "as spoken"


def test_cuts_of_the_picture_stand_on_the_score(window: MainWindow) -> None:
    view = view_of(window)
    before = view.page.score.grab().toImage()
    view.desk.apply("Cuts", lambda p: set_cuts(p, p.programme.sound, (2_000_000, 6_000_000)))
    assert view.page.score.grab().toImage() != before


@pytest.fixture
def page(window: MainWindow, qtbot: QtBot) -> FitPage:
    view = view_of(window)
    view.navigation.show_page("Fit")
    made = view.pages.page("Fit")
    assert isinstance(made, FitPage)
    qtbot.waitUntil(lambda: made.drawn is not None, timeout=10_000)
    return made


def test_the_whole_fit_is_seen_and_the_worst_lines_first(page: FitPage, window: MainWindow) -> None:
    view = view_of(window)
    assert page.drawn is not None
    assert page.people.rowCount() == 3
    assert page.lines.rows.count() == len(page.drawn.now.worst())
    first = page.lines.rows.item(0)
    assert first is not None
    assert "start within 0.2 s" in page._state.text()
    page.lines.rows.itemActivated.emit(first)
    assert view.pages.current == "Score"
    assert view.desk.segment_id == view.desk.project.segments[13].id
    for spread in page.spreads.values():
        assert spread.words()
        spread.grab()


def test_limits_show_their_effect_before_they_are_used(page: FitPage, window: MainWindow, qtbot: QtBot) -> None:
    view = view_of(window)
    desk = view.desk
    box = page.fields.boxes["comfort"][1]
    box.setValue(1.05)
    qtbot.waitUntil(lambda: page.drawn is not None and "trial" in page.drawn.others, timeout=10_000)
    assert "With these limits" in page.effect.text()
    assert desk.version is not None
    assert desk.version.limits is None
    page.use.click()
    qtbot.waitUntil(lambda: not desk.jobs.busy, timeout=20_000)
    assert desk.version.limits == replace(Limits(), comfort=(0.92, 1.05))
    qtbot.waitUntil(lambda: page.beside.currentData() == "before" and page._other() is not None, timeout=10_000)
    page.fields.boxes["comfort"][0].setValue(1.3)
    qtbot.waitUntil(lambda: "Tempos lie around 1" in page.effect.text(), timeout=5_000)
    assert not page.use.isEnabled()
    page.usual.click()
    qtbot.waitUntil(lambda: not desk.jobs.busy, timeout=20_000)
    assert desk.version.limits is None


def test_pins_are_listed_and_freed(page: FitPage, window: MainWindow, qtbot: QtBot) -> None:
    view = view_of(window)
    desk = view.desk
    view.navigation.show_page("Score")
    take_in_hand(view, 4, 20, 40)
    let_go(view)
    view.navigation.show_page("Fit")
    page.lines.which.setCurrentIndex(1)
    page.lines.which.activated.emit(1)
    qtbot.waitUntil(lambda: page.lines.rows.count() == 1, timeout=10_000)
    page.lines.free_all.click()
    qtbot.waitUntil(lambda: not desk.jobs.busy and page.lines.rows.count() == 0, timeout=20_000)
    line = desk.line(desk.project.segments[4].id)
    assert line is not None
    assert line.pin is None
