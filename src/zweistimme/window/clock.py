"""The playhead: moved by the sound device where there is one, else by a silent clock that says so."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt
from PyQt6.QtCore import QElapsedTimer, QObject, QTimer, pyqtSignal

from zweistimme.project.times import RATE, SECOND_US
from zweistimme.window.lanes import LaneMixer
from zweistimme.window.sound_device import SoundOut, open_sound_out

_TICK_MS = 25
_STUCK_MS = 1500


class Player(QObject):
    """Plays the lanes from the playhead; repeats a stretch if asked to."""

    moved = pyqtSignal(float)
    """The playhead, in microseconds."""
    playing_changed = pyqtSignal(bool)
    speed_changed = pyqtSignal(float)
    silent = pyqtSignal(str)
    """Said once, when there is no sound device."""

    def __init__(self, mixer: LaneMixer, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._mixer = mixer
        self._out: SoundOut | None = None
        self._timer = QTimer(self)
        self._timer.setInterval(_TICK_MS)
        self._timer.timeout.connect(self._tick)
        self._since = QElapsedTimer()
        self._heard = QElapsedTimer()
        self._last_position = -1.0
        self._start_us = 0.0
        self.position_us = 0.0
        self.end_us = 0.0
        self.loop: tuple[int, int] | None = None
        self.playing = False
        self.speed = 1.0
        self._told = False
        self._coming = False

    def toggle(self) -> None:
        """Play or pause."""
        if self.playing:
            self.pause()
        else:
            self.play()

    def play(self) -> None:
        """Play from the playhead; from the beginning of the repeated stretch if the playhead is outside it."""
        if self.loop and not self.loop[0] <= self.position_us < self.loop[1]:
            self.seek(self.loop[0])
        elif self.position_us >= self.end_us:
            self.seek(0.0)
        self._begin()
        self.playing = True
        self._timer.start()
        self.playing_changed.emit(True)

    def _begin(self) -> None:
        self._start_us = self.position_us
        self._mixer.go(round(self._start_us * RATE / SECOND_US), self.speed)
        self._out = open_sound_out(self._mixer, self)
        if self._out is None and not self._told:
            self._told = True
            self.silent.emit("There is no sound device here: the playhead moves, but nothing is heard.")
        self._since.start()
        self._heard.start()
        self._last_position = -1.0

    def pause(self) -> None:
        """Stop where the playhead is."""
        self.playing = False
        self._timer.stop()
        self._end_sound()
        self.playing_changed.emit(False)

    def play_alone(self, samples: npt.NDArray[np.float32], *, last: bool = True) -> bool:
        """Play one clip, shape ``(n,)``, leaving the playhead where it is; False where there is no sound device. It may
        come in pieces: what follows the first is played behind it, until the *last*."""
        if self._coming:
            self._mixer.more_alone(samples, last=last)
        else:
            self.pause()
            self._mixer.go_alone(samples, last=last)
            self._out = open_sound_out(self._mixer, self)
        self._coming = not last
        if last and self._out is not None:
            QTimer.singleShot(round(self._mixer.left_alone * 1000 / RATE) + 300, self._end_if_alone)
        return self._out is not None

    def _end_if_alone(self) -> None:
        if not self.playing:
            self._end_sound()

    def _end_sound(self) -> None:
        self._coming = False
        if self._out is not None:
            self._out.stop()
            self._out = None

    def seek(self, time_us: float) -> None:
        """Move the playhead, playing on from there if it was playing."""
        self.position_us = max(0.0, min(time_us, self.end_us))
        if self.playing:
            self._end_sound()
            self._begin()
        self.moved.emit(self.position_us)

    def set_speed(self, speed: float) -> None:
        """Play at *speed* times the programme's own, pitch kept."""
        if speed != self.speed:
            self.speed = speed
            self.seek(self.position_us)
            self.speed_changed.emit(speed)

    def _tick(self) -> None:
        self.position_us = min(self._start_us + self._elapsed_us() * self.speed, self.end_us)
        if self.loop and self.position_us >= self.loop[1]:
            self.seek(self.loop[0])
            return
        self.moved.emit(self.position_us)
        if self.position_us >= self.end_us:
            self.pause()

    def _elapsed_us(self) -> float:
        """Time played since the start. A device that stops counting is given up for the silent clock."""
        if self._out is None:
            return self._since.nsecsElapsed() / 1000
        played = self._out.played_us()
        if played != self._last_position:
            self._last_position = played
            self._heard.restart()
        elif self._heard.elapsed() > _STUCK_MS:
            self._end_sound()
            self.silent.emit("The sound device has stopped answering: the playhead goes on in silence.")
            self._start_us += played * self.speed
            self._since.start()
            return 0.0
        return played + min(self._heard.nsecsElapsed() / 1000, 20_000.0)
