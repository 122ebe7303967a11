"""What sound is like before anybody listens to it: level, clipping, noise, silence, band, channels. Fed block by
block; memory grows by a few bytes for every 10 ms."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

import numpy as np
import numpy.typing as npt

from zweistimme.sound.activity import HOP_SECONDS, frame_levels_db, runs, speech_regions
from zweistimme.sound.arrays import Sound, decibels
from zweistimme.sound.fourier import rfft

_SILENT_DB: Final = -65.0
_UNDER_SPEECH_DB: Final = 25.0
_CLIP_RUN: Final = 3
_FLAT: Final = 0.0005
_STEP_IN: Final = 0.003
_LEAST_TOP: Final = 0.001
_CLIP_LEVEL: Final = 0.985
_SPECTRUM: Final = 2048
_BAND_DROP_DB: Final = 45.0
_SPECTRA_A_BLOCK: Final = 40


@dataclass(frozen=True, slots=True)
class SoundFacts:
    """Measured facts. Levels in dB relative to full scale; *speech_db* and *noise_db* are of the speech band;
    *clipped* counts places, not samples; times in seconds; *highest_hz* is where the spectrum ends."""

    peak_db: float
    speech_db: float
    noise_db: float
    clipped: int
    silence_before_s: float
    silence_after_s: float
    longest_silence_s: float
    highest_hz: float
    opposed: float
    """How much of the sound two channels take away from each other, 0..1."""
    offset: float
    """The mean of all samples."""

    @property
    def snr_db(self) -> float:
        """How far speech stands over what is under it."""
        return self.speech_db - self.noise_db


class SoundMeter:
    """Feed it all blocks at *rate*, shapes ``(channels, n)``, then ask for ``facts``."""

    def __init__(self, rate: int) -> None:
        self._rate = rate
        self._levels: list[npt.NDArray[np.float32]] = []
        self._peak = 0.0
        self._runs: list[tuple[float, int]] = []
        self._sum, self._count = 0.0, 0
        self._apart = self._together = 0.0
        self._spectrum = np.zeros(_SPECTRUM // 2 + 1)

    def feed(self, block: Sound) -> None:
        """The next stretch of sound."""
        mono = block.mean(axis=0).astype(np.float32)
        levels = frame_levels_db(mono, self._rate)[: max(1, round(len(mono) / self._rate / HOP_SECONDS))]
        self._levels.append(levels.astype(np.float32))
        self._peak = max(self._peak, float(np.abs(block).max(initial=0.0)))
        self._sum += float(mono.sum(dtype=np.float64))
        self._count += len(mono)
        for channel in block:
            self._runs += _flat_tops(channel)
        if len(block) == 2:
            self._together += float((mono.astype(np.float64) ** 2).sum())
            self._apart += float((((block[0] - block[1]) / 2).astype(np.float64) ** 2).sum())
        starts = np.linspace(0, max(0, len(mono) - _SPECTRUM), _SPECTRA_A_BLOCK).astype(int)
        if len(mono) >= _SPECTRUM:
            frames = mono[starts[:, None] + np.arange(_SPECTRUM)] * np.hanning(_SPECTRUM)
            self._spectrum += (np.abs(rfft(frames)) ** 2).sum(axis=0)

    def facts(self) -> SoundFacts:
        """What was measured."""
        levels = np.concatenate(self._levels) if self._levels else np.full(1, -200.0, dtype=np.float32)
        regions = speech_regions(levels)
        speaking = np.zeros(len(levels), dtype=bool)
        for start, end in regions:
            speaking[round(start / HOP_SECONDS) : round(end / HOP_SECONDS)] = True
        spoken_db = float(np.percentile(levels[speaking], 75)) if speaking.any() else 0.0
        silences = runs(levels <= min(_SILENT_DB, spoken_db - _UNDER_SPEECH_DB)).tolist()
        before = sum(end for start, end in silences if start == 0)
        after = sum(end - start for start, end in silences if end == len(levels))
        inner = max((end - start for start, end in silences if start and end < len(levels)), default=0)
        both = self._together + self._apart
        return SoundFacts(
            float(decibels(self._peak)),
            float(np.percentile(levels[speaking], 75)) if speaking.any() else -200.0,
            float(np.median(levels[~speaking])) if (~speaking).any() else -200.0,
            sum(count for level, count in self._runs if level >= _CLIP_LEVEL * self._peak),
            float(before * HOP_SECONDS),
            float(after * HOP_SECONDS),
            float(inner * HOP_SECONDS),
            self._highest_hz(),
            self._apart / both if both > 0 else 0.0,
            self._sum / max(1, self._count),
        )

    def _highest_hz(self) -> float:
        """Where the spectrum ends: the last band of 250 Hz that is not far under the loudest."""
        power = self._spectrum
        width = max(1, round(250 / (self._rate / _SPECTRUM)))
        bands = 10 * np.log10(np.add.reduceat(power, np.arange(0, len(power), width)) + 1e-20)
        above = np.flatnonzero(bands > bands.max() - _BAND_DROP_DB)
        return float((above[-1] + 1) * width * self._rate / _SPECTRUM) if len(above) else 0.0


def _flat_tops(channel: npt.NDArray[np.float32]) -> list[tuple[float, int]]:
    """Places where at least three samples in a row stand at one level at the top of the block, and the sound comes
    there in a step: (level, places). A slow wave is flat at its top, too, but comes there gently."""
    loud = np.abs(channel)
    top = float(loud.max(initial=0.0))
    if top < _LEAST_TOP:
        return []
    flat = loud >= top * (1 - _FLAT)
    edges = np.flatnonzero(np.diff(np.concatenate(([False], flat, [False])).astype(np.int8))).reshape(-1, 2)
    edges = edges[edges[:, 1] - edges[:, 0] >= _CLIP_RUN]
    before, after = np.maximum(edges[:, 0] - 1, 0), np.minimum(edges[:, 1], len(loud) - 1)
    steps = np.maximum(top - loud[before], top - loud[after]) / top
    places = int((steps > _STEP_IN).sum())
    return [(top, places)] if places else []
