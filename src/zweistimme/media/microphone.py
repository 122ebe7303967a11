"""Microphones: something that is started, gives sound as it comes, and is stopped. One that plays a sound file stands
in for a device where there is none."""

from __future__ import annotations

import time
from pathlib import Path
from typing import Protocol

import numpy as np
import numpy.typing as npt

from zweistimme.media.decode import decoded_blocks
from zweistimme.media.decode_notes import DecodeNotes
from zweistimme.project.errors import MediaError
from zweistimme.project.times import RATE

Samples = npt.NDArray[np.float32]
_LONGEST_S = 120


class Microphone(Protocol):
    """One channel at 48 kHz."""

    @property
    def name(self) -> str: ...

    def start(self) -> None:
        """Begin to listen; MediaError if the device does not."""

    def read(self) -> Samples:
        """What has come since the last call, shape ``(n,)``; MediaError if the device is gone."""

    def stop(self) -> None:
        """Listen no more."""


class FileMicrophone:
    """A sound file heard at its own pace, or *pace* times as fast; then silence."""

    def __init__(self, path: Path, *, pace: float = 1.0) -> None:
        self._path, self._pace = path, pace
        self._sound: Samples = np.empty(0, dtype=np.float32)
        self._began = 0.0
        self._given = 0

    @property
    def name(self) -> str:
        return self._path.name

    def start(self) -> None:
        blocks: list[Samples] = []
        for block in decoded_blocks(self._path, DecodeNotes()):
            blocks.append(block.mean(axis=0, dtype=np.float32))
            if sum(map(len, blocks)) > _LONGEST_S * RATE:
                raise MediaError("{file} is longer than two minutes. Choose a shorter file.", file=self._path.name)
        self._sound = np.concatenate(blocks)
        self._began, self._given = time.monotonic(), 0

    def read(self) -> Samples:
        due = round((time.monotonic() - self._began) * self._pace * RATE)
        part = self._sound[self._given : due]
        silent = max(0, due - self._given - len(part))
        self._given = max(due, self._given)
        return np.concatenate((part, np.zeros(silent, dtype=np.float32)))

    def stop(self) -> None:
        self._sound = self._sound[:0]
