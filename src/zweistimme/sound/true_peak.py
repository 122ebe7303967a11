"""The true peak: what lies between samples, by the interpolating filter of ITU-R BS.1770-5, annex 2.

Four phases of twelve taps are one matrix product a step of 24 samples. Where the samples around a step are so small
that no phase can reach what is asked about, nothing is interpolated: the answer is the same, and most of a programme
is far under its peak.
"""

from __future__ import annotations

from functools import partial
from typing import Final

import numpy as np

from zweistimme.sound.arrays import Mono, Sound
from zweistimme.sound.cores import together

STEP: Final = 24
"""Samples of one step: half a millisecond at 48 kHz."""
# four phases of an interpolating filter; the other two are these reversed
_PHASE_0: Final = [
    0.001708984375, 0.010986328125, -0.0196533203125, 0.033203125, -0.0594482421875, 0.1373291015625,
    0.97216796875, -0.102294921875, 0.047607421875, -0.026611328125, 0.014892578125, -0.00830078125,
]  # fmt: skip
_PHASE_1: Final = [
    -0.0291748046875, 0.029296875, -0.0517578125, 0.0891113281250, -0.16650390625, 0.4650878906250,
    0.77978515625, -0.2003173828125, 0.1015625, -0.0582275390625, 0.0330810546875, -0.0189208984375,
]  # fmt: skip
_PHASES: Final = np.array([_PHASE_0, _PHASE_1, _PHASE_1[::-1], _PHASE_0[::-1]], dtype=np.float32)
_TAPS: Final = 12
_MOST: Final = float(np.abs(_PHASES.astype(np.float64)).sum(axis=1).max()) * 1.0001
"""No phase can be larger than its samples times this."""
HISTORY: Final = STEP + _TAPS - 2
"""Samples before a block that its first step may need."""
_TOGETHER: Final = 40
"""Steps that are looked at, and interpolated or not, together."""
_AT_ONCE: Final = 512
"""Steps in one product: what comes of it stays in the processor's cache."""


def _interpolation() -> Sound:
    """From the samples of a step and the 11 before it to each sample and its four phases; shape ``(120, 35)``."""
    matrix = np.zeros((5 * STEP, STEP + _TAPS - 1), dtype=np.float32)
    for sample in range(STEP):
        matrix[sample, sample + _TAPS - 1] = 1.0
        for phase, taps in enumerate(_PHASES):
            matrix[(phase + 1) * STEP + sample, sample : sample + _TAPS] = taps[::-1]
    return matrix


_MATRIX: Final = _interpolation()


def step_peaks(sound: Sound, history: Sound, least: float) -> Mono:
    """The largest magnitude of any channel in each step of *sound*, at four times its rate; shape ``(steps,)``.

    *sound* has shape ``(channels, n)``, *history* the ``HISTORY`` samples before it (silence before the beginning).
    Steps are counted from the end, so that the first also looks back where *n* is no multiple of 24. What is over
    *least* is exact; instead of what is not, there may be the largest sample near it. The filter delays by 5.5 samples.
    """
    count = -(-sound.shape[1] // STEP)
    joined = np.concatenate((history, sound), axis=1)[:, sound.shape[1] + HISTORY - (count * STEP + _TAPS - 1) :]
    peaks = together([partial(_of_channel, line, count, least) for line in joined])
    return np.maximum.reduce(peaks)


def _of_channel(line: Mono, count: int, least: float) -> Mono:
    """*line* begins 11 samples before the first step."""
    samples = _of_groups(line[_TAPS - 1 :])
    before = np.concatenate((_magnitude(line[None, : _TAPS - 1]), samples[:-1]))
    # the windows of a group reach into the one before it
    reach = np.maximum(samples, before) * _MOST
    result = np.repeat(samples, _TOGETHER)[:count]
    steps = (np.flatnonzero(reach > least)[:, None] * _TOGETHER + np.arange(_TOGETHER)).ravel()
    steps = steps[: np.searchsorted(steps, count)]
    windows = np.lib.stride_tricks.sliding_window_view(line, STEP + _TAPS - 1)[::STEP]
    for first in range(0, len(steps), _AT_ONCE):
        some = steps[first : first + _AT_ONCE]
        together = some[-1] - some[0] + 1 == len(some)
        part = windows[some[0] : some[-1] + 1] if together else windows[some]
        # phases as rows: their largest are found along memory
        between = _MATRIX @ np.ascontiguousarray(part).T
        result[some] = np.maximum(between.max(axis=0), -between.min(axis=0))
    return result


def _of_groups(line: Mono) -> Mono:
    """The largest sample of every ``_TOGETHER`` steps; the last may be fewer."""
    size = _TOGETHER * STEP
    whole = len(line) // size * size
    parts = [_magnitude(line[:whole].reshape(-1, size))]
    if whole < len(line):
        parts.append(_magnitude(line[None, whole:]))
    return np.concatenate(parts)


def _magnitude(rows: Sound) -> Mono:
    """The largest magnitude of each row."""
    return np.asarray(np.maximum(rows.max(axis=1), -rows.min(axis=1)))


class PeakMeter:
    """The true peak of sound fed block by block."""

    def __init__(self, channels: int) -> None:
        self._history = np.zeros((channels, HISTORY), dtype=np.float32)
        self.largest = 0.0
        """The largest magnitude so far."""

    def feed(self, sound: Sound) -> None:
        """Take in a block, shape ``(channels, n)``, at 48 kHz."""
        if not sound.shape[1]:
            return
        known = max(self.largest, float(sound.max()), -float(sound.min()))
        self.largest = max(known, float(step_peaks(sound, self._history, known).max()))
        self._history = after(self._history, sound)


def after(history: Sound, sound: Sound) -> Sound:
    """The history of what comes behind *sound*."""
    if sound.shape[1] >= HISTORY:
        return sound[:, -HISTORY:].copy()
    return np.concatenate((history, sound), axis=1)[:, -HISTORY:]
