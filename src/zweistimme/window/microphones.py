"""Microphones of this machine through QtMultimedia, imported only when somebody wants to record."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
import numpy.typing as npt

from zweistimme.project.errors import MediaError
from zweistimme.project.times import RATE

if TYPE_CHECKING:
    from PyQt6.QtCore import QIODevice
    from PyQt6.QtMultimedia import QAudioDevice, QAudioSource


class DeviceMicrophone:
    """One input of the sound system."""

    def __init__(self, device: QAudioDevice) -> None:
        self._device = device
        self._source: QAudioSource | None = None
        self._stream: QIODevice | None = None

    @property
    def name(self) -> str:
        return str(self._device.description())

    def start(self) -> None:
        from PyQt6.QtMultimedia import QAudioFormat, QAudioSource

        form = QAudioFormat()
        form.setSampleRate(RATE)
        form.setChannelCount(1)
        form.setSampleFormat(QAudioFormat.SampleFormat.Float)
        if not self._device.isFormatSupported(form):
            raise MediaError(f"{self.name} does not give one channel at {RATE:,} Hz. Choose another microphone.")
        self._source = QAudioSource(self._device, form)
        self._stream = self._source.start()
        if self._stream is None:
            raise MediaError(f"{self.name} cannot be opened. Is another program using it?")

    def read(self) -> npt.NDArray[np.float32]:
        if self._stream is None or self._source is None:
            return np.empty(0, dtype=np.float32)
        if self._source.error().name in ("OpenError", "IOError", "FatalError"):
            raise MediaError(f"{self.name} gives no sound any more. Plug it in again, or choose another microphone.")
        data = bytes(self._stream.readAll().data())
        return np.frombuffer(data[: len(data) // 4 * 4], dtype=np.float32).copy()

    def stop(self) -> None:
        if self._source is not None:
            self._source.stop()
        self._source = self._stream = None


def microphones() -> list[DeviceMicrophone]:
    """Those that are there, the usual one first; none where there is no sound system."""
    try:
        from PyQt6.QtMultimedia import QMediaDevices
    except ImportError:
        return []
    usual = QMediaDevices.defaultAudioInput()
    devices = sorted(QMediaDevices.audioInputs(), key=lambda device: device.id() != usual.id())
    return [DeviceMicrophone(device) for device in devices if not device.isNull()]
