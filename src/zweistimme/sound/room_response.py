"""A room that rings as long and as bright as one that was heard: generated, never recorded.

Its early part is a few reflections of its own for each side, its late part noise that dies away in each octave as it
was measured (Moorer 1979, "About this reverberation business"). The same figures give the same room on every machine.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from typing import Final

import numpy as np

from zweistimme.sound.arrays import Floats, Mono, Sound, amplitude
from zweistimme.sound.fourier import good_size, irfft, rfft

RATE: Final = 48_000
OCTAVES_HZ: Final = (400.0, 800.0, 1_600.0, 3_200.0, 6_400.0)
"""Edges of the bands whose decay is known; what lies outside rings as the nearest."""
_SEED: Final = 0x5A57
_EARLY_S: Final = (0.004, 0.045)
_REFLECTIONS: Final = 9
_LATE_FROM_S: Final = 0.02
_LONGEST_S: Final = 3.0
_FALL: Final = 3 * np.log(10)
"""Of an amplitude over the time in which sound falls by 60 dB."""
_EARLY_DB: Final = -9.0
"""All early reflections together, under the direct sound, in a room of half a second."""
_LATE_DB: Final = -11.0
"""The same of the late part for somebody who is not near: energy grows as the decay does, as in a diffuse field."""
_LEVELS_DB: Final = (-24.0, -4.0)
LEAST_DECAY_S: Final = 0.25
"""Speech alone comes out at 0.1 to 0.2 s: there is no room to be told from that."""


@dataclass(frozen=True, slots=True)
class Room:
    """Decays by 60 dB in seconds, of each octave from 400 Hz on."""

    decays_s: tuple[float, ...]

    @property
    def decay_s(self) -> float:
        """In the median of the octaves."""
        return float(np.median(self.decays_s))

    @property
    def is_heard(self) -> bool:
        """Whether it rings at all."""
        return self.decay_s >= LEAST_DECAY_S


@dataclass(frozen=True, slots=True, eq=False)
class Response:
    """What a room answers, without the direct sound: *early* reflections as (delay in samples, left, right), and the
    *late* part of both sides, shape ``(2, n)``."""

    early: tuple[tuple[int, float, float], ...]
    late: Sound


def rounded_room(decays_s: tuple[float, ...]) -> Room:
    """A room whose figures are steps of 12 %, which nobody hears, so that little more speech does not make another."""
    step = np.log(1.12)
    return Room(tuple(float(round(np.exp(round(np.log(one) / step) * step), 4)) for one in decays_s))


@lru_cache(maxsize=32)
def response_of(room: Room) -> Response:
    """The response of a room."""
    random = np.random.Generator(np.random.Philox(_SEED))
    louder_db = 10 * np.log10(room.decay_s / 0.5)
    return Response(
        _early(room, random, float(np.clip(_EARLY_DB + louder_db, *_LEVELS_DB))),
        _late(room, random, float(np.clip(_LATE_DB + louder_db, *_LEVELS_DB))),
    )


def _early(room: Room, random: np.random.Generator, level_db: float) -> tuple[tuple[int, float, float], ...]:
    times_s = np.sort(random.uniform(*_EARLY_S, _REFLECTIONS))
    gains = np.exp(-_FALL * times_s / room.decay_s) / (1 + 30 * times_s)
    sides = random.uniform(0.35, 1.0, (2, _REFLECTIONS)) * random.choice([-1.0, 1.0], _REFLECTIONS) * gains
    sides *= amplitude(level_db) / np.sqrt((sides**2).sum(axis=1, keepdims=True))
    delays = np.round(times_s * RATE).astype(int).tolist()
    return tuple((delay, float(left), float(right)) for delay, left, right in zip(delays, *sides, strict=True))


def _late(room: Room, random: np.random.Generator, level_db: float) -> Sound:
    length = good_size(round(min(max(room.decays_s) * 1.1 + _LATE_FROM_S, _LONGEST_S) * RATE))
    times_s = np.arange(length) / RATE - _LATE_FROM_S
    rise = np.clip(times_s / 0.01, 0.0, 1.0)
    spectrum = rfft(random.standard_normal((2, length)))
    hertz: Floats = np.fft.rfftfreq(length, 1 / RATE).astype(np.float64)
    edges = [0.0, *OCTAVES_HZ[1:-1], RATE]
    late = np.zeros((2, length))
    for low, high, decay_s in zip(edges[:-1], edges[1:], room.decays_s, strict=True):
        band = irfft(np.where((hertz >= low) & (hertz < high), spectrum, 0.0), length)
        late += band * np.exp(-_FALL * np.maximum(times_s, 0.0) / decay_s)
    late = irfft(rfft(late * rise) * _distance_curve(hertz), length)
    late *= amplitude(level_db) / np.sqrt((late**2).sum(axis=1, keepdims=True))
    return late.astype(np.float32)


def _distance_curve(hertz: Floats) -> Floats:
    """No room rings below speech, and air and walls take the highest."""
    return 1 / np.sqrt(1 + (120 / np.maximum(hertz, 1.0)) ** 4) / np.sqrt(1 + (hertz / 7_000) ** 2)


def reflected(samples: Mono, response: Response) -> Sound:
    """The early reflections of samples, shape ``(n,)``; both sides, shape ``(2, n)``."""
    sides = np.zeros((2, len(samples)), dtype=np.float32)
    for delay, left, right in response.early:
        if delay < len(samples):
            part = samples[: len(samples) - delay]
            sides[0, delay:] += part * np.float32(left)
            sides[1, delay:] += part * np.float32(right)
    return sides


def rung(samples: Mono, response: Response) -> Sound:
    """Early and late part of samples, shape ``(n,)``; both sides, shape ``(2, n)``."""
    size = good_size(len(samples) + response.late.shape[1])
    late = irfft(rfft(samples, size) * rfft(response.late, size), size)[:, : len(samples)]
    return reflected(samples, response) + late.astype(np.float32)


def reach_samples(response: Response) -> int:
    """How far back a response reaches."""
    return response.late.shape[1]
