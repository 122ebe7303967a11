"""Where exactly a sentence that was found begins and ends, and its words: at speech, not at silence."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from typing import Final

import numpy as np
import numpy.typing as npt

from zweistimme.sound.arrays import Floats
from zweistimme.sound.script_path import Found, Heard

Flags = npt.NDArray[np.bool_]
_NEAR: Final = 5
"""Frames within which an edge goes back to the speech before it."""
_REACH, _LONGEST_GAP = 18, 6
"""Frames by which an edge may go on with the speech, and how long the gaps in it may be."""
_MOST_COVERED: Final = 10
"""States that noise may cover at an edge."""


def to_the_speech(heard: Heard, one: Found, free: tuple[int, int], audible: Flags) -> Found:
    """A sentence whose edges are where the speech begins and ends, if a pause is beside them: a path leaves before a
    last soft sound, and a state of the template is as long as the voice that spoke it took for it. What of the sentence
    the noise covers, by *audible*, a flag a state, is beyond that. *free* are the frames within which no other sentence
    was found."""
    spoken = heard.spoken
    first, last = int(one.frames[0]), int(one.frames[-1])
    begin = _edge(spoken[free[0] : last][::-1], last - 1 - first)
    end = _edge(spoken[first : free[1]], last - 1 - first)
    head, tail = _covered(audible)
    begin, end = None if begin is None else last - 1 - begin, None if end is None else first + end + 1
    pace = ((end or last) - (first if begin is None else begin)) / max(1, len(audible) - head - tail)
    begin = first if begin is None else max(min(begin, free[0]), begin - round(head * min(pace, 1.0)))
    end = last if end is None else min(max(end, free[1]), end + round(tail * min(pace, 1.0)))
    if end - begin < 0.5 * (last - first):
        return one
    if last - first > 3 * _NEAR:  # what lies well inside stays where it is
        kept = [first + _NEAR, last - _NEAR]
        moved = np.interp(one.frames, [first, *kept, last], [begin, max(begin, kept[0]), min(end, kept[1]), end])
    else:
        moved = begin + (one.frames - first) * (end - begin) / max(1, last - first)
    return replace(one, frames=moved)


def word_frames(frames: Floats, words: Sequence[tuple[int, int]], spoken: Flags, audible: Flags) -> Floats:
    """The frames at which words of so many states begin and end, shape ``(words, 2)``: without the silence of pauses
    beside them, but with what the noise covers."""
    most = len(frames) - 1
    spans: list[tuple[float, float]] = []
    for first, behind in words:
        a, b = float(frames[min(first, most)]), float(frames[min(behind, most)])
        heard = int(a) + np.flatnonzero(spoken[int(a) : int(np.ceil(b))])
        head, tail = _covered(audible[first:behind]) if len(heard) else (0, 0)
        before = spans[-1][1] if spans else a
        start, end = (max(a, float(heard[0])), min(b, float(heard[-1]) + 1)) if len(heard) else (a, b)
        # the path may have made little of what it could not hear: the silence before a word is its own then
        spans.append((max(before, start - head) if head else start, min(b, end + tail)))
    if spans:
        spans[0] = (float(frames[0]), spans[0][1])
        spans[-1] = (spans[-1][0], float(frames[-1]))
    return np.array(spans, dtype=np.float64).reshape(-1, 2)


def _covered(audible: Flags) -> tuple[int, int]:
    """How many states at the beginning and at the end are not heard over the noise, if any of them are."""
    heard = np.flatnonzero(audible)
    if not len(heard):
        return 0, 0
    return min(int(heard[0]), _MOST_COVERED), min(len(audible) - 1 - int(heard[-1]), _MOST_COVERED)


def _edge(spoken: Flags, place: int) -> int | None:
    """The last frame of the speech that a sentence ends in at *place*, over gaps as short as before a burst; None where
    it goes on beyond reach."""
    here = np.flatnonzero(spoken[max(0, place - _NEAR) : place + 1])
    if not len(here):
        return None
    last, quiet = max(0, place - _NEAR) + int(here[-1]), 0
    for beside in range(place + 1, min(len(spoken), place + 1 + _REACH)):
        last, quiet = (beside, 0) if spoken[beside] else (last, quiet + 1)
        if quiet > _LONGEST_GAP:
            return last
    return last if quiet or len(spoken) <= place + 1 + _REACH else None
