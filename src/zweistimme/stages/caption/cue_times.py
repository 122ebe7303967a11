"""When captions are shown that come too close: one optimisation over each neighbourhood.

Speech of several people overlaps; captions never do. In a neighbourhood the captions of two people may share one,
a dash each, and starts and ends give way: a linear programme finds the times that keep every caption readable, near
its speech, and apart from the next. What nobody can read for all that is reported, not hidden.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from typing import Final

import numpy as np

from zweistimme.formats.cue import Cue
from zweistimme.project.times import SECOND_US
from zweistimme.project.writing import letters, one_line
from zweistimme.sound.arrays import Floats
from zweistimme.stages.caption.layout import broken
from zweistimme.stages.caption.rules import CaptionRules, reading_letters
from zweistimme.stages.linear_programme import Rows, cheapest

_PRICES: Final = {
    "blink": 160.0,
    "flash": 80.0,
    "unreadable": 40.0,
    "hurried": 1.5,
    "late": 4.0,
    "early": 6.0,
    "cut": 1.0,
    "spill": 0.2,
    "short": 10.0,
}
_FLASH, _BLINK = 1.25, 1.6
"""Where there is not time enough, all go by a little too fast rather than one in a blink."""
_MOST_TOGETHER: Final = 40
"""Captions that are settled at once; longer neighbourhoods are taken one behind the other."""


def settled(cues: Sequence[Cue], rules: CaptionRules, programme_end_us: int) -> list[Cue]:
    """Captions in order of time, none two at once, each long enough to be read wherever that can be."""
    ordered = sorted(cues, key=lambda cue: (cue.start_us, cue.end_us))
    result: list[Cue] = []
    for start, stop in _neighbourhoods(ordered, rules):
        behind = ordered[stop].start_us - rules.gap_us if stop < len(ordered) else programme_end_us
        first = result[-1].end_us + rules.gap_us if result else 0
        result += _settled_group(ordered[start:stop], rules, first, min(programme_end_us, behind))
    return result


def _neighbourhoods(cues: Sequence[Cue], rules: CaptionRules) -> list[tuple[int, int]]:
    """Captions ``[start, stop)`` that have to do with each other."""
    groups: list[tuple[int, int]] = []
    reach = -1
    for place, cue in enumerate(cues):
        touching = groups and cue.start_us < reach + rules.gap_us and place - groups[-1][0] < _MOST_TOGETHER
        if touching:
            groups[-1] = (groups[-1][0], place + 1)
        else:
            groups.append((place, place + 1))
            reach = -1
        reach = max(reach, cue.end_us, cue.start_us + _needed_us(cue.text, rules, rules.aimed_speed))
    return groups


def _needed_us(text: str, rules: CaptionRules, speed: float) -> int:
    needed = round(reading_letters(text) / speed * SECOND_US)
    return min(max(needed, rules.shortest_us), rules.longest_us)


def _settled_group(cues: Sequence[Cue], rules: CaptionRules, first_us: int, limit_us: int) -> list[Cue]:
    if len(cues) == 1 and cues[0].start_us >= first_us:
        return [_alone(cues[0], rules, limit_us)]
    best, price = _timed(cues, rules, first_us, limit_us)
    while True:
        # one pair after the other shares a caption, as long as that makes the whole better
        fewer = [
            [*cues[:k], pair, *cues[k + 2 :]]
            for k in range(len(cues) - 1)
            if (pair := _together(cues[k], cues[k + 1], rules)) is not None
        ]
        tried = [(*_timed(some, rules, first_us, limit_us), some) for some in fewer]
        placed, cost, chosen = min(tried, key=lambda one: one[1], default=(best, price, cues))
        if cost >= price - 1e-6:
            return best
        best, price, cues = placed, cost, chosen


def _alone(cue: Cue, rules: CaptionRules, limit_us: int) -> Cue:
    wanted = cue.start_us + _needed_us(cue.text, rules, rules.aimed_speed)
    end = min(max(cue.end_us, wanted), limit_us, cue.start_us + rules.longest_us)
    return replace(cue, end_us=max(end, cue.start_us + 1_000))


def _together(first: Cue, second: Cue, rules: CaptionRules) -> Cue | None:
    """Two captions as one, if both fit: with a dash each where two people speak who do so nearly at once."""
    one, two = one_line(first.text), one_line(second.text)
    end = max(first.end_us, second.end_us)
    if first.speaker == second.speaker and first.speaker:
        text = broken(f"{one} {two}", rules)
        fits = all(letters(line) <= rules.line_letters for line in text.split("\n"))
        return Cue(first.start_us, end, text, first.speaker) if fits else None
    room = rules.line_letters - 2
    dashed = "\n" in first.text and first.text.startswith("– ")
    if dashed or second.text.startswith("– ") or letters(one) > room or letters(two) > room:
        return None
    if second.start_us > first.end_us + rules.gap_us:
        return None
    return Cue(first.start_us, end, f"– {one}\n– {two}")


def _timed(cues: Sequence[Cue], rules: CaptionRules, first_us: int, limit_us: int) -> tuple[list[Cue], float]:
    """The captions at their best times, and what that costs."""
    n = len(cues)
    start, end = (np.array([getattr(cue, name) for cue in cues]) / SECOND_US for name in ("start_us", "end_us"))
    least, wanted = (
        np.array([_needed_us(cue.text, rules, speed) for cue in cues]) / SECOND_US
        for speed in (rules.most_speed, rules.aimed_speed)
    )
    shortest = np.minimum(least, rules.shortest_us / SECOND_US)
    limit = max(limit_us / SECOND_US, first_us / SECOND_US + 0.01 * n)
    # columns: starts s, ends e, then one slack of each kind for every caption
    kinds = list(_PRICES)
    prices = np.concatenate((np.zeros(2 * n), *(np.full(n, _PRICES[kind]) for kind in kinds)))
    at = {name: np.arange(n) + n * k for k, name in enumerate(("s", "e", *kinds))}
    rows = Rows()

    def at_least(terms: list[tuple[str, float]], values: Floats) -> None:
        rows.add([(at[name], -sign) for name, sign in terms], -values)

    at_least([("e", 1), ("s", -1), ("blink", 1)], least / _BLINK)
    at_least([("e", 1), ("s", -1), ("flash", 1)], least / _FLASH)
    at_least([("e", 1), ("s", -1), ("unreadable", 1)], least)
    at_least([("e", 1), ("s", -1), ("hurried", 1)], wanted)
    at_least([("e", 1), ("s", -1), ("short", 1)], shortest)
    at_least([("late", 1), ("s", -1)], -start)
    at_least([("early", 1), ("s", 1)], start)
    at_least([("cut", 1), ("e", 1)], end)
    at_least([("spill", 1), ("e", -1)], -end)
    at_least([("e", 1), ("s", -1)], np.full(n, 1e-3))
    at_least([("e", -1), ("s", 1)], np.full(n, -rules.longest_us / SECOND_US))
    gap = min(rules.gap_us / SECOND_US, (limit - first_us / SECOND_US) / (4 * n))
    rows.add([(at["e"][:-1], 1.0), (at["s"][1:], -1.0)], np.full(n - 1, -gap))
    low, high = np.zeros(len(prices)), np.full(len(prices), np.inf)
    low[: 2 * n] = first_us / SECOND_US
    high[: 2 * n] = limit
    answer = cheapest(prices, low, high, rows)
    if answer.values is None:
        return [_alone(cue, rules, limit_us) for cue in cues], float("inf")
    times = np.rint(answer.values[: 2 * n] * SECOND_US).astype(np.int64)
    placed = [
        replace(cue, start_us=int(a), end_us=max(int(b), int(a) + 1_000))
        for cue, a, b in zip(cues, times[:n], times[n:], strict=True)
    ]
    return placed, answer.cost
