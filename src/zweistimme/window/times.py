"""The times of all segments as arrays, made anew only where segments have changed."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from itertools import compress, count

import numpy as np

from zweistimme.project.access import changed_middle, ids_of
from zweistimme.project.model import Placement, Segment
from zweistimme.project.row_changes import changed_keys
from zweistimme.sound.arrays import Ints


class SegmentTimes:
    """Starts and ends in microseconds, in the order of the segments; shapes ``(n,)``."""

    def __init__(self) -> None:
        self._segments: Sequence[Segment] = ()
        self.starts: Ints = np.empty(0, dtype=np.int64)
        self.ends: Ints = np.empty(0, dtype=np.int64)

    def follow(self, segments: Sequence[Segment]) -> None:
        """Take over the segments as they are now."""
        if segments is self._segments:
            return
        first, last, other = changed_middle(self._segments, segments)
        new = segments[first:other]
        starts = np.fromiter((s.start_us for s in new), np.int64, len(new))
        ends = np.fromiter((s.end_us for s in new), np.int64, len(new))
        self.starts = np.concatenate((self.starts[:first], starts, self.starts[last:]))
        self.ends = np.concatenate((self.ends[:first], ends, self.ends[last:]))
        self._segments = segments


class PlacedTimes:
    """Where the dub stands: at the placement of a segment where there is one, else where the segment does. Starts
    and ends in microseconds, in the order of the segments, shapes ``(n,)``."""

    def __init__(self) -> None:
        self._segments: Sequence[Segment] = ()
        self._placements: Mapping[str, Placement] = {}
        self.starts: Ints = np.empty(0, dtype=np.int64)
        self.ends: Ints = np.empty(0, dtype=np.int64)

    def follow(self, segments: Sequence[Segment], placements: Mapping[str, Placement]) -> None:
        """Take over segments and placements as they are now; looked at is what an edit touched, if that is known."""
        moved = changed_keys(self._placements, placements)
        if moved is None:  # nothing is known: all is made anew
            self._segments, moved = (), ()
            self.starts = self.ends = np.empty(0, dtype=np.int64)
        first, last, other = changed_middle(self._segments, segments)
        elsewhere = frozenset(moved) - {*ids_of(self._segments[first:last]), *ids_of(segments[first:other])}
        starts, ends = _times_of(segments[first:other], placements)
        self.starts = np.concatenate((self.starts[:first], starts, self.starts[last:]))
        self.ends = np.concatenate((self.ends[:first], ends, self.ends[last:]))
        places = [*compress(count(), map(elsewhere.__contains__, ids_of(segments)))] if elsewhere else []
        self.starts[places], self.ends[places] = _times_of([segments[place] for place in places], placements)
        self._segments, self._placements = segments, placements


def _times_of(segments: Sequence[Segment], placements: Mapping[str, Placement]) -> tuple[Ints, Ints]:
    spans = [
        (one.start_us, one.end_us) if placed is None else (placed.start_us, placed.start_us + placed.length_us)
        for one, placed in zip(segments, map(placements.get, ids_of(segments)), strict=True)
    ]
    times = np.array(spans, dtype=np.int64).reshape(-1, 2)
    return times[:, 0], times[:, 1]
