"""A look-ahead limiter that holds the true peak, block by block.

The gain is worked out at knots 0.5 ms apart from peaks at four times the rate: a maximum of the needed reduction
over the look-ahead (so that it is reached before the peak), a release in decibels, and an average over the
look-ahead (so that it never jumps).
"""

from __future__ import annotations

from typing import Final

import numpy as np

from zweistimme.sound.arrays import Floats, Sound, amplitude
from zweistimme.sound.true_peak import HISTORY, STEP, after, step_peaks

LOOK_AHEAD: Final = 8
"""In steps: 4 ms."""
MARGIN_DB: Final = 0.1
"""What the changing gain itself may add between samples."""
RELEASE_DB_PER_SECOND: Final = 80.0
_FALL_DB: Final = RELEASE_DB_PER_SECOND * STEP / 48_000


def reductions_db(needs_db: Floats, fall_db: float, before_db: float = 0.0) -> Floats:
    """The reduction of each step, in dB, that is at least what the step needs and falls no faster than *fall_db* a
    step; *before_db* is that of the step before. A running maximum of the need plus the release gone by."""
    time = np.arange(1, len(needs_db) + 1) * fall_db
    return np.maximum(np.maximum(np.maximum.accumulate(needs_db + time), before_db) - time, 0.0)


class TruePeakLimiter:
    """Feed blocks of sound at 48 kHz; each call returns the samples that are ready, ``finish`` the rest.

    In all, exactly as many samples come out as went in, in step with the input.
    """

    def __init__(self, channels: int, ceiling_dbtp: float) -> None:
        self._ceiling = amplitude(ceiling_dbtp - MARGIN_DB)
        self._history = np.zeros((channels, HISTORY), dtype=np.float32)
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
        peaks = step_peaks(sound, self._history, self._ceiling)
        self._history = after(self._history, sound)
        needs = 20 * np.log10(np.maximum(peaks.astype(np.float64) / self._ceiling, 1.0))
        self._needs_db = np.concatenate((self._needs_db, needs))

    def _emit(self, steps: int) -> Sound:
        if not steps:
            return self._waiting[:, :0]
        if not len(self._reductions_db):  # there is nothing before the beginning to come down in
            first = float(self._needs_db[: LOOK_AHEAD + 3].max())
            self._reductions_db = np.full(LOOK_AHEAD, first)
            self._last_knot = 10 ** (-first / 20)
        ready = self._waiting[:, : steps * STEP]
        if self._needs_db.any() or self._reductions_db.any():
            knots = np.concatenate(([self._last_knot], self._knots(steps)))
            self._last_knot = float(knots[-1])
            curve = knots[:-1, None] + np.diff(knots)[:, None] * (np.arange(STEP) / STEP)
            ready = ready * curve.astype(np.float32).ravel()
        self._waiting = self._waiting[:, steps * STEP :]
        self._needs_db = self._needs_db[steps:]
        return ready

    def _knots(self, steps: int) -> Floats:
        """Gains at the ends of the next *steps* steps."""
        held = np.lib.stride_tricks.sliding_window_view(self._needs_db, LOOK_AHEAD + 3).max(axis=1)[1 : steps + 1]
        released = reductions_db(held, _FALL_DB, self._reductions_db[-1])
        recent = np.concatenate((self._reductions_db, released))
        self._reductions_db = recent[-LOOK_AHEAD:]
        average = np.convolve(recent, np.full(LOOK_AHEAD, 1 / LOOK_AHEAD), mode="valid")[-steps:]
        return np.asarray(10 ** (-average / 20))
