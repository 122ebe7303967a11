"""Finding sentences in sound in the order in which they were written, by dynamic time warping (Sakoe and Chiba 1978).

As in ``matching``, sound that no sentence explains is *elsewhere*. Here a path may enter only sentences behind those
it has been through: a sentence may be left out, at a price, and sound may lie between any two.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Final

import numpy as np
import numpy.typing as npt

from zweistimme.sound.arrays import Floats, Ints
from zweistimme.sound.features import STATE_SECONDS
from zweistimme.sound.matching import Match, distances, elsewhere_costs

_STAY: Final = np.float32(0.25)
_SKIP_STATE: Final = np.float32(0.35)
_ENTER: Final = np.float32(1.5)
_SKIP_SENTENCE: Final = 3.0
_BLOCKED: Final = np.float32(1e9)
_ROWS: Final = 512
_MOST_BESIDE_S: Final = 40.0
_LEAST_GAIN_BESIDE: Final = 0.1


@dataclass(frozen=True, slots=True)
class SentenceTemplates:
    """Sentences as rows of features, one behind the other; see ``matching.Templates``."""

    states: Floats
    starts: Ints
    ends: Ints

    @classmethod
    def of(cls, sentences: Sequence[Floats]) -> SentenceTemplates:
        """From the features of each sentence, shapes ``(k, d)``."""
        ends = np.cumsum([len(rows) for rows in sentences]).astype(np.int64)
        return cls(np.concatenate(sentences), np.concatenate(([0], ends[:-1])).astype(np.int64), ends)


def ordered_path(frames: Floats, book: SentenceTemplates, background: Floats | None = None) -> list[Match]:
    """Sentences found, in their order. *background* are more states that sound may be like without being of any
    sentence; they make elsewhere what it should be where there are few sentences."""
    if not len(frames):
        return []
    count, last = len(book.starts), book.ends - 1
    states = len(book.states)
    first, second = np.zeros(states, dtype=bool), np.zeros(states, dtype=bool)
    first[book.starts] = True
    second[np.minimum(book.starts + 1, states - 1)] = True
    total = np.full(states, _BLOCKED, dtype=np.float32)
    outside = np.arange(count + 1) * _SKIP_SENTENCE
    choice = np.empty((len(frames), states), dtype=np.int8)
    entered = np.empty((len(frames), count), dtype=np.int16)
    left = np.empty((len(frames), count), dtype=bool)
    gains: list[tuple[npt.NDArray[np.float32], npt.NDArray[np.float32]]] = []
    ramp = np.arange(count + 1) * _SKIP_SENTENCE
    around = SentenceTemplates(background, book.starts, book.ends) if background is not None else None
    for block in range(0, len(frames), _ROWS):
        here = slice(block, block + _ROWS)
        rows = distances(frames[here], book)
        free = elsewhere_costs(rows if around is None else np.hstack((rows, distances(frames[here], around))))
        gains.append((rows, free))
        for k in range(len(rows)):
            t = block + k
            # the cheapest way to stand before each sentence: outside, behind any earlier one, those between left out
            ahead = outside - ramp
            best = np.minimum.accumulate(ahead)
            source = np.maximum.accumulate(np.where(ahead <= best, np.arange(count + 1), 0))
            entered[t] = source[:count]
            step = np.concatenate(([_BLOCKED], total[:-1]))
            skip = np.concatenate(([_BLOCKED, _BLOCKED], total[:-2])) + _SKIP_STATE
            step[book.starts] = (best + ramp)[:count].astype(np.float32) + _ENTER
            skip[first | second] = _BLOCKED
            stay = total + _STAY
            finished = total[last]
            left[t] = finished < outside[1:]
            outside[1:] = np.minimum(outside[1:], finished)
            outside += free[k]
            stepped = step < stay
            total = np.minimum(stay, step)
            choice[t] = stepped
            choice[t][skip < total] = 2
            total = np.minimum(total, skip) + rows[k]
    return _traced(book, gains, choice, entered, left, total, np.asarray(outside, dtype=np.float64))


def _traced(
    book: SentenceTemplates,
    gains: Sequence[tuple[npt.NDArray[np.float32], npt.NDArray[np.float32]]],
    choice: npt.NDArray[np.int8],
    entered: npt.NDArray[np.int16],
    left: npt.NDArray[np.bool_],
    total: npt.NDArray[np.float32],
    outside: Floats,
) -> list[Match]:
    costs = np.concatenate([rows for rows, _ in gains])
    free = np.concatenate([one for _, one in gains])
    last = book.ends - 1
    within, without = int(total[last].argmin()), int(outside.argmin())
    inside = bool(total[last[within]] < outside[without])
    matches: list[Match] = []
    t = len(choice) - 1
    while t >= 0:
        if not inside:
            inside = without > 0 and bool(left[t, without - 1])
            within = without - 1
            t -= 1
            continue
        end, path = t + 1, []
        state = int(last[within])
        while True:
            path.append(state)
            move = int(choice[t, state])
            begun = move == 1 and state == book.starts[within]
            if begun:
                without = int(entered[t, within])
            state -= move
            t -= 1
            if begun or t < 0:
                break
        states = np.array(path[::-1], dtype=np.int64)
        frames = np.arange(t + 1, end)
        gain = 1 - costs[frames, states] / free[frames]
        matches.append(Match(within, t + 1, end, states - book.starts[within], gain.astype(np.float64)))
        inside = False
    return matches[::-1]


@dataclass(frozen=True, slots=True)
class Placed:
    """A sentence found: its number, when each of its states is heard (seconds, shape ``(states + 1,)``, the last one
    its end), and how well, 0..1 or so, for each state."""

    sentence: int
    times_s: Floats
    gains: Floats


FramesOf = Callable[[float, float], Sequence[Floats]]
"""Features of the sound from one second to another, in each way of hearing it (one for each length of the vocal
tract); shapes ``(k, d)``, a row every 20 ms."""


@dataclass(frozen=True, slots=True)
class Windows:
    """How much is looked at together, in seconds."""

    sound_s: float = 60.0
    ahead_s: float = 55.0
    sure_s: float = 12.0


def align(
    frames_of: FramesOf,
    length_s: float,
    sentences: Sequence[Floats],
    report: Callable[[float], None],
    *,
    windows: Windows = Windows(),
    least_gain: float = 0.045,
) -> list[Placed]:
    """Where each sentence is heard, in order; sentences that are not heard are left out.

    Sound and script go by in windows: what was found well inside one is settled, and the next begins behind it. Where
    nothing is found, the sound moves on and more of the script is looked at.
    """
    found: list[Placed] = []
    begin, following, ahead = 0.0, 0, windows.ahead_s
    while begin < length_s - 0.2 and following < len(sentences):
        end = min(length_s, begin + windows.sound_s)
        last = _until(sentences, following, ahead)
        window = _in_window(frames_of(begin, end), sentences, following, last, least_gain)
        final = end >= length_s
        settled = [one for one in window if final or begin + one.times_s[-1] < end - windows.sure_s]
        found += [Placed(one.sentence, one.times_s + begin, one.gains) for one in settled]
        if settled:
            begin, following, ahead = float(found[-1].times_s[-1]), found[-1].sentence + 1, windows.ahead_s
        elif final and last == len(sentences):
            break
        elif window and not final:  # one that reaches the end of the window: bring it to the beginning of the next
            begin += max(1.0, float(window[0].times_s[0]) - 0.5)
        else:
            begin = begin if final else end - windows.sure_s
            ahead *= 2
        report(min(1.0, begin / length_s))
    return sorted((*found, *_beside(frames_of, length_s, sentences, found)), key=lambda one: one.sentence)


def _beside(frames_of: FramesOf, length_s: float, sentences: Sequence[Floats], found: Sequence[Placed]) -> list[Placed]:
    """Single sentences that were passed over because somebody else speaks at the same time: looked for between the
    beginning of the one before and the end of the one behind, on better evidence."""
    more = []
    known = {one.sentence: one for one in found}
    for number in range(len(sentences)):
        before, behind = known.get(number - 1), known.get(number + 1)
        if number in known or before is None or behind is None:
            continue
        begin, end = float(before.times_s[0]), min(length_s, float(behind.times_s[-1]) + 0.1)
        if end - begin < _MOST_BESIDE_S:
            here = _in_window(frames_of(begin, end), sentences, number, number + 1, _LEAST_GAIN_BESIDE)
            more += [Placed(number, one.times_s + begin, one.gains) for one in here[:1]]
    return more


def align_one(heard: Sequence[Floats], sentence: Floats) -> Placed | None:
    """Where one sentence is heard in a short stretch, in seconds from its beginning; None if it is not."""
    found = _in_window(heard, [sentence], 0, 1, 0.0)
    return found[0] if found else None


def _until(sentences: Sequence[Floats], first: int, seconds: float) -> int:
    """The sentence behind those that take about so long from *first* on; at least one."""
    last, states = first, 0.0
    while last < len(sentences) and (last == first or states < seconds / STATE_SECONDS):
        states += len(sentences[last])
        last += 1
    return last


def _in_window(
    heard: Sequence[Floats], sentences: Sequence[Floats], first: int, last: int, least_gain: float
) -> list[Placed]:
    """The sentences ``[first, last)`` found in any way of hearing, the better one where two ways differ, in order."""
    book = SentenceTemplates.of(sentences[first:last])
    near = [*sentences[max(0, first - 20) : first], *sentences[last : last + 20]]
    background = np.concatenate(near) if near else None
    candidates: list[tuple[float, Placed]] = []
    for frames in heard:
        for match in ordered_path(frames, book, background):
            share = (match.end - match.start) / len(sentences[first + match.phrase])
            if match.gains.mean() > least_gain and 0.5 < share < 2.0:
                candidates.append(
                    (float(match.gains.sum()), _placed(match, first, len(sentences[first + match.phrase])))
                )
    return _best_order(candidates)


def _placed(match: Match, first: int, states: int) -> Placed:
    """When each state is heard first; those passed over share the time of their neighbours."""
    frames = np.arange(match.start, match.end, dtype=np.float64)
    known, where = np.unique(match.frame_states, return_index=True)
    times = np.interp(np.arange(states + 1), [*known, states], [*frames[where], float(match.end)])
    gains = np.interp(np.arange(states), match.frame_states, match.gains)
    return Placed(first + match.phrase, times * STATE_SECONDS, gains)


def _best_order(candidates: Sequence[tuple[float, Placed]]) -> list[Placed]:
    """Of sentences found in several ways those that together explain most and stand in order."""
    ordered = sorted(candidates, key=lambda item: item[1].times_s[-1])
    best: list[tuple[float, int]] = []
    for k, (gain, one) in enumerate(ordered):
        score, before = gain, -1
        for j in range(k):
            other = ordered[j][1]
            if (
                other.sentence < one.sentence
                and other.times_s[-1] <= one.times_s[0] + 0.15
                and best[j][0] + gain > score
            ):
                score, before = best[j][0] + gain, j
        best.append((score, before))
    path: list[Placed] = []
    k = max(range(len(best)), key=lambda place: best[place][0], default=-1)
    while k >= 0:
        path.append(ordered[k][1])
        k = best[k][1]
    return path[::-1]
