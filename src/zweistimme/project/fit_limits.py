"""The numbers a plan is made to: tolerances, prices and limits. Pairs are (on screen, off screen)."""

from __future__ import annotations

from dataclasses import dataclass, fields
from itertools import pairwise
from typing import Final

from zweistimme.messages import msg

Pair = tuple[float, float]
MOST_S: Final = 30.0
MOST_PRICE: Final = 290.0
"""Dearer than that a deviation would cost more than to leave words unsaid."""


@dataclass(frozen=True, slots=True)
class Limits:
    """Times in seconds, prices per second of deviation (tempo: per second of speech), tempos as factors."""

    start_tolerance: Pair = (0.12, 0.5)
    end_tolerance: Pair = (0.2, 0.8)
    start_price: Pair = (8.0, 3.0)
    end_price: Pair = (4.0, 1.5)
    near_price: Pair = (0.3, 2.5)
    """What a start within its tolerance costs: with 0.3 off screen, where tolerances are wide, 61 % of a generated
    programme's starts were within 0.2 s; with 2.5 it is 86 %, at the same tempos."""
    lag_cap: Pair = (0.6, 1.6)
    comfort: Pair = (0.92, 1.15)
    soft: Pair = (0.80, 1.30)
    hard: Pair = (0.67, 1.50)
    tempo_price: tuple[float, float, float] = (1.0, 12.0, 60.0)
    least_gap: float = 0.08
    start_shift: float = 0.0
    end_shift: float = 0.0
    inside_price: float = 0.0
    """What it costs, a second, to start before the original or to end after it, where a style promises neither: dearer
    than any permitted tempo, cheaper than to leave words unsaid."""


def limits_problem_of_fit(limits: Limits) -> str:
    """Why nothing can be planned to these limits; empty where it can."""
    values = [getattr(limits, one.name) for one in fields(limits)]
    flat = [float(value) for group in values for value in (group if isinstance(group, tuple) else (group,))]
    if not all(0 <= value < float("inf") for value in flat):
        return msg("The limits of a plan are numbers of 0 or more.")
    times = (*limits.start_tolerance, *limits.end_tolerance, *limits.lag_cap, limits.least_gap, limits.start_shift)
    if max(*times, limits.end_shift) > MOST_S:
        return msg("A tolerance is at most 30 seconds.")
    slow, fast = (
        (limits.comfort[0], limits.soft[0], limits.hard[0]),
        (limits.comfort[1], limits.soft[1], limits.hard[1]),
    )
    ordered = all(a >= b for a, b in pairwise(slow)) and all(a <= b for a, b in pairwise(fast))
    if not ordered or not 0.3 <= slow[-1] <= slow[0] <= 1 <= fast[0] <= fast[-1] <= 3:
        return msg("Tempos lie around 1, comfortable within soft within hard, from 0.3 to 3.")
    rising = limits.tempo_price[0] <= limits.tempo_price[1] <= limits.tempo_price[2]
    if (
        not rising
        or max(*limits.tempo_price, *limits.start_price, *limits.end_price, *limits.near_price, limits.inside_price)
        > MOST_PRICE
    ):
        return msg("Prices rise from comfortable to hard, and none is over 290.")
    return ""
