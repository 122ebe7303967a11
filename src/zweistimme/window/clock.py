"""The playhead: it goes where the sound goes that is heard, and where there is no device by a silent clock that says
so."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Final

from PyQt6.QtCore import QElapsedTimer, QObject, Qt, QTimer, pyqtSignal

from zweistimme.messages import tr
from zweistimme.project.times import RATE, SECOND_US
from zweistimme.sound.arrays import Mono
from zweistimme.window.lanes import LaneMixer
from zweistimme.window.read_ahead import Way
from zweistimme.window.sound_device import SilentOut, SoundOut, open_sound_out

_TICK_MS: Final = 20
_STUCK_MS: Final = 1500
_KEPT_OPEN_MS: Final = 1500
"""A device that is not used is let go after that; to open it takes a moment, which would be heard at each step."""
_HEARD_STEP_US: Final = 90_000
"""What is heard of a place that is gone to by steps."""


class Player(QObject):
    """Plays the lanes from the playhead; repeats a stretch if asked to."""

    moved = pyqtSignal(float)
    """The playhead, in microseconds."""
    playing_changed = pyqtSignal(bool)
    speed_changed = pyqtSignal(float)
    silent = pyqtSignal(str)
    """Said when there is no sound device, or no more."""

    def __init__(self, mixer: LaneMixer, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._mixer = mixer
        self._out: SoundOut | SilentOut | None = None
        self._timer = QTimer(self)
        self._timer.setTimerType(Qt.TimerType.PreciseTimer)
        self._timer.setInterval(_TICK_MS)
        self._timer.timeout.connect(self._tick)
        self._unused, self._heard = QElapsedTimer(), QElapsedTimer()
        self._last_frames = -1
        self._turn = 0
        self._loop: tuple[int, int] | None = None
        self._told = self._coming = False
        self._along_us: float | None = None
        self.position_us = self.end_us = 0.0
        self.playing = False
        self.speed = 1.0

    @property
    def loop(self) -> tuple[int, int] | None:
        """The stretch that is repeated, in microseconds."""
        return self._loop

    @loop.setter
    def loop(self, loop: tuple[int, int] | None) -> None:
        self._loop = loop
        self._mixer.repeat(None if loop is None else (_sample(loop[0]), max(_sample(loop[1]), _sample(loop[0]) + 1)))

    def toggle(self) -> None:
        """Play or pause."""
        if self.playing:
            self.pause()
        else:
            self.play()

    def play(self) -> None:
        """Play from the playhead; from the beginning of the repeated stretch if the playhead is outside it."""
        if self._loop and not self._loop[0] <= self.position_us < self._loop[1]:
            self.seek(self._loop[0])
        elif self.position_us >= self.end_us:
            self.seek(0.0)
        self._go(Way(_sample(self.position_us), self.speed))
        if isinstance(self._out, SilentOut) and not self._told:
            self._told = True
            self.silent.emit(tr("There is no sound device here: the playhead moves, but nothing is heard."))
        self.playing = True
        self.playing_changed.emit(True)

    def pause(self) -> None:
        """Stop where the playhead is."""
        self.playing = False
        self._coming = False
        self._mixer.stop()
        self._come_back()
        self.playing_changed.emit(False)

    def seek(self, time_us: float) -> None:
        """Move the playhead, playing on from there if it was playing."""
        self.position_us = max(0.0, min(time_us, self.end_us))
        self._along_us = None
        if self.playing:
            self._go(Way(_sample(self.position_us), self.speed))
        self.moved.emit(self.position_us)

    def step(self, by_us: float) -> None:
        """Move the playhead a little; while it does not play, that place is heard for a moment."""
        self.seek(self.position_us + by_us)
        if not self.playing:
            at = _sample(self.position_us)
            self._go(Way(at, until=at + _sample(_HEARD_STEP_US)))

    def set_speed(self, speed: float) -> None:
        """Play at *speed* times the programme's own, pitch kept."""
        if speed != self.speed:
            self.speed = speed
            self.seek(self.position_us)
            self.speed_changed.emit(speed)

    def play_alone(self, samples: Mono, *, last: bool = True, along_us: float | None = None) -> bool:
        """Play one clip, shape ``(n,)``, leaving the playhead where it is; False where there is no sound device. It may
        come in pieces: what follows the first is played behind it, until the *last*. With *along_us* everything that
        follows the playhead, such as the picture, is shown as if the clip began there, and comes back at its end."""
        if self._coming:
            self._mixer.more_alone(samples, last=last)
        else:
            self.pause()
            self._have_device()
            self._turn = self._mixer.go_alone(samples, last=last)
            self._along_us = along_us
        self._coming = not last
        return isinstance(self._out, SoundOut)

    def play_stretch(self, start_us: float, end_us: float, heard: Mapping[str, float], *, shown: bool = False) -> bool:
        """Play a stretch of some lanes, leaving the playhead where it is; False where there is no sound device. *shown*
        has what follows the playhead shown as it plays, as ``play_alone`` does."""
        self.pause()
        self._go(Way(_sample(start_us), self.speed, until=max(_sample(end_us), _sample(start_us) + 1), heard=heard))
        self._along_us = 0.0 if shown else None
        return isinstance(self._out, SoundOut)

    def close(self) -> None:
        """Be silent, and let go of the device."""
        self.pause()
        self._let_go()

    def _go(self, way: Way) -> None:
        self._coming = False
        self._along_us = None
        self._have_device()
        self._turn = self._mixer.go(way)

    def _have_device(self) -> None:
        self._unused.restart()
        if self._out is None:
            self._use(open_sound_out(self._mixer))
        self._timer.start()

    def _use(self, out: SoundOut | None) -> None:
        self._out = out or SilentOut(self._mixer)
        self._heard.restart()
        self._last_frames = -1

    def _let_go(self) -> None:
        self._timer.stop()
        if self._out is not None:
            self._out.end()
            self._out = None

    def _tick(self) -> None:
        if self._out is None:
            return
        frames = self._out.played_frames
        if self._out.failed or self._is_stuck(frames):
            self._go_on_in_silence()
            return
        if self.playing:
            self._unused.restart()
            self._move(frames)
        elif not self._mixer.over(frames):
            self._unused.restart()
            self._show_along(frames)
        else:
            self._come_back()
        if not self.playing and self._unused.elapsed() > _KEPT_OPEN_MS:
            self._let_go()

    def _move(self, frames: int) -> None:
        mark = self._mixer.position(frames)
        if mark is None or mark.turn != self._turn:
            return  # what is heard is still from before
        self.position_us = min(mark.start * SECOND_US / RATE, self.end_us)
        self.moved.emit(self.position_us)
        if self.position_us >= self.end_us:
            self.pause()

    def _show_along(self, frames: int) -> None:
        """Show the place of what is heard alone, where that is wanted."""
        mark = self._mixer.position(frames) if self._along_us is not None else None
        if mark is not None and mark.turn == self._turn and self._along_us is not None:
            self.moved.emit(min(self._along_us + mark.start * SECOND_US / RATE, self.end_us))

    def _come_back(self) -> None:
        """Show where the playhead is, after something was shown elsewhere."""
        if self._along_us is not None:
            self._along_us = None
            self.moved.emit(self.position_us)

    def _is_stuck(self, frames: int) -> bool:
        if frames != self._last_frames:
            self._last_frames = frames
            self._heard.restart()
        return self._heard.elapsed() > _STUCK_MS

    def _go_on_in_silence(self) -> None:
        """A device that cannot be begun, or stops counting, is given up for the silent clock."""
        playing = self.playing
        self._let_go()
        self.silent.emit(tr("The sound device has stopped answering: the playhead goes on in silence."))
        self._told = True
        self._use(None)
        if playing:
            self._turn = self._mixer.go(Way(_sample(self.position_us), self.speed))
        self._timer.start()


def _sample(time_us: float) -> int:
    return round(time_us * RATE / SECOND_US)
