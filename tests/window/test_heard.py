"""What is heard is the mix that is handed over, without a gap wherever somebody goes and whatever is changed."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterator
from dataclasses import replace
from functools import partial
from pathlib import Path

import numpy as np
import pytest
import soundfile
from PyQt6.QtGui import QKeySequence
from PyQt6.QtTest import QTest
from pytestqt.qtbot import QtBot

from driving import view_of
from helpers import work_on
from zweistimme.project.model import Project, Style
from zweistimme.project.speaker_edits import rename_speaker
from zweistimme.project.times import RATE
from zweistimme.project.transcript import delete_segments
from zweistimme.sound.arrays import Sound
from zweistimme.stages.mix import write_mix
from zweistimme.stages.mix.heard import HeardMix, heard_mix, measure_heard
from zweistimme.store.clips import ClipStore
from zweistimme.store.document import Document
from zweistimme.window.lanes import Frames, LaneMixer
from zweistimme.window.main_window import MainWindow
from zweistimme.window.playback import MEASURE
from zweistimme.window.read_ahead import Way
from zweistimme.window.score import picture

FADE = RATE // 40


def wave(hertz: float, level: float = 0.2) -> Callable[[int, int], Sound]:
    """A lane with a tone in it, the same wherever it is read."""

    def read(start: int, count: int) -> Sound:
        return (level * np.sin(2 * np.pi * hertz * np.arange(start, start + count) / RATE)).astype(np.float32)[None]

    return read


def both(read: Callable[[int, int], Sound]) -> Callable[[int, int], Sound]:
    return lambda start, count: np.repeat(read(start, count), 2, axis=0)


@pytest.fixture
def mixer(tmp_path: Path) -> Iterator[LaneMixer]:
    made = LaneMixer(ClipStore(tmp_path / "clips"), tmp_path)
    yield made
    made.close()


def load(mixer: LaneMixer, lanes: dict[str, Callable[[int, int], Sound]]) -> None:
    mixer._ahead.load(lambda: HeardMix(lanes, 60 * RATE, -1.0))
    until(lambda: set(mixer._ahead._mix.lanes) == set(lanes) and mixer._ahead._wanted is None)


def until(there: Callable[[], bool]) -> None:
    end = time.monotonic() + 10
    while not there():
        assert time.monotonic() < end, "it did not come"
        time.sleep(0.002)


def heard(mixer: LaneMixer, count: int) -> Frames:
    """So many frames, each taken once it is there, as a device does that is not in a hurry."""
    parts = []
    for _ in range(0, count, 480):
        until(lambda: sum(p.stems.shape[1] for p in mixer._ahead._ready) >= 2_000 or mixer._ahead._is_over())
        parts.append(mixer.take(480))
    return np.concatenate(parts)[:count]


def without_bed(project: Project) -> Project:
    assert project.programme is not None
    return replace(project, programme=replace(project.programme, bed=None))


def spoken_over(project: Project) -> Project:
    version = replace(project.versions["de-DE"], style=Style.VOICE_OVER)
    return replace(project, versions={**project.versions, "de-DE": version})


def loud(project: Project) -> Project:
    return replace(project, mix=replace(project.mix, loudness_lufs=-9.0, true_peak_dbtp=-6.0))


@pytest.mark.parametrize("otherwise", [None, without_bed, spoken_over, loud])
def test_what_is_heard_is_the_mix_that_is_handed_over(
    demo_folder: Path, tmp_path: Path, otherwise: Callable[[Project], Project] | None
) -> None:
    with Document.open(demo_folder) as document:
        if otherwise:
            document.apply("Otherwise", otherwise)
        files = write_mix(work_on(document), "de-DE", tmp_path / "mix.wav", tmp_path / "voice.wav")
        wanted, _ = soundfile.read(files.mix, dtype="float32", start=0, stop=30 * RATE)
        made = LaneMixer(document.clips, document.cache)
        made.line_up.suit(dubbed=True)
        made.load(document.project, "de-DE")
        until(lambda: len(made._ahead._mix.lanes) == 3)
        made.begin()
        made.go(Way(0))
        sound = heard(made, 30 * RATE)
        mix = made._ahead._mix
        made.close()
    assert mix.levels_known
    assert mix.gain_fits
    assert np.abs(sound[FADE:] - wanted[FADE:]).max() < 2e-6


def test_before_the_first_hand_over_it_is_nearly_as_loud(demo_folder: Path, tmp_path: Path) -> None:
    with Document.open(demo_folder) as document:
        work = work_on(document)
        guessed = heard_mix(document.project, "de-DE", document.clips, document.cache)
        assert not guessed.gain_fits
        guessed.close()
        measure_heard(work, "de-DE")
        measured = heard_mix(document.project, "de-DE", document.clips, document.cache)
        assert (measured.levels_known, measured.gain_fits) == (True, True)
        louder = replace(document.project, mix=replace(document.project.mix, loudness_lufs=-16.0))
        other = heard_mix(louder, "de-DE", document.clips, document.cache)
        assert not other.gain_fits
        loud = [float(np.sqrt((mix.read(0, 30 * RATE)[:3] ** 2).mean())) for mix in (measured, other)]
        for mix in (measured, other):
            mix.close()
    assert loud[0] > 0


def test_the_window_measures_by_itself_what_is_only_guessed(window: MainWindow, qtbot: QtBot) -> None:
    view = view_of(window)
    playback = view.playback
    qtbot.waitUntil(lambda: playback._mix is not None and bool(playback._mix.lanes), timeout=5_000)
    playback._idle.setInterval(10)
    playback.load()
    qtbot.waitUntil(lambda: playback._mix is not None and playback._mix.gain_fits, timeout=30_000)
    assert not view.desk.jobs.running(f"{MEASURE} of de-DE")
    assert view.foot.words.text() == "", "nobody asked for it, and nobody is told"
    view.desk.show_version("es-ES")
    qtbot.waitUntil(lambda: playback._mix is not None and not playback._mix.gain_fits, timeout=5_000)
    qtbot.waitUntil(lambda: playback._mix is not None and playback._mix.gain_fits, timeout=30_000)


def test_a_level_is_heard_in_the_next_hundredth_of_a_second(mixer: LaneMixer) -> None:
    load(mixer, {"Bed": both(wave(200)), "Dub": wave(200)})
    mixer.go(Way(0))
    assert np.abs(heard(mixer, RATE // 2)[FADE:]).max() == pytest.approx(0.4, abs=0.01)
    mixer.line_up.states["Dub"].level = 0.0
    after = heard(mixer, RATE // 2)
    assert np.abs(after[1_500:]).max() == pytest.approx(0.2, abs=0.01)
    assert np.abs(np.diff(after[:, 0])).max() < 0.02, "nothing clicks"
    mixer.line_up.before = True
    assert np.abs(heard(mixer, RATE // 4)[1_500:]).max() == 0.0, "there is no original here"


def test_going_elsewhere_repeating_and_changing_the_lanes_leave_no_gap_and_no_click(mixer: LaneMixer) -> None:
    load(mixer, {"Bed": both(wave(200))})
    mixer.go(Way(RATE))
    heard(mixer, FADE)
    parts = [heard(mixer, RATE // 2)]
    mixer.go(Way(20 * RATE + 77))
    parts.append(heard(mixer, RATE // 2))
    mixer.repeat((20 * RATE, 20 * RATE + 30_011))
    parts.append(heard(mixer, 2 * RATE))
    load(mixer, {"Bed": both(wave(300))})
    parts.append(heard(mixer, RATE))
    sound = np.concatenate(parts)[:, 0]
    envelope = np.abs(sound[: len(sound) // 480 * 480]).reshape(-1, 480).max(axis=1)
    assert envelope[1:].min() > 0.02
    assert np.abs(np.diff(sound)).max() < 0.2 * 2 * np.pi * 300 / RATE + 0.01
    spectrum = np.abs(np.fft.rfft(sound[-RATE // 2 :]))
    assert abs(spectrum.argmax() * 2 - 300) < 10, "the change is heard within half a second"


@pytest.mark.parametrize("asked_at", [RATE, 2 * RATE + 19_000, 9 * RATE])
def test_what_is_to_be_repeated_is_gone_back_to_from_anywhere(mixer: LaneMixer, asked_at: int) -> None:
    """Also from just before its end, when more has been made already; and from behind it."""
    load(mixer, {"Bed": both(wave(200))})
    first, last = 2 * RATE, 2 * RATE + 20_000
    mixer.go(Way(asked_at))
    heard(mixer, 960)
    mixer.repeat((first, last))
    heard(mixer, 3 * RATE)
    mark = mixer.position(mixer._fed)
    assert mark is not None
    assert first <= mark.start <= last


def test_a_repeated_stretch_is_where_it_should_be(mixer: LaneMixer) -> None:
    load(mixer, {"Bed": both(wave(200))})
    first, last = 2 * RATE, 2 * RATE + 20_000
    mixer.repeat((first, last))
    mixer.go(Way(first))
    heard(mixer, 2 * RATE)
    places = [mixer.position(frame) for frame in range(2_000, mixer._fed, 997)]
    assert all(mark is not None and first <= mark.start <= last for mark in places)


@pytest.mark.parametrize("speed", [0.85, 0.5])
def test_slowly_the_pitch_stays_and_the_place_goes_as_fast_as_wanted(mixer: LaneMixer, speed: float) -> None:
    load(mixer, {"Dub": wave(220)})
    mixer.go(Way(0, speed))
    sound = heard(mixer, 3 * RATE)[FADE:, 0]
    spectrum = np.abs(np.fft.rfft(sound * np.hanning(len(sound))))
    assert abs(spectrum.argmax() * RATE / len(sound) - 220) < 1.5
    assert np.abs(np.diff(sound)).max() < 0.02, "no click where blocks meet"
    marks = [mixer.position(frame) for frame in (RATE, 2 * RATE)]
    assert marks[0] is not None
    assert marks[1] is not None
    assert marks[1].start - marks[0].start == pytest.approx(speed * RATE, rel=0.02)


def waits(mixer: LaneMixer) -> bool:
    """Whether nothing is ready: all of what was has been taken."""
    mark = mixer.position(mixer._fed)
    return mark is not None and mark.rate == 0.0


def test_what_is_not_ready_is_waited_for_not_skipped(mixer: LaneMixer) -> None:
    slow = wave(200)

    def read(start: int, count: int) -> Sound:
        time.sleep(0.15)
        return slow(start, count)

    load(mixer, {"Dub": read})
    mixer.go(Way(RATE))
    for _ in range(100):
        mixer.take(4_800)  # as a device that never waits
        time.sleep(0.005)
    until(lambda: mixer.take(480) is not None and waits(mixer))
    mark = mixer.position(mixer._fed)
    assert mark is not None
    played = mark.start - RATE
    assert 0 < played < 100 * 4_800 * 0.7
    assert played % 4_800 == 0, "all that was there was played"


def test_a_stretch_ends_by_itself(mixer: LaneMixer) -> None:
    load(mixer, {"Original": both(wave(200)), "Dub": wave(300)})
    mixer.go(Way(RATE, until=RATE + 10_000, heard={"Original": 1.0, "Bed": 0.0, "Dub": 0.0}))
    sound = heard(mixer, RATE)
    loud = np.flatnonzero(np.abs(sound[:, 0]) > 0.01)
    assert 10_000 - 100 <= loud[-1] - loud[0] <= 10_000 + 2 * FADE
    assert np.abs(np.fft.rfft(sound[:9_600, 0])).argmax() * 5 == 200
    assert mixer.over(mixer._fed)
    assert not mixer.over(9_000)


@pytest.fixture
def silent_window(window: MainWindow, monkeypatch: pytest.MonkeyPatch) -> MainWindow:
    """The window without a sound device."""
    monkeypatch.setattr("zweistimme.window.clock.open_sound_out", lambda _mixer: None)
    return window


def press(window: MainWindow, keys: str) -> None:
    QTest.keySequence(window, QKeySequence(keys))


def test_the_playhead_goes_by_seconds_and_by_pictures(silent_window: MainWindow) -> None:
    player = view_of(silent_window).playback.player
    player.seek(5_000_000)
    press(silent_window, "Alt+Right")
    press(silent_window, "Ctrl+Right")
    assert player.position_us == pytest.approx(6_040_000)
    for keys in ("Alt+Left", "Ctrl+Left", "Ctrl+Left"):
        press(silent_window, keys)
    assert player.position_us == pytest.approx(4_960_000)
    assert not player.playing
    player.seek(0)
    press(silent_window, "Alt+Left")
    assert player.position_us == 0


def test_a_step_lets_the_place_be_heard_for_a_moment(silent_window: MainWindow, qtbot: QtBot) -> None:
    view = view_of(silent_window)
    qtbot.waitUntil(lambda: "Dub" in view.playback.lanes, timeout=5_000)
    view.playback.player.seek(14_000_000)
    press(silent_window, "Ctrl+Right")
    mixer = view.playback.mixer
    qtbot.waitUntil(lambda: mixer.over(mixer._fed), timeout=5_000)
    assert next(mark.start for mark in mixer._marks) == round(14.04 * RATE)
    assert view.playback.player.position_us == pytest.approx(14_040_000), "the playhead stays there"


def test_before_and_after_by_one_key(silent_window: MainWindow) -> None:
    view = view_of(silent_window)
    press(silent_window, "V")
    assert view.transport.before.isChecked()
    assert view.playback.mixer.line_up.factors() == {"Original": 1.0, "Bed": 0.0, "Dub": 0.0}
    press(silent_window, "V")
    assert view.playback.mixer.line_up.factors() == {"Original": 0.0, "Bed": 1.0, "Dub": 1.0}


def test_the_score_follows_unless_somebody_looks_elsewhere(silent_window: MainWindow, qtbot: QtBot) -> None:
    view = view_of(silent_window)
    player, score = view.playback.player, view.page.score
    player.seek(0)
    player.play()
    score.scroll_by(700)
    top = score.scale.top_us
    assert top > 5_000_000
    began_us = player.position_us
    qtbot.waitUntil(lambda: player.position_us > began_us + 300_000, timeout=5_000)
    assert score.scale.top_us == top, "it does not snap back"
    player.seek(top + 1_000_000)
    player.seek(60_000_000)
    assert score.scale.top_us > top, "in sight once, it is followed again"
    press(silent_window, "F")
    player.seek(1_000_000)
    qtbot.waitUntil(lambda: player.position_us > 1_200_000, timeout=5_000)
    assert score.scale.top_us > top
    player.pause()


def test_the_line_that_is_heard_is_selected_if_wanted(silent_window: MainWindow, qtbot: QtBot) -> None:
    view = view_of(silent_window)
    desk, player = view.desk, view.playback.player
    there = desk.project.segments[6]
    player.play()
    player.seek(there.start_us + 100_000)
    assert desk.segment_id != there.id
    press(silent_window, "L")
    qtbot.waitUntil(lambda: desk.segment_id == there.id, timeout=5_000)
    player.pause()


def test_the_original_of_a_line_is_heard_alone(silent_window: MainWindow, qtbot: QtBot) -> None:
    view = view_of(silent_window)
    qtbot.waitUntil(lambda: "Original" in view.playback.lanes, timeout=5_000)
    before_us = view.playback.player.position_us
    press(silent_window, "Shift+H")
    way = view.playback.mixer._ahead._way
    segment = view.desk.segment()
    assert way is not None
    assert segment is not None
    assert way.heard == {"Original": 1.0, "Bed": 0.0, "Dub": 0.0}
    assert way.start == round(segment.start_us * RATE / 1e6)
    qtbot.wait(100)
    assert view.playback.player.position_us == before_us
    assert "no sound device" in view.foot.words.text()


def test_an_edit_that_cannot_be_heard_opens_nothing_anew(silent_window: MainWindow, qtbot: QtBot) -> None:
    view = view_of(silent_window)
    qtbot.waitUntil(lambda: "Dub" in view.playback.lanes, timeout=5_000)
    mix = view.playback._mix
    view.desk.apply("Rename", partial(rename_speaker, speaker_id="p1", name="Somebody"))
    qtbot.wait(400)
    assert view.playback._mix is mix
    view.desk.apply("Delete", partial(delete_segments, segment_ids=[view.desk.project.segments[0].id]))
    qtbot.waitUntil(lambda: view.playback._mix is not mix, timeout=5_000)


def test_a_tick_paints_the_playhead_and_nothing_else_anew(
    window: MainWindow, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    view = view_of(window)
    qtbot.wait(300)
    painted: list[str] = []
    for name, part in (("score", picture), ("closeup", view.page.closeup)):
        original = part._paint
        monkeypatch.setattr(
            part, "_paint", lambda *given, name=name, original=original: (painted.append(name), original(*given))
        )
    before = -1
    while before != len(painted):  # what came late has been shown
        before = len(painted)
        qtbot.wait(700)
    painted.clear()
    start = view.desk.project.segments[0].start_us
    for tick in range(20):
        view.page.show_playhead(start + tick * 20_000, follow=False)
        qtbot.wait(1)
    assert len(painted) <= 2, "each once, to keep its picture"
    view.desk.select(view.desk.project.segments[1].id)
    qtbot.waitUntil(lambda: len(painted) >= 3, timeout=2_000)
