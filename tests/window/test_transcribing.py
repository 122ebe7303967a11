"""The transcript worked on in the real window: with the keyboard alone, with the pointer, in the panels."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

import numpy as np
import soundfile
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtTest import QTest
from pytestqt.qtbot import QtBot

from driving import opened, speakers_of, view_of
from zweistimme.demo.script import LINES, MEDIA, TARGETS, TITLE, data_file
from zweistimme.media.microphone import FileMicrophone
from zweistimme.project.edits import add_version
from zweistimme.project.errors import MediaError
from zweistimme.project.facts import line_is_stale
from zweistimme.project.model import Project, TakeKind
from zweistimme.project.times import RATE
from zweistimme.project.transcript import accept_words, delete_segments, set_segment_text
from zweistimme.standin.voice import speak, voice_by_id
from zweistimme.store.document import Document
from zweistimme.window.app import make_app
from zweistimme.window.bridge import Desk
from zweistimme.window.closeup_hand import word_edges
from zweistimme.window.desk_view import DeskView
from zweistimme.window.main_window import MainWindow
from zweistimme.window.score.painting import card_rect
from zweistimme.window.transcribing.record import RecordPanel

KEY = Qt.Key
CONTROL, SHIFT, ALT = (
    Qt.KeyboardModifier.ControlModifier,
    Qt.KeyboardModifier.ShiftModifier,
    Qt.KeyboardModifier.AltModifier,
)


def texts(desk: Desk) -> list[str]:
    return [segment.text for segment in desk.project.segments]


def test_words_are_walked_split_and_merged_and_each_is_one_step_to_undo(window: MainWindow, press: Callable) -> None:
    desk = view_of(window).desk
    before = desk.project
    desk.select(before.segments[4].id)
    for _ in range(4):
        press(KEY.Key_Right)
    assert desk.word == 4
    assert view_of(window).playback.player.position_us == before.segments[4].words[4].start_us
    press(KEY.Key_S)
    assert texts(desk)[4:6] == [
        "This winter its great",
        "wheel cracked, for the first time in a hundred and forty years.",
    ]
    assert desk.segment_id == desk.project.segments[5].id
    press(KEY.Key_Up)
    press(KEY.Key_M)
    assert texts(desk) == [s.text for s in before.segments]
    assert desk.word == 4
    for _ in range(2):
        press(KEY.Key_Z, CONTROL)
    assert desk.project == before


def test_the_cursor_goes_on_into_the_next_line_and_back(window: MainWindow, press: Callable) -> None:
    desk = view_of(window).desk
    segments = desk.project.segments
    desk.select(segments[5].id, len(segments[5].words) - 1)
    press(KEY.Key_Right)
    assert (desk.segment_id, desk.word) == (segments[6].id, 0)
    press(KEY.Key_Left)
    assert (desk.segment_id, desk.word) == (segments[5].id, len(segments[5].words) - 1)


def test_edges_move_by_ten_milliseconds_by_a_frame_and_to_the_playhead(window: MainWindow, press: Callable) -> None:
    view = view_of(window)
    desk, first = view.desk, view.desk.project.segments[2]
    desk.select(first.id)
    for _ in range(5):
        press(KEY.Key_Up, ALT)
    press(KEY.Key_Down, ALT | SHIFT)
    now = desk.segment()
    assert now is not None
    assert (now.start_us, now.end_us) == (first.start_us - 50_000, first.end_us + 10_000)
    press(KEY.Key_F, ALT)
    press(KEY.Key_Down, ALT)
    now = desk.segment()
    assert now is not None
    assert now.start_us == first.start_us - 50_000 + 40_000
    view.playback.player.seek(first.start_us - 123_000)
    press(KEY.Key_B)
    view.playback.player.seek(first.end_us + 77_000)
    press(KEY.Key_E)
    now = desk.segment()
    assert now is not None
    assert (now.start_us, now.end_us) == (first.start_us - 123_000, first.end_us + 77_000)
    assert now.words == first.words


def test_snapping_puts_edges_where_the_speech_is(window: MainWindow, press: Callable, qtbot: QtBot) -> None:
    view = view_of(window)
    desk, first = view.desk, view.desk.project.segments[2]
    qtbot.waitUntil(lambda: len(view.page.regions.spans) > 10, timeout=20_000)
    desk.select(first.id)
    for _ in range(12):
        press(KEY.Key_Up, ALT)
    press(KEY.Key_X)
    now = desk.segment()
    assert now is not None
    assert abs(now.start_us - first.start_us) < 90_000
    assert abs(now.end_us - first.end_us) < 90_000


def test_several_lines_at_once(window: MainWindow, press: Callable) -> None:
    desk = view_of(window).desk
    ids = [s.id for s in desk.project.segments]
    desk.select(ids[2])
    press(KEY.Key_Down, SHIFT)
    press(KEY.Key_Down, SHIFT)
    assert desk.chosen_ids() == ids[2:5]
    press(KEY.Key_Up, SHIFT)
    assert desk.chosen_ids() == ids[2:4]
    juna = desk.project.segments[2].speaker_id
    press(KEY.Key_1 if list(desk.project.speakers).index(juna) else KEY.Key_2)
    assert len({s.speaker_id for s in desk.project.segments[2:4]}) == 1
    assert desk.project.segments[2].speaker_id != juna
    press(KEY.Key_O)
    assert len({s.on_screen for s in desk.project.segments[2:4]}) == 1
    press(KEY.Key_O)
    press(KEY.Key_0)
    assert desk.project.speakers[desk.project.segments[3].speaker_id].name == "Speaker A"
    press(KEY.Key_Delete)
    assert [s.id for s in desk.project.segments] == ids[:2] + ids[4:]
    assert desk.segment_id in (ids[1], ids[4])
    for _ in range(5):
        press(KEY.Key_Z, CONTROL)
    assert [s.id for s in desk.project.segments] == ids
    assert desk.project.segments[2].speaker_id == juna


def test_doubtful_words_are_visited_and_accepted(window: MainWindow, press: Callable) -> None:
    desk = view_of(window).desk
    for segment in desk.project.segments:
        desk.apply("Accept", lambda p, s=segment: accept_words(p, [s.id]))
    third, fifth = desk.project.segments[2], desk.project.segments[4]

    def doubt(project: Project) -> Project:
        made = []
        for segment in project.segments:
            words = list(segment.words)
            if segment.id in (third.id, fifth.id):
                words[1] = replace(words[1], confidence=0.4)
            made.append(replace(segment, words=tuple(words)))
        return replace(project, segments=tuple(made))

    desk.apply("Doubt", doubt)
    desk.select(desk.project.segments[0].id)
    press(KEY.Key_D)
    assert (desk.segment_id, desk.word) == (third.id, 1)
    press(KEY.Key_A)
    assert (desk.segment_id, desk.word) == (fifth.id, 1)
    press(KEY.Key_D, SHIFT)
    assert (desk.segment_id, desk.word) == (fifth.id, 1), "the one before was accepted"
    press(KEY.Key_A, SHIFT)
    assert all(w.confidence == 1 for s in desk.project.segments for w in s.words)


def test_hesitations_go_aside_and_back(window: MainWindow, press: Callable) -> None:
    desk = view_of(window).desk
    first = desk.project.segments[5]
    desk.select(first.id)
    desk.apply("Um", lambda p: set_segment_text(p, first.id, f"Um, {first.text}"))
    press(KEY.Key_U)
    now = desk.segment()
    assert now is not None
    assert (now.text, [w.text for w in now.fillers]) == (first.text, ["Um,"])
    press(KEY.Key_U)
    assert desk.project.segments[5].text == f"Um, {first.text}"


def test_speech_without_a_segment_is_written_down(window: MainWindow, press: Callable, qtbot: QtBot) -> None:
    view = view_of(window)
    desk, gone = view.desk, view.desk.project.segments[3]
    qtbot.waitUntil(lambda: len(view.page.regions.spans) > 10, timeout=20_000)
    desk.apply("Delete", lambda p: delete_segments(p, [gone.id]))
    view.playback.player.seek(gone.start_us - 2_000_000)
    press(KEY.Key_G)
    assert abs(view.playback.player.position_us - gone.start_us) < 100_000
    view.playback.player.seek(gone.start_us + 500_000)
    press(KEY.Key_I)
    made = desk.segment()
    assert made is not None
    assert abs(made.start_us - gone.start_us) < 120_000
    assert abs(made.end_us - gone.end_us) < 120_000
    press(KEY.Key_Return, SHIFT)
    QTest.keyClicks(view.page.score.editor, "Then the ferry sits.")
    QTest.keyClick(view.page.score.editor, KEY.Key_Return)
    assert desk.segment() is not None
    assert desk.project.segments[3].text == "Then the ferry sits."
    assert len(desk.project.segments[3].words) == 4


def test_the_editor_splits_at_its_caret(window: MainWindow, press: Callable) -> None:
    view = view_of(window)
    desk, first = view.desk, view.desk.project.segments[6]
    desk.select(first.id)
    press(KEY.Key_Return, SHIFT)
    QTest.keyClick(view.page.score.editor, KEY.Key_Home, CONTROL)
    for _ in range(len("My grandfather ca")):
        QTest.keyClick(view.page.score.editor, KEY.Key_Right)
    QTest.keyClick(view.page.score.editor, KEY.Key_Return, CONTROL)
    assert texts(desk)[6:8] == ["My grandfather cast", "that wheel in 1884, with 36 teeth."]
    assert desk.project.segments[7].start_us == first.words[3].start_us
    assert [line_is_stale(s, desk.project.versions["de-DE"].lines[s.id]) for s in desk.project.segments[6:8]] == [
        True,
        True,
    ]


def test_a_minute_is_transcribed_and_corrected_with_the_keyboard_alone(qtbot: QtBot, tmp_path: Path) -> None:
    """Find the speech, listen, write, name who speaks: nothing is pressed but keys."""
    make_app()
    from demo_project import work_on
    from zweistimme.stages.bring_in import bring_in
    from zweistimme.stages.intake import Intake

    with Document.create(tmp_path / "p", add_version(Project(TITLE, "en-GB"), TARGETS[0])) as document:
        bring_in(work_on(document), Intake(data_file(MEDIA)))
    window = opened(qtbot, tmp_path / "p")
    view = view_of(window)
    desk, score = view.desk, view.page.score
    score.setFocus()
    QTest.keyClick(score, KEY.Key_R, CONTROL | SHIFT)
    for _ in range(8):
        if view.page.recognise.only.hasFocus():
            break
        QTest.keyClick(window.focusWidget() or window, KEY.Key_Tab)
    QTest.keyClick(view.page.recognise.only, KEY.Key_Space)
    qtbot.waitUntil(lambda: not desk.jobs.busy and bool(desk.project.segments), timeout=60_000)
    minute = [s.id for s in desk.project.segments if s.start_us < 60_000_000]
    wanted = {round(line_start): line for line_start, line in zip(_true_starts(), LINES, strict=True)}
    score.setFocus()
    QTest.keyClick(score, KEY.Key_Home)
    for segment_id in minute:
        segment = desk.segment()
        assert segment is not None
        assert segment.id == segment_id
        line = wanted[min(wanted, key=lambda start, s=segment: abs(start - s.start_us / 1e6))]
        QTest.keyClick(score, KEY.Key_Return, SHIFT)
        QTest.keyClicks(score.editor, line.text)
        QTest.keyClick(score.editor, KEY.Key_Return)
        QTest.keyClick(score, KEY.Key_Down)
    QTest.keyClick(score, KEY.Key_F, CONTROL)
    QTest.keyClicks(view.page.search.what, "teeth")
    QTest.keyClick(view.page.search.what, KEY.Key_Tab)
    QTest.keyClicks(view.page.search.instead, "cogs")
    view.page.search.look()
    for _ in range(8):
        if view.page.search.go.hasFocus():
            break
        QTest.keyClick(window.focusWidget() or window, KEY.Key_Tab)
    assert view.page.search.go.hasFocus()
    assert view.page.search.go.isEnabled()
    QTest.keyClick(view.page.search.go, KEY.Key_Space)
    QTest.keyClick(window, KEY.Key_Escape)
    assert not view.page.drawer.isVisible()
    assert any("36 cogs." in text for text in texts(desk))
    assert all(desk.segment(segment_id).text for segment_id in minute)  # type: ignore[union-attr]
    window.close_project()


def _true_starts() -> list[float]:
    import json

    from zweistimme.demo.script import TRUTH

    return [line["start"] for line in json.loads(data_file(TRUTH).read_text())["lines"]]


def test_the_pointer_puts_the_cursor_on_words_and_chooses_lines(window: MainWindow, qtbot: QtBot) -> None:
    view = view_of(window)
    desk, score = view.desk, view.page.score
    ids = [s.id for s in desk.project.segments]
    score.centre_on(desk.project.segments[3].start_us)
    scene = score.scene()
    rect = card_rect(scene, score.originals.find(ids[3]), scene.columns.original)
    inside = QPoint(int(rect.left()) + 120, int(rect.top()) + 12)
    qtbot.mouseClick(score.canvas(), Qt.MouseButton.LeftButton, pos=inside)
    assert (desk.segment_id, desk.word) == (ids[3], 1)
    other = card_rect(scene, score.originals.find(ids[4]), scene.columns.original).center().toPoint()
    qtbot.mouseClick(score.canvas(), Qt.MouseButton.LeftButton, SHIFT, other)
    assert desk.chosen_ids() == ids[3:5]
    qtbot.mouseClick(score.canvas(), Qt.MouseButton.LeftButton, CONTROL, other)
    assert desk.chosen_ids() == [ids[3]]


def test_word_edges_are_dragged_in_the_close_up(window: MainWindow, qtbot: QtBot) -> None:
    view = view_of(window)
    desk, closeup = view.desk, view.page.closeup
    first = desk.project.segments[3]
    desk.select(first.id)
    qtbot.wait(50)
    edge = word_edges(first.words)[4]
    x, target = closeup.x_of(edge.at_us), closeup.x_of(edge.at_us + 60_000)
    at = QPointF(x, 44).toPoint()
    qtbot.mousePress(closeup, Qt.MouseButton.LeftButton, pos=at)
    qtbot.mouseMove(closeup, QPointF(target, 44).toPoint())
    qtbot.mouseRelease(closeup, Qt.MouseButton.LeftButton, pos=QPointF(target, 44).toPoint())
    now = desk.segment()
    assert now is not None
    assert abs(now.words[edge.place].start_us - edge.at_us - 60_000) < 12_000
    assert now.words[edge.place - 1].end_us <= now.words[edge.place].start_us
    assert (now.start_us, now.end_us) == (first.start_us, first.end_us)
    before = desk.project
    qtbot.mousePress(closeup, Qt.MouseButton.LeftButton, pos=QPointF(closeup.x_of(first.end_us), 44).toPoint())
    qtbot.mouseMove(closeup, QPointF(closeup.x_of(first.end_us) - 40, 44).toPoint())
    desk.select(before.segments[5].id)
    qtbot.mouseRelease(closeup, Qt.MouseButton.LeftButton, pos=QPointF(200, 44).toPoint())
    assert desk.project is before, "what was held of one line is not done to another"


def test_found_places_are_left_out_or_replaced_in_one_step(window: MainWindow, press: Callable) -> None:
    view = view_of(window)
    desk, before = view.desk, view.desk.project
    press(KEY.Key_F, CONTROL)
    search = view.page.search
    search.what.setText("the")
    search.instead.setText("thy")
    search.whole_words.setChecked(True)
    search.look()
    count = search.table.rowCount()
    assert count > 5
    item = search.table.item(0, 0)
    assert item is not None
    item.setCheckState(Qt.CheckState.Unchecked)
    last = desk.project.segments[-1].id
    desk.apply("Meanwhile", lambda p: set_segment_text(p, last, f"{desk.project.segments[-1].text} Yes."))
    search.look()
    assert search.go.text() == f"Replace {sum(len(hit.spans) for hit in search.hits[1:])}", "still left out"
    desk.undo()
    search.look()
    search.replace()
    assert desk.project.segments[0] is before.segments[0]
    assert sum(a != b for a, b in zip(texts(desk), [s.text for s in before.segments], strict=True)) == count - 1
    desk.undo()
    assert desk.project == before
    search.what.setText("nowhere to be found")
    search.look()
    assert search.count.text() == "Found nowhere."
    assert not search.go.isEnabled()


def test_cutting_anew_says_what_would_become_of_it(window: MainWindow, press: Callable, qtbot: QtBot) -> None:
    view = view_of(window)
    desk, panel = view.desk, view.page.recut
    press(KEY.Key_A, CONTROL)
    press(KEY.Key_C)
    assert view.page.drawer.shown == "Cut anew"
    qtbot.waitUntil(lambda: "18 chosen would stay as they are" in panel.words.text())
    panel.boxes["longest_us"].setValue(2.5)
    qtbot.waitUntil(lambda: "18 chosen would become" in panel.words.text())
    expected = int(panel.words.text().split("become ")[1].split(";")[0])
    panel.cut()
    assert len(desk.project.segments) == expected > 18
    desk.undo()
    assert len(desk.project.segments) == 18


def test_an_imported_file_is_reported_whole_and_written_again(window: MainWindow, qtbot: QtBot, tmp_path: Path) -> None:
    view = view_of(window)
    rough = tmp_path / "rough.srt"
    rough.write_text(
        "1\n00:00:05,000 --> 00:00:04,000\n<b>Mira: It turns.</b>\n\n2\n00:00:02,000 --> 00:00:03,000\nGood.\n\n"
    )
    view.files.bring_in(rough)
    qtbot.waitUntil(lambda: not view.desk.jobs.busy, timeout=20_000)
    assert texts(view.desk) == ["Good.", "It turns."]
    assert view.page.drawer.shown == "What was said"
    said = [view.page.report.list.item(k).text() for k in range(view.page.report.list.count())]  # type: ignore[union-attr]
    assert any("out of order" in text for text in said)
    assert any("line 2:" in text and "ended before it started" in text for text in said)
    assert any("2 tags" in text for text in said)
    view.navigation.close_or_stop()
    assert not view.page.drawer.isVisible()
    view.files.write(tmp_path / "again.vtt")
    assert "<v Mira>It turns." in (tmp_path / "again.vtt").read_text()
    view.files.write(tmp_path / "again.doc")
    assert view.foot.errors
    view.files.bring_in(tmp_path / "none.srt")
    qtbot.waitUntil(lambda: not view.desk.jobs.busy, timeout=20_000)
    assert "There is no file" in view.foot.words.text()
    assert texts(view.desk) == ["Good.", "It turns."]


def test_word_times_are_looked_for_in_the_sound(window: MainWindow, press: Callable, qtbot: QtBot) -> None:
    desk = view_of(window).desk
    first = desk.project.segments[6]
    flat = replace(first, words=tuple(replace(w, start_us=first.start_us, end_us=first.end_us) for w in first.words))
    from zweistimme.project.access import put_segment

    desk.apply("Spoil", lambda p: put_segment(p, flat))
    desk.select(first.id)
    press(KEY.Key_W)
    qtbot.waitUntil(lambda: not desk.jobs.busy, timeout=30_000)
    now = desk.segment()
    assert now is not None
    errors = [abs(a.start_us - b.start_us) for a, b in zip(now.words, first.words, strict=True)]
    assert max(errors) < 80_000
    assert now.text == first.text


def test_speakers_are_renamed_merged_and_taken_away(window: MainWindow, qtbot: QtBot) -> None:
    view = view_of(window)
    view.navigation.show_page("Speakers")
    page, desk = speakers_of(view), view.desk
    qtbot.mouseClick(page.more, Qt.MouseButton.LeftButton)
    assert len(desk.project.speakers) == 4
    assert "3 people" in page._about.text() or "4 people" in page._about.text()
    row = next(row for row in page.rows if row.key == "p3")
    row.same.setCurrentIndex(row.same.findData("p1"))
    row.same.activated.emit(row.same.currentIndex())
    assert "p3" not in desk.project.speakers
    assert all(s.speaker_id != "p3" for s in desk.project.segments)
    segment = desk.project.segments[7]
    page.went.emit(segment.id)
    assert desk.segment_id == segment.id
    assert view.rail.buttons["Score"].isChecked()


def spoken_file(path: Path, text: str, voice_id: str = "edda") -> Path:
    voice = voice_by_id(voice_id)
    assert voice is not None
    sound = 0.4 * speak(text, "en-GB", voice).samples
    before, after = np.zeros(round(2.6 * RATE), np.float32), np.zeros(RATE, np.float32)
    whole = np.concatenate((before, sound, after))
    noise = 0.0005 * np.random.default_rng(2).standard_normal(len(whole))
    soundfile.write(path, whole + noise, RATE)
    return path


def recorded(view: DeskView, qtbot: QtBot, seconds: float) -> None:
    """Record until so much sound has come."""
    panel = view.page.record
    panel.toggle()
    qtbot.waitUntil(lambda: sum(map(len, panel._parts)) > seconds * RATE, timeout=20_000)
    panel.toggle()
    assert panel.recording is not None


def test_a_line_is_recorded_and_the_original_said_again(window: MainWindow, qtbot: QtBot, tmp_path: Path) -> None:
    view = view_of(window)
    desk, panel = view.desk, view.page.record
    first = desk.project.segments[10]
    view.navigation.open_panel("Record")
    desk.select(first.id)
    panel.source.use_microphone(FileMicrophone(spoken_file(tmp_path / "mic.wav", first.text), pace=1.0))
    panel.measure_room()
    qtbot.waitUntil(lambda: "room" in panel.words.text() and panel.measure.isEnabled(), timeout=10_000)
    assert "quiet enough" in panel.words.text()
    view.playback.player.seek(first.start_us)
    desk.document.apply("", lambda p: p)
    panel.use.setCurrentIndex(1)
    recorded(view, qtbot, 2.2)
    panel.keep_it()
    qtbot.waitUntil(lambda: not desk.jobs.busy, timeout=20_000)
    line = desk.line(first.id)
    assert line is not None
    take = desk.project.versions[desk.tag].takes[line.take_id or ""]
    assert (take.kind, take.label) == (TakeKind.RECORDED, "recorded 1")
    assert 0.3 < (take.speech_end_samples - take.speech_start_samples) / RATE < 2.2
    desk.apply("Lose the words", lambda p: set_segment_text(p, first.id, "Something else."))
    panel.use.setCurrentIndex(0)
    recorded(view, qtbot, 2.6)
    panel.keep_it()
    qtbot.waitUntil(lambda: not desk.jobs.busy, timeout=30_000)
    now = desk.segment(first.id)
    assert now is not None
    assert now.text == first.text
    assert now.respoken in desk.document.clips
    assert (now.start_us, now.end_us) == (first.start_us, first.end_us)
    assert "the recording is kept" in panel.words.text()
    assert panel.hear.isEnabled()
    assert not panel.keep.isEnabled()


def test_without_a_microphone_the_panel_says_so(window: MainWindow, qtbot: QtBot) -> None:
    view = view_of(window)
    panel = RecordPanel(view.desk, view.playback.player, list)
    qtbot.addWidget(panel)
    panel.show()
    assert "There is no microphone here" in panel.words.text()
    assert not panel.go.isEnabled()
    assert panel.source.count() == 1, "a sound file can still stand for one"


class Unplugged:
    """A microphone that is pulled out after a while."""

    name = "loose plug"

    def __init__(self) -> None:
        self._given = 0

    def start(self) -> None:
        self._given = 0

    def read(self) -> np.ndarray:
        if self._given >= 80:
            raise MediaError("loose plug gives no sound any more.")
        self._given += 1
        return np.full(RATE // 25, 0.1, np.float32)

    def stop(self) -> None: ...


def test_what_was_recorded_before_the_plug_came_out_or_the_panel_was_closed_is_there(
    window: MainWindow, qtbot: QtBot
) -> None:
    view = view_of(window)
    panel = view.page.record
    view.navigation.open_panel("Record")
    panel.source.use_microphone(Unplugged())
    view.desk.select(view.desk.project.segments[0].id)
    panel.toggle()
    qtbot.waitUntil(lambda: panel.recording is not None, timeout=20_000)
    assert "no sound any more" in panel.words.text()
    assert len(panel.recording) >= RATE // 25
    assert panel.keep.isEnabled()
    panel.toggle()
    assert panel.recording is None
    qtbot.waitUntil(lambda: bool(panel._parts), timeout=20_000)
    view.navigation.show_page("Cast")
    assert panel.recording is not None
    assert not view.playback.player.playing


def test_slower_playing_keeps_the_pitch_and_moves_the_playhead_slower(window: MainWindow, press: Callable) -> None:
    view = view_of(window)
    press(KEY.Key_Comma)
    press(KEY.Key_Comma)
    assert view.playback.player.speed == 0.7
    assert view.transport.speed.currentText() == "×0.7"
    press(KEY.Key_Period)
    assert view.playback.player.speed == 0.85


def test_without_a_transcript_the_score_offers_the_ways_to_one(qtbot: QtBot, tmp_path: Path) -> None:
    make_app()
    from demo_project import work_on
    from zweistimme.stages.bring_in import bring_in
    from zweistimme.stages.intake import Intake

    with Document.create(tmp_path / "p", add_version(Project(TITLE, "en-GB"), TARGETS[0])) as document:
        bring_in(work_on(document), Intake(data_file(MEDIA)))
    window = opened(qtbot, tmp_path / "p")
    view = view_of(window)
    assert view.beginnings.isVisible()
    assert not view.playback.mixer.line_up.states["Original"].mute
    qtbot.mouseClick(view.beginnings.buttons["find_speech"], Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: not view.desk.jobs.busy and bool(view.desk.project.segments), timeout=60_000)
    assert not view.beginnings.isVisible()
    assert len(view.desk.project.speakers) == 3
    window.close_project()


def test_continue_leads_to_speech_that_nobody_has_written_down(window: MainWindow, qtbot: QtBot) -> None:
    view = view_of(window)
    desk = view.desk
    desk.apply("Empty", lambda p: replace(p, segments=tuple(replace(s, text="", words=()) for s in p.segments)))
    desk.select(desk.project.segments[5].id)
    assert view.strip.go_on.text().startswith("Write")
    qtbot.mouseClick(view.strip.go_on, Qt.MouseButton.LeftButton)
    assert desk.segment_id == desk.project.segments[0].id
    assert not desk.jobs.busy


def test_recognition_is_told_names_and_languages(window: MainWindow, qtbot: QtBot) -> None:
    view = view_of(window)
    desk, panel = view.desk, view.page.recognise
    view.navigation.open_panel("Have the speech recognised")
    panel.terms.setPlainText("VARNHOLM\n\n  Alder   Quay ")
    panel.languages.setText("de-DE, nonsense-99")
    panel.recognise()
    assert not desk.jobs.busy
    assert "nonsense-99" in view.foot.words.text()
    panel.languages.setText("de-DE")
    panel.people.setValue(3)
    panel.recognise()
    qtbot.waitUntil(lambda: not desk.jobs.busy, timeout=60_000)
    assert [term.source for term in desk.project.terms.values()] == ["VARNHOLM", "Alder Quay"]
    assert any("In VARNHOLM nobody asks" in text for text in texts(desk))
    assert len(desk.project.speakers) == 3
    assert {line.segment_id for line in desk.project.versions["de-DE"].lines.values()} == {
        segment.id for segment in desk.project.segments
    }, "what is recognised where something was keeps its line"
    assert not view.page.drawer.isVisible()
