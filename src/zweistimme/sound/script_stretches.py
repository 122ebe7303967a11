"""Which sentence is said in which stretch of speech, once most have their places: single sentences are tried in what no
other has."""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from typing import Final

from zweistimme.sound.arrays import Floats
from zweistimme.sound.script_sureness import least_among

_ASIDE_S: Final = 0.15
_MOST_RIVALS: Final = 4
_RIVALS_WEIGH: Final = 2.0
"""A place is sure only if it is twice as likely as any other."""
_MOST_BESIDE_S: Final = 45.0
_LEAST_BESIDE: Final = 0.7
_BESIDE_COSTS: Final = 0.3
_MOST_STRETCHES: Final = 12


@dataclass(frozen=True, slots=True)
class Placed:
    """A sentence in its place: its number, when each state begins (seconds, shape ``(states + 1,)``, the last one its
    end), when each word begins and ends (seconds, shape ``(words, 2)``), and how sure that is, 0..1."""

    sentence: int
    times_s: Floats
    words_s: Floats
    sureness: float


Between = Callable[[int, float, float], Placed | None]
"""Where a sentence, by number, fits best between two times in seconds."""
Regions = Sequence[tuple[float, float]]


def against_rivals(placed: Sequence[Placed], regions: Regions, length_s: float, between: Between) -> list[Placed]:
    """Each sentence in the likeliest of all stretches of speech between its neighbours that no other has, and only as
    sure as they leave it: all but one of them are not in the script, and may say much the same."""
    starts = [a for a, _ in regions]
    chosen: list[Placed] = []
    for one, behind in zip(placed, (*placed[1:], None), strict=True):
        begin = float(chosen[-1].times_s[-1]) if chosen else 0.0
        end = float(behind.times_s[0]) if behind else length_s
        near = regions[bisect_left(starts, begin - _ASIDE_S) : bisect_left(starts, end)]
        chosen.append(_likeliest_place(one, [(a, min(b, end)) for a, b in near], between))
    return chosen


def _likeliest_place(one: Placed, stretches: Regions, between: Between) -> Placed:
    """Where of some stretches of speech a sentence is likeliest said; in one of them it is already."""
    start, end = float(one.times_s[0]), float(one.times_s[-1])
    free = [(a, b) for a, b in stretches if b <= start + _ASIDE_S or a >= end - _ASIDE_S]
    free.sort(key=lambda stretch: abs(stretch[0] - start))
    tried = [between(one.sentence, max(0.0, a - _ASIDE_S), b + _ASIDE_S) for a, b in free[:_MOST_RIVALS]]
    rivals = [one, *(rival for rival in tried if rival is not None)]
    best = max(rivals, key=lambda rival: rival.sureness)
    others = sum(_odds(rival) for rival in rivals if rival is not best)
    if not others:
        return best
    return replace(best, sureness=_odds(best) / (1 + _odds(best) + _RIVALS_WEIGH * others))


def _odds(one: Placed) -> float:
    return one.sureness / max(1e-6, 1 - one.sureness)


def beside(placed: Sequence[Placed], count: int, regions: Regions, length_s: float, between: Between) -> list[Placed]:
    """Single sentences of *count* that were passed over, as when somebody else speaks at once, or whispers: looked for
    between the beginning of the one before and the end of the one behind, and in each stretch of speech there."""
    least = max(_LEAST_BESIDE, least_among([one.sureness for one in placed]))
    more = []
    known = {one.sentence: one for one in placed}
    for number in range(count):
        before, behind = known.get(number - 1), known.get(number + 1)
        if number in known or (before is None and number > 0) or (behind is None and number + 1 < count):
            continue
        begin = float(before.times_s[0]) if before else 0.0
        end = min(length_s, float(behind.times_s[-1]) + 0.1) if behind else length_s
        if not 0.2 < end - begin < _MOST_BESIDE_S:
            continue
        free = (float(before.times_s[-1]) if before else 0.0, float(behind.times_s[0]) if behind else length_s)
        stretches = [
            (max(a - _ASIDE_S, 0.0), b + _ASIDE_S) for a, b in regions if a >= free[0] - 0.1 and b <= free[1] + 0.1
        ]
        tried = [between(number, a, b) for a, b in [(begin, end), *stretches[:_MOST_STRETCHES]]]

        def worth(one: Placed, free: tuple[float, float] = free) -> float:
            """Where a neighbour is heard already, it takes more to be heard beside it."""
            inside = free[0] - 0.1 <= one.times_s[0] and one.times_s[-1] <= free[1] + 0.1
            return one.sureness - (0.0 if inside else _BESIDE_COSTS)

        best = max((one for one in tried if one is not None), key=worth, default=None)
        if best is not None and best.sureness > least:
            more.append(best)
    return more
