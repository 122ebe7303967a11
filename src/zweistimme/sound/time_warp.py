"""The step that all paths over sound and states share: dynamic time warping (Sakoe and Chiba 1978), frame by frame.

A path stays in a state, goes on to the next or passes over one; what each costs is its own. Which of the three was
least is kept in a byte for each state and frame, so that the path can be followed back.
"""

from __future__ import annotations

from typing import Final

import numpy as np
import numpy.typing as npt

Costs = npt.NDArray[np.float32]
Moves = npt.NDArray[np.int8]
"""By how many states each came on: 0, 1 or 2; shape ``(states,)``, of a whole path ``(frames, states)``."""
BLOCKED: Final = np.float32(1e9)


def from_before(total: Costs) -> tuple[Costs, Costs]:
    """What it costs to come from the state before, and from the one before that, along the last axis; nothing lies
    before the first."""
    step, skip = np.empty_like(total), np.empty_like(total)
    step[..., :1] = skip[..., :2] = BLOCKED
    step[..., 1:], skip[..., 2:] = total[..., :-1], total[..., :-2]
    return step, skip


def advanced(stay: Costs, step: Costs, skip: Costs, moves: Moves) -> Costs:
    """The least of three for each state; which it is is written to *moves*. Comparisons in pairs are several times
    faster than the least along a short axis, and arithmetic on what they say than writing where it is so."""
    np.less(step, stay, out=moves.view(np.bool_))
    total = np.minimum(stay, step)
    np.maximum(moves, (skip < total).view(np.int8) << 1, out=moves)
    return np.minimum(total, skip, out=total)


def way_back(moves: Moves, frame: int, state: int, start: int) -> tuple[list[int], int, bool]:
    """The states of a path that is in *state* at *frame*, frame by frame back to where it entered *start*: the states
    in order, the frame before the first of them, and whether it entered there at all."""
    path, entered = [], False
    while frame >= 0 and not entered:
        path.append(state)
        move = int(moves[frame, state])
        entered = move == 1 and state == start
        state -= move
        frame -= 1
    return path[::-1], frame, entered
