"""Decoded sound kept in step with its time stamps, for hours: holes filled, overlaps trimmed, drifts evened out.

What comes after a sample is placed by its own stamp, never by the sum of what came before, so nothing adds up.
"""

from __future__ import annotations

from collections import deque
from collections.abc import Iterator
from dataclasses import dataclass
from fractions import Fraction
from typing import Final, Literal

import numpy as np
import numpy.typing as npt

Sound = npt.NDArray[np.float32]
Kind = Literal["late", "hole", "overlap", "drift", "jump"]

_LOOK_AHEAD: Final = 4
_EVENED_S: Final = 0.02
_LEAST_TOLERANCE_S: Final = Fraction(6, 10_000)
_LATE_S: Final = 0.02
_LONGEST_HOLE_S: Final = 4 * 3600
_MOST_AT_ONCE_S: Final = 10


@dataclass(frozen=True, slots=True)
class ClockNote:
    """A place, in programme time, where stamps and sound did not agree, and by how much."""

    kind: Kind
    at_us: int
    amount_us: int


class Aligner:
    """Feed it frames with their stamps in samples; it gives as much sound as the stamps say, at the same rate.

    Stamps are rounded to their time base, and some writers let them wobble: only what the following frames confirm
    counts. A step in the stamps is a hole or an overlap; what creeps in is a clock of another speed, and is spread
    over a frame.
    """

    def __init__(self, rate: int, time_base: Fraction | None, *, at_s: Fraction = Fraction(0)) -> None:
        self.rate = rate
        self.notes: list[ClockNote] = []
        self._tolerance = float(max(_LEAST_TOLERANCE_S, (time_base or Fraction(0)) * Fraction(21, 20)) * rate)
        self._begin = round(at_s * rate)
        self._at = self._begin
        self._begun = bool(at_s)
        self._waiting: deque[tuple[int | None, Sound]] = deque()
        self._creep = 0
        self._moved = 0

    @property
    def position_s(self) -> Fraction:
        """The end of what has been given so far, in seconds of programme time."""
        return Fraction(self._at, self.rate)

    def feed(self, stamp: int | None, sound: Sound) -> Iterator[Sound]:
        """A frame, shape ``(channels, n)``, and its stamp in samples, if it has one; what is ready comes out."""
        self._waiting.append((None if stamp is None else stamp - self._moved, sound))
        if len(self._waiting) > _LOOK_AHEAD:
            yield from self._next()

    def finish(self) -> Iterator[Sound]:
        """What is left."""
        while self._waiting:
            yield from self._next()

    def _next(self) -> Iterator[Sound]:
        step = self._confirmed_step()
        stamp, sound = self._waiting.popleft()
        if not self._begun:
            if stamp is None or sound.shape[1] == 0:
                step = 0
            elif stamp < 0:  # what lies before the clock begins is nobody's
                cut = min(-stamp, sound.shape[1])
                self._begun = cut < sound.shape[1]
                sound, step = sound[:, cut:], 0
            else:
                self._begun, step = True, stamp
                self._note("late", step, least_s=_LATE_S)
                yield from self._silence(step, len(sound))
                step = 0
        if step > 0 and step <= _EVENED_S * self.rate and self._crept(step):
            self._note("drift", step)
            sound = _resized(sound, sound.shape[1] + step)
        elif step > 0:
            self._note("hole", step)
            yield from self._silence(step, len(sound))
        elif step < 0:
            if -step <= min(_EVENED_S * self.rate, sound.shape[1] // 2) and self._crept(step):
                self._note("drift", -step)
                sound = _resized(sound, sound.shape[1] + step)
            else:
                cut = min(-step, sound.shape[1])
                self._note("overlap", cut)
                sound = sound[:, cut:]
        self._at += sound.shape[1]
        if sound.shape[1]:
            yield sound

    def _confirmed_step(self) -> int:
        """By how many samples the next frame must move, if those behind it say so, too; else 0."""
        at, steps = self._at, []
        now = self._waiting[0][0]
        if now is not None and abs(now - at) <= self._tolerance:  # as nearly always
            self._creep = now - at
            return 0
        for stamp, sound in self._waiting:
            if stamp is None:
                return 0
            steps.append(stamp - at)
            at += sound.shape[1]
        first = steps[0]
        agreeing = [step for step in steps if abs(step) > self._tolerance and (step > 0) == (first > 0)]
        if 2 * len(agreeing) <= len(steps):
            return 0
        # a step is what the frames behind agree on; stamps that wobble about it are taken in the middle
        if abs(first) > _LONGEST_HOLE_S * self.rate:  # no recording has such a hole: the stamps are wrong from here on
            self._note("jump", abs(first))
            self._moved += first
            self._waiting = deque((None if t is None else t - first, part) for t, part in self._waiting)
            return 0
        near = sorted(step for step in agreeing if abs(step - first) <= 2 * self._tolerance)
        return int(near[len(near) // 2])

    def _crept(self, step: int) -> bool:
        """Whether the clock crept to where it is, rather than jumped there."""
        return abs(step - self._creep) <= 2 * self._tolerance

    def _note(self, kind: Kind, samples: int, least_s: float = 0.0) -> None:
        if samples >= max(1, least_s * self.rate):
            at_us, amount_us = (round(count * 1_000_000 / self.rate) for count in (self._at, samples))
            before = self.notes[-1] if self.notes else None
            if kind == "overlap" and before and before.kind == kind and before.at_us == at_us:
                self.notes[-1] = ClockNote(kind, at_us, before.amount_us + amount_us)
            else:
                self.notes.append(ClockNote(kind, at_us, amount_us))

    def _silence(self, count: int, channels: int) -> Iterator[Sound]:
        while count > 0:
            part = min(count, _MOST_AT_ONCE_S * self.rate)
            self._at += part
            count -= part
            yield np.zeros((channels, part), dtype=np.float32)


def _resized(sound: Sound, count: int) -> Sound:
    """A frame on *count* samples, read between its own; for differences that nobody hears."""
    at = np.linspace(0, sound.shape[1] - 1, count)
    return np.stack([np.interp(at, np.arange(sound.shape[1]), channel) for channel in sound]).astype(np.float32)
