"""Finding the sentences of a script in sound, in their order: one monotone path over sound and script.

A voice has spoken every sentence; its spectra, as they are heard here, are the states of a path. A path goes through
sentences in their order; between them it is outside, where there is silence or anything else. To leave a sentence out
costs something, also at the end, so that a script which a person says is the script gets laid out.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

import numpy as np
import numpy.typing as npt

from zweistimme.sound.arrays import Floats, Ints
from zweistimme.sound.script_features import AUDIBLE, Ear, Singles, Template, costs
from zweistimme.sound.script_seen import SeenScript
from zweistimme.sound.time_warp import BLOCKED, advanced, from_before, way_back

STAY: Final = np.float32(0.46)
SKIP: Final = np.float32(0.36)
"""What it costs to stay in a state for a frame more, and to pass over one."""
_PAUSE_ENTRY, _PAUSE_MORE = np.float32(0.76), np.float32(0.08)
_LEAVE_OUT: Final = 22.0
_SILENCE: Final = (0.25, 6.0, 0.09)
_GARBAGE_MORE: Final = 0.53
_SPOKEN: Final = _SILENCE[0] + _SILENCE[1] * (AUDIBLE - _SILENCE[2])
"""What costs more as silence has speech in it."""


@dataclass(frozen=True, slots=True)
class Heard:
    """A stretch of sound: features, shape ``(n, 26)``, and what it costs to be outside in each frame, and to
    be silent there, shapes ``(n,)``."""

    rows: Singles
    outside: Singles
    silence: Singles

    @property
    def spoken(self) -> npt.NDArray[np.bool_]:
        """Whether there is speech in each frame, shape ``(n,)``."""
        return self.silence > _SPOKEN


@dataclass(frozen=True, slots=True)
class Found:
    """A sentence on a path: its place among those looked for, and the frame at which each of its states begins, shape
    ``(states + 1,)``, the last one its end."""

    sentence: int
    frames: Floats


def heard_in(spectra: Floats, ear: Ear) -> Heard:
    """A stretch of sound as a path sees it."""
    rows = ear.rows(spectra)
    near = np.convolve(np.pad(ear.nearest(rows), 1, mode="edge"), np.ones(3) / 3, mode="valid")
    base, steep, free = _SILENCE
    silence = (base + steep * np.maximum(0, ear.room.level(spectra) - free)).astype(np.float32)
    return Heard(rows, np.minimum(silence, near + _GARBAGE_MORE).astype(np.float32), silence)


@dataclass(frozen=True, slots=True)
class _Chain:
    """The states of several sentences one behind the other, with a state for a pause after each word but the last.
    *real* is the number of a template state, -1 for pauses."""

    real: Ints
    starts: Ints
    ends: Ints


def _chain(templates: Sequence[Template]) -> _Chain:
    real: list[Ints] = []
    starts, ends, at, base = [], [], 0, 0
    for one in templates:
        inner = sorted({end for _, end in one.words if 0 < end < one.states})
        states = np.insert(np.arange(one.states), inner, -1)
        real.append(np.where(states >= 0, states + base, -1))
        starts.append(at)
        at += len(states)
        ends.append(at)
        base += one.states
    return _Chain(np.concatenate(real), np.array(starts), np.array(ends))


def path_through(heard: Heard, script: SeenScript, numbers: Sequence[int], *, to_the_end: bool) -> list[Found]:
    """The cheapest path through some sentences. *to_the_end* says that the sound ends here: sentences it has not
    reached are left out then, at their price."""
    if not len(heard.rows) or not len(numbers):
        return []
    chain = _chain([script.templates[number] for number in numbers])
    seen = np.concatenate([script.states(number) for number in numbers], axis=1)
    count, size = len(numbers), len(chain.real)
    pause = chain.real < 0
    first = np.zeros(size, dtype=bool)
    first[chain.starts] = True
    stay = np.where(pause, _PAUSE_MORE, STAY).astype(np.float32)
    step_price = np.where(pause, _PAUSE_ENTRY, 0).astype(np.float32)
    # a pause may be passed over for nothing, a state for a little; nothing is skipped into or out of a sentence
    over = np.concatenate(([BLOCKED, BLOCKED], np.where(pause[1:-1], 0, SKIP)))[:size].astype(np.float32)
    over[chain.starts] = over[np.minimum(chain.starts + 1, size - 1)] = BLOCKED
    over[pause] = BLOCKED
    last = chain.ends - 1
    total = np.full(size, BLOCKED, dtype=np.float32)
    ramp = np.arange(count + 1) * _LEAVE_OUT
    outside = ramp.copy()
    choice = np.zeros((len(heard.rows), size), dtype=np.int8)
    entered = np.zeros((len(heard.rows), count), dtype=np.int16)
    left = np.zeros((len(heard.rows), count), dtype=bool)
    here = np.empty(size, dtype=np.float32)
    places = np.arange(count + 1)
    spoken = np.flatnonzero(~pause)
    for block in range(0, len(heard.rows), 256):
        rows = costs(heard.rows[block : block + 256], seen)
        for k, row in enumerate(rows):
            t = block + k
            here[spoken] = row
            here[pause] = heard.silence[t]
            ahead = outside - ramp
            best = np.minimum.accumulate(ahead)
            entered[t] = np.maximum.accumulate(np.where(ahead <= best, places, 0))[:count]
            step, skip = from_before(total)
            step += step_price
            step[chain.starts] = (best + ramp)[:count]
            finished = total[last]
            left[t] = finished < outside[1:]
            outside[1:] = np.minimum(outside[1:], finished) + heard.outside[t]
            outside[0] += heard.outside[t]
            total = advanced(total + stay, step, skip + over, choice[t]) + here
    final = outside + (count - places) * _LEAVE_OUT if to_the_end else outside
    return _traced(chain, heard, choice, entered, left, int(final.argmin()))


def _traced(
    chain: _Chain,
    heard: Heard,
    choice: npt.NDArray[np.int8],
    entered: npt.NDArray[np.int16],
    left: npt.NDArray[np.bool_],
    outside: int,
) -> list[Found]:
    """Back along the path from outside, where it ends."""
    found: list[Found] = []
    t = len(choice) - 1
    while t >= 0:
        if not (outside > 0 and left[t, outside - 1]):
            t -= 1
            continue
        sentence, end = outside - 1, t
        states, t, begun = way_back(choice, t - 1, int(chain.ends[sentence]) - 1, int(chain.starts[sentence]))
        if begun:
            outside = int(entered[t + 1, sentence])
        found.append(_one(chain, sentence, states, end))
    return found[::-1]


def _one(chain: _Chain, sentence: int, path: Sequence[int], end: int) -> Found:
    """When each state of a sentence, which ends at frame *end*, begins; those that were skipped share the time of their
    neighbours."""
    frames = np.arange(end - len(path), end, dtype=np.float64)
    states = chain.real[list(path)]
    own = states >= 0
    base = int(chain.real[chain.starts[sentence]])
    known, where = np.unique(states[own] - base, return_index=True)
    size = int((chain.real[chain.starts[sentence] : chain.ends[sentence]] >= 0).sum())
    times = np.interp(np.arange(size + 1), [*known, size], [*frames[own][where], float(end)])
    return Found(sentence, times)
