"""Loudness and true peak: ITU-R BS.1770-5, loudness range after EBU Tech 3342. Fed block by block."""

from __future__ import annotations

from dataclasses import dataclass
from functools import partial
from typing import Final

import numpy as np

from zweistimme.sound.arrays import Floats, Mono, Sound, decibels
from zweistimme.sound.cores import together
from zweistimme.sound.k_weighting import HOP_SAMPLES, KWeighting
from zweistimme.sound.true_peak import PeakMeter

RATE: Final = 48_000
WEIGHTS: Final = {1: (1.0,), 2: (1.0, 1.0), 6: (1.0, 1.0, 1.0, 0.0, 1.41, 1.41)}
"""What the energy of each channel counts: in 5.1 the low one nothing, those behind more (BS.1770-5, table 3)."""
_AT_ONCE: Final = 8 * RATE
_FINE: Final = 5
"""So many parts a tenth of a second has where the loudest moment is looked for: it may begin anywhere."""


@dataclass(frozen=True, slots=True)
class Loudness:
    """What was measured: integrated, and the loudest moment (0.4 s) and short term (3 s), after EBU Tech 3341.
    Silence, and what is shorter than that, has a loudness of -inf LUFS; silence a true peak of -200 dBTP."""

    integrated_lufs: float
    range_lu: float
    true_peak_dbtp: float
    duration_samples: int
    momentary_lufs: float
    short_term_lufs: float


def energies_of(weighted: Mono, step_samples: int = HOP_SAMPLES) -> Floats:
    """Mean squares of every so many samples; shape ``(k,)``."""
    steps = weighted.reshape(-1, step_samples)
    return np.vecdot(steps, steps).astype(np.float64) / step_samples


class EnergyMeter:
    """K-weighted energy of every so many samples (a tenth of a second, or a part of one), summed over channels; fed
    block by block."""

    def __init__(self, channels: int, step_samples: int = HOP_SAMPLES) -> None:
        self._channels: list[tuple[KWeighting, list[Floats]]] = [(KWeighting(), []) for _ in range(channels)]
        self._step_samples = step_samples

    def feed(self, sound: Sound) -> None:
        """Take in a block, shape ``(channels, n)``, at 48 kHz."""
        step = self._step_samples
        together([partial(_fed, *channel, line, step) for channel, line in zip(self._channels, sound, strict=True)])

    def energies(self) -> Floats:
        """What was measured so far, shape ``(k,)``; a last tenth that is not full counts if there is nothing else."""
        for _, parts in self._channels:  # joined once: a meter that is looked at all the time stays quick for hours
            parts[:] = [np.concatenate(parts)] if parts else []
        channels = [parts[0] if parts else np.empty(0) for _, parts in self._channels]
        if not len(channels[0]):
            rests = [weighting.rest().astype(np.float64) for weighting, _ in self._channels]
            channels = [(rest**2).mean(keepdims=True) if len(rest) else rest for rest in rests]
        weights = WEIGHTS.get(len(channels), (1.0,) * len(channels))
        return np.sum([weight * one for weight, one in zip(weights, channels, strict=True)], axis=0)


def _fed(weighting: KWeighting, energies: list[Floats], line: Mono, step_samples: int) -> None:
    energies.append(energies_of(weighting.feed(line), step_samples))


class LoudnessMeter:
    """Feed it blocks of sound at 48 kHz, then ask for the result. Memory: fifty numbers a second and channel."""

    def __init__(self, channels: int) -> None:
        if channels not in WEIGHTS:
            raise ValueError(f"loudness is measured for one, two or six channels, not {channels}")
        self._energies = EnergyMeter(channels, HOP_SAMPLES // _FINE)
        self._peaks = PeakMeter(channels)
        self._waiting: list[Sound] = []
        self._waiting_samples = self._count = 0

    def feed(self, sound: Sound) -> None:
        """Take in a block, shape ``(channels, n)``."""
        self._waiting.append(sound)
        self._waiting_samples += sound.shape[1]
        self._count += sound.shape[1]
        if self._waiting_samples >= _AT_ONCE:  # fewer are not worth dividing between cores
            self._measure()

    def _measure(self) -> None:
        if self._waiting:
            sound = self._waiting[0] if len(self._waiting) == 1 else np.concatenate(self._waiting, axis=1)
            self._waiting, self._waiting_samples = [], 0
            together([partial(self._energies.feed, sound), partial(self._peaks.feed, sound)])

    def result(self) -> Loudness:
        """Everything fed so far."""
        self._measure()
        fine = self._energies.energies() if self._count >= HOP_SAMPLES else np.empty(0)
        powers = fine.reshape(-1, _FINE).mean(axis=1)
        peak = float(decibels(self._peaks.largest))
        loudest = [_loudest(fine, tenths * _FINE) for tenths in (4, 30)]
        return Loudness(integrated_lufs(powers), range_lu(powers), peak, self._count, *loudest)


def measure(sound: Sound) -> Loudness:
    """Loudness of a whole sound, shape ``(channels, n)``, at 48 kHz.

    >>> tone = 0.1 * np.sin(2 * np.pi * 997 * np.arange(5 * RATE) / RATE, dtype=np.float32)
    >>> round(measure(np.stack([tone, tone])).integrated_lufs, 1)
    -20.0
    """
    meter = LoudnessMeter(sound.shape[0])
    meter.feed(sound)
    return meter.result()


def running_means(powers: Floats, steps: int) -> Floats:
    """Means of so many powers in a row, shape ``(n - steps + 1,)``; none where there are fewer."""
    if len(powers) < steps:
        return np.empty(0)
    return np.convolve(powers, np.ones(steps) / steps, mode="valid")


def _loudest(powers: Floats, steps: int) -> float:
    blocks = running_means(powers, steps)
    return float(lufs(blocks.max())) if len(blocks) and blocks.max() > 1e-12 else float("-inf")


def lufs(power: Floats | float) -> Floats:
    """The loudness of K-weighted power."""
    return -0.691 + 10 * np.log10(np.maximum(power, 1e-20))


def gated_energy(energies: Floats) -> float:
    """The mean energy of tenths of a second that are not far under their loud part, after BS.1770's second gate; 0
    where there is nothing."""
    loud = energies[energies > 1e-9]
    if not len(loud):
        return 0.0
    return float(loud[loud > loud.mean() / 10].mean())


def integrated_lufs(energies: Floats) -> float:
    """Gated loudness of K-weighted energies of tenths of a second, summed over channels; -inf for silence."""
    blocks = running_means(energies, 4)
    loud = blocks[lufs(blocks) > -70.0]
    if not len(loud):
        return float("-inf")
    gated = loud[lufs(loud) > lufs(loud.mean()) - 10.0]
    return float(lufs(gated.mean()))


def range_lu(energies: Floats) -> float:
    """The loudness range of energies of tenths of a second, after EBU Tech 3342."""
    blocks = running_means(energies, 30)
    loud = blocks[lufs(blocks) > -70.0]
    if len(loud) < 2:
        return 0.0
    gated = lufs(loud[lufs(loud) > lufs(loud.mean()) - 20.0])
    return float(np.percentile(gated, 95) - np.percentile(gated, 10))
