"""The demo's sound: a bed of waves, gulls, ticking and a slow chord, and the dialogue over it."""

from __future__ import annotations

import numpy as np

from zweistimme.demo.script import DURATION_S, placed_lines
from zweistimme.project.times import RATE
from zweistimme.sound.arrays import Floats, Mono, Sound, amplitude

_COUNT = round(DURATION_S * RATE)


def bed() -> Sound:
    """Music and effects without speech, stereo; shape ``(2, n)``."""
    random = np.random.default_rng(1884)
    times = np.arange(_COUNT) / RATE
    sides = [_waves(times, random, 0.0), _waves(times, random, 1.7)]
    shared = _ticking(random) + _bell() + _chord(times)
    gulls = _gulls(random)
    left, right = sides[0] + shared + 0.9 * gulls, sides[1] + shared + 0.5 * gulls
    fade = np.clip(np.minimum(times / 1.5, (DURATION_S - times) / 2.5), 0, 1)
    return (np.stack([left, right]) * fade * 0.5).astype(np.float32)


def _waves(times: Floats, random: np.random.Generator, phase: float) -> Floats:
    """Sea: brownish noise that swells every seven seconds or so."""
    from scipy.signal import butter, sosfilt

    noise = random.standard_normal(len(times))
    body = sosfilt(butter(2, [90, 900], "bandpass", fs=RATE, output="sos"), noise)
    hiss = sosfilt(butter(2, [1500, 6000], "bandpass", fs=RATE, output="sos"), noise)
    swell = 0.5 + 0.5 * np.sin(2 * np.pi * times / 7.3 + phase + 0.8 * np.sin(times / 5))
    return 0.035 * body * (0.5 + swell) + 0.012 * hiss * swell**3


def _ticking(random: np.random.Generator) -> Floats:
    """A tick every second, a tock between; both short and woody."""
    sound = np.zeros(_COUNT)
    tail = np.arange(2400) / RATE
    for number in range(int(DURATION_S * 2)):
        hertz = 1900 if number % 2 else 1500
        click = np.sin(2 * np.pi * hertz * tail) * np.exp(-tail * 260) + 0.3 * random.standard_normal(2400) * np.exp(
            -tail * 900
        )
        start = round((number * 0.5 + 0.25) * RATE)
        part = sound[start : start + 2400]
        part += 0.030 * click[: len(part)]
    return sound


def _bell() -> Floats:
    """The harbour bell, six strokes' worth of one, just before it is spoken of."""
    sound = np.zeros(_COUNT)
    rung = next(p.start for p in placed_lines() if "bell" in p.line.text) - 1.9
    tail = np.arange(4 * RATE) / RATE
    partials = ((1.0, 1.0), (2.0, 0.6), (2.4, 0.5), (3.0, 0.3), (4.5, 0.15))
    stroke = np.zeros_like(tail)
    for ratio, level in partials:
        stroke += level * np.sin(2 * np.pi * 523 * ratio * tail) * np.exp(-tail * (0.9 + ratio * 0.5))
    start = round(rung * RATE)
    sound[start : start + len(stroke)] += 0.05 * stroke[: _COUNT - start]
    return sound


def _chord(times: Floats) -> Floats:
    """A slow chord of soft tones, changing every eight seconds."""
    chords = ((146.8, 220.0, 293.7), (130.8, 196.0, 329.6), (164.8, 246.9, 293.7), (146.8, 220.0, 349.2))
    sound = np.zeros_like(times)
    for number, chord in enumerate(chords * 3):
        inside = np.clip(1 - np.abs(times - (number * 8.0 + 4.0)) / 6.0, 0, 1) ** 1.5
        if not inside.any():
            continue
        for hertz in chord:
            sound += 0.008 * inside * np.sin(2 * np.pi * hertz * times + 0.5 * np.sin(times * 1.1))
    return sound


def _gulls(random: np.random.Generator) -> Floats:
    """A few cries, mostly in the long pause."""
    sound = np.zeros(_COUNT)
    tail = np.arange(round(0.34 * RATE)) / RATE
    pause = next(p for p in placed_lines() if p.line.gap_s > 5).start - 8.0
    for at in (0.9, 1.5, pause + 1.2, pause + 1.7, pause + 2.2, pause + 5.0, 79.0):
        hertz = random.uniform(1300, 1700) * (1 - 0.9 * tail + 0.12 * np.sin(2 * np.pi * 9 * tail))
        phase = 2 * np.pi * np.cumsum(hertz) / RATE
        cry = (np.sin(phase) + 0.4 * np.sin(2 * phase)) * np.sin(np.pi * tail / tail[-1]) ** 1.5
        start = round(at * RATE)
        sound[start : start + len(cry)] += 0.02 * cry
    return sound


def dialogue() -> Mono:
    """All lines at their places, one channel."""
    sound = np.zeros(_COUNT, dtype=np.float32)
    for placed in placed_lines():
        level = np.sqrt((placed.samples.astype(np.float64) ** 2).mean())
        wanted = amplitude(-30.0 if placed.line.direction == "whispering" else -23.0)
        start = round(placed.clip_start * RATE)
        part = sound[start : start + len(placed.samples)]
        part += placed.samples[: len(part)] * np.float32(wanted / level)
    return sound


def programme() -> Sound:
    """Dialogue over the bed, stereo."""
    return np.asarray(np.clip(bed() + dialogue()[None, :] * 0.9, -0.98, 0.98), dtype=np.float32)
