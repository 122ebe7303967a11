"""The plan: a linear programme over lines of a version.

Times are seconds. For line ``i`` with segment ``[s, e)`` and a take whose speech lasts ``d`` (of which ``q`` is
spare in inner pauses) the unknowns are bounded pieces of convex costs:

    start   x = s + a0+a1+a2 - b0-b1-b2          each piece dearer than the one before
    length  y = (d-q)(1 + p1+p2+p3 - n1-n2-n3) + q - cut + add
    end     x + y - o - e = u0+u1+u2 - v0-v1-v2   o is overflow: what no permitted tempo can fit

so that costs need bounds, not rows. Rows keep order, gaps and equal tempo between neighbours. Solved as one by
HiGHS's dual simplex.
"""

from __future__ import annotations

from typing import Final

import numpy as np

from zweistimme.project.errors import ZweistimmeError
from zweistimme.project.fit_limits import Limits
from zweistimme.sound.arrays import Floats, Ints
from zweistimme.stages.fit.pairs import near_pairs, neighbours_of_speakers
from zweistimme.stages.fit.plan_input import SHORTEST_S, Plan, PlanInput
from zweistimme.stages.linear_programme import Rows, Terms, cheapest

_PIECES: Final = ("a0", "a1", "a2", "b0", "b1", "b2", "u0", "u1", "u2", "v0", "v1", "v2",
                  "p1", "p2", "p3", "n1", "n2", "n3", "cut", "add", "over", "t_up", "t_down")  # fmt: skip
_COUNT: Final = len(_PIECES)
_OVERFLOW_PRICE: Final = 300.0
_CLASH_PRICE: Final = 2_000.0
_PINNED_CLASH_PRICE: Final = 250.0
"""Dearer than any permitted tempo, cheaper than to crush a line: where a hand put one line on another, that is said."""
_JUMP_WITHIN_PRICE: Final = 6.0
"""Dear, since a change of tempo is heard within a line; with 0.5, a fifth of the phrases jumped."""
_FAR_PRICE: Final = 100.0
_TURNED_PRICE: Final = 1_000.0
"""Dearer than to crush a phrase: none is heard before the one before it."""
_CUT_PRICE: Final = 25.0
"""Dearer than a soft tempo, cheaper than a hard one: rather somewhat faster than over a cut."""
_OVER_CUT_S: Final = 0.12
"""So much, three pictures, nobody sees."""
_MOST_SHORTENED: Final = 0.95
_SEEN_CLASH_S: Final = 0.001


def _tie(letter: str) -> float:
    """Of two plans that cost the same, the one that is late rather than early, and short rather than long: so that
    the same lines have the same plan, whatever else is planned with them."""
    return {"a": 1.0, "b": 1.003, "u": 1.007, "v": 1.0}[letter]


class Problem:
    """Columns, bounds and prices; column ``k`` of line ``i`` stands at ``k * n + i``, slacks behind. Lines come in the
    order in which they are heard: a pinned one is aimed at where its pin is, and as long as the original."""

    def __init__(self, lines: PlanInput, limits: Limits) -> None:
        self.lines, self.limits = lines, limits
        self.n = n = len(lines.start)
        self.at = {name: np.arange(n) + k * n for k, name in enumerate(_PIECES)}
        self.body = lines.speech - lines.spare_pause
        self.pinned = np.isfinite(lines.pinned_start)
        self.start = lines.aimed_start - np.where(self.pinned, limits.start_shift, 0.0)
        along = np.where(np.isfinite(lines.moved), lines.moved, self.start - lines.start)
        self.elsewhere = self.pinned | (along != 0)
        """What a hand put, or moved, to another place than the original's."""
        self.end = np.where(np.isfinite(lines.pinned_length), self.start + lines.pinned_length, lines.end + along)
        self.target_start = self.start + limits.start_shift
        self.target_end = np.maximum(self.end - limits.end_shift, self.target_start + 0.2)
        self.high, self.low = np.full(_COUNT * n, np.inf), np.zeros(_COUNT * n)
        self.prices = np.zeros(_COUNT * n)
        self.apart_worth = np.zeros(0)
        """Once it is solved: what a second less between each two lines that are kept apart would save."""
        self._find_pairs()
        self._bound_start()
        self._bound_tempo()

    def _set(self, name: str, price: Floats | float, high: Floats | float = np.inf) -> None:
        self.prices[self.at[name]] = price
        self.high[self.at[name]] = high

    def _bound_start(self) -> None:
        limits, seen = self.limits, self.lines.on_screen
        slack = self.lines.start_slack
        tolerance = np.where(seen, limits.start_tolerance[0], limits.start_tolerance[1]) + slack
        cap = np.where(seen, limits.lag_cap[0], limits.lag_cap[1]) + slack
        dear = np.where(seen, limits.start_price[0], limits.start_price[1])
        late = np.maximum(np.minimum(cap, self.lines.programme_end - self.target_start), 0)
        early = np.maximum(np.minimum(cap, self.target_start), 0)
        if limits.inside_price:
            early = np.minimum(early, limits.start_shift)
        for letter, room in (("a", late), ("b", early)):
            inside = np.where(seen, *limits.near_price) * _tie(letter)
            self._set(f"{letter}0", inside, np.minimum(tolerance, room))
            self._set(f"{letter}1", dear, np.clip(room - tolerance, 0, 2 * tolerance))
            self._set(f"{letter}2", dear * 2.5, np.maximum(room - 3 * tolerance, 0))
        end_tolerance = np.where(seen, limits.end_tolerance[0], limits.end_tolerance[1]) + self.lines.end_slack
        end_dear = np.where(seen, limits.end_price[0], limits.end_price[1])
        for letter in "uv":
            self._set(f"{letter}0", 0.15 * _tie(letter), end_tolerance)
            self._set(f"{letter}1", end_dear, 2 * end_tolerance)
            self._set(f"{letter}2", end_dear * 2.5)
        if limits.inside_price:  # up to the original's end it may be late, beyond that hardly
            self._set("u0", 0.15, np.maximum(self.end - self.target_end, 0))
            self._set("u1", limits.inside_price)
            self._set("u2", limits.inside_price * 2.5)
        for piece in ("a0", "a1", "a2", "b0", "b1", "b2"):
            self.high[self.at[piece][self.pinned]] = 0

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
        fixed = np.isfinite(self.lines.pause_cut)
        self.high[self.at["cut"][fixed]] = np.maximum(self.lines.pause_cut[fixed], 0.0)
        self.high[self.at["add"][fixed]] = np.maximum(-self.lines.pause_cut[fixed], 0.0)
        self.low[self.at["cut"][fixed]] = self.high[self.at["cut"][fixed]]
        self.low[self.at["add"][fixed]] = self.high[self.at["add"][fixed]]
        self._set("over", _OVERFLOW_PRICE)
        self._set("t_up", 2.0)
        self._set("t_down", 2.0)

    def _start_terms(self, index: Ints, sign: float) -> Terms:
        pieces = [(f"a{k}", sign) for k in range(3)] + [(f"b{k}", -sign) for k in range(3)]
        return [(self.at[name][index], value) for name, value in pieces]

    def _length_terms(self, index: Ints, sign: float) -> Terms:
        body = self.body[index] * sign
        terms: Terms = [(self.at[f"p{k}"][index], body) for k in (1, 2, 3)]
        terms += [(self.at[f"n{k}"][index], -body) for k in (1, 2, 3)]
        return [*terms, (self.at["cut"][index], -sign), (self.at["add"][index], sign)]

    def _end_terms(self, index: Ints, sign: float) -> Terms:
        """Start + length - overflow, without its constant part."""
        return [
            *self._start_terms(index, sign),
            *self._length_terms(index, sign),
            (self.at["over"][index], -sign),
        ]

    def constraints(self) -> Rows:
        """All rows; those that need slacks add their columns."""
        rows = Rows()
        every = np.arange(self.n)
        ends = self.target_start + self.lines.speech
        by_hand = self.pinned | np.isfinite(self.lines.pinned_length)
        beyond = self._slacks(np.full(self.n, _PINNED_CLASH_PRICE), np.where(by_hand, np.inf, 0.0))
        rows.add([*self._end_terms(every, 1), (beyond, -1.0)], self.lines.programme_end - ends)
        left = self.lines.speech - np.maximum(np.nan_to_num(self.lines.pause_cut), 0.0)
        shortest = np.fmin(np.minimum(SHORTEST_S, left), self.lines.pinned_length)
        rows.add([(self.at["over"], 1.0), *self._length_terms(every, -1)], self.lines.speech - shortest)
        self._keep_apart(rows)
        self._keep_order(rows)
        self._keep_within_shots(rows)
        pieces = [(f"u{k}", -1.0) for k in range(3)] + [(f"v{k}", 1.0) for k in range(3)]
        rows.add_equal(
            [*self._end_terms(every, 1), *[(self.at[name], value) for name, value in pieces]],
            self.target_end - ends,
        )
        self._smoothness(rows)
        self._keep_together(rows)
        self._pinned_lengths(rows)
        return rows

    def _slacks(self, prices: Floats, high: Floats) -> Ints:
        """Columns for what rows may miss their bounds by, at a price."""
        columns = np.arange(len(prices)) + len(self.prices)
        self.prices = np.append(self.prices, prices)
        self.high = np.append(self.high, high)
        self.low = np.append(self.low, np.zeros(len(high)))
        return columns

    def _find_pairs(self) -> None:
        """Which lines are kept apart, and by how much they may overlap all the same: as much as their originals do,
        wherever a hand put one of them and however long it made it."""
        self.first, self.second = near_pairs(self.start, self.end)
        self.by_hand = self.pinned[self.first] | self.pinned[self.second]
        start, end = self.lines.start, self.lines.end
        overlap = np.minimum(end[self.first], end[self.second]) - np.maximum(start[self.first], start[self.second])
        self.allowed = np.maximum(overlap, -self.limits.least_gap)
        line = self.lines.line
        # phrases of a line are a breath apart, however they lie in the original
        same = line[self.first] == line[self.second]
        self.allowed[same] = -self.lines.least_before[self.second[same]]

    def missed(self, start: Floats, length: Floats) -> Floats:
        """By how much more than they may lines overlap that are kept apart, by pair."""
        return start[self.first] + length[self.first] - start[self.second] - self.allowed

    def _keep_apart(self, rows: Rows) -> None:
        """None runs into a later one by more than the segments do; but one that a hand put there."""
        by_hand = self.by_hand
        clash = self._slacks(np.where(by_hand, _PINNED_CLASH_PRICE, _CLASH_PRICE), np.full(len(self.first), np.inf))
        ends = self.target_start[self.first] + self.lines.speech[self.first]
        terms = [*self._end_terms(self.first, 1), *self._start_terms(self.second, -1), (clash, -1.0)]
        self._apart = slice(rows.count, rows.count + len(self.first))
        rows.add(terms, self.target_start[self.second] - ends + self.allowed)

    def _keep_order(self, rows: Rows) -> None:
        """No take starts before the one before it, but for what is pinned."""
        free = np.flatnonzero(~self.pinned)
        before, after = free[:-1], free[1:]
        order = [*self._start_terms(before, 1), *self._start_terms(after, -1)]
        rows.add(order, self.target_start[after] - self.target_start[before])

    def _keep_within_shots(self, rows: Rows) -> None:
        """No line runs far over a cut of the picture that the original does not cross; dearly, where it must."""
        given, free = self.lines, ~self.elsewhere
        behind = np.flatnonzero(free & np.isfinite(given.cut_after))
        before = np.flatnonzero(free & np.isfinite(given.cut_before))
        over = self._slacks(np.full(len(behind), _CUT_PRICE), np.full(len(behind), np.inf))
        ends = self.target_start[behind] + given.speech[behind]
        rows.add([*self._end_terms(behind, 1), (over, -1.0)], given.cut_after[behind] + _OVER_CUT_S - ends)
        early = self._slacks(np.full(len(before), _CUT_PRICE), np.full(len(before), np.inf))
        room = self.target_start[before] - given.cut_before[before] + _OVER_CUT_S
        rows.add([*self._start_terms(before, -1), (early, -1.0)], room)

    def _smoothness(self, rows: Rows) -> None:
        """Tempo jumps between lines of one speaker that follow closely cost something."""
        before, after = neighbours_of_speakers(self.start, self.end, self.lines.speaker)
        if not len(before):
            return
        within = after[self.lines.line[before] == self.lines.line[after]]
        for name in ("t_up", "t_down"):
            self.prices[self.at[name][within]] = _JUMP_WITHIN_PRICE
        signs = [(f"p{k}", 1.0) for k in (1, 2, 3)] + [(f"n{k}", -1.0) for k in (1, 2, 3)]
        terms: Terms = [(self.at[name][after], sign) for name, sign in signs]
        terms += [(self.at[name][before], -sign) for name, sign in signs]
        terms += [(self.at["t_up"][after], -1.0), (self.at["t_down"][after], 1.0)]
        rows.add_equal(terms, np.zeros(len(before)))

    def _keep_together(self, rows: Rows) -> None:
        """The pauses between phrases of one line grow no longer than they may, dearly, where nothing else is left; and
        none is heard before the one before it has ended, wherever a hand held it."""
        order = np.lexsort((self.start, self.lines.line))
        same = self.lines.line[order[:-1]] == self.lines.line[order[1:]]
        before, after = order[:-1][same], order[1:][same]
        if not len(before):
            return
        far = self._slacks(np.full(len(before), _FAR_PRICE), np.full(len(before), np.inf))
        ends = self.target_start[before] + self.lines.speech[before]
        terms = [*self._start_terms(after, 1), *self._end_terms(before, -1), (far, -1.0)]
        rows.add(terms, ends - self.target_start[after] + self.lines.most_before[after])
        put = self.pinned[before] | self.pinned[after]  # of those that are free, pairs and their order see to it
        before, after = before[put], after[put]
        turned = self._slacks(np.full(len(before), _TURNED_PRICE), np.full(len(before), np.inf))
        terms = [*self._end_terms(before, 1), *self._start_terms(after, -1), (turned, -1.0)]
        room = self.target_start[after] - self.target_start[before] - self.lines.speech[before]
        rows.add(terms, room - self.lines.least_before[after])

    def _pinned_lengths(self, rows: Rows) -> None:
        """A length that a hand gave is kept at any tempo; only beyond that something is too long."""
        pinned = np.flatnonzero(np.isfinite(self.lines.pinned_length))
        if len(pinned):
            terms = [*self._length_terms(pinned, 1), (self.at["over"][pinned], -1.0)]
            rows.add_equal(terms, self.lines.pinned_length[pinned] - self.lines.speech[pinned])
            self.high[self.at["p3"][pinned]] = np.inf
            shortened = self.high[self.at["n1"][pinned]] + self.high[self.at["n2"][pinned]]
            self.high[self.at["n3"][pinned]] = _MOST_SHORTENED - shortened

    def solved(self) -> Plan:
        """The cheapest plan of these lines. It always exists: overflow and, beside pins, clashes take what does not
        fit."""
        rows = self.constraints()
        answer = cheapest(self.prices, self.low, self.high, rows)
        if answer.values is None:
            raise ZweistimmeError(
                "The plan could not be solved ({message}). Remove a pin and fit again.", message=answer.status
            )
        assert answer.duals is not None
        self.apart_worth = np.abs(answer.duals[self._apart])
        return self._read(answer.values, answer.cost)

    def _read(self, values: Floats, cost: float) -> Plan:
        z = {name: values[columns] for name, columns in self.at.items()}
        start = self.target_start + z["a0"] + z["a1"] + z["a2"] - z["b0"] - z["b1"] - z["b2"]
        body = self.body * (1 + z["p1"] + z["p2"] + z["p3"] - z["n1"] - z["n2"] - z["n3"])
        cut = z["cut"] - z["add"]
        length = body + self.lines.spare_pause - cut - z["over"]
        spoken = np.maximum(length - (self.lines.spare_pause - cut), 1e-3)
        overflow = np.where(z["over"] < 1e-4, 0, z["over"])
        return Plan(start, length, self.body / spoken, cut, overflow, *self._clashes(start, length), cost)

    def _clashes(self, start: Floats, length: Floats) -> tuple[Floats, Ints]:
        """The worst clash of each line, in seconds, and with which other."""
        missed = self.missed(start, length)
        clash, other = np.zeros(self.n), np.full(self.n, -1)
        for pair in np.flatnonzero(missed > _SEEN_CLASH_S):
            for one, two in ((self.first[pair], self.second[pair]), (self.second[pair], self.first[pair])):
                if missed[pair] > clash[one]:
                    clash[one], other[one] = missed[pair], two
        return clash, other
