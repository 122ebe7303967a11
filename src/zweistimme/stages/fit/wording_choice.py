"""Which of the wordings on offer are taken, for a whole version at once: the fullest that can be placed well.

The prices are those of the plan (``plan.py``) for starts, ends and tempo, on a grid of lags; a wording that says less
than the fullest pays for every second of speech it gives up. ``V(e)`` is the cheapest way to end a line with lag ``e``:

    V(e) = end(e) + min over starts x of [ start(x) + W(x - gap) + min over wordings w of L_w(e - x) ]

where ``W`` is the running minimum of the line before's ``V`` and ``L_w`` what tempo costs: one sum of windows a line.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Final

import numpy as np

from zweistimme.project.fit_limits import Limits
from zweistimme.sound.arrays import Floats, Ints

STEP_S: Final = 0.025
_MOST_LAG_S: Final = 2.4
_SIDE: Final = round(_MOST_LAG_S / STEP_S)
_LAGS: Final = np.arange(-_SIDE, _SIDE + 1) * STEP_S
_SPANS: Final = np.arange(-2 * _SIDE, 2 * _SIDE + 1) * STEP_S
_LESS_PRICE: Final = 2.0
"""For a second of speech that a shorter wording leaves out: less than tempo beyond comfort costs, more than within."""
_OTHER_PRICE: Final = 0.02
"""For another wording than there is: of two that are as good, the one that is there stays."""
_IMPOSSIBLE_PRICE: Final = 300.0


@dataclass(frozen=True, slots=True)
class Lines:
    """All lines of a version, sorted by start, in seconds: ``start`` and ``end`` of shape ``(n,)``; *spoken* has of
    each the lengths of its wordings at the voice's own pace, the present one first; *pinned* lines start as they are.
    """

    start: Floats
    end: Floats
    on_screen: Sequence[bool]
    spoken: Sequence[Sequence[float]]
    pinned: Sequence[bool]


@dataclass(frozen=True, slots=True)
class Chosen:
    """Of each line the number of its wording, and at what tempo it would be spoken; shape ``(n,)`` each; *cost* is that
    of all of it."""

    wording: Ints
    tempo: Floats
    cost: float


def chosen_wordings(lines: Lines, limits: Limits, report: Callable[[float], None] = lambda _share: None) -> Chosen:
    """The cheapest wordings and lags together."""
    count = len(lines.start)
    if not count:
        return Chosen(np.zeros(0, dtype=np.int64), np.zeros(0), 0.0)
    starts = np.zeros((count, len(_LAGS)), dtype=np.int64)
    ends_before = np.zeros((count, len(_LAGS)), dtype=np.int64)
    words = np.zeros((count, len(_SPANS)), dtype=np.int64)
    before: Floats | None = None
    for k in range(count):
        if k % 100 == 0:
            report(k / count)
        reach, ends_before[k] = _reachable(lines, limits, k, before)
        spans, words[k] = _span_costs(lines, limits, k)
        start = reach + _lag_costs(limits.start_tolerance, limits.start_price, lines, k, early=0.3)
        if lines.pinned[k]:
            start = np.where(np.arange(len(_LAGS)) == _SIDE, start, np.inf)
        # row e, column x: the cost of the span e - x
        whole = np.lib.stride_tricks.sliding_window_view(spans, len(_LAGS))[:, ::-1] + start
        starts[k] = whole.argmin(axis=1)
        end = _lag_costs(limits.end_tolerance, limits.end_price, lines, k, early=0.15)
        before = whole.min(axis=1) + end
    assert before is not None
    return _way_back(lines, starts, ends_before, words, before)


def _reachable(lines: Lines, limits: Limits, k: int, before: Floats | None) -> tuple[Floats, Ints]:
    """What all lines before cost at best, where this one starts with each lag, and with which lag the last one ends."""
    if before is None:
        return np.zeros(len(_LAGS)), np.zeros(len(_LAGS), dtype=np.int64)
    between = float(lines.start[k] - lines.end[k - 1])
    apart = min(limits.least_gap, between)  # lines whose originals overlap may do so as much
    last = np.floor((between - apart) / STEP_S + 1e-6) + np.arange(len(_LAGS))
    place = np.clip(last, 0, len(_LAGS) - 1).astype(np.int64)
    cheapest = np.minimum.accumulate(before)
    which = np.maximum.accumulate(np.where(before == cheapest, np.arange(len(_LAGS)), 0))
    return np.where(last >= 0, cheapest[place], np.inf), which[place]


def _lag_costs(
    tolerances: tuple[float, float], prices: tuple[float, float], lines: Lines, k: int, *, early: float
) -> Floats:
    """What each lag costs: little within the tolerance, then dear, then dearer, as in the plan."""
    seen = 0 if lines.on_screen[k] else 1
    tolerance, price, lag = tolerances[seen], prices[seen], np.abs(_LAGS)
    costs = early * np.minimum(lag, tolerance) + price * np.clip(lag - tolerance, 0, 2 * tolerance)
    return costs + 2.5 * price * np.maximum(lag - 3 * tolerance, 0)


def _span_costs(lines: Lines, limits: Limits, k: int) -> tuple[Floats, Ints]:
    """What the cheapest wording costs for each span, and which it is."""
    length = np.maximum(lines.end[k] - lines.start[k] + _SPANS, 0.0)
    spoken = lines.spoken[k]
    fullest = max(spoken)
    costs = [
        _tempo_cost(length, speech, limits) + _LESS_PRICE * (fullest - speech) + _OTHER_PRICE * (number > 0)
        for number, speech in enumerate(spoken)
    ]
    every = np.array(costs)
    best = every.argmin(axis=0)
    return np.take_along_axis(every, best[None], axis=0)[0], best


def _tempo_cost(length: Floats, speech: float, limits: Limits) -> Floats:
    """What it costs to bring speech to a length: by how much each band of tempos is used."""
    share = length / max(speech, 0.05)
    cost = np.zeros_like(length)
    slower = [1 / tempo - 1 for tempo in (limits.comfort[0], limits.soft[0], limits.hard[0])]
    faster = [1 - 1 / tempo for tempo in (limits.comfort[1], limits.soft[1], limits.hard[1])]
    for off, edges in ((share - 1, slower), (1 - share, faster)):
        bands = zip([0.0, *edges], [*edges, np.inf], [*limits.tempo_price, _IMPOSSIBLE_PRICE], strict=True)
        for low, high, price in bands:
            cost += price * speech * np.clip(off - low, 0, high - low)
    return cost


def _way_back(lines: Lines, starts: Ints, ends_before: Ints, words: Ints, last: Floats) -> Chosen:
    """Follow the cheapest end back to the beginning."""
    count, end = len(lines.start), int(last.argmin())
    wording, tempo = np.zeros(count, dtype=np.int64), np.ones(count)
    for k in range(count - 1, -1, -1):
        start = int(starts[k, end])
        span = end - start + 2 * _SIDE
        wording[k] = words[k, span]
        length = float(lines.end[k] - lines.start[k] + _SPANS[span])
        tempo[k] = lines.spoken[k][wording[k]] / max(length, 1e-3)
        end = int(ends_before[k, start])
    return Chosen(wording, tempo, float(last.min()))
