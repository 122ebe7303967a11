"""Listening more slowly with the pitch kept: blocks of sound stretched one by one, faded into each other."""

from __future__ import annotations

from typing import Final

import numpy as np
import numpy.typing as npt

from zweistimme.project.times import RATE

Frames = npt.NDArray[np.float32]
"""Interleaved stereo, shape ``(n, 2)``."""
CHUNK: Final = RATE // 10
_BLOCK: Final = RATE // 2
_FADE: Final = RATE // 40


class Slowing:
    """Feed it stretches of ``span`` samples, each ``step`` behind the one before; what comes back follows on."""

    def __init__(self, speed: float = 1.0) -> None:
        self.speed = speed
        self.step = CHUNK if speed == 1.0 else _BLOCK
        self.span = CHUNK if speed == 1.0 else _BLOCK + round(_FADE * speed)
        self._tail: Frames | None = None

    def heard(self, sound: Frames) -> Frames:
        """What is heard of a stretch, shape ``(n, 2)``."""
        if self.speed == 1.0:
            return sound
        from zweistimme.sound.stretch import stretch_channels

        length = round(self.step / self.speed)
        slow = stretch_channels(np.ascontiguousarray(sound.T), length + _FADE).T
        if self._tail is not None:
            fade = np.linspace(0, 1, _FADE, dtype=np.float32)[:, None]
            slow[:_FADE] = slow[:_FADE] * fade + self._tail * (1 - fade)
        self._tail = slow[length:].copy()
        return np.ascontiguousarray(slow[:length], dtype=np.float32)
