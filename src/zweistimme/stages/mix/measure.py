"""The measuring pass: both lanes of a mix read once, and all that the writing needs known from it.

K-weighting is linear, so that what was weighted of the lanes is, added, what would be of the mix; so the lanes are
heard apart (which lines are drowned) and together from the same two filters. The gain is found on the mix's energies
and peaks of every two milliseconds with the limiter's own curve, before anything is written.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from functools import partial
from typing import Final

import numpy as np
import numpy.typing as npt

from zweistimme.project.times import RATE
from zweistimme.sound.arrays import Floats, Mono, Sound, amplitude, decibels
from zweistimme.sound.cores import together
from zweistimme.sound.k_weighting import HOP_SAMPLES, KWeighting
from zweistimme.sound.limiter import MARGIN_DB, RELEASE_DB_PER_SECOND, reductions_db
from zweistimme.sound.loudness import energies_of, integrated_lufs
from zweistimme.sound.true_peak import HISTORY, STEP, after, step_peaks

MOST_LIMITING_DB: Final = 8.0
"""How far a mix may be pushed beyond its true peak into the limiter; more would be heard."""
_FINE: Final = 4 * STEP
"""Samples of a fine step: 2 ms."""
_SEARCHES: Final = 24
_NEAR_LU: Final = 0.005


@dataclass(frozen=True, slots=True)
class MixMeasure:
    """What was heard of a mix and its lanes before any gain. Energies are K-weighted, per tenth of a second (*dub* as
    one channel, *under* summed over both) or, of the mix, per 2 ms; *peaks* are those of the same 2 ms, exact where
    they are within what may be limited of the largest."""

    dub: Floats
    under: Floats
    energies: npt.NDArray[np.float32]
    peaks: npt.NDArray[np.float32]
    integrated_lufs: float
    true_peak_dbtp: float

    def most_gain_db(self, ceiling_dbtp: float) -> float:
        """The largest gain that is not heard as limiting."""
        return ceiling_dbtp - self.true_peak_dbtp + MOST_LIMITING_DB

    def limited_lufs(self, gain_db: float, ceiling_dbtp: float) -> float:
        """How loud the mix will be with a gain and its true peak held."""
        over_db = np.maximum(decibels(self.peaks) + gain_db - (ceiling_dbtp - MARGIN_DB), 0.0)
        if not over_db.any():
            return self.integrated_lufs + gain_db
        ahead = np.maximum.reduce([over_db, np.append(over_db[1:], 0.0), np.append(over_db[2:], (0.0, 0.0))])
        reduced = reductions_db(ahead, RELEASE_DB_PER_SECOND * _FINE / RATE)
        energies = self.energies * 10 ** ((gain_db - reduced) / 10)
        return integrated_lufs(energies.reshape(-1, HOP_SAMPLES // _FINE).mean(axis=1))

    def gain_db(self, wanted_lufs: float, ceiling_dbtp: float) -> float:
        """The gain by which the limited mix is as loud as wanted, as far as limiting may go; by bisection."""
        low, high = wanted_lufs - self.integrated_lufs, self.most_gain_db(ceiling_dbtp)
        if not np.isfinite(low):
            return 0.0
        if low >= high or self.limited_lufs(high, ceiling_dbtp) <= wanted_lufs:
            return high
        if self.limited_lufs(low, ceiling_dbtp) >= wanted_lufs - _NEAR_LU:
            return low
        for _ in range(_SEARCHES):
            middle = (low + high) / 2
            miss = wanted_lufs - self.limited_lufs(middle, ceiling_dbtp)
            if abs(miss) < _NEAR_LU:
                return middle
            low, high = (middle, high) if miss > 0 else (low, middle)
        return low


def measured_mix(lanes: Iterable[tuple[Mono, Sound]]) -> MixMeasure:
    """Measure a mix given as blocks of its lanes at 48 kHz: the dub, shape ``(n,)``, and what lies under it, shape
    ``(2, n)``."""
    filters = [KWeighting() for _ in range(3)]
    dub, under, fine = list[Floats](), list[Floats](), list[Floats]()
    peaks = _FinePeaks()
    for voice, below in lanes:
        peaks.feed(below + voice[None, :])
        spoken, *sides = together([partial(one.feed, line) for one, line in zip(filters, (voice, *below), strict=True)])
        dub.append(energies_of(spoken))
        under.append(energies_of(sides[0]) + energies_of(sides[1]))
        fine.append(energies_of(sides[0] + spoken, _FINE) + energies_of(sides[1] + spoken, _FINE))
    energies = _joined(fine)
    hops = energies.reshape(-1, HOP_SAMPLES // _FINE).mean(axis=1)
    return MixMeasure(
        _joined(dub),
        _joined(under),
        energies.astype(np.float32),
        peaks.result(len(energies)),
        integrated_lufs(hops),
        float(decibels(peaks.largest)),
    )


def _joined(parts: list[Floats]) -> Floats:
    return np.concatenate(parts) if parts else np.empty(0)


class _FinePeaks:
    """The largest magnitude at four times the rate of every 2 ms, block by block."""

    def __init__(self) -> None:
        self._history = np.zeros((2, HISTORY), dtype=np.float32)
        self._rest = np.zeros((2, 0), dtype=np.float32)
        self._parts: list[Mono] = []
        self.largest = 0.0

    def feed(self, sound: Sound) -> None:
        joined = np.concatenate((self._rest, sound), axis=1) if self._rest.shape[1] else sound
        whole = joined.shape[1] // _FINE * _FINE
        if whole:
            self._take(joined[:, :whole])
        self._rest = joined[:, whole:]

    def _take(self, sound: Sound) -> None:
        self.largest = max(self.largest, float(sound.max()), -float(sound.min()))
        steps = step_peaks(sound, self._history, self.largest * amplitude(-MOST_LIMITING_DB))
        fine = steps.reshape(-1, _FINE // STEP).max(axis=1)
        self._parts.append(fine)
        self.largest = max(self.largest, float(fine.max()))
        self._history = after(self._history, sound)

    def result(self, count: int) -> Mono:
        """The peaks of all whole steps, shape ``(count,)``; of what is left only the largest is known."""
        if self._rest.shape[1]:
            self.largest = max(self.largest, float(step_peaks(self._rest, self._history, self.largest).max()))
        return np.concatenate(self._parts)[:count] if self._parts else np.zeros(count, dtype=np.float32)
