"""Finding phrases in sound: dynamic time warping (Sakoe and Chiba 1978) of all phrases at once, with a way around.

One pass over the sound keeps the best path into every state of every phrase, and into *elsewhere*: sound that no
phrase explains. Elsewhere costs, at each moment, nearly as little as the states that happen to be closest then, so
that a phrase wins only where one consistent path is about as good as picking states freely. What is not in the book
stays elsewhere.
"""

from __future__ import annotations

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


def distances(frames: Floats, book: Templates) -> npt.NDArray[np.float32]:
    """Root mean square distance of every frame to every state, shape ``(frames, states)``."""
    a, b = frames.astype(np.float32), book.states.astype(np.float32)
    squares = (a**2).sum(1)[:, None] + (b**2).sum(1)[None, :] - 2 * a @ b.T
    return np.sqrt(np.maximum(squares, 0) / a.shape[1])


def elsewhere_costs(costs: npt.NDArray[np.float32]) -> npt.NDArray[np.float32]:
    """What each frame costs outside all phrases, shape ``(frames,)``."""
    count = max(1, round(costs.shape[1] * ELSEWHERE_SHARE))
    return np.partition(costs, count, axis=1)[:, :count].mean(axis=1) * np.float32(ELSEWHERE_FACTOR)


def best_path(frames: Floats, book: Templates) -> list[Match]:
    """Phrases found in a stretch of features, in order."""
    costs = distances(frames, book)
    free = elsewhere_costs(costs)
    states = costs.shape[1]
    first = np.zeros(states, dtype=bool)
    first[book.starts] = True
    second = np.zeros(states, dtype=bool)
    second[np.minimum(book.starts + 1, states - 1)] = True
    total = np.full(states, BLOCKED, dtype=np.float32)
    outside = np.float32(0)
    choice = np.empty((len(costs), states), dtype=np.int8)
    came_from = np.empty(len(costs), dtype=np.int32)
    last = book.ends - 1
    for t in range(len(costs)):
        step, skip = from_before(total)
        step[first] = outside + np.float32(_ENTER)
        skip += np.float32(_SKIP)
        skip[first | second] = BLOCKED
        stay = total + np.float32(_STAY)
        leave = int(total[last].argmin())
        left = total[last[leave]]
        came_from[t], outside = (leave, left) if left < outside else (-1, outside)
        outside += free[t]
        total = advanced(stay, step, skip, choice[t]) + costs[t]
    return _traced(book, costs, free, choice, came_from, total, float(outside))


def _traced(
    book: Templates,
    costs: npt.NDArray[np.float32],
    free: npt.NDArray[np.float32],
    choice: npt.NDArray[np.int8],
    came_from: npt.NDArray[np.int32],
    total: npt.NDArray[np.float32],
    outside: float,
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
