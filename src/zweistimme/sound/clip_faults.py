"""What is wrong with the sound of a clip of one line, whatever it says: clipping, clicks, noise, hum, edges, breath.

Each fault is measured against the clip itself: its loud parts, its pauses, the steps its own waveform takes.
"""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum
from typing import Final

import numpy as np

from zweistimme.sound.activity import HOP_SECONDS, frame_levels_db
from zweistimme.sound.arrays import Floats, Ints, Mono, decibels, framed
from zweistimme.sound.fourier import rfft
from zweistimme.sound.pitch import pitch_track

_TOP_RUN: Final = 3
_TOP_SHARE: Final = 0.9995
_LEAST_TOP: Final = 0.03
_CLIPPED_PLACES: Final = 4
_CLICK_TIMES: Final = 3.0
_AROUND_CLICK_S: Final = 0.012
_CLICK_S: Final = 0.002
"""More than the longest period of a voice, whose pulses are steep, too."""
_NOISY_DB, _NOISY_WITHIN_DB = 30.0, 16.0
_ROOM_FRAMES: Final = 4
_SILENT_DB: Final = -70.0
_HUM_OVER_DB: Final = 10.0
_HUM_UNDER_DB: Final = 56.0
_HUM_BASES_HZ: Final = (50.0, 60.0)
_HUM_HARMONICS: Final = (1, 2, 3, 4)
_LEAST_HUM: Final = 2
_LEAST_STILL_S: Final = 0.35
_CUT_S: Final = 0.006
_CUT_UNDER_DB: Final = 16.0
_AT_ONCE_S, _CUT_AT_ONCE_DB = 0.0008, 22.0
"""Who begins with a vowel is loud within milliseconds, but not at once."""
_BREATH_S: Final = 0.09
_BREATH_DB: Final = (46.0, 16.0)
_SPEECH_UNDER_DB: Final = 14.0
_DIP_DB: Final = 8.0
_VOICED_SHARE: Final = 0.3


class ClipFault(StrEnum):
    """What may be wrong with a clip."""

    SILENT = "silent"
    CLIPPED = "clipped"
    CLICK = "click"
    NOISE = "noise"
    HUM = "hum"
    CUT_START = "cut-start"
    CUT_END = "cut-end"
    BREATH = "breath"


@dataclass(frozen=True, slots=True)
class FoundFault:
    """A fault and where it is first heard, in samples of the clip; *amount* is how bad: places, or dB."""

    fault: ClipFault
    at_samples: int
    amount: float


def clip_faults(samples: Mono, rate: int, speech: tuple[int, int]) -> list[FoundFault]:
    """What is wrong with a clip whose speech lies in ``[start, end)`` samples."""
    peak = float(np.abs(samples).max(initial=0.0))
    if decibels(peak) < _SILENT_DB:
        return [FoundFault(ClipFault.SILENT, 0, float(decibels(peak)))]
    levels = frame_levels_db(samples, rate).astype(np.float64)
    loud_db = float(np.percentile(levels, 90))
    found = [*_clipped(samples, peak), *_clicks(samples, rate)]
    found += _room(samples, rate, speech, levels, loud_db)
    found += _edges(samples, rate, loud_db)
    return sorted(found, key=lambda one: one.at_samples)


def _clipped(samples: Mono, peak: float) -> list[FoundFault]:
    """Runs of samples at one level at the top: more of them than a wave has crests of one height."""
    if peak < _LEAST_TOP:
        return []
    found = []
    for side in (samples, -samples):
        top = float(side.max())
        starts = _run_starts(side >= _TOP_SHARE * top, _TOP_RUN) if top >= 0.6 * peak else np.empty(0, dtype=np.int64)
        if len(starts) >= _CLIPPED_PLACES:
            found.append(FoundFault(ClipFault.CLIPPED, int(starts[0]), float(len(starts))))
    return found[:1]


def _run_starts(flags: np.ndarray[tuple[int], np.dtype[np.bool_]], least: int) -> Ints:
    edges = np.flatnonzero(np.diff(np.concatenate(([False], flags, [False])).astype(np.int8))).reshape(-1, 2)
    return np.asarray(edges[edges[:, 1] - edges[:, 0] >= least, 0])


def _clicks(samples: Mono, rate: int) -> list[FoundFault]:
    """Steps of the waveform that stand alone: far over all within a hundredth of a second on either side, and over
    nearly all of the clip. A p or t is as sharp, and what follows it nearly so; of 240 recordings of people, one has
    such a step."""
    bend = np.abs(np.diff(samples.astype(np.float64), 2))
    width = max(4, round(_CLICK_S * rate))
    count = len(bend) // width
    if count < 12:
        return []
    tops = bend[: count * width].reshape(count, width).max(axis=1)
    reach = round(_AROUND_CLICK_S * rate) // width
    padded = np.pad(tops, reach, mode="edge")
    windows = np.lib.stride_tricks.sliding_window_view(padded, 2 * reach + 1).copy()
    windows[:, reach - 1 : reach + 2] = 0.0  # itself and its neighbours, in which its end may lie
    floor = _CLICK_TIMES * float(np.percentile(tops, 98))
    places = np.flatnonzero((tops > _CLICK_TIMES * windows.max(axis=1)) & (tops > floor + 1e-5))
    if not len(places):
        return []
    return [FoundFault(ClipFault.CLICK, int(places[0]) * width, float(len(places)))]


def _room(samples: Mono, rate: int, speech: tuple[int, int], levels: Floats, loud_db: float) -> list[FoundFault]:
    """Noise and hum, as they are heard where nobody speaks."""
    hop = round(HOP_SECONDS * rate)
    outside = np.ones(len(levels), dtype=bool)
    outside[max(0, speech[0] // hop - 1) : speech[1] // hop + 2] = False
    room_known = outside.sum() >= _ROOM_FRAMES
    room_db = float(np.percentile(levels[outside], 25)) if room_known else float(np.percentile(levels, 5))
    found = []
    # where nothing but speech is in a clip, its softest sounds are no room
    if loud_db - room_db < (_NOISY_DB if room_known else _NOISY_WITHIN_DB):
        found.append(FoundFault(ClipFault.NOISE, 0, round(loud_db - room_db, 1)))
    around = np.concatenate((samples[: speech[0]], samples[speech[1] :]))
    still = len(around) >= _LEAST_STILL_S * rate
    hum_db = _hum_over_db(around if still else samples, rate, loud_db, spoken=not still)
    if hum_db is not None:
        found.append(FoundFault(ClipFault.HUM, 0, round(hum_db, 1)))
    return found


def _hum_over_db(samples: Mono, rate: int, loud_db: float, *, spoken: bool) -> float | None:
    """How far a hum of the mains stands over what is beside it; None where there is none that could be heard. Where it
    is *spoken*, its lowest wave has to be there: a voice may lie as low as the next, but not as that."""
    size = 1 << round(np.log2(0.35 * rate))
    padded = np.pad(samples, (0, max(0, size - len(samples))))
    frames = framed(padded, size, size // 2)
    power = (np.abs(rfft(frames * np.hanning(size).astype(np.float32), size)) ** 2).mean(axis=0)
    level = 10 * np.log10(power / (size / 4) / size * 4 + 1e-20)
    step = rate / size
    best: float | None = None
    for base in _HUM_BASES_HZ:
        over, lowest = [], False
        for harmonic in _HUM_HARMONICS:
            place = round(base * harmonic / step)
            near = np.concatenate((level[max(0, place - 9) : place - 3], level[place + 4 : place + 10]))
            peak = float(level[place - 1 : place + 2].max())
            if peak > loud_db - _HUM_UNDER_DB and peak - float(np.median(near)) > _HUM_OVER_DB:
                over.append(peak - float(np.median(near)))
                lowest |= harmonic == 1
        if len(over) >= _LEAST_HUM and (lowest or not spoken):
            best = max(best or 0.0, float(np.mean(over)))
    return best


def _edges(samples: Mono, rate: int, loud_db: float) -> list[FoundFault]:
    """Speech that begins or ends with the clip as if cut, and breath before and after it."""
    found, few, first = [], round(_CUT_S * rate), round(_AT_ONCE_S * rate)
    for fault, part, at in (
        (ClipFault.CUT_START, samples[:few], 0),
        (ClipFault.CUT_END, samples[-few:], len(samples) - few),
    ):
        level = _level_db(part)
        at_once = _level_db(part[:first] if at == 0 else part[-first:])
        if level > loud_db - _CUT_UNDER_DB and at_once > loud_db - _CUT_AT_ONCE_DB:
            found.append(FoundFault(fault, at, round(level - loud_db, 1)))
    breath = _breath(samples, rate, loud_db)
    return [*found, breath] if breath else found


def _level_db(samples: Mono) -> float:
    return float(decibels(np.sqrt(np.mean(samples.astype(np.float64) ** 2))))


def _breath(samples: Mono, rate: int, loud_db: float) -> FoundFault | None:
    """Breath before the first word: sound without a pitch, softer than speech and over the room, that lasts, and then a
    dip; a sibilant that begins a word is shorter, or runs into it."""
    levels = frame_levels_db(samples, rate).astype(np.float64)
    spoken = np.flatnonzero(levels > loud_db - _SPEECH_UNDER_DB)
    before = levels[: int(spoken[0])] if len(spoken) else levels[:0]
    soft = (before > loud_db - _BREATH_DB[0]) & (before < loud_db - _BREATH_DB[1])
    starts = _run_starts(soft, round(_BREATH_S / HOP_SECONDS))
    if not len(starts):
        return None
    first = int(starts[0])
    last = first + int(np.argmin(np.append(soft[first:], False)))
    dips = before[last:].min(initial=np.inf) < float(np.median(before[first:last])) - _DIP_DB
    hop = round(HOP_SECONDS * rate)
    part = samples[max(0, first * hop) : last * hop]
    voiced = np.isfinite(pitch_track(part, rate)).mean() if len(part) > rate // 10 else 0.0
    return FoundFault(ClipFault.BREATH, first * hop, 0.0) if dips and voiced < _VOICED_SHARE else None
