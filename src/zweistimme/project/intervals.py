"""Intervals on the timeline, half-open: what two share, and which of many share time with one, found without going
through all of them."""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Iterable, Iterator
from itertools import accumulate

Interval = tuple[int, int]


def overlap_us(first: tuple[int, int], second: tuple[int, int]) -> int:
    """How much two intervals share; 0 when they only touch.

    >>> overlap_us((0, 10), (7, 20)), overlap_us((0, 10), (10, 20))
    (3, 0)
    """
    return max(0, min(first[1], second[1]) - max(first[0], second[0]))


class Intervals:
    """Many intervals, sorted by where they start; they may overlap.

    >>> spans = Intervals([(0, 10), (2, 3), (12, 15)])
    >>> list(spans.among(5, 13)), list(spans.among(10, 12))
    ([0, 1, 2], [])
    >>> dict(spans.shared(5, 13)), spans.most_shared(5, 13), spans.most_shared(10, 12)
    ({0: 5, 2: 1}, 0, None)
    >>> spans.uncovered(5, 20)
    [(10, 12), (15, 20)]
    """

    def __init__(self, intervals: Iterable[Interval]) -> None:
        self._all = list(intervals)
        self._starts = [start for start, _ in self._all]
        self._reach = list(accumulate((end for _, end in self._all), max))

    def among(self, start: int, end: int) -> range:
        """Numbers among which all are that share time with ``[start, end)``: the first is behind those that are all
        over by then, the last before those that have not begun."""
        return range(bisect_right(self._reach, start), bisect_left(self._starts, end))

    def shared(self, start: int, end: int) -> Iterator[tuple[int, int]]:
        """The number of each that shares time with ``[start, end)``, and how much."""
        for number in self.among(start, end):
            time = overlap_us((start, end), self._all[number])
            if time > 0:
                yield number, time

    def most_shared(self, start: int, end: int) -> int | None:
        """The number of the one that shares most time with ``[start, end)``; the earliest of equals."""
        best = max(self.shared(start, end), key=lambda pair: (pair[1], -pair[0]), default=None)
        return best[0] if best else None

    def uncovered(self, start: int, end: int) -> list[Interval]:
        """What of ``[start, end)`` none of them covers."""
        free = [(start, end)] if end > start else []
        for number in self.among(start, end):
            a, b = self._all[number]
            free = [cut for s, e in free for cut in ((s, min(e, a)), (max(s, b), e)) if cut[1] > cut[0]]
        return free
