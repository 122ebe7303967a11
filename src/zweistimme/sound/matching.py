"""Finding phrases in sound: dynamic time warping (Sakoe and Chiba 1978) of all phrases at once, with a way around.

One pass over the sound keeps the best path into every state of every phrase, and into *elsewhere*: sound that no
phrase explains. Elsewhere costs, at each moment, nearly as little as the states that happen to be closest then, so
that a phrase wins only where one consistent path is about as good as picking states freely. What is not in the book
stays elsewhere.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final, Protocol

import numpy as np
import numpy.typing as npt

from zweistimme.sound.arrays import Floats, Ints
from zweistimme.sound.time_warp import BLOCKED, advanced, from_before, way_back

_STAY: Final = 0.25
_SKIP: Final = 0.35
_ENTER: Final = 1.5
ELSEWHERE_SHARE: Final = 0.03
"""Elsewhere costs what the closest 3 % of all states cost on average …"""
ELSEWHERE_FACTOR: Final = 1.22
"""… times this."""
_AT_ONCE: Final = 64


class Templates(Protocol):
    """Phrases as rows of features, one behind the other: phrase ``p`` owns the states ``starts[p]:ends[p]``."""

    @property
    def states(self) -> Floats: ...
    @property
    def starts(self) -> Ints: ...
    @property
    def ends(self) -> Ints: ...


@dataclass(frozen=True, slots=True)
class Match:
    """A phrase found: state by state, the frames ``[first, last]`` spent in it. *gain* is how much better than
    elsewhere it explains the sound, per frame, as a share."""

    phrase: int
    start: int
    end: int
    frame_states: Ints
    gains: Floats


def distances(frames: Floats, book: Templates) -> tuple[npt.NDArray[np.float32], npt.NDArray[np.float32]]:
    """Root mean square distance of every frame to every state, shape ``(frames, states)``, and what each frame costs
    outside all phrases, shape ``(frames,)``."""
    size = frames.shape[1]
    a, b = frames.astype(np.float32), book.states.astype(np.float32)
    across, own, theirs = b.T * np.float32(-2 / size), (a**2).sum(1) / size, (b**2).sum(1) / size
    count = max(1, round(len(b) * ELSEWHERE_SHARE))
    costs, free = np.empty((len(a), len(b)), dtype=np.float32), np.empty(len(a), dtype=np.float32)
    for start in range(0, len(a), _AT_ONCE):  # so many as stay in the processor's cache
        some = slice(start, start + _AT_ONCE)
        part = np.matmul(a[some], across, out=costs[some])
        part += own[some, None]
        part += theirs
        np.maximum(part, 0, out=part)
        np.sqrt(part, out=part)
        free[some] = np.partition(part, count, axis=1)[:, :count].mean(axis=1) * np.float32(ELSEWHERE_FACTOR)
    return costs, free


def best_paths(views: Sequence[Floats], book: Templates) -> list[list[Match]]:
    """Phrases found in a stretch, in order, for each of several views of it (such as for tracts of several lengths);
    all views have the same shape ``(frames, d)``. One step is taken in all of them at once."""
    together = np.stack(views, axis=1)
    costs, free = distances(together.reshape(-1, together.shape[2]), book)
    costs, free = costs.reshape(*together.shape[:2], -1), free.reshape(together.shape[:2])
    steps = _walked(costs, free, book)
    return [
        _traced(book, costs[:, k], free[:, k], steps.choice[:, k], steps.left[:, k], steps.total[k], steps.outside[k])
        for k in range(len(views))
    ]


@dataclass(frozen=True, slots=True)
class _Steps:
    """The best ways of each view: the choice of each frame and state, which phrase was left at each frame (-1: none),
    and what the ways cost at the end inside each state, and outside."""

    choice: npt.NDArray[np.int8]
    left: npt.NDArray[np.int32]
    total: npt.NDArray[np.float32]
    outside: npt.NDArray[np.float32]


def _walked(costs: npt.NDArray[np.float32], free: npt.NDArray[np.float32], book: Templates) -> _Steps:
    """The best ways through *costs*, shape ``(frames, views, states)``, with *free*, what elsewhere costs."""
    frames, views, states = costs.shape
    skip_costs = np.full(states, _SKIP, dtype=np.float32)
    skip_costs[book.starts] = skip_costs[np.minimum(book.starts + 1, states - 1)] = BLOCKED
    total = np.full((views, states), BLOCKED, dtype=np.float32)
    outside = np.zeros(views, dtype=np.float32)
    choice = np.empty(costs.shape, dtype=np.int8)
    left = np.empty((frames, views), dtype=np.int32)
    rows, last = np.arange(views), book.ends - 1
    for t in range(frames):
        step, skip = from_before(total)
        step[:, book.starts] = (outside + np.float32(_ENTER))[:, None]
        skip += skip_costs
        ends = total[:, last]
        leave = ends.argmin(axis=1)
        cheapest = ends[rows, leave]
        left[t] = np.where(cheapest < outside, leave, -1)
        outside = np.minimum(cheapest, outside) + free[t]
        total += np.float32(_STAY)
        total = advanced(total, step, skip, choice[t])
        total += costs[t]
    return _Steps(choice, left, total, outside)


def _traced(
    book: Templates,
    costs: npt.NDArray[np.float32],
    free: npt.NDArray[np.float32],
    choice: npt.NDArray[np.int8],
    came_from: npt.NDArray[np.int32],
    total: npt.NDArray[np.float32],
    outside: np.float32,
) -> list[Match]:
    matches: list[Match] = []
    t = len(costs) - 1
    last = book.ends - 1
    best = int(total[last].argmin())
    inside = bool(total[last[best]] < outside)
    while t >= 0:
        if not inside:
            best = int(came_from[t])
            inside = best >= 0
            t -= 1
            continue
        end = t + 1
        path, t, _ = way_back(choice, t, int(last[best]), int(book.starts[best]))
        states = np.array(path, dtype=np.int64)
        frames = np.arange(t + 1, end)
        gains = 1 - costs[frames, states] / free[frames]
        matches.append(Match(best, t + 1, end, states - book.starts[best], gains.astype(np.float64)))
        inside = False
    return matches[::-1]
