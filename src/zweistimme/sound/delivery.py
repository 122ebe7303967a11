"""How something is said: how loud, how much of it with a voice, how high and lively, how quick, and whether it rises at
its end. Compared with the same person's other lines it tells a whisper, a shout, hurry, calm and questions."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

import numpy as np
from numpy.typing import NDArray

from zweistimme.sound.arrays import Floats, Mono
from zweistimme.sound.features import HOP, RATE, power_spectra
from zweistimme.sound.pitch import pitch_track

_LEAST_FRAMES: Final = 25
_UNDER_DB: Final = 25.0
_SILENT_DB: Final = -60.0
_END_S: Final = 0.35
_LEAST_END: Final = 6
_LEAST_SYLLABLES: Final = 4


@dataclass(frozen=True, slots=True)
class DeliveryFigures:
    """*level_db* of the loud frames, *voiced* how much of what is heard has a pitch (0..1), *pitch_st* and *spread_st*
    in semitones about 100 Hz, *pace* in syllables a second, *rise_st* how far the pitch goes up at the end. NaN is what
    cannot be said."""

    level_db: float
    voiced: float
    pitch_st: float
    spread_st: float
    pace: float
    rise_st: float


def delivery_figures(low: Mono, syllables: int) -> DeliveryFigures | None:
    """How a line of so many syllables is said, sound at 16 kHz; None where it is too short to say."""
    energy = power_spectra(low).sum(axis=1)
    if len(energy) < _LEAST_FRAMES:
        return None
    level = 10 * np.log10(energy + 1e-12)
    loudest = float(np.percentile(level, 95))
    heard = level > loudest - _UNDER_DB
    if loudest < _SILENT_DB or heard.sum() < _LEAST_FRAMES:
        return None
    pitches = pitch_track(low, RATE)
    count = min(len(pitches), len(heard))
    pitches, spoken = pitches[:count], heard[:count]
    voiced = np.isfinite(pitches) & spoken
    heights = 12 * np.log2(pitches[voiced] / 100)
    pitch = spread = rise = float("nan")
    if len(heights) >= _LEAST_FRAMES // 2:
        pitch = float(np.median(heights))
        below, above = np.percentile(heights, (16, 84))
        spread, rise = float(above - below) / 2, _rise(pitches, voiced)
    loud = 10 * np.log10(np.mean(energy[heard]) + 1e-12)
    pace = syllables / (float(heard.sum()) * HOP / RATE) if syllables >= _LEAST_SYLLABLES else float("nan")
    return DeliveryFigures(float(loud), float(voiced.sum() / max(1, spoken.sum())), pitch, spread, pace, rise)


def _rise(pitches: Floats, voiced: NDArray[np.bool_]) -> float:
    """By how many semitones the last of the pitch lies over what is just before it; NaN where that is not known."""
    places = np.flatnonzero(voiced)
    last = places[places > places[-1] - round(_END_S * RATE / HOP)]
    if len(last) < _LEAST_END:
        return float("nan")
    third = max(2, len(last) // 3)
    before, end = np.median(pitches[last[:third]]), np.median(pitches[last[-third:]])
    return float(12 * np.log2(end / before))
