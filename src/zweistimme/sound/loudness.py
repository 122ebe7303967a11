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
_AT_ONCE: Final = 8 * RATE


@dataclass(frozen=True, slots=True)
class Loudness:
    """What was measured. Silence has a loudness of -inf LUFS and a true peak of -200 dBTP."""

    integrated_lufs: float
    range_lu: float
    true_peak_dbtp: float
    duration_samples: int


def energies_of(weighted: Mono, step_samples: int = HOP_SAMPLES) -> Floats:
    """Mean squares of every so many samples; shape ``(k,)``."""
    steps = weighted.reshape(-1, step_samples)
    return np.vecdot(steps, steps).astype(np.float64) / step_samples


class EnergyMeter:
    """K-weighted energy of every tenth of a second, summed over channels; fed block by block."""

    def __init__(self, channels: int) -> None:
        self._channels: list[tuple[KWeighting, list[Floats]]] = [(KWeighting(), []) for _ in range(channels)]

    def feed(self, sound: Sound) -> None:
        """Take in a block, shape ``(channels, n)``, at 48 kHz."""
        together([partial(_fed, *channel, line) for channel, line in zip(self._channels, sound, strict=True)])

    def energies(self) -> Floats:
        """What was measured so far, shape ``(k,)``; a last tenth that is not full counts if there is nothing else."""
        channels = [np.concatenate(energies) if energies else np.empty(0) for _, energies in self._channels]
        if not len(channels[0]):
            rests = [weighting.rest().astype(np.float64) for weighting, _ in self._channels]
            channels = [(rest**2).mean(keepdims=True) if len(rest) else rest for rest in rests]
        return np.sum(channels, axis=0)


def _fed(weighting: KWeighting, energies: list[Floats], line: Mono) -> None:
    energies.append(energies_of(weighting.feed(line)))


class LoudnessMeter:
    """Feed it blocks of sound at 48 kHz, then ask for the result. Memory: ten numbers a second."""

    def __init__(self, channels: int) -> None:
        if channels not in (1, 2):
            raise ValueError(f"loudness is measured for one or two channels, not {channels}")
        self._energies = EnergyMeter(channels)
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
        powers = self._energies.energies() if self._count >= HOP_SAMPLES else np.empty(0)
        peak = float(decibels(self._peaks.largest))
        return Loudness(integrated_lufs(powers), _range(_averages(powers, 30)), peak, self._count)


def measure(sound: Sound) -> Loudness:
    """Loudness of a whole sound, shape ``(channels, n)``, at 48 kHz.

    >>> tone = 0.1 * np.sin(2 * np.pi * 997 * np.arange(5 * RATE) / RATE, dtype=np.float32)
    >>> round(measure(np.stack([tone, tone])).integrated_lufs, 1)
    -20.0
    """
    meter = LoudnessMeter(sound.shape[0])
    meter.feed(sound)
    return meter.result()


def _averages(powers: Floats, steps: int) -> Floats:
    if len(powers) < steps:
        return np.empty(0)
    return np.convolve(powers, np.ones(steps) / steps, mode="valid")


def _lufs(power: Floats | float) -> Floats:
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
    blocks = _averages(energies, 4)
    loud = blocks[_lufs(blocks) > -70.0]
    if not len(loud):
        return float("-inf")
    gated = loud[_lufs(loud) > _lufs(loud.mean()) - 10.0]
    return float(_lufs(gated.mean()))


def _range(blocks: Floats) -> float:
    loud = blocks[_lufs(blocks) > -70.0]
    if len(loud) < 2:
        return 0.0
    gated = _lufs(loud[_lufs(loud) > _lufs(loud.mean()) - 20.0])
    return float(np.percentile(gated, 95) - np.percentile(gated, 10))
