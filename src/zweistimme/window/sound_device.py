"""The sound device through QtMultimedia, imported only once something is to be heard."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import QIODevice, QObject

from zweistimme.project.times import RATE
from zweistimme.window.lanes import LaneMixer

if TYPE_CHECKING:
    from PyQt6.QtMultimedia import QAudioSink

_BYTES_A_FRAME = 8


class _Source(QIODevice):
    """What the device pulls from."""

    def __init__(self, mixer: LaneMixer, parent: QObject) -> None:
        super().__init__(parent)
        self._mixer = mixer
        self.open(QIODevice.OpenModeFlag.ReadOnly | QIODevice.OpenModeFlag.Unbuffered)

    def readData(self, most: int) -> bytes:
        return self._mixer.take(most // _BYTES_A_FRAME).tobytes()

    def bytesAvailable(self) -> int:
        return 1 << 20

    def isSequential(self) -> bool:
        return True


class SoundOut:
    """A running output."""

    def __init__(self, sink: QAudioSink, source: QIODevice) -> None:
        self._sink, self._source = sink, source

    def played_us(self) -> float:
        """How much has been heard."""
        return float(self._sink.processedUSecs())

    def stop(self) -> None:
        self._sink.stop()
        self._source.close()


def open_sound_out(mixer: LaneMixer, parent: QObject) -> SoundOut | None:
    """Start the default device; None where there is none or it does not start."""
    try:
        from PyQt6.QtMultimedia import QAudio, QAudioFormat, QAudioSink, QMediaDevices
    except ImportError:  # the system's sound library is missing
        return None
    device = QMediaDevices.defaultAudioOutput()
    if device.isNull():
        return None
    form = QAudioFormat()
    form.setSampleRate(RATE)
    form.setChannelCount(2)
    form.setSampleFormat(QAudioFormat.SampleFormat.Float)
    sink = QAudioSink(device, form, parent)
    sink.setBufferSize(RATE * _BYTES_A_FRAME // 8)
    source = _Source(mixer, parent)
    sink.start(source)
    if sink.error() == QAudio.Error.OpenError:
        source.close()
        return None
    return SoundOut(sink, source)
