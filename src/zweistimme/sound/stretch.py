"""Changing the length of speech without its pitch: WSOLA (Verhelst and Roelands, ICASSP 1993) along a time map.

All offsets of a clip are chosen together, by dynamic programming over the correlations at the seams, on a signal
decimated for the search and refined at full rate. A greedy search loses or doubles bursts; this does not.
"""

from __future__ import annotations

from functools import partial

import numpy as np
import numpy.typing as npt

from zweistimme.sound.arrays import Ints, Mono, Sound, checked_mono
from zweistimme.sound.cores import together
from zweistimme.sound.seams import DECIMATION, HOP, SEARCH, best_offsets
from zweistimme.sound.timemap import TimeMap, speech_map, uniform_map


def stretch(samples: Mono, result_samples: int, *, time_map: TimeMap | None = None) -> Mono:
    """*samples* (mono, 48 kHz) made exactly *result_samples* long, pitch kept.

    Without a map, bursts and transitions are kept as they are and the rest shares the change.
    """
    return stretch_channels(checked_mono(samples)[None, :], result_samples, time_map=time_map)[0]


def stretch_channels(sound: Sound, result_samples: int, *, time_map: TimeMap | None = None) -> Sound:
    """The same for several channels, shape ``(channels, n)``: seams are chosen for their sum, so that the channels
    stay in phase with each other."""
    mono = checked_mono(sound.mean(axis=0))
    if result_samples == len(mono) and time_map is None:
        return sound.copy()
    plan = time_map or speech_map(mono, result_samples)
    if min(len(mono), result_samples) < 4 * HOP:
        return np.stack([_read_along(channel, result_samples, plan) for channel in sound])
    centres = np.arange(0, result_samples + HOP, HOP)
    nominal = plan.to_source(centres.astype(np.float64))
    nominal[centres >= result_samples] += centres[centres >= result_samples] - result_samples
    starts = np.rint(nominal).astype(np.int64)
    margin = 2 * HOP + SEARCH + 2 * DECIMATION
    edges = (margin, margin + HOP)
    padded = np.pad(mono, edges)
    places = _refined(padded, starts + margin, best_offsets(padded, starts + margin))
    channels = [padded] if len(sound) == 1 else [np.pad(channel, edges) for channel in sound]
    return np.stack(together([partial(_overlapped, channel, places) for channel in channels]))[:, :result_samples]


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
    out_of = _rows(padded, places[:-1], HOP)
    out_of *= 1 - fade
    into = _rows(padded, places[1:] - HOP, HOP)
    into *= fade
    out_of += into
    return out_of.ravel()


def _refined(padded: Mono, starts: Ints, offsets: Ints) -> Ints:
    """Offsets to the sample: each frame is tuned to the one before by full-rate correlation."""
    places = (starts // DECIMATION * DECIMATION + offsets).tolist()
    reach = 2 * DECIMATION  # both neighbours of a seam stood on the coarse grid
    places[0] = int(starts[0])
    for frame in range(1, len(places)):
        natural, place = places[frame - 1] + HOP, places[frame]
        if abs(natural - place) <= reach:
            places[frame] = natural
            continue
        near = padded[place - reach - HOP : place + reach]
        seams = np.correlate(near, padded[natural - HOP : natural], "valid")
        energy = np.cumsum(np.square(near, dtype=np.float64))
        norms = energy[HOP - 1 :].copy()
        norms[1:] -= energy[:-HOP]
        places[frame] += int((seams / (np.sqrt(np.maximum(norms, 0)) + 1e-6)).argmax()) - reach
    return np.array(places, dtype=np.int64)
