"""The demo's sound: a bed of waves, gulls, ticking and a slow chord, and the dialogue over it."""

from __future__ import annotations

import numpy as np

from zweistimme.demo.script import DURATION_S, placed_lines
from zweistimme.project.times import RATE
from zweistimme.sound.arrays import Mono, Sound, amplitude
from zweistimme.standin.bed_sounds import bell, chords, gulls, ticking, waves

_COUNT = round(DURATION_S * RATE)


def bed() -> Sound:
    """Music and effects without speech, stereo; shape ``(2, n)``."""
    random = np.random.default_rng(1884)
    times = np.arange(_COUNT) / RATE
    sides = [waves(times, random, 0.0), waves(times, random, 1.7)]
    rung = next(p.start for p in placed_lines() if "bell" in p.line.text) - 1.9  # just before it is spoken of
    shared = ticking(_COUNT, random) + bell(_COUNT, rung) + chords(times)
    pause = next(p for p in placed_lines() if p.line.gap_s > 5).start - 8.0
    cries = gulls(_COUNT, random, (0.9, 1.5, pause + 1.2, pause + 1.7, pause + 2.2, pause + 5.0, 79.0))
    left, right = sides[0] + shared + 0.9 * cries, sides[1] + shared + 0.5 * cries
    fade = np.clip(np.minimum(times / 1.5, (DURATION_S - times) / 2.5), 0, 1)
    return (np.stack([left, right]) * fade * 0.5).astype(np.float32)


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
