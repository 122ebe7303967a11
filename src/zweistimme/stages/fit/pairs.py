"""The pairs of lines that the plan's rows are about."""

from __future__ import annotations

from typing import Final

import numpy as np

from zweistimme.sound.arrays import Floats, Ints

NEIGHBOUR_S: Final = 4.0
"""Lines of one speaker that follow each other within this time keep to one tempo if they can."""


def near_pairs(start: Floats, end: Floats) -> tuple[Ints, Ints]:
    """Pairs of lines whose takes must be kept apart.

    Each line with every later one that its segment overlaps, and with the first that it does not; the rest
    follows, since starts are in order.
    """
    n = len(start)
    after = np.maximum(np.searchsorted(start, end - 1e-9, side="left"), np.arange(n) + 1)
    counts = np.minimum(after, n - 1) - np.arange(n)
    first = np.repeat(np.arange(n), np.maximum(counts, 0))
    offsets = np.arange(len(first)) - np.repeat(
        np.cumsum(np.maximum(counts, 0)) - np.maximum(counts, 0), np.maximum(counts, 0)
    )
    return first, first + 1 + offsets


def neighbours_of_speakers(start: Floats, end: Floats, speaker: Ints) -> tuple[Ints, Ints]:
    """Pairs of consecutive lines of one speaker less than four seconds apart."""
    order = np.lexsort((start, speaker))
    before, after = order[:-1], order[1:]
    near = (speaker[before] == speaker[after]) & (start[after] - end[before] < NEIGHBOUR_S)
    return before[near], after[near]
