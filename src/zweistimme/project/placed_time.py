"""Where a moment of a take is heard: line by line, or phrase by phrase."""

from __future__ import annotations

from itertools import pairwise
from typing import Final

from zweistimme.project.model import Placement, Take
from zweistimme.project.times import samples_to_us

_SAME_US: Final = 500
"""A moment so near to the end of a phrase is the beginning of the next."""


def placed_us(placement: Placement, take: Take, take_us: float) -> int:
    """The programme time at which a moment of a take is heard, microseconds: evenly within the take, or within each of
    its phrases and what lies between them.

    >>> take = Take("t", "s", "synthesized", "", "", 96_000, 0, 96_000, "")
    >>> placed_us(Placement("s", "t", 5_000_000, 1_000_000, 2.0, (), ""), take, 500_000)
    5250000
    """
    knots = edges_of(placement, take)
    for (from_us, at_us), (to_us, then_us) in pairwise(knots):
        if take_us < to_us - _SAME_US or (to_us, then_us) == knots[-1]:
            share = (take_us - from_us) / max(1, to_us - from_us)
            return round(at_us + share * (then_us - at_us))
    return placement.start_us


def edges_of(placement: Placement, take: Take) -> list[tuple[int, int]]:
    """Moments of a take and when they are heard, both rising: its ends, and those of its phrases."""
    if not placement.phrases:
        first, end = samples_to_us(take.speech_start_samples), samples_to_us(take.speech_end_samples)
        return [(first, placement.start_us), (end, placement.start_us + placement.length_us)]
    knots = []
    for one in placement.phrases:
        knots.append((samples_to_us(one.take_start_samples), one.start_us))
        knots.append((samples_to_us(one.take_end_samples), one.start_us + one.length_us))
    return knots
