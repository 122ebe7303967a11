"""How voices speak, set on the Cast page and in the panel; a voice is heard while it comes."""

from __future__ import annotations

import time
from pathlib import Path

import numpy as np
import pytest
from PyQt6.QtWidgets import QComboBox, QDoubleSpinBox
from pytestqt.qtbot import QtBot

from driving import cast_of, view_of
from zweistimme.engines.offers import Tier
from zweistimme.engines.registry import engine
from zweistimme.project.model import AS_USUAL, Manner
from zweistimme.project.progress import Mark, marks_of
from zweistimme.standin.engine import BundledEngine
from zweistimme.store.clips import ClipStore
from zweistimme.window.lanes import LaneMixer
from zweistimme.window.main_window import MainWindow
from zweistimme.window.manner import MannerButton


def to_voice(window: MainWindow) -> int:
    """How many lines need a take."""
    desk = view_of(window).desk
    assert desk.version is not None
    return sum(bool(marks & Mark.TO_VOICE) for _, marks in marks_of(desk.project, desk.version))


def test_a_person_speaks_faster_and_as_usual_again(window: MainWindow, qtbot: QtBot) -> None:
    view = view_of(window)
    view.navigation.show_page("Cast")
    assert to_voice(window) == 0
    cast_of(view).refresh()
    button = cast_of(view).findChildren(MannerButton)[-len(view.desk.project.speakers)]
    assert button.text() == "as usual"
    button.build()
    assert set(button.knobs) == {"rate", "pitch", "volume_db", "seed"}
    pace = button.knobs["rate"]
    assert isinstance(pace, QDoubleSpinBox)
    assert (pace.minimum(), pace.maximum()) == (0.5, 2.0)
    pace.setValue(1.2)
    button.take_over()
    key = next(iter(view.desk.version.manners))  # type: ignore[union-attr]
    assert view.desk.version.manners[key] == Manner(1.2)  # type: ignore[union-attr]
    assert to_voice(window) > 0
    cast_of(view).refresh()
    assert cast_of(view).findChildren(MannerButton)[-len(view.desk.project.speakers)].text() == "pace ×1.2"
    view.desk.undo()
    assert to_voice(window) == 0


def test_a_line_is_spoken_in_a_manner_of_its_own(window: MainWindow) -> None:
    view = view_of(window)
    view.desk.select(view.desk.project.segments[2].id)
    manner = view.page.line.spoken.manner
    manner.build()
    level = manner.knobs["volume_db"]
    assert isinstance(level, QDoubleSpinBox)
    level.setValue(-4)
    manner.take_over()
    line = view.desk.line()
    assert line is not None
    assert line.manner == Manner(volume_db=-4.0)
    assert to_voice(window) == 1
    manner.build()
    manner._as_usual()
    line = view.desk.line()
    assert line is not None
    assert line.manner == AS_USUAL


def test_a_button_shows_what_its_voice_has(qtbot: QtBot) -> None:
    button = MannerButton()
    qtbot.addWidget(button)
    button.show_manner(AS_USUAL, None)
    assert not button.isEnabled()
    voice = engine().info().voices[0]
    from dataclasses import replace

    button.show_manner(Manner(tier="fine"), replace(voice, controls=(), tiers=(Tier("plain"), Tier("fine"))))
    assert button.text() == "fine"
    button.build()
    choice = button.knobs["tier"]
    assert isinstance(choice, QComboBox)
    assert choice.currentText() == "fine"
    choice.setCurrentText("plain")
    with qtbot.waitSignal(button.chosen) as said:
        button.take_over()
    assert said.args == [Manner(tier="plain")]


def test_answers_are_asked_for_together(window: MainWindow) -> None:
    view = view_of(window)
    view.navigation.show_page("Cast")
    cast_of(view).together.click()
    assert view.desk.version is not None
    assert view.desk.version.together


def test_a_voice_is_heard_while_it_comes(window: MainWindow, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch) -> None:
    view = view_of(window)
    view.navigation.show_page("Cast")
    heard: list[tuple[int, bool, float]] = []
    ended: list[float] = []
    speak = BundledEngine.speak

    def slowly(self: BundledEngine, request: object, hear: object = None) -> object:
        def held(samples: np.ndarray) -> None:
            hear(samples)  # type: ignore[operator]
            time.sleep(0.02)

        clip = speak(self, request, held if hear else None)  # type: ignore[arg-type]
        ended.append(time.monotonic())
        return clip

    monkeypatch.setattr(BundledEngine, "speak", slowly)
    cast_of(view).heard.connect(lambda samples, last: heard.append((len(samples), last, time.monotonic())))
    key = next(iter(view.desk.project.speakers))
    view.navigation.show_page("Cast")
    row = next(row for row in cast_of(view).rows if row.key == key)
    row.manner.chosen.emit(Manner(pitch=1.05))  # which nobody has answered before
    cast_of(view)._listen(key)
    qtbot.waitUntil(lambda: bool(heard) and heard[-1][1], timeout=10_000)
    assert len(heard) > 5
    assert heard[0][2] < ended[0], "the first piece is there before the last is made"
    count = sum(size for size, _, _ in heard)
    heard.clear()
    cast_of(view)._listen(key)
    qtbot.waitUntil(lambda: bool(heard), timeout=10_000)
    assert heard[0][:2] == (count, True), "what was answered is there at once"


def test_a_clip_is_made_sound_in_pieces_without_a_gap(tmp_path: Path) -> None:
    mixer = LaneMixer(ClipStore(tmp_path / "clips"), tmp_path)
    ramp = np.linspace(0.1, 0.6, 30_000, dtype=np.float32)
    mixer.go_alone(ramp[:10_000], last=False)
    time.sleep(0.1)
    mixer.more_alone(ramp[10_000:], last=True)
    end = time.monotonic() + 5
    heard: list[np.ndarray] = []
    while sum(map(len, heard)) < len(ramp) and time.monotonic() < end:
        frames = mixer.take(1_000)[:, 0]
        heard.append(frames[frames > 0])  # silence is what was not there yet
        time.sleep(0.02)
    sound = np.concatenate(heard)[: len(ramp)]
    fade = 1_200  # it begins out of silence
    assert np.allclose(sound[fade:], ramp[len(ramp) - len(sound) + fade :], atol=1e-6)
    assert len(sound) > len(ramp) - fade
    mixer.close()
