"""Sounds beds are made of: sea, gulls, a clock, a bell, slow chords. All at 48 kHz, one channel, shape ``(n,)``."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from zweistimme.project.times import RATE
from zweistimme.sound.arrays import Floats

Chord = tuple[float, float, float]
_DORIAN: tuple[Chord, ...] = (
    (146.8, 220.0, 293.7),
    (130.8, 196.0, 329.6),
    (164.8, 246.9, 293.7),
    (146.8, 220.0, 349.2),
)


def waves(times: Floats, random: np.random.Generator, phase: float) -> Floats:
    """Sea: brownish noise that swells every seven seconds or so."""
    from scipy.signal import butter, sosfilt

    noise = random.standard_normal(len(times))
    body = sosfilt(butter(2, [90, 900], "bandpass", fs=RATE, output="sos"), noise)
    hiss = sosfilt(butter(2, [1500, 6000], "bandpass", fs=RATE, output="sos"), noise)
    swell = 0.5 + 0.5 * np.sin(2 * np.pi * times / 7.3 + phase + 0.8 * np.sin(times / 5))
    return np.asarray(0.035 * body * (0.5 + swell) + 0.012 * hiss * swell**3)


def ticking(count: int, random: np.random.Generator) -> Floats:
    """A tick every second, a tock between; both short and woody."""
    sound = np.zeros(count)
    tail = np.arange(2400) / RATE
    for number in range(int(count / RATE * 2)):
        hertz = 1900 if number % 2 else 1500
        click = np.sin(2 * np.pi * hertz * tail) * np.exp(-tail * 260) + 0.3 * random.standard_normal(2400) * np.exp(
            -tail * 900
        )
        start = round((number * 0.5 + 0.25) * RATE)
        part = sound[start : start + 2400]
        part += 0.030 * click[: len(part)]
    return sound


def bell(count: int, at_s: float) -> Floats:
    """One stroke of a harbour bell."""
    sound = np.zeros(count)
    tail = np.arange(4 * RATE) / RATE
    partials = ((1.0, 1.0), (2.0, 0.6), (2.4, 0.5), (3.0, 0.3), (4.5, 0.15))
    stroke = np.zeros_like(tail)
    for ratio, level in partials:
        stroke += level * np.sin(2 * np.pi * 523 * ratio * tail) * np.exp(-tail * (0.9 + ratio * 0.5))
    start = round(at_s * RATE)
    sound[start : start + len(stroke)] += 0.05 * stroke[: count - start]
    return sound


def chords(times: Floats, each_s: float = 8.0, series: Sequence[Chord] = _DORIAN * 3) -> Floats:
    """Slow chords of soft tones, one after the other."""
    sound = np.zeros_like(times)
    for number, chord in enumerate(series):
        inside = np.clip(1 - np.abs(times - (number + 0.5) * each_s) / (0.75 * each_s), 0, 1) ** 1.5
        if not inside.any():
            continue
        for hertz in chord:
            sound += 0.008 * inside * np.sin(2 * np.pi * hertz * times + 0.5 * np.sin(times * 1.1))
    return sound


def gulls(count: int, random: np.random.Generator, at_s: Sequence[float]) -> Floats:
    """A cry at each of these times."""
    sound = np.zeros(count)
    tail = np.arange(round(0.34 * RATE)) / RATE
    for at in at_s:
        hertz = random.uniform(1300, 1700) * (1 - 0.9 * tail + 0.12 * np.sin(2 * np.pi * 9 * tail))
        phase = 2 * np.pi * np.cumsum(hertz) / RATE
        cry = (np.sin(phase) + 0.4 * np.sin(2 * phase)) * np.sin(np.pi * tail / tail[-1]) ** 1.5
        start = round(at * RATE)
        part = sound[start : start + len(cry)]
        part += 0.02 * cry[: len(part)]
    return sound
