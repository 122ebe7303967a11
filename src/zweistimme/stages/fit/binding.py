"""Who keeps a line from standing better, and by how much.

The plan's duals say which conditions bind: what it would save if one line might run into another a little. They do not
say for how long; that is found by solving again, once without the neighbour, and by a bisection over the line's length.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Final

import numpy as np

from zweistimme.project.fit_limits import Limits
from zweistimme.stages.fit.plan import Problem
from zweistimme.stages.fit.plan_input import Plan, PlanInput

_BINDS: Final = 1e-3
"""What a second of a condition must be worth for it to bind."""
_STEPS: Final = 7
_WELL_S: Final = 0.02
_FAR_S: Final = 1e4


@dataclass(frozen=True, slots=True)
class Binder:
    """A line that keeps another, by its number in the plan's input: *before* it or behind it, and by how many seconds
    the start of the one, or its end, would be elsewhere without it."""

    unit: int
    before: bool
    by_s: float


def binders(given: PlanInput, limits: Limits, unit: int) -> list[Binder]:
    """Which neighbours keep a line, or a phrase, where it is; the strongest first. *given* is in the order of
    starts."""
    problem = Problem(given, limits)
    plan = problem.solved()
    worth = problem.apart_worth
    found = []
    for pair in np.flatnonzero(worth > _BINDS).tolist():
        one, two = int(problem.first[pair]), int(problem.second[pair])
        if unit in (one, two) and given.line[one] != given.line[two]:
            other = one if unit == two else two
            found.append((float(worth[pair]), Binder(other, unit == two, _without(given, limits, plan, unit, other))))
    found.sort(key=lambda item: -item[0])
    return [binder for _, binder in found]


def _without(given: PlanInput, limits: Limits, plan: Plan, unit: int, other: int) -> float:
    """By how much the start or the end would be elsewhere without a neighbour."""
    far = replace(given, start=given.start.copy(), end=given.end.copy(), pinned_start=given.pinned_start.copy())
    # it stands by itself, far behind the programme, where it is in nobody's way
    far.start[other] += _FAR_S
    far.end[other] += _FAR_S
    if np.isfinite(far.pinned_start[other]):
        far.pinned_start[other] += _FAR_S
    order = np.argsort(far.start, kind="stable")
    place = int(np.flatnonzero(order == unit)[0])
    alone = Problem(replace(_taken(far, order), programme_end=given.programme_end + 2 * _FAR_S), limits).solved()
    starts = abs(float(plan.start[unit]) - float(alone.start[place]))
    ends = abs(float(plan.start[unit] + plan.length[unit]) - float(alone.start[place] + alone.length[place]))
    return round(max(starts, ends), 3)


def _taken(given: PlanInput, order: np.ndarray[tuple[int], np.dtype[np.int64]]) -> PlanInput:
    names = [name for name in PlanInput.__dataclass_fields__ if name != "programme_end"]
    return PlanInput(**{name: getattr(given, name)[order] for name in names}, programme_end=given.programme_end)


def shorter_by_s(given: PlanInput, limits: Limits, unit: int, is_well: Callable[[Plan, int], bool]) -> float | None:
    """By how many seconds less a line would have to speak to stand well, by bisection; None where nothing does."""
    speech = float(given.speech[unit])

    def stands_well(by_s: float) -> bool:
        arrays = {name: getattr(given, name).copy() for name in ("speech", "spare_pause", "pause_cut")}
        less = replace(given, **arrays)
        less.speech[unit] = speech - by_s
        less.spare_pause[unit] = spare = min(float(given.spare_pause[unit]), max(0.0, speech - by_s - 0.1))
        less.pause_cut[unit] = np.minimum(given.pause_cut[unit], spare)  # NaN where no hand says how much
        return is_well(Problem(less, limits).solved(), unit)

    low, high = 0.0, 0.9 * speech
    if not stands_well(high):
        return None
    for _ in range(_STEPS):
        middle = (low + high) / 2
        low, high = (low, middle) if stands_well(middle) else (middle, high)
        if high - low < _WELL_S:
            break
    return round(high, 2)
