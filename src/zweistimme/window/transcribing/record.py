"""Recording at the desk: a take of the line, or the original said again to be written down."""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np
import numpy.typing as npt
from PyQt6.QtCore import Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QCheckBox, QComboBox, QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from zweistimme.media.microphone import Microphone
from zweistimme.messages import msg, tr
from zweistimme.project.errors import ZweistimmeError
from zweistimme.project.languages import own_name
from zweistimme.project.times import RATE, SECOND_US
from zweistimme.stages.recording import Heard, heard, keep_take, respeak, room_words
from zweistimme.window.bridge import Desk
from zweistimme.window.clock import Player
from zweistimme.window.layouts import push_button
from zweistimme.window.transcribing.in_a_row import LineEnd, Session
from zweistimme.window.transcribing.level import LevelBar
from zweistimme.window.transcribing.microphone_box import MicrophoneBox
from zweistimme.window.transcribing.recording_words import RecordingState, busy_words, idle_words, no_microphone

NAME = msg("Record")
_TICK_MS = 40
_ROOM_S = 1.0
_PRE_ROLL_US = 2 * SECOND_US
_LONGEST_S = 60
_SAMPLE = "sample"
_NO_ROOM = Heard(-200.0, -200.0)
"""A room that was not measured."""


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
        self._desk, self._player = desk, player
        self.source = MicrophoneBox(found)
        self.session = Session(desk, self)
        self._end: LineEnd | None = None
        self._microphone: Microphone | None = None
        self._state = RecordingState.IDLE
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
        self.use = QComboBox()
        self.use.setAccessibleName(tr("What the recording is for"))
        self.source.taken.connect(self._other_microphone)
        self.measure, self.go = push_button(tr("Measure the room"), self.measure_room), push_button("", self.toggle)
        self.hear, self.keep = push_button(tr("▸ Hear it"), self._hear), push_button(tr("Keep it"), self.keep_it)
        self.measure.setToolTip(tr("Be silent for a second: what the room sounds like is known to the recording then"))
        self.go.setToolTip(tr("Plays two seconds of what comes before, then records; press again to stop"))
        self.several, self.strike = QPushButton(tr("In a row")), push_button(tr("Strike"), self.session.strike)
        self.along = QCheckBox(tr("original in the headphones"))
        self.along.setChecked(True)
        self.along.setToolTip(tr("The original goes on while a line is recorded; use headphones"))
        self.several.setCheckable(True)
        self.several.setToolTip(
            tr("The chosen lines, or all of this person from here on, one after the other by itself")
        )
        self.strike.setToolTip(tr("Say the line once more; between two lines, the one before (Backspace)"))
        self.several.clicked.connect(self._flip_row)
        self.level, self.words = LevelBar(), QLabel()
        self.words.setWordWrap(True)
        rows: tuple[tuple[QWidget, ...], ...] = (
            (QLabel(tr("From")), self.source, self.measure, self.level, self.along),
            (QLabel(tr("For")), self.use, self.go, self.hear, self.keep, self.several, self.strike),
        )
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 4, 0, 0)
        column.setSpacing(8)
        for widgets in rows:
            row = QHBoxLayout()
            for widget in widgets:
                row.addWidget(widget)
            row.addStretch(1)
            column.addLayout(row)
        column.addWidget(self.words)
        column.addStretch(1)
        self.setFocusProxy(self.go)
        self._show()

    # microphones

    def showEvent(self, event: object) -> None:
        self.source.look()
        self._fill_uses()
        self._show()

    def hideEvent(self, event: object) -> None:
        """What was recorded so far waits to be kept."""
        if self.session.on:
            self.session.end()
        elif self._state is RecordingState.RECORDING:
            self._finish()
        else:
            self.stop()

    def _other_microphone(self) -> None:
        self.room = _NO_ROOM
        self._show()

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

    # recording

    def measure_room(self) -> None:
        """Listen to the silence for a second."""
        self._begin(RecordingState.ROOM)

    def toggle(self) -> None:
        """Record, with a run-up; or stop."""
        if self._state is RecordingState.IDLE:
            self.record_line()
        else:
            self._finish()

    def record_line(self) -> bool:
        """Record the selected line, with a run-up; False where that cannot be begun, which is said."""
        segment = self._desk.segment()
        if segment is not None and self._begin(RecordingState.BEFORE):
            self._segment_id, self.recording = segment.id, None
            self._end = LineEnd(self.room.level_db, (segment.end_us - segment.start_us) / SECOND_US, RATE)
            self._player.seek(max(0, segment.start_us - _PRE_ROLL_US))
            self._player.play()
            return True
        return False

    @property
    def so_far(self) -> npt.NDArray[np.float32] | None:
        """What has been recorded of a line, its run-up over; None where none is."""
        if self._state is not RecordingState.RECORDING:
            return None
        return np.concatenate([np.empty(0, np.float32), *self._parts])

    def _begin(self, state: RecordingState) -> bool:
        microphone = self.source.microphone
        if microphone is None or self._state is not RecordingState.IDLE:
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
        if self._state is RecordingState.BEFORE:
            segment = self._desk.segment(self._segment_id)
            if segment is None or self._player.position_us >= segment.start_us or not self._player.playing:
                self._state = RecordingState.RECORDING
                if not self.along.isChecked():
                    self._player.pause()
            self._show()
            return
        self._parts.append(sound)
        seconds = sum(map(len, self._parts)) / RATE
        if (self._state is RecordingState.ROOM and seconds >= _ROOM_S) or seconds >= _LONGEST_S:
            self._finish()
        elif self._state is RecordingState.RECORDING:
            if self.session.on and self._end is not None and self._end.over(sound):
                self._finish()
            else:
                self._show()

    def _finish(self) -> None:
        state, sound = self._state, np.concatenate([np.empty(0, np.float32), *self._parts])
        self.stop()
        if state is RecordingState.ROOM:
            self.room = heard(sound)
            self.words.setText(room_words(self.room))
        elif len(sound) and self.session.here == self._segment_id:
            self.session.keep(sound)
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
        self._state, self._parts = RecordingState.IDLE, []
        self._show()

    def close_parts(self) -> None:
        """Keep what was recorded and still waits, then let go of the device."""
        self.session.close()
        self.stop()

    # line after line

    def _flip_row(self, on: bool) -> None:
        if on:
            self.use.setCurrentIndex(self.use.findData(self._desk.tag))
            self.session.begin()
        else:
            self.session.end()

    def show_session(self, words: str) -> None:
        """Show that a session is on, or that it has ended: then with what is to be said of it."""
        self.several.setChecked(self.session.on)
        self._show()
        if words:
            self.words.setText(words)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Backspace strikes, Escape ends the session."""
        if event is not None and self.session.on and event.key() == Qt.Key.Key_Backspace:
            self.session.strike()
        elif event is not None and self.session.on and event.key() == Qt.Key.Key_Escape:
            self.session.end()
        else:
            super().keyPressEvent(event)

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
        idle, there = self._state is RecordingState.IDLE, self.source.microphone is not None
        self.measure.setEnabled(idle and there)
        self.go.setEnabled(there and (self._desk.segment() is not None or not idle))
        self.go.setText(tr("Record") if idle else tr("Stop"))
        self.hear.setEnabled(idle and (self.recording is not None or self._respoken() != ""))
        self.keep.setEnabled(idle and self.recording is not None)
        self.several.setEnabled(there)
        self.strike.setEnabled(self.session.on)
        self.words.setText(self._sentence())

    def _sentence(self) -> str:
        if self.source.microphone is None:
            return no_microphone()
        segment = self._desk.segment(self._segment_id) if self._state is RecordingState.BEFORE else self._desk.segment()
        left_us = segment.start_us - self._player.position_us if segment else 0
        length_us = segment.end_us - segment.start_us if segment else 0
        lasts_s = sum(map(len, self._parts)) / RATE
        if self._state is RecordingState.IDLE:
            return idle_words(self.recording, respoken=bool(self._respoken()))
        busy = busy_words(self._state, left_us / SECOND_US, length_us / SECOND_US, lasts_s)
        return " ".join(filter(None, (self.session.words, busy)))
