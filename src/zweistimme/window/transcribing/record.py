"""Recording at the desk: a take of the line, or the original said again to be written down."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from enum import Enum
from pathlib import Path

import numpy as np
import numpy.typing as npt
from PyQt6.QtCore import QTimer, pyqtSignal
from PyQt6.QtWidgets import QComboBox, QFileDialog, QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from zweistimme.media.microphone import FileMicrophone, Microphone
from zweistimme.messages import msg, tr
from zweistimme.project.errors import ZweistimmeError
from zweistimme.project.languages import own_name
from zweistimme.project.times import RATE, SECOND_US
from zweistimme.stages.recording import Heard, faults, heard, keep_take, respeak, room_words
from zweistimme.window.bridge import Desk
from zweistimme.window.clock import Player
from zweistimme.window.transcribing.level import LevelBar

NAME = msg("Record")
_TICK_MS = 40
_ROOM_S = 1.0
_PRE_ROLL_US = 2 * SECOND_US
_LONGEST_S = 60
_SAMPLE = "sample"
_FILE = msg("a sound file …")
_NO_ROOM = Heard(-200.0, -200.0)
"""A room that was not measured."""


class _State(Enum):
    IDLE = "idle"
    ROOM = "measuring the room"
    BEFORE = "before the line"
    RECORDING = "recording"


class RecordPanel(QWidget):
    """Measure the room, record with a run-up, hear it, keep it or not."""

    heard = pyqtSignal(object)
    """A recording, to be played."""
    sampled = pyqtSignal(object)
    """A recording that is to be a sample of a voice."""

    def __init__(
        self, desk: Desk, player: Player, found: Callable[[], Sequence[Microphone]], parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self._desk, self._player, self._found = desk, player, found
        self._microphones: list[Microphone] = []
        self._source_place = 0
        self._microphone: Microphone | None = None
        self._state = _State.IDLE
        self._parts: list[npt.NDArray[np.float32]] = []
        self._segment_id = ""
        self.room = _NO_ROOM
        self.recording: npt.NDArray[np.float32] | None = None
        self._timer = QTimer(self)
        self._timer.setInterval(_TICK_MS)
        self._timer.timeout.connect(self._tick)
        self._lay_out()
        desk.selected.connect(lambda _id: self._show())
        desk.changed.connect(lambda _change: self._show() if self.isVisible() else None)
        desk.version_changed.connect(lambda _tag: self._fill_uses())

    def _lay_out(self) -> None:
        self.source, self.use = QComboBox(), QComboBox()
        self.source.setAccessibleName(tr("Microphone"))
        self.use.setAccessibleName(tr("What the recording is for"))
        self.source.activated.connect(self._choose)
        self.measure, self.go = QPushButton(tr("Measure the room")), QPushButton(tr("Record"))
        self.hear, self.keep = QPushButton(tr("▸ Hear it")), QPushButton(tr("Keep it"))
        self.measure.setToolTip(tr("Be silent for a second: what the room sounds like is known to the recording then"))
        self.go.setToolTip(tr("Plays two seconds of what comes before, then records; press again to stop"))
        self.measure.clicked.connect(self.measure_room)
        self.go.clicked.connect(self.toggle)
        self.hear.clicked.connect(self._hear)
        self.keep.clicked.connect(self.keep_it)
        self.level, self.words = LevelBar(), QLabel()
        self.words.setWordWrap(True)
        first, second = QHBoxLayout(), QHBoxLayout()
        for widget in (QLabel(tr("From")), self.source, self.measure, self.level):
            first.addWidget(widget)
        first.addStretch(1)
        for widget in (QLabel(tr("For")), self.use, self.go, self.hear, self.keep):
            second.addWidget(widget)
        second.addStretch(1)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 4, 0, 0)
        column.setSpacing(8)
        column.addLayout(first)
        column.addLayout(second)
        column.addWidget(self.words)
        column.addStretch(1)
        self.setFocusProxy(self.go)
        self._show()

    # microphones

    def showEvent(self, event: object) -> None:
        if not self._microphones:
            self._microphones = list(self._found())
            self._fill_sources()
        self._fill_uses()
        self._show()

    def hideEvent(self, event: object) -> None:
        """What was recorded so far waits to be kept."""
        if self._state is _State.RECORDING:
            self._finish()
        else:
            self.stop()

    def use_microphone(self, microphone: Microphone) -> None:
        """Take this one; it stands in the list from now on."""
        self._microphones.insert(0, microphone)
        self.room = _NO_ROOM
        self._fill_sources()
        self._show()

    def _fill_sources(self) -> None:
        self.source.clear()
        for microphone in self._microphones:
            self.source.addItem(microphone.name)
        self.source.addItem(tr(_FILE), _FILE)
        self._source_place = 0

    def _fill_uses(self) -> None:
        before = self.use.currentData()
        self.use.clear()
        self.use.addItem(tr("writing the original down"), "")
        if self._desk.version is not None:
            self.use.addItem(
                tr("a take in {language}", language=own_name(self._desk.tag, region=False)), self._desk.tag
            )
        self.use.addItem(tr("a sample of a voice"), _SAMPLE)
        self.use.setCurrentIndex(max(0, self.use.findData(before)))

    def want_sample(self) -> None:
        """What is recorded next is for a voice."""
        self.use.setCurrentIndex(self.use.findData(_SAMPLE))

    def _choose(self, place: int) -> None:
        if self.source.itemData(place) == _FILE:
            name, _ = QFileDialog.getOpenFileName(self, tr("A sound file in place of a microphone"))
            if name:
                self.use_microphone(FileMicrophone(Path(name)))
            else:
                self.source.setCurrentIndex(self._source_place)
        elif place != self._source_place:
            self._source_place, self.room = place, _NO_ROOM
        self._show()

    def _current(self) -> Microphone | None:
        place = self.source.currentIndex()
        return self._microphones[place] if 0 <= place < len(self._microphones) else None

    # recording

    def measure_room(self) -> None:
        """Listen to the silence for a second."""
        self._begin(_State.ROOM)

    def toggle(self) -> None:
        """Record, with a run-up; or stop."""
        if self._state is _State.IDLE:
            segment = self._desk.segment()
            if segment is not None and self._begin(_State.BEFORE):
                self._segment_id, self.recording = segment.id, None
                self._player.seek(max(0, segment.start_us - _PRE_ROLL_US))
                self._player.play()
        else:
            self._finish()

    def _begin(self, state: _State) -> bool:
        microphone = self._current()
        if microphone is None or self._state is not _State.IDLE:
            self._show()
            return False
        try:
            microphone.start()
        except ZweistimmeError as error:
            self.words.setText(str(error))
            return False
        self._microphone, self._state, self._parts = microphone, state, []
        self._timer.start()
        self._show()
        return True

    def _tick(self) -> None:
        if self._microphone is None:
            return
        try:
            sound = self._microphone.read()
        except ZweistimmeError as error:
            self._finish()
            self.words.setText(str(error))
            return
        self.level.show_level(heard(sound).peak_db, self.room.level_db)
        if self._state is _State.BEFORE:
            segment = self._desk.segment(self._segment_id)
            if segment is None or self._player.position_us >= segment.start_us or not self._player.playing:
                self._state = _State.RECORDING
                self._show()
            return
        self._parts.append(sound)
        seconds = sum(map(len, self._parts)) / RATE
        if (self._state is _State.ROOM and seconds >= _ROOM_S) or seconds >= _LONGEST_S:
            self._finish()
        elif self._state is _State.RECORDING:
            self._show()

    def _finish(self) -> None:
        state, sound = self._state, np.concatenate([np.empty(0, np.float32), *self._parts])
        self.stop()
        if state is _State.ROOM:
            self.room = heard(sound)
            self.words.setText(room_words(self.room))
        elif len(sound):
            self.recording = sound
            self._show()

    def stop(self) -> None:
        """Listen no more; what was not finished is dropped."""
        self._timer.stop()
        if self._microphone is not None:
            self._microphone.stop()
            self._microphone = None
            self._player.pause()
        self._state, self._parts = _State.IDLE, []
        self._show()

    def close_parts(self) -> None:
        """Let go of the device."""
        self.stop()

    # afterwards

    def _respoken(self) -> str:
        """The clip the selected segment was said again with."""
        segment = self._desk.segment()
        return segment.respoken if segment else ""

    def _hear(self) -> None:
        """What was recorded last; else what is kept with the segment."""
        sound = self.recording if self.recording is not None else self._desk.document.clips.get(self._respoken())
        self.heard.emit(sound)

    def keep_it(self) -> None:
        """Make a take of it, or have it written down."""
        sound, tag, segment_id, room = self.recording, self.use.currentData(), self._segment_id, self.room.level_db
        if sound is None:
            return
        if tag == _SAMPLE:
            self.sampled.emit(sound)
            started = True
        elif tag:
            started = self._desk.jobs.start("Record a take", lambda work: keep_take(work, tag, segment_id, sound, room))
        else:
            started = self._desk.jobs.start("Write down", lambda work: respeak(work, segment_id, sound, room))
        if started:
            self.recording = None
            self._show()

    def _show(self) -> None:
        """Buttons and words as things stand."""
        idle, there = self._state is _State.IDLE, self._current() is not None
        self.measure.setEnabled(idle and there)
        self.go.setEnabled(there and (self._desk.segment() is not None or not idle))
        self.go.setText(tr("Record") if idle else tr("Stop"))
        self.hear.setEnabled(idle and (self.recording is not None or self._respoken() != ""))
        self.keep.setEnabled(idle and self.recording is not None)
        self.words.setText(self._sentence())

    def _sentence(self) -> str:
        if self._current() is None:
            return tr(
                "There is no microphone here. Plug one in and open this panel again, or take a sound file for one."
            )
        if self._state is _State.ROOM:
            return tr("Be silent for a second …")
        if self._state is _State.BEFORE:
            return tr("Get ready: recording begins with the line.")
        segment = self._desk.segment()
        length = (segment.end_us - segment.start_us) / SECOND_US if segment else 0.0
        if self._state is _State.RECORDING:
            lasts = sum(map(len, self._parts)) / RATE
            return tr(
                "Recording: {lasts:.1f} s; the line lasts {length:.1f} s. Press again to stop.",
                lasts=lasts,
                length=length,
            )
        if self.recording is not None:
            said = tr("Recorded {lasts:.1f} s.", lasts=len(self.recording) / RATE)
            return " ".join([said, *faults(self.recording), tr("Hear it, keep it, or record again.")])
        if self._respoken():
            return tr("This line was said again; the recording is kept. Hear it, or record the line anew.")
        return tr(
            "Measure the room once, then record the selected line. Two seconds of what comes before are played first."
        )
