"""Time maps: which moment of a take is heard at which moment of its placement.

A map is a pair of arrays, knots in samples of the result and of the source, both increasing. Pauses give first;
then speech gives where it can: steady voiced stretches most, bursts and fast transitions almost nothing, after
Covell, Withgott and Slaney (ICASSP 1998) and Demol et al. (Interspeech 2005).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache, partial

import numpy as np
import numpy.typing as npt

from zweistimme.sound.arrays import Floats, Mono, decibels, decimated, framed
from zweistimme.sound.cores import together
from zweistimme.sound.fourier import rfft

HOP = 480
"""Samples between two measurements of elasticity: 10 ms at 48 kHz."""
_SLOWER = 3
_LOW_PASS = (np.sinc(np.arange(-16, 17) / _SLOWER) / _SLOWER * np.hanning(35)[1:-1]).astype(np.float32)
_AT_ONCE = 512
"""Frames looked at in one go."""
_FLOOR = 1e-7 / _SLOWER**2
_BINS, _LOW_BINS = 158, 18
"""Bins of a spectrum that are looked at, from 100 Hz to 8 kHz, and those of them under 1 kHz."""
STIFFEST = 0.04
SLOWEST, FASTEST = 2.2, 0.4
"""Bounds on how much one 10 ms step may grow or shrink."""


@dataclass(frozen=True, slots=True)
class TimeMap:
    """Knots of a map from result to source, in samples, shapes ``(k,)``; linear between knots."""

    result: Floats
    source: Floats

    def to_source(self, result_samples: Floats) -> Floats:
        """Source positions heard at the given positions of the result."""
        return np.interp(result_samples, self.result, self.source)

    def to_result(self, source_samples: Floats) -> Floats:
        """Positions of the result at which the given source positions are heard."""
        return np.interp(source_samples, self.source, self.result)


def uniform_map(source_samples: int, result_samples: int) -> TimeMap:
    """One tempo from beginning to end."""
    return TimeMap(np.array([0.0, result_samples]), np.array([0.0, source_samples]))


def elasticity(samples: Mono) -> Floats:
    """How much each 10 ms of speech at 48 kHz may give, from 0.04 (a burst) to 1 (a steady vowel); shape ``(k,)``.

    Low where the spectrum changes quickly or the level jumps, high where it is loud, low-pitched and steady.
    """
    count = max(1, -(-len(samples) // HOP))
    # nothing over 8 kHz is looked at, so that a third of the samples is enough
    slow = np.pad(decimated(samples, _SLOWER, _LOW_PASS), (HOP // 2 // _SLOWER, 3 * HOP // _SLOWER))
    frames = framed(slow, 2 * HOP // _SLOWER, HOP // _SLOWER)[:count]
    parts = together([partial(_bands, frames[k : k + _AT_ONCE]) for k in range(0, count, _AT_ONCE)])
    bands, low = (np.concatenate([part[k] for part in parts]) for k in (0, 1))
    change = np.zeros(count)
    if count > 2:
        change[1:-1] = np.abs(bands[2:] - bands[:-2]).mean(1)
    level = decibels(np.sqrt(_frame_energies(samples, count)))
    rise = np.maximum(np.diff(level, prepend=level[:1]), 0)
    steady = np.exp(-change / 0.7) * np.exp(-rise / 4.0)
    give = steady * (0.35 + 0.65 * low)
    # a burst keeps a little room on both sides, so that no seam falls beside it
    guarded = np.minimum.reduce([give, np.roll(give, 1), np.roll(give, -1)])
    return np.clip(guarded, STIFFEST, 1.0)


def _bands(frames: npt.NDArray[np.float32]) -> tuple[Floats, Floats]:
    """The logarithm of the power in bands up to 8 kHz, and the share of it under 1 kHz, of each frame."""
    spectrum = rfft(frames * np.hanning(frames.shape[1]).astype(np.float32))[:, 2 : 2 + _BINS]
    power = np.square(spectrum.real) + np.square(spectrum.imag)
    sums = power @ _band_sums()
    return np.log(sums[:, :-2] + _FLOOR), sums[:, -2] / (sums[:, -1] + 1e-9)


@lru_cache(maxsize=1)
def _band_sums() -> Floats:
    """From the bins of a spectrum to its bands, the sum of the low ones and that of all, as a product."""
    edges = np.append(np.unique(np.geomspace(1, _BINS - 1, 18).astype(int)), _BINS)
    bins = np.arange(_BINS)[:, None]
    bands = (bins >= edges[:-1]) & (bins < edges[1:])
    return np.hstack([bands, bins < _LOW_BINS, bins >= 0]).astype(np.float64)


def _frame_energies(samples: Mono, count: int) -> Floats:
    """Mean squares of frames of 20 ms every 10 ms, the first 5 ms before the beginning."""
    half = HOP // 2
    parts = np.zeros((2 * count + 3) * half, dtype=np.float32)
    parts[half : half + len(samples)] = samples[: len(parts) - half]
    energies = np.vecdot(parts.reshape(-1, half), parts.reshape(-1, half)).astype(np.float64)
    return np.lib.stride_tricks.sliding_window_view(energies, 4)[::2][:count].sum(axis=1) / (2 * HOP)


def speech_map(
    samples: Mono, result_samples: int, *, pauses: Sequence[tuple[int, int]] = (), pauses_cut: int = 0
) -> TimeMap:
    """A map that makes *samples* exactly *result_samples* long.

    *pauses_cut* samples are taken from *pauses* (negative: added), in proportion to what each has above 60 ms, and what
    is left of them keeps its length; all the rest is shared by the speech in proportion to its elasticity. So the
    speech has the tempo that was planned for it, and a pause that is kept lasts as long as it did.
    """
    total = len(samples)
    if total == 0 or result_samples <= 0:
        raise ValueError("a take and its placement must both last longer than nothing")
    edges = np.append(np.arange(0, total, HOP), total).astype(np.float64)
    spans = np.diff(edges)
    paused = _pause_share(edges, pauses) * spans
    spare = float(paused.sum())
    cut = paused / spare * min(float(pauses_cut), 0.97 * spare) if spare and pauses_cut else np.zeros_like(spans)
    kept, speech = paused - cut, spans - paused
    give = elasticity(samples) * speech
    wanted = result_samples - float(kept.sum())
    if wanted <= FASTEST * float(speech.sum()):  # nothing but the pauses can give that much
        kept, speech, give, wanted = np.zeros_like(spans), spans - cut, elasticity(samples) * spans, result_samples
    grown = kept + _shared(speech, give, wanted - float(speech.sum()))
    result = np.concatenate(([0.0], np.cumsum(grown)))
    result *= result_samples / result[-1]
    result[-1] = result_samples
    return TimeMap(result, edges)


def _pause_share(edges: Floats, pauses: Sequence[tuple[int, int]]) -> Floats:
    """How much of each step lies in the middle of a pause (60 ms are left alone), 0..1."""
    share = np.zeros(len(edges) - 1)
    for start, end in pauses:
        a, b = start + 0.03 * 48_000, end - 0.03 * 48_000
        if b > a:
            share += np.clip(np.minimum(edges[1:], b) - np.maximum(edges[:-1], a), 0, None) / np.diff(edges)
    return np.minimum(share, 1.0)


def _shared(spans: Floats, give: Floats, wanted: float) -> Floats:
    """*spans* grown by *wanted* in all, each in proportion to *give* but within bounds; by bisection, since the
    total is a rising function of the share."""
    low_bound, high_bound = FASTEST * spans, SLOWEST * spans
    if not low_bound.sum() < spans.sum() + wanted < high_bound.sum():
        return spans * (1 + wanted / spans.sum())  # beyond what shape can serve: evenly
    low, high = -64.0, 64.0
    for _ in range(60):
        share = (low + high) / 2
        grown = np.clip(spans + share * give, low_bound, high_bound)
        low, high = (share, high) if grown.sum() < spans.sum() + wanted else (low, share)
    return np.clip(spans + high * give, low_bound, high_bound)
