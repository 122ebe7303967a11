"""The times of all segments as arrays, made anew only where segments have changed."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from zweistimme.project.access import changed_middle
from zweistimme.project.model import Segment
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
