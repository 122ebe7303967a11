"""Finding the sentences of a script in sound, in their order: one monotone path over sound and script.

A voice has spoken every sentence; its spectra, seen through the room of the programme, are the states of a path. A
path goes through sentences in their order; between them it is outside, where there is silence or anything else. To
leave a sentence out costs something, also at the end, so that a script which a person says is the script gets laid out.

Frames are log mel spectra every 20 ms. Their distance is taken over 13 cosine coefficients without liftering (which
would lift what a synthesizer and a person differ in), for several lengths of the vocal tract, the nearest counting.
"""

from __future__ import annotations

import warnings
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import Final

import numpy as np
import numpy.typing as npt

from zweistimme.sound.arrays import Floats, Ints, Mono
from zweistimme.sound.features import BANDS, STATE_SECONDS, STEP, mel_bank, power_spectra

Singles = npt.NDArray[np.float32]
WARPS: Final = (0.92, 1.0, 1.1, 1.2)
"""How the voice that speaks the sentences is stretched along frequency."""
_COEFFICIENTS: Final = 13
_LEVEL_WEIGHT: Final = 0.5
_STAY, _SKIP = np.float32(0.5), np.float32(0.35)
_PAUSE_ENTRY, _PAUSE_MORE = np.float32(1.0), np.float32(0.08)
_LEAVE_OUT: Final = 20.0
_BLOCKED: Final = np.float32(1e9)
_SILENCE: Final = (0.25, 4.5, 0.15)
_GARBAGE_MORE: Final = 1.0
_PHONES: Final = 45
_RANGE, _TILT = 10.0, 7.0
"""In nepers of power."""


@dataclass(frozen=True, slots=True)
class Template:
    """A sentence as it was spoken: log mel spectra for each warp, shape ``(warps, k, 32)``, and after which states a
    word ends."""

    spectra: npt.NDArray[np.float16]
    word_ends: tuple[int, ...]

    @property
    def states(self) -> int:
        """How many states of 20 ms it has."""
        return self.spectra.shape[1]


@dataclass(frozen=True, slots=True)
class Room:
    """What lies between a voice and the sound: *channel* is added to its log spectrum, *noise* is what is under it;
    shapes ``(32,)``."""

    channel: Floats
    noise: Floats


@dataclass(frozen=True, slots=True)
class Heard:
    """A stretch of sound: cosine coefficients, shape ``(n, 13)``, and what it costs to be outside in each frame, and to
    be silent there, shapes ``(n,)``."""

    rows: Singles
    outside: Singles
    silence: Singles


@dataclass(frozen=True, slots=True)
class Found:
    """A sentence on a path: its number, the frame at which each of its states begins, shape ``(states + 1,)``, the last
    one its end, and what it costs a frame."""

    sentence: int
    frames: Floats
    cost: float


def log_mel(power: Floats, warp: float = 1.0) -> Floats:
    """Log mel spectra of power spectra, shape ``(k, 32)``."""
    return np.log(power @ mel_bank(warp).T + 1e-7)


def spectra_at_16k(samples: Mono) -> Floats:
    """Log mel spectra of sound at 16 kHz, every 20 ms; shape ``(k, 32)``."""
    return log_mel(_power(samples))


def template_of(samples: Mono, word_ends_s: Sequence[float]) -> Template:
    """The template of a sentence spoken at 16 kHz, without silence around it, of which words end at *word_ends_s*."""
    power = _power(samples)
    spectra = np.stack([log_mel(power, 1 / warp) for warp in WARPS]).astype(np.float16)
    return Template(spectra, tuple(round(end / STATE_SECONDS) for end in word_ends_s))


def _power(samples: Mono) -> Floats:
    power = power_spectra(samples if len(samples) >= 640 else np.pad(samples, (0, 640 - len(samples))))
    whole = len(power) // STEP * STEP
    return power[:whole].reshape(-1, STEP, power.shape[1]).mean(axis=1)


@lru_cache(maxsize=1)
def _cosines() -> Floats:
    bands, orders = np.arange(BANDS) + 0.5, np.arange(_COEFFICIENTS)[:, None]
    table = np.cos(np.pi * orders * bands / BANDS) * np.sqrt(2 / BANDS)
    table[0] *= np.sqrt(0.5) * _LEVEL_WEIGHT
    return np.asarray(0.5 * table / np.sqrt(_COEFFICIENTS))  # half: of amplitudes, not of powers


def coefficients(spectra: Floats) -> Singles:
    """Cosine coefficients whose differences have the distance as their length, shape ``(..., 13)``."""
    return np.asarray(spectra @ _cosines().T, dtype=np.float32)


def through(spectra: npt.NDArray[np.floating], room: Room) -> Singles:
    """Templates as they would sound in a room: coefficients, shape ``(..., 13)``."""
    return coefficients(np.logaddexp(spectra.astype(np.float64) + room.channel, room.noise))


def room_of(spectra: Floats, templates: Sequence[Template], speech: npt.NDArray[np.bool_]) -> Room:
    """A first guess: the soft tenth is the room, and speech is on the whole as bright as the voice."""
    # what is more than 35 dB under loud speech says nothing, least of all where silence is digital
    least = np.percentile(spectra, 95, axis=0) - _RANGE
    noise = np.maximum(np.percentile(spectra, 10, axis=0) + 0.3, np.maximum(least, least.max() - _TILT))
    own = np.concatenate([one.spectra[1] for one in templates[:200]]).astype(np.float64)
    loud = spectra[speech] if speech.sum() > 20 else spectra
    return Room(np.percentile(loud, 70, axis=0) - np.percentile(own, 70, axis=0), noise)


def phones_of(templates: Sequence[Template]) -> Floats:
    """Spectra that sound in general is like: the centres of what the voice says, shape ``(45, 32)``."""
    from scipy.cluster.vq import kmeans2

    rows = np.concatenate([one.spectra[1] for one in templates[:: max(1, len(templates) // 150)]]).astype(np.float64)
    count = min(_PHONES, max(2, len(rows) // 4))
    with warnings.catch_warnings():
        warnings.simplefilter("ignore", UserWarning)  # a centre that nothing is near is no harm
        centres, _ = kmeans2(rows, count, minit="++", seed=7, iter=8)
    return np.asarray(centres)


def heard_in(spectra: Floats, room: Room, phones: Floats, loud: float) -> Heard:
    """A stretch of sound as a path sees it. *loud* is the level of loud speech over the room, in nepers."""
    spectra = np.maximum(spectra, room.noise)
    rows = coefficients(spectra)
    centres = through(phones, room)
    near = np.sqrt(np.maximum(_squares(rows, centres), 0)).min(axis=1)
    smooth = np.convolve(np.pad(near, 1, mode="edge"), np.ones(3) / 3, mode="valid")
    level = np.clip((spectra.mean(axis=1) - room.noise.mean()) / max(loud, 0.5), 0, 1)
    base, steep, free = _SILENCE
    silence = (base + steep * np.maximum(0, level - free)).astype(np.float32)
    return Heard(rows, np.minimum(silence, smooth + _GARBAGE_MORE).astype(np.float32), silence)


def _squares(rows: Singles, states: Singles) -> Singles:
    return (rows**2).sum(1)[:, None] + (states**2).sum(1)[None] - 2 * rows @ states.T


def costs(rows: Singles, template: Singles) -> Singles:
    """Distances of frames and states, the nearest warp counting; *template* has shape ``(warps, k, 13)``."""
    best = _squares(rows, template[0])
    for warped in template[1:]:
        np.minimum(best, _squares(rows, warped), out=best)
    return np.sqrt(np.maximum(best, 0, out=best), out=best)


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
        inner = sorted({end for end in one.word_ends if 0 < end < one.states})
        states = np.insert(np.arange(one.states), inner, -1)
        real.append(np.where(states >= 0, states + base, -1))
        starts.append(at)
        at += len(states)
        ends.append(at)
        base += one.states
    return _Chain(np.concatenate(real), np.array(starts), np.array(ends))


def path_through(heard: Heard, templates: Sequence[Template], room: Room, *, to_the_end: bool) -> list[Found]:
    """The cheapest path. *to_the_end* says that the sound ends here: sentences it has not reached are left out then, at
    their price."""
    if not len(heard.rows) or not templates:
        return []
    chain = _chain(templates)
    seen = np.concatenate([through(one.spectra, room) for one in templates], axis=1)
    count, size = len(templates), len(chain.real)
    pause = chain.real < 0
    first = np.zeros(size, dtype=bool)
    first[chain.starts] = True
    stay = np.where(pause, _PAUSE_MORE, _STAY).astype(np.float32)
    step_price = np.where(pause, _PAUSE_ENTRY, 0).astype(np.float32)
    # a pause may be passed over for nothing, a state for a little; nothing is skipped into or out of a sentence
    over = np.concatenate(([_BLOCKED, _BLOCKED], np.where(pause[1:-1], 0, _SKIP)))[:size].astype(np.float32)
    over[chain.starts] = over[np.minimum(chain.starts + 1, size - 1)] = _BLOCKED
    over[pause] = _BLOCKED
    last = chain.ends - 1
    total = np.full(size, _BLOCKED, dtype=np.float32)
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
            step = np.concatenate(([_BLOCKED], total[:-1])) + step_price
            skip = np.concatenate(([_BLOCKED, _BLOCKED], total[:-2])) + over
            step[chain.starts] = (best + ramp)[:count]
            keep = total + stay
            finished = total[last]
            left[t] = finished < outside[1:]
            outside[1:] = np.minimum(outside[1:], finished) + heard.outside[t]
            outside[0] += heard.outside[t]
            choice[t] = step < keep
            total = np.minimum(keep, step)
            choice[t][skip < total] = 2
            total = np.minimum(total, skip) + here
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
        state = int(chain.ends[sentence]) - 1
        t -= 1
        path = []
        while t >= 0:
            path.append((t, state))
            move = int(choice[t, state])
            begun = move == 1 and state == chain.starts[sentence]
            if begun:
                outside = int(entered[t, sentence])
                t -= 1
                break
            state -= move
            t -= 1
        found.append(_one(chain, sentence, path[::-1], end))
    return found[::-1]


def _one(chain: _Chain, sentence: int, path: list[tuple[int, int]], end: int) -> Found:
    """When each state of a sentence begins; those that were skipped share the time of their neighbours."""
    frames = np.array([t for t, _ in path], dtype=np.float64)
    states = chain.real[[state for _, state in path]]
    own = states >= 0
    base = int(chain.real[chain.starts[sentence]])
    known, where = np.unique(states[own] - base, return_index=True)
    size = int((chain.real[chain.starts[sentence] : chain.ends[sentence]] >= 0).sum())
    times = np.interp(np.arange(size + 1), [*known, size], [*frames[own][where], float(end)])
    return Found(sentence, times, 0.0)
