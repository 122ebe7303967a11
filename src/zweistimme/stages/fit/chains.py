"""Plans of long programmes in parts: where nothing is said for long, what is before hardly moves what is behind.

Each part is solved by itself. What ties parts together (that one line ends before the next begins, and their order) is
checked afterwards: if it is kept, the parts together are the optimum of the whole, since they are that of the whole
with fewer conditions; where it is not kept, the parts are solved as one.
"""

from __future__ import annotations

from dataclasses import fields
from typing import Final

import numpy as np

from zweistimme.project.fit_limits import Limits
from zweistimme.sound.arrays import Floats, Ints
from zweistimme.sound.cores import together
from zweistimme.stages.fit.pairs import NEIGHBOUR_S
from zweistimme.stages.fit.plan import Problem
from zweistimme.stages.fit.plan_input import Plan, PlanInput

_LEAST_LINES: Final = 200
"""Lines of one part, at least: below that, asking takes longer than solving."""
_KEPT_S: Final = 1e-6
_ARRAYS: Final = ("start", "length", "tempo", "pause_cut", "overflow", "clash")


def solve(lines: PlanInput, limits: Limits, least_lines: int = _LEAST_LINES) -> Plan:
    """The cheapest plan. It always exists: overflow and, beside pins, clashes take what does not fit."""
    if not len(lines.start):
        empty = np.empty(0)
        return Plan(empty, empty, empty, empty, empty, empty, empty.astype(np.int64), 0.0)
    order = np.argsort(lines.aimed_start, kind="stable")
    lines = _taken(lines, order)
    whole = Problem(lines, limits)
    return _as_given(_in_parts(whole, _wide_apart(chain_edges(whole.start, whole.end), len(order), least_lines)), order)


def chain_edges(start: Floats, end: Floats) -> Ints:
    """Where chains begin among lines in the order of their starts: after a silence longer than that in which lines of
    one speaker keep to one tempo; shape ``(k,)``, the first is 0."""
    return np.concatenate(([0], np.flatnonzero(start[1:] - np.maximum.accumulate(end)[:-1] >= NEIGHBOUR_S) + 1))


def _wide_apart(edges: Ints, count: int, least: int) -> list[int]:
    """Some of *edges*, at least so many lines from each other and from the end."""
    kept = [0]
    for edge in edges.tolist():
        if edge - kept[-1] >= least and count - edge >= least:
            kept.append(edge)
    return kept


def _in_parts(whole: Problem, edges: list[int]) -> Plan:
    """The plan of all lines from those of parts that begin at *edges*; each part is solved anew only where it grows."""
    known: dict[tuple[int, int], Plan] = {}
    while True:
        parts = list(zip(edges, [*edges[1:], whole.n], strict=True))
        missing = [part for part in parts if part not in known]
        problems = [whole if part == (0, whole.n) else Problem(_taken(whole.lines, slice(*part)), whole.limits)
                    for part in missing]  # fmt: skip
        known.update(zip(missing, together([problem.solved for problem in problems]), strict=True))
        plan = _joined([known[part] for part in parts], edges)
        tied = _tied(whole, plan, edges)
        if not tied:
            return plan
        edges = [edge for edge in edges if edge not in tied]


def _tied(whole: Problem, plan: Plan, edges: list[int]) -> set[int]:
    """Edges over which two lines are not where they must be to each other."""
    over = whole.missed(plan.start, plan.length) > _KEPT_S
    free = np.flatnonzero(~whole.pinned)
    turned = np.flatnonzero(np.diff(plan.start[free]) < -_KEPT_S)
    first = np.concatenate((whole.first[over], free[turned]))
    second = np.concatenate((whole.second[over], free[turned + 1]))
    starts = np.array(edges)
    return {
        int(edge) for one, two in zip(first, second, strict=True) for edge in starts[(starts > one) & (starts <= two)]
    }


def _joined(plans: list[Plan], edges: list[int]) -> Plan:
    arrays = {name: np.concatenate([getattr(plan, name) for plan in plans]) for name in _ARRAYS}
    others = [np.where(one.clash_with >= 0, one.clash_with + edge, -1) for one, edge in zip(plans, edges, strict=True)]
    return Plan(**arrays, clash_with=np.concatenate(others), cost=sum(plan.cost for plan in plans))


def _taken(lines: PlanInput, which: Ints | slice) -> PlanInput:
    """Some of the lines, or all in another order."""
    arrays = {one.name: getattr(lines, one.name)[which] for one in fields(lines) if one.name != "programme_end"}
    return PlanInput(**arrays, programme_end=lines.programme_end)


def _as_given(plan: Plan, order: Ints) -> Plan:
    """A plan for lines in *order*, for the lines as they came."""
    back = np.argsort(order)
    arrays = {name: getattr(plan, name)[back] for name in _ARRAYS}
    others = np.where(plan.clash_with >= 0, order[plan.clash_with], -1)
    return Plan(**arrays, clash_with=others[back], cost=plan.cost)
