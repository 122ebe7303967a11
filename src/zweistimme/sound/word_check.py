"""Whether each word of a line is in a clip, once and clearly: the clip is laid over the same words spoken by another
voice, by dynamic time warping (Sakoe and Chiba 1978), and each word looked at where it lies.

A word that is missing takes no time, one that is said twice takes two, one that is mumbled is far from how it sounds
elsewhere in this very line. Everything is measured against the rest of the line, so that another voice, another engine
or a worse microphone is no fault.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from enum import StrEnum
from typing import Final

import numpy as np
import numpy.typing as npt

from zweistimme.sound.arrays import Floats, Ints, Mono
from zweistimme.sound.features import HOP, RATE, cepstra, power_spectra, with_slopes

Flags = npt.NDArray[np.bool_]
WARPS: Final = (0.74, 0.8, 0.86, 0.92, 1.0, 1.08, 1.16, 1.25, 1.35)
_OFF_DIAGONAL: Final = 0.15
"""What it costs to stay in a frame of either; without it noise is followed rather than words."""
_FRAMES_A_SECOND: Final = RATE / HOP
_STRANGE: Final = 0.8
"""Words of the bundled voices lie at 0.65 from each other at most, those of women reading at 0.9 and more, where a word
that is missing stands out no more (a quarter of them were found)."""
_NEAREST: Final = 0.2
"""Words that are nearer to the reference than this are all near."""
_FAR, _SPREADS = 1.3, 2.0
_QUIET_LENGTH, _QUIET_FAR = 0.7, 1.2
_GONE_LENGTH, _MISSING_LENGTH, _MISSING_FAR = 0.2, 0.55, 1.1
_DOUBLED_LENGTH, _DOUBLED_AT_AN_EDGE = 1.35, 1.6
_OF_FEW: Final = 0.7
"""Lengths are in those of the line's pace, distances in those of its other words; chosen on one half of the planted
faults of ``benchmarks/hearing_back.py``, and tried on the other."""
_LEAST_REPEAT_S, _MOST_REPEAT_S = 0.09, 1.1
_MOST_FRAMES: Final = 2_000
"""Of a longer line, every second frame or fewer: what is compared grows with the square of their number."""
_AS_NEAR, _CHANGING, _LONGER = 0.42, 0.75, 0.93
"""A stretch is the same again where it is less than half as far as any two moments are; it has to change within, and a
word there has to be nearly as long as the line has it, or longer."""
_LEAST_WORDS: Final = 2
_SILENT_DB: Final = 32.0
"""So far under the loud parts of a clip nobody speaks."""


class WordState(StrEnum):
    """How a word is in a clip."""

    CLEAR = "clear"
    MUMBLED = "mumbled"
    MISSING = "missing"
    DOUBLED = "doubled"
    ADDED = "added"


@dataclass(frozen=True, slots=True)
class CheckedWord:
    """A word of the reference where it lies in the clip, seconds ``[start, end)``. *length* is how long it takes beside
    the line's pace, *distance* how far it is from the reference beside the line's other words."""

    start_s: float
    end_s: float
    length: float
    distance: float
    state: WordState


def check_words(clip: Mono, reference: Mono, words_s: Sequence[tuple[float, float]]) -> list[CheckedWord]:
    """How each word of *reference* is in *clip*, both at 16 kHz; *words_s* are the words' times in the reference, in
    seconds. Empty where either is too short to say, or they sound too unlike for anything to be said of a word."""
    ours = power_spectra(reference)
    theirs = power_spectra(clip)
    if len(ours) < 10 or len(theirs) < 10 or len(words_s) < _LEAST_WORDS:
        return []
    every = -(-max(len(ours), len(theirs)) // _MOST_FRAMES)  # a speech of a minute is looked at more coarsely
    rows = _rows(ours, 1.0)[::every]
    # at half the frames it is as clear which length of the tract fits
    warp = min(WARPS, key=lambda one: _path(_distances(rows[::2], _rows(theirs, one)[:: 2 * every]))[1])
    other = _rows(theirs, warp)[::every]
    costs = _distances(rows, other)
    path, _ = _path(costs)
    local = costs[path[:, 0], path[:, 1]]
    spoken = _loud(ours)[::every], _loud(theirs)[::every]
    rate = _FRAMES_A_SECOND / every
    lying = [_word(path, local, spoken, start, end, rate) for start, end in words_s]
    if float(np.median([one.distance for one in lying])) > _STRANGE:
        return []
    words = _judged(lying)
    return _with_repeats(words, _repeats(other, spoken[1], rate))


def _rows(power: Floats, warp: float) -> Floats:
    """Cepstra about their mean, with slopes; what is silent counts for neither mean nor spread."""
    made, loud = cepstra(power, warp=warp), _loud(power)
    made = (made - made[loud].mean(axis=0)) / (made[loud].std(axis=0) + 1e-3)
    return with_slopes(made)


def _loud(power: Floats) -> Flags:
    level = 10 * np.log10(power.sum(axis=1) + 1e-12)
    return np.asarray(level > np.percentile(level, 95) - _SILENT_DB)


def _distances(a: Floats, b: Floats) -> Floats:
    """Root mean square distance of every frame to every other, shape ``(len(a), len(b))``."""
    squares = (a**2).sum(axis=1)[:, None] + (b**2).sum(axis=1)[None, :] - 2 * a @ b.T
    return np.asarray(np.sqrt(np.maximum(squares, 0.0) / a.shape[1]))


def _path(costs: Floats) -> tuple[Ints, float]:
    """The cheapest way through a matrix of costs, from corner to corner, shape ``(k, 2)``, and what a step of it costs
    on average. Anti-diagonal by anti-diagonal, so that each is one stroke of NumPy."""
    n, m = costs.shape
    best = np.full((n + 1, m + 1), np.inf)
    best[0, 0] = 0.0
    came = np.zeros((n, m), dtype=np.int8)
    for turn in range(n + m - 1):
        i = np.arange(max(0, turn - m + 1), min(n, turn + 1))
        j = turn - i
        ways = np.stack((best[i, j], best[i, j + 1] + _OFF_DIAGONAL, best[i + 1, j] + _OFF_DIAGONAL))
        way = ways.argmin(axis=0)
        best[i + 1, j + 1] = costs[i, j] + ways[way, np.arange(len(i))]
        came[i, j] = way
    row, column = n - 1, m - 1
    path = [(row, column)]
    while row or column:
        way = int(came[row, column])
        row, column = row - (way != 2), column - (way != 1)
        path.append((max(row, 0), max(column, 0)))
    return np.array(path[::-1], dtype=np.int64), float(best[n, m] / (n + m))


def _word(
    path: Ints, local: Floats, spoken: tuple[Flags, Flags], start_s: float, end_s: float, rate: float
) -> CheckedWord:
    """What can be said of one word on its own: how much sound there is in the clip for that in the reference."""
    first = round(start_s * rate)
    last = max(first + 1, round(end_s * rate))
    on = (path[:, 0] >= first) & (path[:, 0] < last)
    if not on.any():
        return CheckedWord(0.0, 0.0, 0.0, 0.0, WordState.CLEAR)
    frames = np.unique(path[on, 1])
    length = float(spoken[1][frames].sum()) / max(1.0, float(spoken[0][first:last].sum()))
    edges = float(frames[0]) / rate, float(frames[-1] + 1) / rate
    return CheckedWord(*edges, length, float(local[on].mean()), WordState.CLEAR)


def _judged(words: Sequence[CheckedWord]) -> list[CheckedWord]:
    """Each word beside the others of its line."""
    away, long = (np.array([getattr(one, name) for one in words]) for name in ("distance", "length"))
    middle, pace = max(float(np.median(away)), _NEAREST), max(float(np.median(long)), 1e-6)
    spread = 1.4826 * float(np.median(np.abs(away / middle - 1)))
    least_far = _FAR + _OF_FEW / len(words)  # what is usual, few words tell less well
    found = []
    for place, one in enumerate(words):
        length, distance = one.length / pace, one.distance / middle
        far = distance > max(least_far, 1 + _SPREADS * spread) or (length < _QUIET_LENGTH and distance > _QUIET_FAR)
        gone = length < _GONE_LENGTH or (length < _MISSING_LENGTH and distance > _MISSING_FAR)
        if gone:
            state = WordState.MISSING
        elif length > (_DOUBLED_LENGTH if 0 < place < len(words) - 1 else _DOUBLED_AT_AN_EDGE):
            state = WordState.DOUBLED
        else:
            state = WordState.MUMBLED if far else WordState.CLEAR
        found.append(CheckedWord(one.start_s, one.end_s, round(length, 3), round(distance, 3), state))
    return found


def _repeats(rows: Floats, loud: Flags, rate: float) -> list[tuple[float, float]]:
    """Stretches, in seconds, that are followed at once by the same again: for a lag of their own length each frame is
    near to the one that much later, and for half the lag it is not, as it would be in a vowel that is held."""
    apart = _distances(rows, rows)
    usual = float(np.median(apart[np.ix_(loud, loud)])) if loud.any() else 1.0
    found: list[tuple[float, int, int]] = []
    for lag in range(round(_LEAST_REPEAT_S * rate), min(round(_MOST_REPEAT_S * rate), len(rows) // 2)):
        same = _sliding_mean(np.where(loud[:-lag] & loud[lag:], np.diagonal(apart, lag), np.nan), lag)
        half = _sliding_mean(np.diagonal(apart, lag // 2), lag)[: len(same)]
        told = np.where(np.isfinite(same) & (half > _CHANGING * usual), same / usual, np.inf)
        if len(told):
            place = int(np.argmin(told))
            found.append((float(told[place]), place, lag))
    nearest = min(found, default=(np.inf, 0, 0))
    if nearest[0] > _AS_NEAR:
        return []
    _, start, lag = nearest
    return [(start / rate, (start + lag) / rate)]


def _sliding_mean(values: Floats, length: int) -> Floats:
    """Means over *length* values each, NaN where more than a quarter of them are; shape ``(n - length + 1,)``."""
    if len(values) < length:
        return np.empty(0)
    known = np.isfinite(values)
    sums, counts = (np.concatenate(([0.0], np.cumsum(one))) for one in (np.where(known, values, 0.0), known))
    total, count = sums[length:] - sums[:-length], counts[length:] - counts[:-length]
    return np.where(count >= 0.75 * length, total / np.maximum(count, 1), np.nan)


def _with_repeats(words: Sequence[CheckedWord], repeats: Sequence[tuple[float, float]]) -> list[CheckedWord]:
    """Words, those said twice in the clip as doubled: a repeat lies in the word, or beside it where it was not looked
    for."""
    found = list(words)
    for start, end in repeats:
        shared = [min(one.end_s, 2 * end - start) - max(one.start_s, start) for one in words]
        place = int(np.argmax(shared))
        longest = max((one.length for one, much in zip(words, shared, strict=True) if much > 0), default=0.0)
        if longest > _LONGER and words[place].state is not WordState.MISSING:
            found[place] = replace(words[place], state=WordState.DOUBLED)
    return found
