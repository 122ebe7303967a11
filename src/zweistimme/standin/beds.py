"""The composing stand-in: beds from a plan, laid together from the few sounds there are. It composes nothing new; it
lets a plan be tried and heard.
"""

from __future__ import annotations

import base64
import io
from collections.abc import Callable
from typing import Final

import numpy as np

from zweistimme.engines.extra_roles import Bed, BedRequest, BedSection
from zweistimme.project.errors import EngineError
from zweistimme.project.times import RATE
from zweistimme.sound.arrays import Floats
from zweistimme.standin.bed_sounds import bell, chords, gulls, ticking, waves

_CROSS_S: Final = 1.0
_LONGEST_S: Final = 3_600.0
_CALM = ((146.8, 220.0, 293.7), (130.8, 196.0, 329.6))
_TENSE = ((146.8, 207.7, 293.7), (138.6, 207.7, 311.1))
_BRIGHT = ((196.0, 246.9, 293.7), (220.0, 277.2, 329.6))


def _music(series: tuple[tuple[float, float, float], ...]) -> Callable[[Floats, np.random.Generator, float], Floats]:
    def made(times: Floats, _random: np.random.Generator, energy: float) -> Floats:
        each_s = 10.0 - 6.0 * energy
        count = int(len(times) / RATE / each_s) + 1
        return chords(times, each_s, [series[k % len(series)] for k in range(count)]) * (0.6 + energy)

    return made


def _sea(times: Floats, random: np.random.Generator, energy: float) -> Floats:
    seconds = len(times) / RATE
    cries = np.sort(random.uniform(0, seconds, round(seconds * energy / 6)))
    return waves(times, random, random.uniform(0, 6)) * (0.5 + energy) + gulls(len(times), random, cries.tolist())


def _room(times: Floats, random: np.random.Generator, _energy: float) -> Floats:
    return ticking(len(times), random)


def _harbour(times: Floats, random: np.random.Generator, energy: float) -> Floats:
    return _sea(times, random, energy) + bell(len(times), 0.1 * len(times) / RATE)


_MOODS: Final = {
    "calm": _music(_CALM), "tense": _music(_TENSE), "bright": _music(_BRIGHT),
    "sea": _sea, "room": _room, "harbour": _harbour,
}  # fmt: skip
MOODS: Final = tuple(_MOODS)


def composed(request: BedRequest) -> Bed:
    """One piece as long as the plan; neighbouring sections blend into one another within a second."""
    import soundfile

    seconds = sum(section.seconds for section in request.sections)
    if seconds > _LONGEST_S:
        raise EngineError("The bundled engine makes beds of an hour at most; this plan has {s:.0f} s.", s=seconds)
    sides = [_side(request, side) for side in (0, 1)]
    buffer = io.BytesIO()
    soundfile.write(buffer, np.stack(sides, axis=1), RATE, subtype="PCM_24", format="FLAC")
    return Bed(base64.b64encode(buffer.getvalue()).decode())


def _side(request: BedRequest, side: int) -> Floats:
    edges = np.round(np.cumsum([0.0, *(section.seconds for section in request.sections)]) * RATE).astype(int)
    whole = np.zeros(edges[-1])
    cross = round(_CROSS_S * RATE / 2)
    for number, section in enumerate(request.sections):
        start = max(0, edges[number] - cross) if number else 0
        end = min(len(whole), edges[number + 1] + cross)
        sound = _section(section, end - start, np.random.default_rng((request.seed, number, side)))
        ramp = np.ones(end - start)
        rise, fall = min(2 * cross, len(ramp)) if number else 0, min(2 * cross, len(ramp)) if end < len(whole) else 0
        ramp[:rise] *= np.sin(0.5 * np.pi * np.arange(rise) / max(1, rise))
        ramp[len(ramp) - fall :] *= np.cos(0.5 * np.pi * np.arange(fall) / max(1, fall))
        whole[start:end] += sound * ramp
    return whole


def _section(section: BedSection, count: int, random: np.random.Generator) -> Floats:
    made = _MOODS.get(section.mood)
    if made is None:
        raise EngineError(
            "The bundled engine composes nothing “{mood}”; it knows {there}.",
            mood=section.mood,
            there=", ".join(MOODS),
        )
    return made(np.arange(count) / RATE, random, section.energy)
