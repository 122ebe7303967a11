"""Rows of a linear programme, and the pairs of lines that rows are about."""

from __future__ import annotations

from typing import Any, Final

import numpy as np
import numpy.typing as npt

Floats = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]
Terms = list[tuple[Ints, Floats | float]]
"""Columns and their values, one of each for every row."""
_NEIGHBOUR_S: Final = 4.0


class Rows:
    """Sparse rows ``A z <= b`` collected in whole arrays."""

    def __init__(self) -> None:
        self._rows: list[Ints] = []
        self._columns: list[Ints] = []
        self._values: list[Floats] = []
        self._bounds: list[Floats] = []
        self.count = 0

    def add(self, terms: Terms, bound: Floats) -> None:
        """One row for each element of *bound*; each term gives a column and a value for every row."""
        index = np.arange(self.count, self.count + len(bound))
        for columns, values in terms:
            self._rows.append(index)
            self._columns.append(columns)
            self._values.append(np.broadcast_to(np.asarray(values, dtype=np.float64), len(bound)))
        self._bounds.append(bound)
        self.count += len(bound)

    def matrix(self, columns: int) -> tuple[Any, Any]:
        """The rows as a sparse matrix, and their bounds; None and None where there are no rows."""
        from scipy.sparse import csr_array

        if not self.count:
            return None, None
        data = (np.concatenate(self._values), (np.concatenate(self._rows), np.concatenate(self._columns)))
        return csr_array(data, shape=(self.count, columns)), np.concatenate(self._bounds)


def overlapping_pairs(start: Floats, end: Floats, least_gap: float) -> tuple[Ints, Ints, Floats]:
    """Pairs of lines whose takes must be kept apart, and by how much they may overlap (negative: a gap).

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
    second = first + 1 + offsets
    overlap = np.minimum(end[first], end[second]) - start[second]
    gap = -np.clip(start[second] - end[first], 0, least_gap)
    return first, second, np.where(overlap > 0, overlap, gap)


def neighbours_of_speakers(start: Floats, end: Floats, speaker: Ints) -> tuple[Ints, Ints]:
    """Pairs of consecutive lines of one speaker less than four seconds apart."""
    order = np.lexsort((start, speaker))
    before, after = order[:-1], order[1:]
    near = (speaker[before] == speaker[after]) & (start[after] - end[before] < _NEIGHBOUR_S)
    return before[near], after[near]
