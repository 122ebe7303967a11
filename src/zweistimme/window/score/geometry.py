"""Where things are on the Score: columns, times as heights, and who stands beside whom in cross-talk."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

import numpy as np

from zweistimme.project.model import Segment, Version
from zweistimme.project.times import SECOND_US
from zweistimme.sound.arrays import Ints
from zweistimme.window.theme import px
from zweistimme.window.times import PlacedTimes, SegmentTimes

WAVE: Final = 54
RIBBON_SHARE: Final = 0.115
LEAST_CARD: Final = 17.0
GAP: Final = 6


def header() -> int:
    """How many pixels the heads of the columns take."""
    return px(30)


def ruler() -> int:
    """How many pixels wide the ruler with the times is."""
    return px(52)


@dataclass(frozen=True, slots=True)
class Columns:
    """Left edges and widths, in pixels, of the five columns beside the ruler."""

    original: tuple[float, float]
    original_wave: tuple[float, float]
    ribbon: tuple[float, float]
    dub_wave: tuple[float, float]
    dub: tuple[float, float]


def columns_for(width: int) -> Columns:
    """Columns of a score *width* pixels wide: text gets what waves and ribbons leave."""
    ribbon = max(64.0, min(110.0, width * RIBBON_SHARE))
    text = max(120.0, (width - ruler() - 2 * WAVE - ribbon - 5 * GAP) / 2)
    left = float(ruler())
    edges = []
    for size in (text, WAVE, ribbon, WAVE, text):
        edges.append((left, float(size)))
        left += size + GAP
    return Columns(*edges)


@dataclass(frozen=True, slots=True)
class Card:
    """One segment and its line on the score: times in microseconds; *lane* of *lanes* in cross-talk."""

    segment: Segment
    place: int
    start_us: int
    end_us: int
    lane: int
    lanes: int


class CardIndex:
    """Cards sorted by start, made only when they are looked at: an index of ten thousand costs a few milliseconds.

    Cards that overlap share their width: each has a lane of its own within the group that overlaps.
    """

    def __init__(self, segments: Sequence[Segment], places: Ints, starts_us: Ints, ends_us: Ints) -> None:
        self._segments, self._places = segments, places
        self._starts, self._ends = starts_us, ends_us
        self._reach = np.maximum.accumulate(ends_us) if len(ends_us) else ends_us
        self._lanes = _lanes(starts_us, ends_us, self._reach)
        self._rows: dict[str, int] | None = None
        self._row_of: Ints | None = None

    def __len__(self) -> int:
        return len(self._starts)

    def _card(self, row: int) -> Card:
        lane, lanes = self._lanes.get(row, (0, 1))
        place = int(self._places[row])
        return Card(self._segments[place], place, int(self._starts[row]), int(self._ends[row]), lane, lanes)

    @property
    def cards(self) -> tuple[Card, ...]:
        """All of them."""
        return tuple(self._card(row) for row in range(len(self)))

    def of(self, place: int) -> Card:
        """The card of the segment at this place among all."""
        if self._row_of is None:
            self._row_of = np.argsort(self._places)
        return self._card(int(self._row_of[place]))

    def find(self, segment_id: str) -> Card | None:
        """The card of a segment."""
        if self._rows is None:
            self._rows = {self._segments[place].id: row for row, place in enumerate(self._places.tolist())}
        row = self._rows.get(segment_id)
        return None if row is None else self._card(row)

    def within(self, start_us: int, end_us: int) -> Sequence[Card]:
        """Cards that touch ``[start, end)``."""
        first = int(np.searchsorted(self._reach, start_us, side="right"))
        last = int(np.searchsorted(self._starts, end_us, side="left"))
        return [self._card(row) for row in range(first, last) if self._ends[row] > start_us]


def original_cards(segments: Sequence[Segment], times: SegmentTimes | None = None) -> CardIndex:
    """Cards of the original, at the times of their segments."""
    times = times or SegmentTimes()
    times.follow(segments)
    return CardIndex(segments, np.arange(len(segments)), times.starts, times.ends)


def dub_cards(segments: Sequence[Segment], version: Version | None, times: PlacedTimes | None = None) -> CardIndex:
    """Cards of the dub: at their placement where there is one, else at their segment."""
    times = times or PlacedTimes()
    times.follow(segments, version.placements if version else {})
    order = np.argsort(times.starts, kind="stable")
    return CardIndex(segments, order, times.starts[order], times.ends[order])


def _lanes(starts: Ints, ends: Ints, reach: Ints) -> dict[int, tuple[int, int]]:
    """Lane, and number of lanes, of each card that overlaps another one."""
    lanes: dict[int, tuple[int, int]] = {}
    if len(starts) < 2:
        return lanes
    breaks = np.flatnonzero(np.concatenate(([True], starts[1:] >= reach[:-1], [True])))
    for first, last in zip(breaks[:-1][np.diff(breaks) > 1], breaks[1:][np.diff(breaks) > 1], strict=True):
        group: dict[int, int] = {}
        for row in range(int(first), int(last)):
            busy = {lane for other, lane in group.items() if ends[other] > starts[row]}
            group[row] = next(number for number in range(len(busy) + 1) if number not in busy)
        count = max(group.values()) + 1
        lanes |= {row: (lane, count) for row, lane in group.items()}
    return lanes


@dataclass(slots=True)
class Scale:
    """How many pixels a second takes, and which time is at the top."""

    pixels_per_second: float = 27.0
    top_us: float = 0.0

    def y(self, time_us: float) -> float:
        """Height of a time, in pixels below the header."""
        return header() + (time_us - self.top_us) * self.pixels_per_second / SECOND_US

    def time(self, y: float) -> float:
        """Time at a height."""
        return self.top_us + (y - header()) * SECOND_US / self.pixels_per_second

    def span_us(self, height: float) -> float:
        """How much time a viewport *height* pixels high shows."""
        return max(0.0, height - header()) * SECOND_US / self.pixels_per_second


def tick_seconds(pixels_per_second: float) -> float:
    """Distance of labelled ticks: the first of a round series that leaves them 60 pixels apart."""
    for seconds in (0.1, 0.2, 0.5, 1, 2, 5, 10, 15, 30, 60, 120, 300, 600, 1800):
        if seconds * pixels_per_second >= 60:
            return float(seconds)
    return 3600.0
