"""Where things are on the Score: columns, times as heights, and who stands beside whom in cross-talk."""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

from zweistimme.project.model import Segment, Version
from zweistimme.project.times import SECOND_US

HEADER: Final = 30
RULER: Final = 52
WAVE: Final = 54
RIBBON_SHARE: Final = 0.115
LEAST_CARD: Final = 17.0
GAP: Final = 6


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
    text = max(120.0, (width - RULER - 2 * WAVE - ribbon - 5 * GAP) / 2)
    left = float(RULER)
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
    """Cards sorted by start; finds those within a stretch of time without looking at the others."""

    def __init__(self, cards: Sequence[Card]) -> None:
        self.cards = tuple(cards)
        self._starts = [card.start_us for card in self.cards]
        self._longest = max((card.end_us - card.start_us for card in self.cards), default=0)
        self.by_id = {card.segment.id: card for card in self.cards}

    def within(self, start_us: int, end_us: int) -> Sequence[Card]:
        """Cards that touch ``[start, end)``."""
        first = bisect_left(self._starts, start_us - self._longest)
        last = bisect_left(self._starts, end_us)
        return [card for card in self.cards[first:last] if card.end_us > start_us]


def original_cards(segments: Sequence[Segment]) -> CardIndex:
    """Cards of the original, at the times of their segments."""
    return _laned([(s, k, s.start_us, s.end_us) for k, s in enumerate(segments)])


def dub_cards(segments: Sequence[Segment], version: Version | None) -> CardIndex:
    """Cards of the dub: at their placement where there is one, else at their segment."""
    rows = []
    for place, segment in enumerate(segments):
        placement = version.placements.get(segment.id) if version else None
        start = placement.start_us if placement else segment.start_us
        end = start + placement.length_us if placement else segment.end_us
        rows.append((segment, place, start, end))
    return _laned(sorted(rows, key=lambda row: (row[2], row[1])))


def _laned(rows: Sequence[tuple[Segment, int, int, int]]) -> CardIndex:
    """Give cards that overlap lanes of their own, side by side."""
    cards: list[Card] = []
    group: list[tuple[Segment, int, int, int, int]] = []
    group_end = -1

    def close() -> None:
        lanes = max((row[4] for row in group), default=0) + 1
        cards.extend(Card(s, k, a, b, lane, lanes) for s, k, a, b, lane in group)
        group.clear()

    for segment, place, start, end in rows:
        if start >= group_end:
            close()
        busy = {lane for _, _, _, b, lane in group if b > start}
        lane = next(number for number in range(len(busy) + 1) if number not in busy)
        group.append((segment, place, start, end, lane))
        group_end = max(group_end, end)
    close()
    return CardIndex(cards)


@dataclass(slots=True)
class Scale:
    """How many pixels a second takes, and which time is at the top."""

    pixels_per_second: float = 27.0
    top_us: float = 0.0

    def y(self, time_us: float) -> float:
        """Height of a time, in pixels below the header."""
        return HEADER + (time_us - self.top_us) * self.pixels_per_second / SECOND_US

    def time(self, y: float) -> float:
        """Time at a height."""
        return self.top_us + (y - HEADER) * SECOND_US / self.pixels_per_second

    def span_us(self, height: float) -> float:
        """How much time a viewport *height* pixels high shows."""
        return max(0.0, height - HEADER) * SECOND_US / self.pixels_per_second


def tick_seconds(pixels_per_second: float) -> float:
    """Distance of labelled ticks: the first of a round series that leaves them 60 pixels apart."""
    for seconds in (0.1, 0.2, 0.5, 1, 2, 5, 10, 15, 30, 60, 120, 300, 600, 1800):
        if seconds * pixels_per_second >= 60:
            return float(seconds)
    return 3600.0
