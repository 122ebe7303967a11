"""A look-ahead limiter that holds the true peak, block by block.

The gain is worked out at knots 0.5 ms apart from peaks at four times the rate: a maximum of the needed reduction
over the look-ahead (so that it is reached before the peak), a release in decibels, and an average over the
look-ahead (so that it never jumps).
"""

from __future__ import annotations

from typing import Final

import numpy as np

from zweistimme.sound.arrays import Floats, Sound, amplitude
from zweistimme.sound.loudness import TAPS, oversampled_peaks

STEP: Final = 24
LOOK_AHEAD: Final = 8
"""In steps: 4 ms."""
_MARGIN_DB: Final = 0.1
"""What the changing gain itself may add between samples."""


class TruePeakLimiter:
    """Feed blocks of sound at 48 kHz; each call returns the samples that are ready, ``finish`` the rest.

    In all, exactly as many samples come out as went in, in step with the input.
    """

    def __init__(self, channels: int, ceiling_dbtp: float, *, release_db_per_second: float = 80.0) -> None:
        self._ceiling = amplitude(ceiling_dbtp - _MARGIN_DB)
        self._fall_db = release_db_per_second * STEP / 48_000
        self._history = np.zeros((channels, TAPS - 1), dtype=np.float32)
        self._waiting = np.zeros((channels, 0), dtype=np.float32)
        self._needs_db = np.zeros(1)  # of the step before the first that waits, and of those that wait
        self._reductions_db = np.empty(0)  # the latest, as far back as the average reaches
        self._last_knot = 1.0

    def feed(self, sound: Sound) -> Sound:
        """Take in a block, shape ``(channels, n)``; give back what is ready."""
        self._waiting = np.concatenate((self._waiting, sound), axis=1)
        measured = len(self._needs_db) - 1
        whole = self._waiting.shape[1] // STEP
        self._measure(self._waiting[:, measured * STEP : whole * STEP])
        return self._emit(max(0, whole - LOOK_AHEAD - 2))

    def finish(self) -> Sound:
        """The last samples."""
        left = self._waiting.shape[1]
        short = -left % STEP + (LOOK_AHEAD + 2) * STEP
        return self.feed(np.zeros((len(self._waiting), short), dtype=np.float32))[:, :left]

    def _measure(self, sound: Sound) -> None:
        if not sound.shape[1]:
            return
        peaks = oversampled_peaks(sound, self._history).max(axis=0).reshape(-1, STEP).max(axis=1)
        self._history = np.concatenate((self._history, sound), axis=1)[:, -(TAPS - 1) :]
        needs = 20 * np.log10(np.maximum(peaks.astype(np.float64) / self._ceiling, 1.0))
        self._needs_db = np.concatenate((self._needs_db, needs))

    def _emit(self, steps: int) -> Sound:
        if not steps:
            return self._waiting[:, :0]
        if not len(self._reductions_db):  # there is nothing before the beginning to come down in
            first = float(self._needs_db[: LOOK_AHEAD + 3].max())
            self._reductions_db = np.full(LOOK_AHEAD, first)
            self._last_knot = 10 ** (-first / 20)
        knots = np.concatenate(([self._last_knot], self._knots(steps)))
        self._last_knot = float(knots[-1])
        curve = np.interp(np.arange(steps * STEP) / STEP, np.arange(steps + 1), knots).astype(np.float32)
        ready = self._waiting[:, : steps * STEP] * curve
        self._waiting = self._waiting[:, steps * STEP :]
        self._needs_db = self._needs_db[steps:]
        return ready

    def _knots(self, steps: int) -> Floats:
        """Gains at the ends of the next *steps* steps."""
        held = np.lib.stride_tricks.sliding_window_view(self._needs_db, LOOK_AHEAD + 3).max(axis=1)[1 : steps + 1]
        time = np.arange(1, steps + 1) * self._fall_db
        # the reduction falls no faster than the release: a running maximum of reduction plus elapsed release
        released = np.maximum(np.maximum.accumulate(held + time), self._reductions_db[-1]) - time
        recent = np.concatenate((self._reductions_db, np.maximum(released, 0.0)))
        self._reductions_db = recent[-LOOK_AHEAD:]
        average = np.convolve(recent, np.full(LOOK_AHEAD, 1 / LOOK_AHEAD), mode="valid")[-steps:]
        return np.asarray(10 ** (-average / 20))
