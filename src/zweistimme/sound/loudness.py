"""Loudness and true peak: ITU-R BS.1770-5, loudness range after EBU Tech 3342. Fed block by block."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

import numpy as np

from zweistimme.sound.arrays import Floats, Sound, decibels

RATE: Final = 48_000
_STEP: Final = RATE // 10
# BS.1770-5, tables 1 and 2: a shelf for the head, then a high-pass, both for 48 kHz
_K_WEIGHTING: Final = np.array(
    [
        [1.53512485958697, -2.69169618940638, 1.19839281085285, 1.0, -1.69065929318241, 0.73248077421585],
        [1.0, -2.0, 1.0, 1.0, -1.99004745483398, 0.99007225036621],
    ]
)
# BS.1770-5, annex 2: four phases of an interpolating filter; the other two are these reversed
_PHASE_0: Final = [
    0.001708984375, 0.010986328125, -0.0196533203125, 0.033203125, -0.0594482421875, 0.1373291015625,
    0.97216796875, -0.102294921875, 0.047607421875, -0.026611328125, 0.014892578125, -0.00830078125,
]  # fmt: skip
_PHASE_1: Final = [
    -0.0291748046875, 0.029296875, -0.0517578125, 0.0891113281250, -0.16650390625, 0.4650878906250,
    0.77978515625, -0.2003173828125, 0.1015625, -0.0582275390625, 0.0330810546875, -0.0189208984375,
]  # fmt: skip
_PHASES: Final = np.array([_PHASE_0, _PHASE_1, _PHASE_1[::-1], _PHASE_0[::-1]], dtype=np.float32)
TAPS: Final = 12


@dataclass(frozen=True, slots=True)
class Loudness:
    """What was measured. Silence has a loudness of -inf LUFS and a true peak of -200 dBTP."""

    integrated_lufs: float
    range_lu: float
    true_peak_dbtp: float
    duration_samples: int


def oversampled_peaks(sound: Sound, history: Sound) -> Sound:
    """The largest magnitude around each sample of *sound* at four times its rate; shape ``(channels, n)``.

    *history* holds the 11 samples before it, shape ``(channels, 11)``. The filter delays by 5.5 samples.
    """
    joined = np.concatenate((history, sound), axis=1)
    peaks = np.abs(sound)
    for channel, line in enumerate(joined):
        # phases as rows: maxima over rows run along memory, over a last axis of four they do not
        phases = _PHASES[:, ::-1] @ np.lib.stride_tricks.sliding_window_view(line, TAPS).T
        np.abs(phases, out=phases)
        for phase in phases:
            np.maximum(peaks[channel], phase, out=peaks[channel])
    return peaks


class EnergyMeter:
    """K-weighted energy of every tenth of a second, summed over channels; fed block by block."""

    def __init__(self, channels: int) -> None:
        self._filter_state = np.zeros((2, channels, 2))
        self._rest = np.empty((channels, 0))
        self._powers: list[Floats] = []

    def feed(self, sound: Sound) -> None:
        """Take in a block, shape ``(channels, n)``, at 48 kHz."""
        from scipy.signal import sosfilt

        if not sound.shape[1]:
            return
        weighted, self._filter_state = sosfilt(_K_WEIGHTING, sound, axis=1, zi=self._filter_state)
        joined = np.concatenate((self._rest, weighted), axis=1)
        whole = joined.shape[1] // _STEP * _STEP
        steps = joined[:, :whole].reshape(len(joined), -1, _STEP)
        self._powers.append((steps**2).mean(axis=2).sum(axis=0))
        self._rest = joined[:, whole:]

    def energies(self) -> Floats:
        """What was measured so far, shape ``(k,)``; a last tenth that is not full counts if there is nothing else."""
        if not self._powers or not sum(map(len, self._powers)):
            return (self._rest**2).mean(axis=1).sum()[None] if self._rest.shape[1] else np.empty(0)
        return np.concatenate(self._powers)


class LoudnessMeter:
    """Feed it blocks of sound at 48 kHz, then ask for the result. Memory: ten numbers a second."""

    def __init__(self, channels: int) -> None:
        if channels not in (1, 2):
            raise ValueError(f"loudness is measured for one or two channels, not {channels}")
        self._energies = EnergyMeter(channels)
        self._history = np.zeros((channels, TAPS - 1), dtype=np.float32)
        self._peak = 0.0
        self._count = 0

    def feed(self, sound: Sound) -> None:
        """Take in a block, shape ``(channels, n)``."""
        self._energies.feed(sound)
        for start in range(0, sound.shape[1], 8 * RATE):
            part = sound[:, start : start + 8 * RATE]
            self._peak = max(self._peak, float(oversampled_peaks(part, self._history).max()))
            self._history = np.concatenate((self._history, part), axis=1)[:, -(TAPS - 1) :]
        self._count += sound.shape[1]

    def result(self) -> Loudness:
        """Everything fed so far."""
        powers = self._energies.energies() if self._count >= _STEP else np.empty(0)
        peak = float(decibels(self._peak))
        return Loudness(_integrated(_averages(powers, 4)), _range(_averages(powers, 30)), peak, self._count)


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


def _integrated(blocks: Floats) -> float:
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
