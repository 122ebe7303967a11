"""Which cuts of the picture concern a line: those near its edges that the original does not cross."""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Sequence
from typing import Final

from zweistimme.project.model import Segment

_AT_EDGE_US: Final = 120_000
"""A cut that lies within three pictures of an edge is at it, and binds nobody."""
_REACH_US: Final = 3_000_000
"""Over a cut that is further off no line runs."""


def cuts_near(segment: Segment, cuts_us: Sequence[int] | None) -> tuple[int | None, int | None]:
    """The last cut before a segment and the first behind it, in rising *cuts_us*; None where none is within reach.

    >>> cuts_near(Segment("s1", "p1", 5_000_000, 7_000_000, "Ja."), [1_000_000, 6_000_000, 7_500_000])
    (None, 7500000)
    """
    if not cuts_us:
        return None, None
    first = bisect_right(cuts_us, segment.start_us + _AT_EDGE_US) - 1
    last = bisect_left(cuts_us, segment.end_us - _AT_EDGE_US)
    before = cuts_us[first] if first >= 0 else None
    behind = cuts_us[last] if last < len(cuts_us) else None
    return (
        before if before is not None and before >= segment.start_us - _REACH_US else None,
        behind if behind is not None and behind <= segment.end_us + _REACH_US else None,
    )
