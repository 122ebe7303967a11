"""Room tone: what a place sounds like when nobody speaks, grown from the pauses of a recording for as long as wanted.

Noise with the pauses' own spectrum, frame after frame, each independent of the others: nothing comes back, so no loop
is heard. How much each octave of the place goes up and down is measured, less what noise does by itself, and given to
it. Any stretch can be asked for, in any order, and is always the same.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

import numpy as np
import numpy.typing as npt

from zweistimme.sound.arrays import Floats, Sound, framed
from zweistimme.sound.fourier import irfft, rfft

RATE: Final = 48_000
FRAME: Final = 8_192
HOP: Final = FRAME // 2
_EDGES_HZ: Final = (0.0, 125.0, 250.0, 500.0, 1_000.0, 2_000.0, 4_000.0, 8_000.0, RATE)
_LEAST_FRAMES: Final = 6
"""Fewer frames (0.6 s) say too little of a place."""
_STEADY_FRAMES: Final = 25
_MOST_SPREAD_DB: Final = 4.0
_SEED: Final = 0x70E
_AT_ONCE: Final = 64
_BLEND: Final = 5
"""Bins over which the spectrum is smoothed: fewer than a hum is wide would leave single bins to chance."""


@dataclass(frozen=True, slots=True, eq=False)
class RoomTone:
    """A place, bin by bin: the amplitude of the left side, what of it the right side has, and what the right side has
    of its own, shape ``(3, 4097)``; how far all of it, and besides each octave by itself, goes up and down in dB, and
    how much of that is left a frame (85 ms) later, shape ``(9,)`` each."""

    shapes: npt.NDArray[np.complex128]
    spread_db: Floats
    stays: Floats


def room_tone_of(pauses: list[Sound]) -> RoomTone | None:
    """A place from its pauses, one or two channels each at 48 kHz; None where they are too short altogether. The
    loudest tenth of their frames is left: a step, a breath, the last of a word."""
    spectra = np.concatenate(
        [_spectra(one) for one in pauses] or [np.empty((0, 2, FRAME // 2 + 1), dtype=np.complex128)]
    )
    if len(spectra) < _LEAST_FRAMES:
        return None
    powers = np.abs(spectra) ** 2
    whole = powers.sum(axis=(1, 2))
    quiet = whole <= np.percentile(whole, 90)
    spread, stays = _modulation(powers[quiet].sum(axis=1))
    return RoomTone(_shapes(spectra[quiet]), spread, stays)


def _spectra(sound: Sound) -> npt.NDArray[np.complex128]:
    """The spectrum of both sides, frame by frame; shape ``(k, 2, bins)``. Its power, summed, is the mean square."""
    window = np.hanning(FRAME + 1)[:-1]
    scale = np.sqrt(2.0 / (FRAME * float((window**2).sum())))
    return np.stack([rfft(framed(one, FRAME, HOP) * window) * scale for one in (sound[0], sound[-1])], axis=1)


def _shapes(spectra: npt.NDArray[np.complex128]) -> npt.NDArray[np.complex128]:
    """What makes two independent noises the two sides of a place: the triangular root of what they have in common."""
    left, right = spectra[:, 0], spectra[:, 1]
    powers = [_blended((np.abs(side) ** 2).mean(axis=0)) for side in (left, right)]
    shared = _blended((right * left.conj()).mean(axis=0))
    first = np.sqrt(powers[0])
    common = shared / np.maximum(first, 1e-12)
    own = np.sqrt(np.maximum(powers[1] - np.abs(common) ** 2, 0.0))
    return np.stack((first, common, own)).astype(np.complex128)


def _blended(values: npt.NDArray[np.inexact]) -> npt.NDArray[np.inexact]:
    kernel = np.hanning(_BLEND + 2)[1:-1]
    return np.convolve(np.pad(values, _BLEND // 2, mode="edge"), kernel / kernel.sum(), "valid")


def _octaves() -> Floats:
    """Which bins belong to which octave, shape ``(bins, 8)``."""
    hertz = np.fft.rfftfreq(FRAME, 1 / RATE)[:, None]
    edges = np.array(_EDGES_HZ)
    return ((hertz >= edges[:-1]) & (hertz < edges[1:])).astype(np.float64)


def _modulation(powers: Floats) -> tuple[Floats, Floats]:
    """How far octaves go up and down beyond what steady noise of that many bins does, and how much of it stays."""
    octaves = _octaves()
    if len(powers) < _STEADY_FRAMES:
        return np.zeros(octaves.shape[1] + 1), np.zeros(octaves.shape[1] + 1)
    levels = 10 * np.log10(powers @ octaves + 1e-20)
    # each bin's power is that of two squares; a Hann window leaves two thirds of the bins independent
    shape = powers.mean(axis=0)[:, None] * octaves
    independent = shape.sum(axis=0) ** 2 / np.maximum((shape**2).sum(axis=0), 1e-40) / 1.5
    by_chance = (10 / np.log(10)) ** 2 / np.maximum(independent, 1.0)
    variance = levels.var(axis=0)
    spread = np.sqrt(np.maximum(variance - by_chance, 0.0))
    apart = levels - levels.mean(axis=0)
    # what octaves have in common is no chance: noise is another in each
    covariance = np.cov(apart.T)
    shared = max(0.0, float(np.median(covariance[~np.eye(len(covariance), dtype=bool)])))
    own = np.sqrt(np.maximum(spread**2 - shared, 0.0))
    spread = np.concatenate(([np.sqrt(shared)], own))
    apart = np.column_stack((np.median(apart, axis=1), apart))
    later = (apart[1:] * apart[:-1]).mean(axis=0)
    later[1:] -= later[0]
    stays = np.clip(later / np.maximum(spread**2, 1e-6), 0.0, 0.98)
    return np.minimum(spread, _MOST_SPREAD_DB), np.where(spread > 0.1, stays, 0.0)


class GrownTone:
    """Room tone of a place for a programme of so many samples, read at any place."""

    def __init__(self, tone: RoomTone, length_samples: int) -> None:
        self._tone = tone
        self._gains = self._ups_and_downs(length_samples // HOP + 3)
        self._octaves = _octaves()
        # overlapping frames, each weighted with a sine: their powers add up to one
        self._window = np.sin(np.pi * (np.arange(FRAME) + 0.5) / FRAME)

    def _ups_and_downs(self, frames: int) -> Floats:
        """Gain of each octave in each frame, shape ``(frames, 8)``; their mean power is one."""
        from scipy.signal import lfilter

        tone, random = self._tone, np.random.Generator(np.random.Philox(_SEED))
        new = random.standard_normal((frames, len(tone.spread_db)))
        swings = np.stack(
            [lfilter([np.sqrt(1 - a * a)], [1, -a], column) for a, column in zip(tone.stays, new.T, strict=True)],
            axis=1,
        )
        swings *= tone.spread_db
        gains = 10 ** ((swings[:, 1:] + swings[:, :1]) / 20)
        return np.asarray(gains / np.sqrt((gains**2).mean(axis=0)))

    def read(self, start: int, count: int) -> Sound:
        """*count* samples from *start*, shape ``(2, count)``."""
        first, last = start // HOP - 1, (start + count - 1) // HOP
        made = np.zeros((2, (last - first + 2) * HOP))
        for at in range(first, last + 1, _AT_ONCE):
            some = range(at, min(at + _AT_ONCE, last + 1))
            for place, frame in zip(some, self._frames(some), strict=True):
                begin = (place - first) * HOP
                made[:, begin : begin + FRAME] += frame
        return made[:, start - first * HOP :][:, :count].astype(np.float32)

    def _frames(self, places: range) -> Floats:
        """Frames of noise with the place's spectrum, shape ``(k, 2, FRAME)``."""
        first, common, own = self._tone.shapes
        made = np.empty((len(places), 2, len(first)), dtype=np.complex128)
        gains = self._gains[np.clip(np.array(places) + 1, 0, len(self._gains) - 1)] @ self._octaves.T
        for row, place, gain in zip(made, places, gains, strict=True):
            random = np.random.Generator(np.random.Philox([_SEED, place + 1]))
            one, two = random.standard_normal((2, 2 * len(first))).view(np.complex128) * gain
            row[0], row[1] = one * first, one * common + two * own
        # a bin's two squares have a mean of 2, and appear twice in the power of a real signal
        return irfft(made, FRAME) * (self._window * (FRAME / 2))
