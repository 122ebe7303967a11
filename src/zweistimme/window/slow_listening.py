"""Listening more slowly with the pitch kept: stretches of sound made longer one by one, the same for all lanes."""

from __future__ import annotations

from typing import Final

import numpy as np

from zweistimme.project.times import RATE
from zweistimme.sound.arrays import Sound

FADE: Final = RATE // 40
"""How long one piece is faded into the next, in samples."""
_CHUNK: Final = RATE // 10
_BLOCK: Final = RATE // 2


def step_samples(speed: float) -> int:
    """How many samples of the programme are read at a time."""
    return _CHUNK if speed == 1.0 else _BLOCK


def span_samples(step: int, speed: float) -> int:
    """How many samples have to be read for a *step* and the fade behind it."""
    return step + round(FADE * speed)


def slowed(stems: Sound, step: int, speed: float) -> Sound:
    """A *step* of sound and the fade behind it, shape ``(channels, span_samples)``, as it is heard at *speed*."""
    if speed == 1.0:
        return stems
    from zweistimme.sound.stretch import stretch_channels

    length = round(step / speed) + FADE
    return np.asarray(stretch_channels(np.ascontiguousarray(stems), length), dtype=np.float32)
