"""The measuring pass: both lanes of a mix read once, and all that the writing needs known from it.

K-weighting is linear, so that what was weighted of the lanes is, added, what would be of the mix; so the lanes are
heard apart (which lines are drowned) and together from the same two filters. The gain is found on the mix's energies
and peaks of every two milliseconds with the limiter's own curve, before anything is written.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from functools import partial
from typing import Final

import numpy as np
import numpy.typing as npt

from zweistimme.project.sound_delivery import Channels, LoudnessOf, SoundPreset
from zweistimme.project.times import RATE
from zweistimme.sound.arrays import Floats, Mono, Sound, amplitude, decibels
from zweistimme.sound.cores import together
from zweistimme.sound.k_weighting import HOP_SAMPLES, KWeighting
from zweistimme.sound.limiter import MARGIN_DB, RELEASE_DB_PER_SECOND, reductions_db
from zweistimme.sound.loudness import energies_of, integrated_lufs
from zweistimme.sound.true_peak import HISTORY, STEP, after, step_peaks

MOST_LIMITING_DB: Final = 8.0
"""How far a mix may be pushed beyond its true peak into the limiter; more would be heard."""
FINE_SAMPLES: Final = 4 * STEP
"""Samples of a fine step: 2 ms."""
_SEARCHES: Final = 24
_NEAR_LU: Final = 0.005


LAYOUTS: Final[Mapping[Channels, Sound]] = {
    Channels.MONO: np.array([[1.0, 0.5, 0.5]], dtype=np.float32),
    Channels.STEREO: np.array([[1, 1, 0], [1, 0, 1]], dtype=np.float32),
    Channels.SURROUND: np.array(
        [[0, 1, 0], [0, 0, 1], [2**0.5, 0, 0], [0, 0, 0], [0, 0, 0], [0, 0, 0]], dtype=np.float32
    ),
}
"""What each channel has of the dub, and of the left and right of what lies beside it. In 5.1 (left, right, centre,
low, and the two behind, as WAVE_FORMAT_EXTENSIBLE orders them) the dub is as loud from the centre as it is from both
sides."""


@dataclass(frozen=True, slots=True)
class LayoutMeasure:
    """What was heard of a mix in some channels before any gain. *energies* are K-weighted, per 2 ms; *peaks* are those
    of the same 2 ms, exact where they are within what may be limited of the largest."""

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
        reduced = reductions_db(ahead, RELEASE_DB_PER_SECOND * FINE_SAMPLES / RATE)
        energies = self.energies * 10 ** ((gain_db - reduced) / 10)
        return integrated_lufs(energies.reshape(-1, HOP_SAMPLES // FINE_SAMPLES).mean(axis=1))

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


@dataclass(frozen=True, slots=True)
class MixMeasure:
    """What was heard of a mix and its lanes before any gain: K-weighted energies of tenths of a second, *dub* as one
    channel, *sides* (what lies under it, and its room) summed over both; and the mix in each layout that was asked."""

    dub: Floats
    sides: Floats
    layouts: Mapping[Channels, LayoutMeasure]

    def dialogue_lufs(self, channels: Channels) -> float:
        """How loud the dub alone is in a layout."""
        share = float((LAYOUTS[channels][:, 0].astype(np.float64) ** 2).sum())
        return integrated_lufs(self.dub * share)

    def gain_db(self, preset: SoundPreset) -> float:
        """The gain by which a mix is as loud as a preset wants, as far as limiting may go."""
        layout = self.layouts[preset.channels]
        if preset.loudness_of is LoudnessOf.PROGRAMME:
            return layout.gain_db(preset.loudness_lufs, preset.true_peak_dbtp)
        needed = preset.loudness_lufs - self.dialogue_lufs(preset.channels)
        return min(needed, layout.most_gain_db(preset.true_peak_dbtp)) if np.isfinite(needed) else 0.0


def measured_mix(lanes: Iterable[tuple[Mono, Sound]], layouts: Sequence[Channels] = (Channels.STEREO,)) -> MixMeasure:
    """Measure a mix given as blocks of its lanes at 48 kHz: the dub, shape ``(n,)``, and what lies beside it, shape
    ``(2, n)``."""
    filters = [KWeighting() for _ in range(3)]
    dub, beside = list[Floats](), list[Floats]()
    made = {channels: _LayoutMeter(LAYOUTS[channels]) for channels in layouts}
    for voice, sides in lanes:
        given = np.stack((voice, *sides))
        weighted = together([partial(one.feed, line) for one, line in zip(filters, given, strict=True)])
        dub.append(energies_of(weighted[0]))
        beside.append(energies_of(weighted[1]) + energies_of(weighted[2]))
        for meter in made.values():
            meter.feed(given, weighted)
    return MixMeasure(_joined(dub), _joined(beside), {channels: meter.result() for channels, meter in made.items()})


class _LayoutMeter:
    """Energies and peaks of the channels that are made of the lanes."""

    def __init__(self, matrix: Sound) -> None:
        self._rows = [row for row in matrix if row.any()]
        self._peaks = _FinePeaks(len(self._rows))
        self._fine: list[Floats] = []

    def feed(self, given: Sound, weighted: Sequence[Mono]) -> None:
        self._peaks.feed(np.stack([_mixed(row, given) for row in self._rows]))
        self._fine.append(np.sum([energies_of(_mixed(row, weighted), FINE_SAMPLES) for row in self._rows], axis=0))

    def result(self) -> LayoutMeasure:
        energies = _joined(self._fine)
        hops = energies.reshape(-1, HOP_SAMPLES // FINE_SAMPLES).mean(axis=1)
        return LayoutMeasure(
            energies.astype(np.float32),
            self._peaks.result(len(energies)),
            integrated_lufs(hops),
            float(decibels(self._peaks.largest)),
        )


def _mixed(row: Mono, lanes: Sequence[Mono] | Sound) -> Mono:
    """One channel: what it has of each lane, added."""
    parts = [lane if share == 1 else lane * share for share, lane in zip(row, lanes, strict=True) if share]
    return np.asarray(sum(parts[1:], parts[0]))


def _joined(parts: list[Floats]) -> Floats:
    return np.concatenate(parts) if parts else np.empty(0)


class _FinePeaks:
    """The largest magnitude at four times the rate of every 2 ms, block by block."""

    def __init__(self, channels: int) -> None:
        self._history = np.zeros((channels, HISTORY), dtype=np.float32)
        self._rest = np.zeros((channels, 0), dtype=np.float32)
        self._parts: list[Mono] = []
        self.largest = 0.0

    def feed(self, sound: Sound) -> None:
        joined = np.concatenate((self._rest, sound), axis=1) if self._rest.shape[1] else sound
        whole = joined.shape[1] // FINE_SAMPLES * FINE_SAMPLES
        if whole:
            self._take(joined[:, :whole])
        self._rest = joined[:, whole:]

    def _take(self, sound: Sound) -> None:
        self.largest = max(self.largest, float(sound.max()), -float(sound.min()))
        steps = step_peaks(sound, self._history, self.largest * amplitude(-MOST_LIMITING_DB))
        fine = steps.reshape(-1, FINE_SAMPLES // STEP).max(axis=1)
        self._parts.append(fine)
        self.largest = max(self.largest, float(fine.max()))
        self._history = after(self._history, sound)

    def result(self, count: int) -> Mono:
        """The peaks of all whole steps, shape ``(count,)``; of what is left only the largest is known."""
        if self._rest.shape[1]:
            self.largest = max(self.largest, float(step_peaks(self._rest, self._history, self.largest).max()))
        return np.concatenate(self._parts)[:count] if self._parts else np.zeros(count, dtype=np.float32)
