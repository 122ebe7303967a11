"""The plan: one linear programme over all lines of a version.

Times are seconds. For line ``i`` with segment ``[s, e)`` and a take whose speech lasts ``d`` (of which ``q`` is
spare in inner pauses) the unknowns are bounded pieces of convex costs:

    start   x = s + a0+a1+a2 - b0-b1-b2          each piece dearer than the one before
    length  y = (d-q)(1 + p1+p2+p3 - n1-n2-n3) + q - cut + add
    end     x + y - o - e = u0+u1+u2 - v0-v1-v2   o is overflow: what no permitted tempo can fit

so that costs need bounds, not rows. Rows keep order, gaps and equal tempo between neighbours. Solved as one by
``scipy.optimize.linprog`` (HiGHS dual simplex).
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, Final

import numpy as np
import numpy.typing as npt

from zweistimme.project.errors import ZweistimmeError
from zweistimme.stages.fit.limits import Limits

Floats = npt.NDArray[np.float64]
Bools = npt.NDArray[np.bool_]
Ints = npt.NDArray[np.int64]

_PIECES: Final = ("a0", "a1", "a2", "b0", "b1", "b2", "u0", "u1", "u2", "v0", "v1", "v2",
                  "p1", "p2", "p3", "n1", "n2", "n3", "cut", "add", "over", "t_up", "t_down")  # fmt: skip
_COUNT: Final = len(_PIECES)
_CLASH_PRICE: Final = 2_000.0
_NEIGHBOUR_S: Final = 4.0


@dataclass(frozen=True, slots=True)
class PlanInput:
    """All lines of a version, sorted by start; every array has shape ``(n,)``. Pins are NaN where there are none."""

    start: Floats
    end: Floats
    speech: Floats
    spare_pause: Floats
    on_screen: Bools
    speaker: Ints
    pinned_start: Floats
    pinned_length: Floats
    programme_end: float


@dataclass(frozen=True, slots=True)
class Plan:
    """Where every take starts and how long it is, in seconds; shape ``(n,)`` each. *tempo* is that of the speech,
    *pause_cut* what inner pauses gave, *overflow* what remains too long, *cost* the optimum."""

    start: Floats
    length: Floats
    tempo: Floats
    pause_cut: Floats
    overflow: Floats
    cost: float


class _Rows:
    """Sparse rows ``A z <= b`` collected in whole arrays."""

    def __init__(self) -> None:
        self._rows: list[Ints] = []
        self._columns: list[Ints] = []
        self._values: list[Floats] = []
        self._bounds: list[Floats] = []
        self.count = 0

    def add(self, terms: list[tuple[Ints, Floats | float]], bound: Floats) -> None:
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


def solve(lines: PlanInput, limits: Limits) -> Plan:
    """The cheapest plan. It always exists: overflow and, between pins, clashes take what does not fit."""
    from scipy.optimize import linprog

    n = len(lines.start)
    if not n:
        empty = np.empty(0)
        return Plan(empty, empty, empty, empty, empty, 0.0)
    problem = _Problem(lines, limits)
    rows, bounds, equal, equals = problem.constraints()
    answer = linprog(
        problem.prices,
        rows,
        bounds,
        equal,
        equals,
        np.stack((problem.low, problem.high), axis=1),
        method="highs-ds",
    )
    if answer.status != 0:
        raise ZweistimmeError(f"The plan could not be solved ({answer.message}). Remove a pin and fit again.")
    return problem.plan(answer.x, float(answer.fun))


class _Problem:
    """Columns, bounds and prices; column ``k`` of line ``i`` stands at ``k * n + i``, clash slacks behind."""

    def __init__(self, lines: PlanInput, limits: Limits) -> None:
        self.lines, self.limits = lines, limits
        self.n = n = len(lines.start)
        self.at = {name: np.arange(n) + k * n for k, name in enumerate(_PIECES)}
        self.body = lines.speech - lines.spare_pause
        self.target_start = lines.start + limits.start_shift
        self.target_end = np.maximum(lines.end - limits.end_shift, self.target_start + 0.2)
        self.low = np.zeros(_COUNT * n)
        self.high = np.full(_COUNT * n, np.inf)
        self.prices = np.zeros(_COUNT * n)
        self._bound_start()
        self._bound_tempo()

    def _set(self, name: str, price: Floats | float, high: Floats | float = np.inf) -> None:
        self.prices[self.at[name]] = price
        self.high[self.at[name]] = high

    def _bound_start(self) -> None:
        limits, seen = self.limits, self.lines.on_screen
        tolerance = np.where(seen, limits.start_tolerance[0], limits.start_tolerance[1])
        cap = np.where(seen, limits.lag_cap[0], limits.lag_cap[1])
        dear = np.where(seen, limits.start_price[0], limits.start_price[1])
        late = np.maximum(np.minimum(cap, self.lines.programme_end - self.target_start), 0)
        early = np.maximum(np.minimum(cap, self.target_start), 0)
        if limits.inside_price:
            early = np.minimum(early, limits.start_shift)
        for letter, room in (("a", late), ("b", early)):
            self._set(f"{letter}0", 0.3, np.minimum(tolerance, room))
            self._set(f"{letter}1", dear, np.clip(room - tolerance, 0, 2 * tolerance))
            self._set(f"{letter}2", dear * 2.5, np.maximum(room - 3 * tolerance, 0))
        end_tolerance = np.where(seen, limits.end_tolerance[0], limits.end_tolerance[1])
        end_dear = np.where(seen, limits.end_price[0], limits.end_price[1])
        for letter in "uv":
            self._set(f"{letter}0", 0.15, end_tolerance)
            self._set(f"{letter}1", end_dear, 2 * end_tolerance)
            self._set(f"{letter}2", end_dear * 2.5)
        if limits.inside_price:  # up to the original's end it may be late, beyond that hardly
            self._set("u0", 0.15, np.maximum(self.lines.end - self.target_end, 0))
            self._set("u1", limits.inside_price)
            self._set("u2", limits.inside_price * 2.5)
        pinned = np.flatnonzero(np.isfinite(self.lines.pinned_start))
        shift = self.lines.pinned_start[pinned] - self.target_start[pinned]
        for letter, sign in (("a", 1), ("b", -1)):
            for piece in "012":
                columns = self.at[f"{letter}{piece}"][pinned]
                fixed = np.maximum(sign * shift, 0) if piece == "0" else np.zeros(len(pinned))
                self.low[columns] = self.high[columns] = fixed
                self.prices[columns] = 0

    def _bound_tempo(self) -> None:
        limits = self.limits
        # p lengthens, n shortens, as shares of the natural length: tempo t is the length 1/t
        slower = [1 / tempo - 1 for tempo in (limits.comfort[0], limits.soft[0], limits.hard[0])]
        faster = [1 - 1 / tempo for tempo in (limits.comfort[1], limits.soft[1], limits.hard[1])]
        for letter, edges in (("p", slower), ("n", faster)):
            for k, price in enumerate(limits.tempo_price):
                width = edges[k] - (edges[k - 1] if k else 0)
                self._set(f"{letter}{k + 1}", price * self.body, width)
        self._set("cut", 1.2, self.lines.spare_pause)
        self._set("add", 1.2, 0.5 * self.lines.spare_pause)
        self._set("over", 300.0)
        self._set("t_up", 2.0)
        self._set("t_down", 2.0)

    def _start_terms(self, index: Ints, sign: float) -> list[tuple[Ints, Floats | float]]:
        pieces = [(f"a{k}", sign) for k in range(3)] + [(f"b{k}", -sign) for k in range(3)]
        return [(self.at[name][index], value) for name, value in pieces]

    def _length_terms(self, index: Ints, sign: float) -> list[tuple[Ints, Floats | float]]:
        body = self.body[index] * sign
        terms: list[tuple[Ints, Floats | float]] = [(self.at[f"p{k}"][index], body) for k in (1, 2, 3)]
        terms += [(self.at[f"n{k}"][index], -body) for k in (1, 2, 3)]
        return [*terms, (self.at["cut"][index], -sign), (self.at["add"][index], sign)]

    def _end_terms(self, index: Ints, sign: float) -> list[tuple[Ints, Floats | float]]:
        """Start + length - overflow, without its constant part."""
        return [
            *self._start_terms(index, sign),
            *self._length_terms(index, sign),
            (self.at["over"][index], -sign),
        ]

    def constraints(self) -> tuple[Any, Any, Any, Any]:
        """Rows and bounds of the inequalities, then of the equations."""
        rows, equal = _Rows(), _Rows()
        every = np.arange(self.n)
        ends = self.target_start + self.lines.speech
        rows.add(self._end_terms(every, 1), self.lines.programme_end - ends)
        rows.add(
            [(self.at["over"], 1.0), *self._length_terms(every, -1)],
            self.lines.speech - np.minimum(0.15, self.lines.speech),
        )
        self._order(rows)
        pieces = [(f"u{k}", -1.0) for k in range(3)] + [(f"v{k}", 1.0) for k in range(3)]
        equal.add(
            [*self._end_terms(every, 1), *[(self.at[name], value) for name, value in pieces]],
            self.target_end - ends,
        )
        self._smoothness(equal)
        self._pinned_lengths(equal)
        columns = len(self.prices)
        return (*rows.matrix(columns), *equal.matrix(columns))

    def _order(self, rows: _Rows) -> None:
        """No take starts before the one before it; none runs into a later one by more than the segments do."""
        first, second, allowed = overlapping_pairs(self.lines.start, self.lines.end, self.limits.least_gap)
        clash = np.arange(len(first)) + len(self.prices)
        self.prices = np.append(self.prices, np.full(len(first), _CLASH_PRICE))
        self.low = np.append(self.low, np.zeros(len(first)))
        both = np.isfinite(self.lines.pinned_start[first]) & np.isfinite(self.lines.pinned_start[second])
        self.high = np.append(self.high, np.where(both, np.inf, 60.0))
        ends = self.target_start[first] + self.lines.speech[first]
        terms = [*self._end_terms(first, 1), *self._start_terms(second, -1), (clash, -1.0)]
        rows.add(terms, self.target_start[second] - ends + allowed)
        before, after = np.arange(self.n - 1), np.arange(1, self.n)
        free = ~(np.isfinite(self.lines.pinned_start[before]) | np.isfinite(self.lines.pinned_start[after]))
        before, after = before[free], after[free]
        order = [*self._start_terms(before, 1), *self._start_terms(after, -1)]
        rows.add(order, self.target_start[after] - self.target_start[before])

    def _smoothness(self, equal: _Rows) -> None:
        """Tempo jumps between lines of one speaker that follow closely cost something."""
        before, after = neighbours_of_speakers(self.lines)
        if not len(before):
            return
        signs = [(f"p{k}", 1.0) for k in (1, 2, 3)] + [(f"n{k}", -1.0) for k in (1, 2, 3)]
        terms: list[tuple[Ints, Floats | float]] = [(self.at[name][after], sign) for name, sign in signs]
        terms += [(self.at[name][before], -sign) for name, sign in signs]
        terms += [(self.at["t_up"][after], -1.0), (self.at["t_down"][after], 1.0)]
        equal.add(terms, np.zeros(len(before)))

    def _pinned_lengths(self, equal: _Rows) -> None:
        pinned = np.flatnonzero(np.isfinite(self.lines.pinned_length))
        if len(pinned):
            terms = [*self._length_terms(pinned, 1), (self.at["over"][pinned], -1.0)]
            equal.add(terms, self.lines.pinned_length[pinned] - self.lines.speech[pinned])
            self.high[np.concatenate([self.at[name][pinned] for name in ("p3", "n3")])] = 0.9

    def plan(self, values: Floats, cost: float) -> Plan:
        """Read the solution."""
        z = {name: values[columns] for name, columns in self.at.items()}
        start = self.target_start + z["a0"] + z["a1"] + z["a2"] - z["b0"] - z["b1"] - z["b2"]
        body = self.body * (1 + z["p1"] + z["p2"] + z["p3"] - z["n1"] - z["n2"] - z["n3"])
        cut = z["cut"] - z["add"]
        length = body + self.lines.spare_pause - cut - z["over"]
        spoken = np.maximum(length - (self.lines.spare_pause - cut), 1e-3)
        return Plan(start, length, self.body / spoken, cut, np.where(z["over"] < 1e-4, 0, z["over"]), cost)


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


def neighbours_of_speakers(lines: PlanInput) -> tuple[Ints, Ints]:
    """Pairs of consecutive lines of one speaker less than four seconds apart."""
    order = np.lexsort((lines.start, lines.speaker))
    before, after = order[:-1], order[1:]
    near = (lines.speaker[before] == lines.speaker[after]) & (lines.start[after] - lines.end[before] < _NEIGHBOUR_S)
    return before[near], after[near]
