"""Lines recorded one after the other: each begins and ends by itself, bad ones are struck, all are kept."""

from __future__ import annotations

from threading import Event

import numpy as np
import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from pytestqt.qtbot import QtBot

from driving import view_of
from zweistimme.project.facts import chosen_take
from zweistimme.project.model import Take, TakeKind
from zweistimme.project.times import RATE
from zweistimme.window.desk_view import DeskView
from zweistimme.window.main_window import MainWindow
from zweistimme.window.transcribing.in_a_row import LineEnd, lines_to_record


class Speaker:
    """Whoever it is says something for a while each time, and then is silent; quicker than anybody could."""

    name = "somebody"

    def __init__(self, spoken_s: float = 0.6) -> None:
        self._spoken_s, self._given = spoken_s, 0
        self.begun = 0
        self.silent = False

    def start(self) -> None:
        self._given, self.begun = 0, self.begun + 1

    def read(self) -> np.ndarray:
        piece = np.arange(self._given, self._given + RATE // 8)
        self._given += len(piece)
        said = 0.3 * np.sin(0.02 * self.begun * piece) * (piece < self._spoken_s * RATE)
        return (0.0 if self.silent else 1.0) * said.astype(np.float32) + np.float32(1e-4)

    def stop(self) -> None: ...


@pytest.fixture
def view(window: MainWindow) -> DeskView:
    made = view_of(window)
    made.navigation.open_panel("Record")
    return made


def taken(view: DeskView, segment_id: str) -> Take:
    version, line = view.desk.version, view.desk.line(segment_id)
    assert version is not None
    assert line is not None
    take = chosen_take(version, line)
    assert take is not None
    return take


def near(view: DeskView, segment_id: str) -> None:
    """Let the run-up be over at once."""
    segment = view.desk.segment(segment_id)
    assert segment is not None
    view.playback.player.seek(segment.start_us)


def test_chosen_lines_are_recorded_by_themselves(view: DeskView, qtbot: QtBot) -> None:
    desk, panel = view.desk, view.page.record
    panel.source.use_microphone(Speaker())
    desk.select("s0002")
    desk.choose(["s0002", "s0003"])
    panel.several.click()
    assert "2 lines to go" in panel.words.text()
    for key in ("s0002", "s0003"):
        qtbot.waitUntil(lambda key=key: panel.session.here == key or not panel.session.on, timeout=10_000)
        near(view, key)
    qtbot.waitUntil(lambda: not panel.session.on, timeout=10_000)
    assert panel.words.text() == "2 lines recorded, 0 struck."
    qtbot.waitUntil(lambda: not desk.jobs.busy and taken(view, "s0003").kind is TakeKind.RECORDED, timeout=10_000)
    assert taken(view, "s0002").kind is TakeKind.RECORDED
    assert not panel.several.isChecked()


def test_a_bad_one_is_struck_and_said_again(view: DeskView, qtbot: QtBot) -> None:
    desk, panel, speaker = view.desk, view.page.record, Speaker()
    panel.source.use_microphone(speaker)
    panel.along.setChecked(False)
    desk.select("s0002")
    desk.choose(["s0002", "s0003"])
    panel.several.click()
    near(view, "s0002")
    qtbot.waitUntil(lambda: panel.so_far is not None, timeout=10_000)
    panel.strike.click()
    assert panel.session.here == "s0002"
    assert "1 struck" in panel.words.text()
    near(view, "s0002")
    qtbot.waitUntil(lambda: panel.session.here == "s0003", timeout=10_000)
    QTest.keyClick(panel, Qt.Key.Key_Backspace)  # in the run-up: the line before
    assert panel.session.here == "s0002"
    near(view, "s0002")
    qtbot.waitUntil(lambda: panel.session.here == "s0003", timeout=10_000)
    near(view, "s0003")
    qtbot.waitUntil(lambda: panel.so_far is not None and len(panel.so_far) > 0, timeout=10_000)
    QTest.keyClick(panel, Qt.Key.Key_Escape)
    assert "2 lines recorded, 2 struck." in panel.words.text()
    qtbot.waitUntil(lambda: not desk.jobs.busy and taken(view, "s0003").kind is TakeKind.RECORDED, timeout=10_000)


def test_a_session_ends_with_the_panel_and_the_version(view: DeskView, qtbot: QtBot) -> None:
    desk, panel = view.desk, view.page.record
    panel.source.use_microphone(Speaker())
    desk.select("s0002")
    desk.choose(["s0002", "s0003"])
    panel.several.click()
    assert panel.session.on
    desk.show_version("es-ES")
    assert not panel.session.on
    desk.show_version("de-DE")
    panel.several.click()
    assert panel.session.on
    view.page.drawer.shut()
    assert not panel.session.on


def test_without_several_chosen_it_is_what_the_person_says_from_here_on(view: DeskView) -> None:
    view.desk.select("s0005")
    ids = lines_to_record(view.desk)
    segments = {one.id: one for one in view.desk.project.segments}
    assert ids[0] == "s0005"
    assert {segments[one].speaker_id for one in ids} == {"p1"}
    assert len(ids) == 5
    view.versions.add("gl-ES")
    assert lines_to_record(view.desk) == []
    panel = view.page.record
    panel.source.use_microphone(Speaker())
    panel.several.click()
    assert not panel.several.isChecked()
    assert "no line with a wording" in panel.words.text()


def test_a_line_ends_when_nothing_is_heard_any_more() -> None:
    loud, quiet = np.full(4_800, 0.2, np.float32), np.full(4_800, 1e-4, np.float32)
    end = LineEnd(-60.0, 2.0, RATE)
    assert not any(end.over(quiet) for _ in range(30)), "nobody has said anything yet"
    assert not any(end.over(loud) for _ in range(5))
    assert [end.over(quiet) for _ in range(10)][-1]
    pause = LineEnd(-60.0, 60.0, RATE)
    pause.over(loud)
    assert not any(pause.over(quiet) for _ in range(20)), "a pause within a long line"
    noisy = LineEnd(-20.0, 1.0, RATE)
    assert not any(noisy.over(loud) for _ in range(20)), "the room is as loud"


def test_what_waits_for_another_run_is_kept_when_the_window_shuts(view: DeskView, qtbot: QtBot) -> None:
    desk, panel, go_on = view.desk, view.page.record, Event()
    panel.source.use_microphone(Speaker())
    panel.along.setChecked(False)
    desk.select("s0002")
    desk.choose(["s0002", "s0003"])
    assert desk.jobs.start("Fit", lambda work: go_on.wait(30) and None)
    panel.several.click()
    near(view, "s0002")
    qtbot.waitUntil(lambda: panel.session.here == "s0003", timeout=10_000)
    assert taken(view, "s0002").kind is not TakeKind.RECORDED, "another run has the project"
    go_on.set()
    panel.session.close()
    assert taken(view, "s0002").kind is TakeKind.RECORDED
    qtbot.waitUntil(lambda: not desk.jobs.busy, timeout=10_000)
    version = desk.version
    assert version is not None
    assert sum(one.kind is TakeKind.RECORDED for one in version.takes.values()) == 1, "stored once"
