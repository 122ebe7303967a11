"""Sentences laid over speech by their length alone, where no voice speaks their language: a first guess."""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Sequence
from itertools import pairwise

import numpy as np

from zweistimme.project.writing import syllables
from zweistimme.sound.arrays import Floats

_LEAST_S = 0.1


def by_length(texts: Sequence[str], tag: str, regions: Sequence[tuple[float, float]]) -> list[tuple[float, float]]:
    """Start and end of each sentence in seconds: one behind the other over all speech, as long as their syllables
    ask; edges go to a pause where one is near."""
    lengths = np.array([max(1, syllables(text, tag)) for text in texts], dtype=np.float64)
    spans = np.array(regions)
    spoken_s = np.concatenate(([0.0], np.cumsum(spans[:, 1] - spans[:, 0])))
    edges = np.concatenate(([0.0], np.cumsum(lengths) / lengths.sum())) * spoken_s[-1]
    for k in range(1, len(edges) - 1):
        nearest = float(spoken_s[np.abs(spoken_s - edges[k]).argmin()])
        if abs(nearest - edges[k]) < 0.4 * min(edges[k] - edges[k - 1], edges[k + 1] - edges[k]):
            edges[k] = nearest
    found = []
    for a, b in pairwise(edges.tolist()):
        start = _programme_time(a, spans, spoken_s, after=True)
        end = _programme_time(b, spans, spoken_s, after=False)
        found.append((start, max(end, start + _LEAST_S)))
    return found


def _programme_time(time_s: float, spans: Floats, spoken_s: Floats, *, after: bool) -> float:
    """When so much speech has gone by; at a pause, *after* it or before."""
    find = bisect_right if after else bisect_left
    place = min(max(find(spoken_s.tolist(), time_s) - 1, 0), len(spans) - 1)
    return float(spans[place, 0] + time_s - spoken_s[place])
