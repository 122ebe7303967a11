"""Changing the length of speech without its pitch: WSOLA (Verhelst and Roelands, ICASSP 1993) along a time map.

All offsets of a clip are chosen together, by dynamic programming over the correlations at the seams, on a signal
decimated for the search and refined at full rate. A greedy search loses or doubles bursts; this does not.
"""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

from zweistimme.sound.arrays import Ints, Mono, Sound, checked_mono
from zweistimme.sound.timemap import TimeMap, speech_map, uniform_map

HOP = 640
"""Half a frame: 13.3 ms at 48 kHz."""
SEARCH = 384
"""How far a frame may stray from its place on the map, in samples."""
DECIMATION = 16
"""Divides HOP and SEARCH, so that carrying straight on is among the choices."""


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
    places = _refined(padded, starts + margin, _offsets(padded, starts + margin))
    return np.stack([_overlapped(np.pad(channel, edges), places)[:result_samples] for channel in sound])


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


def _windows(signal: Mono, starts: Ints, length: int) -> npt.NDArray[np.float32]:
    """Stretches of *signal* from each start; shape ``(*starts.shape, length)``."""
    return signal[starts[..., None] + np.arange(length)]


def _offsets(padded: Mono, starts: Ints) -> Ints:
    """The best offset for each frame, by Viterbi over the seams of a decimated signal; shape ``(k,)``."""
    smooth = np.convolve(padded, np.hanning(2 * DECIMATION + 1) / DECIMATION, mode="same")[::DECIMATION]
    edges: Mono = np.diff(smooth, prepend=smooth[:1]).astype(np.float32)  # seams are heard at their edges
    half = HOP // DECIMATION
    steps = np.arange(-(SEARCH // DECIMATION), SEARCH // DECIMATION + 1)
    base = starts // DECIMATION
    after = _windows(edges, base[:, None] + steps, half)
    before = _windows(edges, base[:, None] + steps - half, half)
    loudness = np.sqrt((after**2).mean(axis=2))
    weight = (loudness / (loudness.mean() + 1e-9)).clip(0.05, 2.0)
    stray = 0.02 * np.abs(steps / steps[-1]).astype(np.float32)
    cost = np.where(steps == 0, 0.0, 1e3).astype(np.float32)  # the first frame stands at its place
    back = np.empty((len(starts), len(steps)), dtype=np.int16)
    for first in range(0, len(starts) - 1, 256):
        last = min(first + 256, len(starts) - 1)
        seams = _correlations(after[first:last], before[first + 1 : last + 1])
        prices = (1 - seams) * weight[first:last, :, None]
        for frame in range(first, last):
            total = cost[:, None] + prices[frame - first]
            back[frame + 1] = total.argmin(axis=0)
            cost = total.min(axis=0) + stray
    return _traced(back, steps)


def _correlations(tails: npt.NDArray[np.float32], heads: npt.NDArray[np.float32]) -> npt.NDArray[np.float32]:
    """Normalised correlation of every tail with every head of the same seam; shape ``(k, offsets, offsets)``."""
    tails = tails / (np.sqrt((tails**2).sum(axis=2, keepdims=True)) + 1e-4)
    heads = heads / (np.sqrt((heads**2).sum(axis=2, keepdims=True)) + 1e-4)
    return np.asarray(tails @ heads.transpose(0, 2, 1), dtype=np.float32)


def _traced(back: npt.NDArray[np.int16], steps: Ints) -> Ints:
    """Follow the choices back from the last frame, which stands at its place."""
    choice = len(steps) // 2
    path = np.empty(len(back), dtype=np.int64)
    for frame in range(len(back) - 1, 0, -1):
        path[frame] = choice
        choice = int(back[frame, choice])
    path[0] = choice
    return steps[path] * DECIMATION


def _refined(padded: Mono, starts: Ints, offsets: Ints) -> Ints:
    """Offsets to the sample: each frame is tuned to the one before by full-rate correlation."""
    places = starts // DECIMATION * DECIMATION + offsets
    reach = 2 * DECIMATION  # both neighbours of a seam stood on the coarse grid
    places[0] = starts[0]
    for frame in range(1, len(places)):
        natural = places[frame - 1] + HOP
        if abs(natural - places[frame]) <= reach:
            places[frame] = natural
            continue
        tail = padded[places[frame - 1] : natural]
        heads = np.lib.stride_tricks.sliding_window_view(
            padded[places[frame] - reach - HOP : places[frame] + reach], HOP
        )
        norms = np.sqrt(np.einsum("ij,ij->i", heads, heads)) + 1e-6
        places[frame] += int((heads @ tail / norms).argmax()) - reach
    return places


def _overlapped(padded: Mono, places: Ints) -> Mono:
    """Frames added with windows that sum to one; the result starts at the centre of the first frame."""
    fade = (0.5 - 0.5 * np.cos(np.pi * (np.arange(HOP) + 0.5) / HOP)).astype(np.float32)
    out_of = _windows(padded, places[:-1], HOP)
    into = _windows(padded, places[1:] - HOP, HOP)
    return np.asarray((out_of * (1 - fade) + into * fade).ravel(), dtype=np.float32)
