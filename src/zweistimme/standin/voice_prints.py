"""Telling speakers apart by pitch and by the length of the vocal tract."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from string import ascii_uppercase
from typing import Final

import numpy as np

_SAME_SPEAKER: Final = 2.6
"""How far apart, in semitones of pitch and tract together, two stretches of one speaker may lie."""
_UNVOICED: Final = 0.35
_TRACT_WEIGHT: Final = 0.8


@dataclass(frozen=True, slots=True)
class VoicePrint:
    """What is known of the voice in a stretch: pitch (None where nothing is voiced), tract scale, seconds."""

    pitch_hz: float | None
    tract: float
    seconds: float


def labelled(prints: Sequence[VoicePrint], count: int | None = None) -> list[str]:
    """A label for each stretch: A for whoever speaks first, and so on. Average-linkage clustering, into *count*
    speakers if their number is known."""
    voiced = [k for k, p in enumerate(prints) if p.pitch_hz is not None]
    if not voiced:
        return ["A"] * len(prints)
    points = np.array([_point(prints[k]) for k in voiced])
    groups = _clustered(points, count)
    centres = {group: points[groups == group].mean(axis=0) for group in np.unique(groups)}
    assigned = dict(zip(voiced, (int(g) for g in groups), strict=True))
    for k, print_ in enumerate(prints):
        if k not in assigned:  # a whisper has no pitch: go by the tract alone
            tract = _TRACT_WEIGHT * 12 * np.log2(print_.tract)
            assigned[k] = int(min(centres, key=lambda group: abs(centres[group][1] - tract)))
    names: dict[int, str] = {}
    for k in range(len(prints)):
        names.setdefault(assigned[k], ascii_uppercase[len(names) % 26])
    return [names[assigned[k]] for k in range(len(prints))]


def _point(print_: VoicePrint) -> tuple[float, float]:
    assert print_.pitch_hz is not None
    return 12 * float(np.log2(print_.pitch_hz / 100)), _TRACT_WEIGHT * 12 * float(np.log2(print_.tract))


def _clustered(
    points: np.ndarray[tuple[int, int], np.dtype[np.float64]], count: int | None
) -> np.ndarray[tuple[int], np.dtype[np.int64]]:
    if len(points) < 2:
        return np.zeros(len(points), dtype=np.int64)
    from scipy.cluster.hierarchy import fcluster, linkage

    tree = linkage(points, "average")
    groups = fcluster(tree, count, "maxclust") if count else fcluster(tree, _SAME_SPEAKER, "distance")
    return np.asarray(groups, dtype=np.int64)
