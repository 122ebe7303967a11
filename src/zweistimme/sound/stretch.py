"""Changing the length of speech without its pitch: WSOLA (Verhelst and Roelands, ICASSP 1993) along a time map.

All offsets of a clip are chosen together, by dynamic programming over the correlations at the seams, on a signal
decimated for the search and refined at full rate. A greedy search loses or doubles bursts; this does not.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import partial
from typing import Final

import numpy as np
import numpy.typing as npt

from zweistimme.sound.arrays import Ints, Mono, Sound, as_mono, checked_mono
from zweistimme.sound.cores import together
from zweistimme.sound.seams import DECIMATION, HOP, SEARCH, best_offsets
from zweistimme.sound.timemap import TimeMap, speech_map, uniform_map

_REACH: Final = 2 * DECIMATION
"""How far a frame is tuned to the one before: both neighbours of a seam stood on the coarse grid."""
_AT_ONCE: Final = 512
"""Seams that are worked on in one go."""
_EDGES: Final = (2 * HOP + SEARCH + 2 * DECIMATION, 3 * HOP + SEARCH + 2 * DECIMATION)
"""Silence before and behind a sound, so that every seam has what it is made of."""


def stretch(samples: Mono, result_samples: int, *, time_map: TimeMap | None = None) -> Mono:
    """*samples* (mono, 48 kHz) made exactly *result_samples* long, pitch kept.

    Without a map, bursts and transitions are kept as they are and the rest shares the change.
    """
    return stretch_channels(checked_mono(samples)[None, :], result_samples, time_map=time_map)[0]


def stretch_channels(sound: Sound, result_samples: int, *, time_map: TimeMap | None = None) -> Sound:
    """The same for several channels, shape ``(channels, n)``: seams are chosen for their sum, so that the channels
    stay in phase with each other."""
    return stretch_all([(sound, result_samples, time_map)])[0]


def stretch_all(wanted: Sequence[tuple[Sound, int, TimeMap | None]]) -> list[Sound]:
    """Several sounds, each with the length it is to have and its map, if it has one; searched in one go."""
    layouts = [_Layout.of(sound, length, time_map) for sound, length, time_map in wanted]
    offsets = iter(best_offsets([(one.padded, one.starts) for one in layouts if one is not None]))
    results = []
    for (sound, length, time_map), layout in zip(wanted, layouts, strict=True):
        if layout is not None:
            places = _refined(layout.padded, layout.starts, next(offsets))
            channels = [layout.padded] if len(sound) == 1 else [np.pad(channel, _EDGES) for channel in sound]
            stretched = together([partial(_overlapped, channel, places) for channel in channels])
            results.append(np.stack(stretched)[:, :length])
        elif length == sound.shape[1] and time_map is None:
            results.append(sound.copy())
        else:
            plan = time_map or speech_map(as_mono(sound), length)
            results.append(np.stack([_read_along(channel, length, plan) for channel in sound]))
    return results


@dataclass(frozen=True, slots=True)
class _Layout:
    """A sound's channels as one, with room at both ends, and where in it its frames nominally start."""

    padded: Mono
    starts: Ints

    @classmethod
    def of(cls, sound: Sound, result_samples: int, time_map: TimeMap | None) -> _Layout | None:
        """None where there is nothing to stretch, or no room for seams."""
        mono = checked_mono(as_mono(sound))
        if (result_samples == len(mono) and time_map is None) or min(len(mono), result_samples) < 4 * HOP:
            return None
        plan = time_map or speech_map(mono, result_samples)
        centres = np.arange(0, result_samples + HOP, HOP)
        nominal = plan.to_source(centres.astype(np.float64))
        nominal[centres >= result_samples] += centres[centres >= result_samples] - result_samples
        return cls(np.pad(mono, _EDGES), np.rint(nominal).astype(np.int64) + _EDGES[0])


def stretch_by_tempo(sound: Sound, tempo: float, *, even: bool = False) -> Sound:
    """*sound*, shape ``(channels, n)``, at *tempo* times its speed; ``even`` gives every moment the same tempo."""
    if not 0.25 <= tempo <= 4.0:
        raise ValueError(f"a tempo lies between 0.25 and 4, not at {tempo:g}")
    count = sound.shape[1]
    length = max(1, round(count / tempo))
    return stretch_channels(sound, length, time_map=uniform_map(count, length) if even else None)


def _read_along(samples: Mono, result_samples: int, plan: TimeMap) -> Mono:
    """Clips under four half frames have no room for seams: they are read along the map."""
    positions = plan.to_source(np.arange(result_samples, dtype=np.float64))
    return np.interp(positions, np.arange(len(samples)), samples).astype(np.float32)


def _rows(signal: Mono, starts: Ints, length: int) -> npt.NDArray[np.float32]:
    """Stretches of *signal* from each start; shape ``(*starts.shape, length)``."""
    return np.lib.stride_tricks.sliding_window_view(signal, length)[starts]


def _overlapped(padded: Mono, places: Ints) -> Mono:
    """Frames added with windows that sum to one; the result starts at the centre of the first frame."""
    fade = (0.5 - 0.5 * np.cos(np.pi * (np.arange(HOP) + 0.5) / HOP)).astype(np.float32)
    result = np.empty((len(places) - 1, HOP), dtype=np.float32)

    def add(seams: slice) -> None:
        out_of = np.multiply(_rows(padded, places[:-1][seams], HOP), 1 - fade, out=result[seams])
        into = _rows(padded, places[1:][seams] - HOP, HOP)
        into *= fade
        out_of += into

    together([partial(add, slice(start, start + _AT_ONCE)) for start in range(0, len(result), _AT_ONCE)])
    return result.ravel()


def _refined(padded: Mono, starts: Ints, offsets: Ints) -> Ints:
    """Offsets to the sample: each frame is tuned to the one before by full-rate correlation."""
    coarse = starts // DECIMATION * DECIMATION + offsets
    lows = coarse - _REACH - HOP
    norms = np.concatenate(
        together([partial(_norms, padded, lows[k : k + _AT_ONCE]) for k in range(0, len(lows), _AT_ONCE)])
    )
    places = coarse.tolist()
    places[0] = int(starts[0])
    for frame in range(1, len(places)):
        natural, place = places[frame - 1] + HOP, places[frame]
        if abs(natural - place) <= _REACH:
            places[frame] = natural
            continue
        near = padded[place - _REACH - HOP : place + _REACH]
        seams = np.correlate(near, padded[natural - HOP : natural], "valid")
        seams /= norms[frame]
        places[frame] += int(seams.argmax()) - _REACH
    return np.array(places, dtype=np.int64)


def _norms(padded: Mono, lows: Ints) -> npt.NDArray[np.float32]:
    """The norms of the half frames from each of *lows* on and from the places after it, within reach of a seam; shape
    ``(k, 2 _REACH + 1)``."""
    first = _rows(padded, lows, HOP)
    energies = np.zeros((len(lows), 2 * _REACH + 1))
    energies[:, 0] = np.vecdot(first, first)
    coming, going = (_rows(padded, lows + shift, 2 * _REACH).astype(np.float64) for shift in (HOP, 0))
    np.cumsum(coming * coming - going * going, axis=1, out=energies[:, 1:])
    energies[:, 1:] += energies[:, :1]
    return (np.sqrt(np.maximum(energies, 0)) + 1e-6).astype(np.float32)
