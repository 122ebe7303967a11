"""The transcript in the window where it is not the usual case: ends, refusals, files, the pointer, speakers."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtWidgets import QFileDialog, QLineEdit, QToolTip, QWidget
from pytestqt.qtbot import QtBot

from driving import notices_of, speakers_of, view_of
from helpers import write_sound
from zweistimme.formats.transcripts import read_transcript
from zweistimme.project.model import Project
from zweistimme.project.transcript import delete_segments, set_segment_text
from zweistimme.window.desk_view import DeskView
from zweistimme.window.main_window import MainWindow
from zweistimme.window.score.painting import card_rect
from zweistimme.window.speaker_row import WhenBar

KEY = Qt.Key
SHIFT, CONTROL, ALT = (
    Qt.KeyboardModifier.ShiftModifier,
    Qt.KeyboardModifier.ControlModifier,
    Qt.KeyboardModifier.AltModifier,
)
LEFT = Qt.MouseButton.LeftButton


@pytest.fixture
def view(window: MainWindow) -> DeskView:
    return view_of(window)


# splitting, merging, inserting


def test_on_the_first_word_a_split_is_at_the_playhead_or_told_how(view: DeskView, press: Callable) -> None:
    desk, said = view.desk, notices_of(view.desk)
    segment = desk.project.segments[3]
    desk.select(segment.id)
    view.playback.player.seek(segment.start_us - 500_000)
    press(KEY.Key_S)
    assert "Put the cursor on the word" in said[-1]
    assert len(desk.project.segments) == 18
    view.playback.player.seek(segment.words[6].start_us)
    press(KEY.Key_S)
    assert len(desk.project.segments) == 19
    assert len(desk.project.segments[3].words) == 6


def test_the_last_segment_has_nothing_to_be_merged_with(view: DeskView, press: Callable) -> None:
    said, before = notices_of(view.desk), view.desk.project
    view.desk.select(before.segments[-1].id)
    press(KEY.Key_M)
    assert "nothing follows" in said[-1]
    assert view.desk.project is before


def test_a_segment_is_inserted_only_where_there_is_room(view: DeskView, press: Callable) -> None:
    desk, said = view.desk, notices_of(view.desk)
    first = desk.project.segments[0]
    view.playback.player.seek((first.start_us + first.end_us) // 2)
    press(KEY.Key_I)
    assert "no room for a segment here" in said[-1]
    assert len(desk.project.segments) == 18
    view.playback.player.seek(36_000_000)
    press(KEY.Key_I)
    made = desk.segment()
    assert made is not None
    assert (made.start_us, made.end_us, made.text) == (36_000_000, 38_000_000, "")


def test_where_nobody_is_known_speech_is_written_down_by_somebody(view: DeskView) -> None:
    desk = view.desk
    desk.apply("Nobody", lambda p: Project(p.title, p.source_tag, p.programme, versions={}))
    view.transcribing.write_down(3_000_000, 5_000_000)
    assert [one.name for one in desk.project.speakers.values()] == ["Speaker A"]
    assert [s.speaker_id for s in desk.project.segments] == ["p1"]


def test_digits_beyond_the_speakers_say_what_to_do(view: DeskView, press: Callable) -> None:
    desk, said = view.desk, notices_of(view.desk)
    before = desk.project
    press(KEY.Key_9)
    assert said[-1] == "There is no speaker 9; 0 gives the line to somebody new."
    assert desk.project is before
    for number in range(30):
        press(KEY.Key_0)
        assert len(desk.project.speakers) == 4 + number
    names = [one.name for one in desk.project.speakers.values()]
    assert len(set(names)) == len(names)
    assert "Speaker Z" in names
    assert "Speaker 27" in names


def test_without_a_picture_edges_move_by_time_alone(view: DeskView, press: Callable) -> None:
    said, programme = notices_of(view.desk), view.desk.project.programme
    assert programme is not None
    press(KEY.Key_F, ALT)
    assert "by a frame" in said[-1]
    press(KEY.Key_F, ALT)
    assert said[-1] == "Edges now move by 10 ms."
    view.desk.apply("Sound alone", lambda p: replace(p, programme=replace(programme, picture=None)))
    press(KEY.Key_F, ALT)
    assert said[-1] == "This programme has no picture, so edges move by 10 ms."


def test_nothing_aside_nothing_doubtful_nothing_without_words_is_said(
    view: DeskView, press: Callable, qtbot: QtBot
) -> None:
    desk, said = view.desk, notices_of(view.desk)
    qtbot.waitUntil(lambda: len(view.page.regions.spans) > 10, timeout=20_000)
    press(KEY.Key_U)
    assert said[-1] == "There are no hesitations in what is chosen."
    press(KEY.Key_G)
    assert said[-1] == "All speech has words."
    press(KEY.Key_A, CONTROL)
    press(KEY.Key_A, SHIFT)
    press(KEY.Key_D)
    assert said[-1] == "No doubtful word comes after this one."
    press(KEY.Key_D, SHIFT)
    assert said[-1] == "No doubtful word comes before this one."
    assert desk.undo() is None


# listening and moving


def test_hearing_from_the_word_puts_the_playhead_on_it(view: DeskView, press: Callable) -> None:
    segment = view.desk.project.segments[3]
    view.desk.select(segment.id, 4)
    press(KEY.Key_H)
    assert view.playback.player.playing
    assert abs(view.playback.player.position_us - segment.words[4].start_us) < 400_000
    view.playback.player.pause()


def test_the_cursor_stays_at_both_ends_of_the_programme(view: DeskView, press: Callable) -> None:
    desk = view.desk
    first, last = desk.project.segments[0], desk.project.segments[-1]
    desk.select(first.id)
    press(KEY.Key_Left)
    assert (desk.segment_id, desk.word) == (first.id, 0)
    desk.select(last.id, len(last.words) - 1)
    press(KEY.Key_Right)
    assert (desk.segment_id, desk.word) == (last.id, len(last.words) - 1)


def test_a_line_repeats_with_a_little_of_what_comes_before(view: DeskView, press: Callable) -> None:
    segment = view.desk.project.segments[5]
    view.desk.select(segment.id)
    press(KEY.Key_R)
    assert view.playback.player.loop is not None
    start, end = view.playback.player.loop
    assert start <= segment.start_us - 600_000
    assert end >= segment.end_us + 300_000
    view.desk.select(view.desk.project.segments[7].id)
    assert view.playback.player.loop[0] > end, "it goes along with the selection"
    press(KEY.Key_R)
    assert view.playback.player.loop is None


def test_a_line_without_a_take_says_so(view: DeskView) -> None:
    said = notices_of(view.desk)
    version = view.desk.project.versions[view.desk.tag]
    view.desk.apply("Forget", lambda p: delete_segments(p, [p.segments[2].id]))
    view.transcribing.write_down(11_840_000, 12_800_000)
    view.playback.hear_take()
    assert said[-1] == "This line has no take yet."
    assert version.takes


# the pitch


def test_the_pitch_is_measured_when_it_is_wanted(view: DeskView, press: Callable, qtbot: QtBot) -> None:
    segment = view.desk.project.segments[3]
    view.desk.select(segment.id)
    view.page.closeup.grab()
    qtbot.wait(600)  # until the waves are there
    plain = view.page.closeup.grab().toImage()
    with qtbot.waitSignal(view.page.closeup.pitch.arrived, timeout=20_000, check_params_cb=None):
        press(KEY.Key_Y)
    view.page.closeup.grab()
    qtbot.waitUntil(lambda: len(view.page.closeup.pitch._hertz) > 0, timeout=20_000)
    assert view.page.closeup.grab().toImage() != plain
    voiced = view.page.closeup.pitch._hertz[np.isfinite(view.page.closeup.pitch._hertz)]
    assert 75 < np.median(voiced) < 150, "Tobin, an old man"
    press(KEY.Key_Y)
    assert view.page.closeup.grab().toImage() == plain


# the pointer


def middle_of(view: DeskView, number: int, column: str) -> QPoint:
    """The middle of a card in a column of the Score."""
    scene = view.page.score.scene()
    index = view.page.score.dubs if column == "dub" else view.page.score.originals
    card = index.find(view.desk.project.segments[number].id)
    assert card is not None
    return card_rect(scene, card, getattr(scene.columns, column)).center().toPoint()


def test_hovering_tells_what_does_not_fit_and_why_a_take_stands_there(view: DeskView, qtbot: QtBot) -> None:
    segment = view.desk.project.segments[3]
    view.desk.select(segment.id)
    view.page.score.show_segment(segment.id)
    qtbot.wait(50)
    line = view.desk.line(segment.id)
    assert line is not None
    for column, words in (("original", segment.text), ("dub", line.text), ("ribbon", "into the pause")):
        qtbot.mouseMove(view.page.score.canvas(), middle_of(view, 3, column))
        assert words in QToolTip.text(), column


def test_pressing_the_ruler_or_empty_time_moves_the_playhead(view: DeskView, qtbot: QtBot) -> None:
    view.page.score.centre_on(36_000_000)
    qtbot.wait(50)
    y = round(view.page.score.scale.y(36_500_000))
    for x in (20, round(view.page.score.scene().columns.original[0]) + 40):
        view.playback.player.seek(0)
        qtbot.mouseClick(view.page.score.canvas(), LEFT, pos=QPoint(x, y))
        assert abs(view.playback.player.position_us - 36_500_000) < 60_000


def test_double_click_opens_the_side_it_falls_on(view: DeskView, qtbot: QtBot) -> None:
    view.desk.select(view.desk.project.segments[3].id)
    view.page.score.show_segment(view.desk.project.segments[3].id)
    qtbot.wait(50)
    for column in ("original", "dub"):
        qtbot.mouseDClick(view.page.score.canvas(), LEFT, pos=middle_of(view, 3, column))
        editor = view.page.score.editor
        assert editor is not None
        assert editor.isVisible()
        qtbot.keyClick(editor, KEY.Key_Escape)


# speakers


def from_the_top(view: DeskView, qtbot: QtBot, kind: type[QWidget]) -> list[QWidget]:
    """Widgets of the Speakers page, a row each."""
    view.navigation.show_page("Speakers")
    qtbot.wait(100)
    found = [one for one in speakers_of(view).findChildren(kind) if one.isVisible()]
    return sorted(found, key=lambda one: one.mapTo(speakers_of(view), QPoint(0, 0)).y())


def test_a_stretch_of_a_speaker_is_told_and_leads_to_its_line(view: DeskView, qtbot: QtBot) -> None:
    segment = view.desk.project.segments[1]
    bar = from_the_top(view, qtbot, WhenBar)[1]
    assert view.desk.project.speakers[segment.speaker_id].name == "Tobin"
    programme = view.desk.project.programme
    assert programme is not None
    share = (segment.start_us + segment.end_us) / 2 / programme.sound.duration_us
    at = QPointF(share * bar.width(), bar.height() / 2).toPoint()
    qtbot.mouseMove(bar, at)
    assert segment.text in QToolTip.text()
    qtbot.mouseClick(bar, LEFT, pos=at)
    assert view.desk.segment_id == segment.id
    assert view.rail.buttons["Score"].isChecked()


def test_stretches_without_words_are_hollow(view: DeskView, qtbot: QtBot) -> None:
    full = from_the_top(view, qtbot, WhenBar)[2].grab().toImage()
    ids = [s.id for s in view.desk.project.segments if s.speaker_id == "p3"]

    def wordless(project: Project) -> Project:
        for key in ids:
            project = set_segment_text(project, key, "")
        return project

    view.desk.apply("Forget the words", wordless)
    assert from_the_top(view, qtbot, WhenBar)[2].grab().toImage() != full
    assert f"{len(ids)} stretches have no words yet." in speakers_of(view)._about.text()


def test_a_speaker_is_renamed_unless_the_name_is_taken(view: DeskView, qtbot: QtBot) -> None:
    said = notices_of(view.desk)
    field = from_the_top(view, qtbot, QLineEdit)[2]
    assert isinstance(field, QLineEdit)
    field.setFocus()
    field.setText("Mira")
    qtbot.keyClick(field, KEY.Key_Return)
    assert said[-1] == "Another speaker is already called Mira."
    assert field.text() == "Juna"
    assert not view.page.score.editor.isVisible(), "Return ends the name; it does not open the line"
    field.setText("Juna Oake")
    qtbot.keyClick(field, KEY.Key_Return)
    assert view.desk.project.speakers["p3"].name == "Juna Oake"
    assert view.desk.project.versions[view.desk.tag].cast["p3"], "the voice stays"


# files


def choose(monkeypatch: pytest.MonkeyPatch, name: Path | str, kind: str = "") -> None:
    """The file dialogs answer with this."""
    for dialog in ("getOpenFileName", "getSaveFileName"):
        monkeypatch.setattr(QFileDialog, dialog, lambda *_args, **_more: (str(name), kind))


def test_the_transcript_is_written_with_the_ending_that_was_chosen(
    view: DeskView, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    said = notices_of(view.desk)
    choose(monkeypatch, "")
    view.files.ask_target()
    assert said == []
    choose(monkeypatch, tmp_path / "tide", "WebVTT captions (*.vtt)")
    view.files.ask_target()
    back = read_transcript(tmp_path / "tide.vtt")
    assert [s.text for s in back.segments] == [s.text for s in view.desk.project.segments]
    assert said[-1].startswith(f"Written: {tmp_path / 'tide.vtt'}. Confidences are not in WebVTT")
    choose(monkeypatch, tmp_path / "tide.doc")
    view.files.ask_target()
    assert "“.doc” is no kind of transcript" in said[-1]
    choose(monkeypatch, "/proc/tide.csv")
    view.files.ask_target()
    assert said[-1] == "/proc/tide.csv could not be written: No such file or directory. Choose another place."


def test_a_transcript_and_a_script_are_asked_for(
    view: DeskView, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, qtbot: QtBot
) -> None:
    desk = view.desk
    before = desk.project
    choose(monkeypatch, "")
    view.files.ask_transcript()
    view.files.ask_script()
    assert not desk.jobs.busy
    captions = tmp_path / "one.srt"
    captions.write_text("1\n00:00:03,400 --> 00:00:07,900\nMira: Twice a day.\n")
    choose(monkeypatch, captions)
    view.files.ask_transcript()
    qtbot.waitUntil(lambda: not desk.jobs.busy, timeout=20_000)
    assert [s.text for s in desk.project.segments] == ["Twice a day."]
    desk.undo()
    assert desk.project == before
    script = tmp_path / "two.txt"
    script.write_text("Mira: Twice a day the sea walks up these steps, and twice a day it leaves again.\n")
    choose(monkeypatch, script)
    view.files.ask_script()
    qtbot.waitUntil(lambda: not desk.jobs.busy, timeout=60_000)
    written = [s for s in desk.project.segments if s.text]
    assert [s.text for s in written] == ["Twice a day the sea walks up these steps, and twice a day it leaves again."]
    assert len(desk.project.segments) > 10, "what is not in the script stays, without words"


def test_a_sound_file_is_chosen_for_a_microphone_or_not(
    view: DeskView, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, qtbot: QtBot
) -> None:
    view.navigation.open_panel("Record")
    panel = view.page.record
    place = panel.source.count() - 1
    choose(monkeypatch, "")
    panel.source.setCurrentIndex(place)
    panel.source.activated.emit(place)
    choose(monkeypatch, write_sound(tmp_path / "booth.wav", 3.0))
    panel.source.setCurrentIndex(panel.source.count() - 1)
    panel.source.activated.emit(panel.source.count() - 1)
    assert panel.source.currentText() == "booth.wav"
    assert panel.go.isEnabled()
    panel.measure_room()
    panel.measure_room()
    qtbot.waitUntil(lambda: "room" in panel.words.text() and panel.measure.isEnabled(), timeout=10_000)
    assert panel.room.level_db > -60
    choose(monkeypatch, tmp_path / "gone.wav")
    panel.source.setCurrentIndex(panel.source.count() - 1)
    panel.source.activated.emit(panel.source.count() - 1)
    panel.toggle()
    assert "gone.wav" in panel.words.text()
    assert panel.go.text() == "Record"


def test_a_recording_cannot_be_heard_without_a_sound_device(view: DeskView, qtbot: QtBot) -> None:
    said = notices_of(view.desk)
    panel = view.page.record
    view.navigation.open_panel("Record")
    panel.recording = np.zeros(4800, np.float32)
    panel._show()
    with qtbot.waitSignal(panel.heard):
        qtbot.mouseClick(panel.hear, LEFT)
    assert said in ([], ["There is no sound device here, so the clip cannot be heard."])
