"""Microphones of this machine through QtMultimedia, imported only when somebody wants to record."""

from __future__ import annotations

import time
from typing import TYPE_CHECKING

import numpy as np
import numpy.typing as npt

from zweistimme.project.errors import MediaError
from zweistimme.project.times import RATE

if TYPE_CHECKING:
    from PyQt6.QtCore import QIODevice
    from PyQt6.QtMultimedia import QAudioDevice, QAudioSource


_PATIENCE_S = 2.0
"""A device that is gone is not reported as an error: it just gives nothing any more."""


class DeviceMicrophone:
    """One input of the sound system."""

    def __init__(self, device: QAudioDevice) -> None:
        self._device = device
        self._source: QAudioSource | None = None
        self._stream: QIODevice | None = None
        self._heard_at_s = 0.0

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
            raise MediaError(
                "{name} does not give one channel at {rate:,} Hz. Choose another microphone.", name=self.name, rate=RATE
            )
        self._heard_at_s = time.monotonic()
        self._source = QAudioSource(self._device, form)
        self._stream = self._source.start()
        if self._stream is None:
            raise MediaError("{name} cannot be opened. Is another program using it?", name=self.name)

    def read(self) -> npt.NDArray[np.float32]:
        if self._stream is None:
            return np.empty(0, dtype=np.float32)
        data = bytes(self._stream.readAll().data())
        now = time.monotonic()
        if data:
            self._heard_at_s = now
        elif now - self._heard_at_s > _PATIENCE_S:
            raise MediaError(
                "{name} gives no sound any more. Plug it in again, or choose another microphone.", name=self.name
            )
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
