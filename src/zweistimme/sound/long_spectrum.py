"""The spectrum of a voice over a long time, in third octaves, and the filter that brings one to another.

After ISO 226's and IEC 61260-1's third octaves; what is compared is the mean of the frames in which somebody speaks, so
that pauses say nothing of a voice.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from typing import Final

import numpy as np

from zweistimme.sound.arrays import Floats, Mono, framed
from zweistimme.sound.fourier import irfft, rfft

RATE: Final = 48_000
_FRAME: Final = 2_048
_HOP: Final = 1_024
_AT_ONCE: Final = 1_024
BANDS_HZ: Final = tuple(1_000.0 * 2 ** (k / 3) for k in range(-10, 13))
"""Middles of third octaves, 99 Hz to 16 kHz."""
_UNDER_LOUD_DB: Final = 25.0
"""What is more than this under a voice's loud frames is none of its speech."""
TAPS: Final = 1_024
_FILTER_SIZE: Final = 4_096
_LEAST_SHARE: Final = 1e-12
_LEAST_OF_LOUDEST: Final = 1e-4


@dataclass(frozen=True, slots=True)
class BandPowers:
    """Mean power of each third octave, shape ``(23,)``, and of how many frames it is the mean."""

    powers: Floats
    frames: int

    def levels_db(self) -> Floats:
        """In dB, floored at -120."""
        return 10 * np.log10(np.maximum(self.powers, _LEAST_SHARE))


NOTHING: Final = BandPowers(np.zeros(len(BANDS_HZ)), 0)


@lru_cache(maxsize=1)
def _bank() -> Floats:
    """Which bins belong to which band, by the share of them that lies in it; shape ``(bins, bands)``."""
    width = RATE / _FRAME
    bins = np.arange(_FRAME // 2 + 1) * width
    middles = np.array(BANDS_HZ)[None, :]
    low, high = middles * 2 ** (-1 / 6), middles * 2 ** (1 / 6)
    inside = np.minimum(bins[:, None] + width / 2, high) - np.maximum(bins[:, None] - width / 2, low)
    return np.clip(inside / width, 0.0, 1.0)


def frame_powers(samples: Mono) -> Floats:
    """Power of each third octave in frames of 43 ms, one every 21 ms; shape ``(k, 23)``."""
    window = np.hanning(_FRAME + 1)[:-1].astype(np.float32)
    scale = 2.0 / (_FRAME * float((window.astype(np.float64) ** 2).sum()))
    frames = framed(samples, _FRAME, _HOP)
    parts = [
        (np.abs(rfft(frames[k : k + _AT_ONCE] * window)) ** 2 * scale) @ _bank()
        for k in range(0, len(frames), _AT_ONCE)
    ]
    return np.concatenate(parts) if parts else np.empty((0, len(BANDS_HZ)))


def spoken(powers: Floats) -> np.ndarray[tuple[int], np.dtype[np.bool_]]:
    """In which frames of third octaves somebody speaks: those not far under the loud ones; shape ``(k,)``."""
    whole = powers.sum(axis=1)
    if not len(whole):
        return np.zeros(0, dtype=np.bool_)
    return whole > max(float(np.percentile(whole, 95)) * 10 ** (-_UNDER_LOUD_DB / 10), 1e-11)


def mean_powers(powers: Floats) -> BandPowers:
    """The mean of some frames."""
    return BandPowers(powers.mean(axis=0), len(powers)) if len(powers) else NOTHING


def together(some: list[BandPowers]) -> BandPowers:
    """The mean of several, by their frames."""
    frames = sum(one.frames for one in some)
    if not frames:
        return NOTHING
    return BandPowers(np.sum([one.powers * one.frames for one in some], axis=0) / frames, frames)


def correction_db(
    wanted: BandPowers, given: BandPowers, under: BandPowers, most_db: float, from_hz: float = 0.0
) -> Floats:
    """What each band of *given* lacks to sound as *wanted* does, shape ``(23,)``: levels aside, smoothed over an
    octave, within ``±most_db``. *under* is what is heard where *wanted* pauses: bands it drowns tell nothing and
    change nothing, nor do those under *from_hz*."""
    clean = np.maximum(wanted.powers - under.powers, 0.0)
    told = (clean > under.powers) & (np.array(BANDS_HZ) >= from_hz)
    for powers in (clean, given.powers):  # what is next to nothing beside the loudest is no part of a voice
        told &= powers > max(float(powers.max()) * _LEAST_OF_LOUDEST, _LEAST_SHARE)
    if told.sum() < len(BANDS_HZ) // 3:
        return np.zeros(len(BANDS_HZ))
    apart = np.zeros(len(BANDS_HZ))
    apart[told] = 10 * np.log10(clean[told] / given.powers[told])
    weights = told * np.minimum(clean, given.powers * clean[told].sum() / given.powers[told].sum())
    middle = float(np.average(apart[told], weights=np.sqrt(weights[told])))
    shape = np.array([0.5, 1.0, 0.5])
    there = np.convolve(told.astype(np.float64), shape, "same")
    smooth = np.convolve(np.where(told, apart - middle, 0.0), shape, "same") / np.maximum(there, 0.5)
    return np.where(there > 0, np.clip(smooth, -most_db, most_db), 0.0)


def band_curve_db(bands_db: Floats, hertz: Floats) -> Floats:
    """A curve through the bands, at any frequency; beyond the last ones as they are."""
    return np.interp(np.log2(np.maximum(hertz, 1.0)), np.log2(np.array(BANDS_HZ)), bands_db)


def filter_bins_hz() -> Floats:
    """The frequencies at which a filter is given to ``minimum_phase``."""
    return np.fft.rfftfreq(_FILTER_SIZE, 1 / RATE).astype(np.float64)


def minimum_phase(gains_db: Floats) -> Mono:
    """The filter of 1,024 taps that has these gains at ``filter_bins_hz`` and delays nothing: its phase is the least
    there can be, by the cepstrum (Oppenheim and Schafer, *Discrete-Time Signal Processing*, 12.4)."""
    cepstrum = irfft(np.maximum(gains_db, -80.0).astype(np.complex128) * (np.log(10) / 20), _FILTER_SIZE)
    half = _FILTER_SIZE // 2
    cepstrum[1:half] *= 2
    cepstrum[half + 1 :] = 0
    taps = irfft(np.exp(rfft(cepstrum)), _FILTER_SIZE)[:TAPS]
    taps[-TAPS // 4 :] *= np.cos(np.linspace(0, np.pi / 2, TAPS // 4)) ** 2
    return taps.astype(np.float32)


def filtered(samples: Mono, taps: Mono) -> Mono:
    """Samples through a filter, as many as before: what it rings beyond the end is left."""
    from scipy.signal import oaconvolve

    if not len(samples):
        return samples
    return np.asarray(oaconvolve(samples, taps)[: len(samples)], dtype=np.float32)
