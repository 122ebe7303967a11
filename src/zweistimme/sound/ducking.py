"""Gain curves that make room for speech: they know the speech beforehand, so they never pump inside a sentence."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from zweistimme.sound.arrays import Floats

CURVE_RATE = 100
"""Points a second."""


@dataclass(frozen=True, slots=True)
class Ducking:
    """How far and how quickly: times in seconds. Pauses up to *hold* do not let the gain rise."""

    depth_db: float
    look_ahead: float = 0.10
    attack: float = 0.18
    hold: float = 0.9
    release: float = 0.6


def ducking_curve(speech: Sequence[tuple[float, float]], duration: float, settings: Ducking) -> Floats:
    """Gain in dB at 100 points a second over *duration* seconds; 0 dB away from *speech* (sorted intervals).

    Each sentence, with its inner pauses, lies under one flat stretch at *depth_db*; the way down ends
    *look_ahead* before its first sound.
    """
    count = int(np.ceil(duration * CURVE_RATE)) + 2
    stretches: list[list[float]] = []
    for start, end in sorted(speech):
        if stretches and start - stretches[-1][1] <= settings.hold + settings.attack + settings.look_ahead:
            stretches[-1][1] = max(stretches[-1][1], end)
        else:
            stretches.append([start, end])
    curve = np.zeros(count)
    times = np.arange(count) / CURVE_RATE
    for start, end in stretches:
        down = start - settings.look_ahead - settings.attack
        knots = [down, start - settings.look_ahead, end, end + settings.release]
        a, b = np.searchsorted(times, (down, end + settings.release))
        part = np.interp(times[a:b], knots, [0.0, settings.depth_db, settings.depth_db, 0.0])
        curve[a:b] = np.minimum(curve[a:b], part) if settings.depth_db < 0 else part
    return curve


def curve_gain(
    curve_db: Floats, start_sample: int, count: int, rate: int
) -> np.ndarray[tuple[int], np.dtype[np.float32]]:
    """The amplitude gain of a curve at each of *count* samples from *start_sample*; shape ``(count,)``."""
    positions = (start_sample + np.arange(count)) * (CURVE_RATE / rate)
    first, last = int(positions[0]), min(int(positions[-1]) + 2, len(curve_db))
    gains = 10 ** (curve_db[first:last] / 20)
    return np.interp(positions, np.arange(first, last), gains).astype(np.float32)
