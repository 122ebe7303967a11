"""Intervals looked up by time, without going through all of them."""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Iterable
from itertools import accumulate


class Spans:
    """Half-open intervals, sorted by where they start; they may overlap.

    >>> spans = Spans([(0, 10), (2, 3), (12, 15)])
    >>> list(spans.among(5, 13)), list(spans.among(10, 12))
    ([0, 1, 2], [])
    """

    def __init__(self, spans: Iterable[tuple[int, int]]) -> None:
        both = list(spans)
        self._starts = [start for start, _ in both]
        self._reach = list(accumulate((end for _, end in both), max))

    def among(self, start: int, end: int) -> range:
        """Numbers among which all are that share time with ``[start, end)``: the first is behind those that are all
        over by then, the last before those that have not begun."""
        return range(bisect_right(self._reach, start), bisect_left(self._starts, end))
