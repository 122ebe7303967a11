"""The sound device through QtMultimedia, imported only once something is to be heard, and fed on a thread of its own: a
window that is busy for a moment makes no hole in the sound."""

from __future__ import annotations

import sys
import time
from typing import TYPE_CHECKING, Final

from PyQt6 import sip
from PyQt6.QtCore import QIODevice, QObject, QThread, pyqtSignal, pyqtSlot

from zweistimme.project.times import RATE
from zweistimme.store.settings import DEVICE, read_settings
from zweistimme.window.lanes import LaneMixer
from zweistimme.window.mishaps import tell_defect

if TYPE_CHECKING:
    from PyQt6.QtMultimedia import QAudioDevice, QAudioSink

_BYTES_A_FRAME: Final = 8
_HELD_MS: Final = 50
"""What the device has of what is heard next. Less than a tenth of a second with all that is between, so that a level is
heard when it is changed; enough for a thread that is not asked in time."""
_FORESEEN_S: Final = 0.05
"""So long after the device said how much it has played, that is counted on by the clock."""
_ON_ITS_WAY_S: Final = 0.012
"""What the device has taken is heard a little later; measured behind a sound server without hardware."""
_SWITCH_S: Final = 0.001
"""How long another thread may keep the interpreter while something is heard. With the usual 5 ms a window that is busy
in Python for a tenth of a second makes holes; with this it makes none."""


_PATIENCE_MS: Final = 2_000
_stuck: list[SoundOut] = []
"""Outputs whose device did not let go."""


class SilentOut:
    """Takes sound at its pace and lets nobody hear it: where there is no device, the playhead moves all the same."""

    def __init__(self, mixer: LaneMixer) -> None:
        self._mixer = mixer
        self._taken = 0
        self._began_s = time.monotonic()
        self.failed = False
        mixer.begin()

    @property
    def played_frames(self) -> int:
        """How much would have been heard."""
        frames = round((time.monotonic() - self._began_s) * RATE)
        if frames > self._taken + RATE:  # the window was busy for long: nobody was to hear that second anyway
            self._began_s += (frames - self._taken - RATE) / RATE
            frames = self._taken + RATE
        if frames > self._taken:
            self._mixer.take(frames - self._taken)
            self._taken = frames
        return frames

    def end(self) -> None:
        """Take nothing more."""


class SoundOut:
    """A running output, its device on a thread of its own."""

    def __init__(self, mixer: LaneMixer) -> None:
        mixer.begin()
        self._switch_s = sys.getswitchinterval()
        sys.setswitchinterval(_SWITCH_S)
        self._feeder = _Feeder(mixer)
        self._thread = QThread()
        self._thread.setObjectName("sound")
        self._feeder.moveToThread(self._thread)
        self._thread.started.connect(self._feeder.begin)
        self._thread.start(QThread.Priority.TimeCriticalPriority)

    @property
    def failed(self) -> bool:
        """Whether the device could not be begun."""
        return self._feeder.failed

    @property
    def played_frames(self) -> int:
        """How much has been heard."""
        played_s, at_s = self._feeder.played
        since_s = min(max(0.0, time.monotonic() - at_s), _FORESEEN_S) if played_s else 0.0
        return max(0, round((played_s + since_s - _ON_ITS_WAY_S) * RATE))

    def end(self) -> None:
        """Let go of the device."""
        self._feeder.end_wanted.emit()
        if not self._thread.wait(_PATIENCE_MS):
            _stuck.append(self)  # a thread that goes on must not be collected
        sys.setswitchinterval(self._switch_s)


def open_sound_out(mixer: LaneMixer) -> SoundOut | None:
    """Begin with the device that was chosen; None where there is none."""
    try:
        device = _output()
    except ImportError:  # the system's sound library is missing
        return None
    return None if device.isNull() else SoundOut(mixer)


def output_names() -> list[str]:
    """What the devices one could listen with are called."""
    try:
        from PyQt6.QtMultimedia import QMediaDevices
    except ImportError:
        return []
    return [device.description() for device in QMediaDevices.audioOutputs()]


def _output() -> QAudioDevice:
    """The device that was chosen, or that of the system where there is none of that name."""
    from PyQt6.QtMultimedia import QMediaDevices

    chosen = read_settings().text(DEVICE)
    there = (device for device in QMediaDevices.audioOutputs() if device.description() == chosen)
    return next(there, QMediaDevices.defaultAudioOutput())


class _Feeder(QObject):
    """Lives on the device's thread."""

    end_wanted = pyqtSignal()

    def __init__(self, mixer: LaneMixer) -> None:
        super().__init__()
        self._mixer = mixer
        self._sink: QAudioSink | None = None
        self._source: _Source | None = None
        self.played = (0.0, 0.0)
        """Seconds that have been heard, and when that was so."""
        self.failed = False
        self.end_wanted.connect(self._end)

    @pyqtSlot()  # without it, it would be called on the thread that connected it
    def begin(self) -> None:
        from PyQt6.QtMultimedia import QAudio, QAudioFormat, QAudioSink

        form = QAudioFormat()
        form.setSampleRate(RATE)
        form.setChannelCount(2)
        form.setSampleFormat(QAudioFormat.SampleFormat.Float)
        self._sink = QAudioSink(_output(), form, self)
        self._sink.setBufferSize(RATE * _BYTES_A_FRAME * _HELD_MS // 1000)
        self._source = _Source(self._mixer, self)
        self._sink.start(self._source)
        self.failed = self._sink.error() == QAudio.Error.OpenError

    def look(self) -> None:
        """See how much has been heard."""
        if self._sink is not None:
            played_s = self._sink.processedUSecs() / 1e6
            if played_s != self.played[0]:
                self.played = (played_s, time.monotonic())

    @pyqtSlot()
    def _end(self) -> None:
        """The device and its source end on the thread they began on."""
        if self._sink is not None:
            self._sink.stop()
            sip.delete(self._sink)
            self._sink = None
        if self._source is not None:
            sip.delete(self._source)
            self._source = None
        thread = self.thread()
        assert thread is not None
        thread.quit()


class _Source(QIODevice):
    """What the device pulls from."""

    def __init__(self, mixer: LaneMixer, feeder: _Feeder) -> None:
        super().__init__(feeder)
        self._mixer, self._feeder = mixer, feeder
        self.open(QIODevice.OpenModeFlag.ReadOnly | QIODevice.OpenModeFlag.Unbuffered)

    def readData(self, most: int) -> bytes:
        count = most // _BYTES_A_FRAME
        try:
            self._feeder.look()
            return self._mixer.take(count).tobytes()
        except Exception:
            tell_defect()
            return bytes(count * _BYTES_A_FRAME)

    def bytesAvailable(self) -> int:
        return 1 << 20

    def isSequential(self) -> bool:
        return True
