"""Who speaks when, found in the sound alone: no recogniser, no model of anybody's voice.

Speech is looked at in windows of a second or so. Pitch and spectral envelope of the windows are clustered (average
linkage), which tells how many people there are and roughly who; then every cluster becomes a Gaussian, and the
cheapest path through all frames (Viterbi, with a price for every change) says who speaks when. The path finds the
change points; it is repeated once with Gaussians learned from it.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

import numpy as np
import numpy.typing as npt

from zweistimme.sound.arrays import Floats, Ints, Mono
from zweistimme.sound.features import RATE, cepstra, power_spectra
from zweistimme.sound.pitch import pitch_track

FRAME_S: Final = 0.02
_WINDOW, _STEP = 60, 20
"""Frames of a window, and from one to the next."""
_LEAST_VOICED: Final = 8
_MOST_WINDOWS: Final = 1_500
_SAME_SPEAKER: Final = (3.0, 7.0)
"""How far apart, in semitones or their like, two groups of windows of one speaker may lie: at least and at most. In
between, what counts is how lively people speak here: how far windows of one stretch of speech are from each other."""
_LIVELY: Final = 1.0
_LEAST_PAIRS: Final = 8
_ENVELOPE_WEIGHT: Final = 0.55
_LEAST_SHARE: Final = 0.015
_LEAST_SPREAD: Final = 0.8
_CHANGE_PRICE: Final = 22.0
_SHORTEST_TURN_S: Final = 0.32

Flags = npt.NDArray[np.bool_]


@dataclass(frozen=True, slots=True)
class VoiceFrames:
    """Speech measured every 20 ms: *semitones* of pitch over 100 Hz, NaN where nothing is voiced, shape ``(k,)``;
    *envelope*, mel cepstra, shape ``(k, 12)``; *speech*, whether somebody speaks, shape ``(k,)``."""

    semitones: npt.NDArray[np.float32]
    envelope: npt.NDArray[np.float32]
    speech: Flags


@dataclass(frozen=True, slots=True)
class SpokenTurn:
    """Somebody, by number in order of first appearance, speaks in ``[start, end)``; seconds."""

    start_s: float
    end_s: float
    speaker: int


def voice_frames(blocks: Sequence[Mono], noise: Floats | None = None) -> tuple[Floats, npt.NDArray[np.float32]]:
    """Pitch in semitones and envelope of sound at 16 kHz, every 20 ms; blocks are measured one by one."""
    semitones, envelopes = [], []
    for block in blocks:
        count = len(block) // round(RATE * FRAME_S)
        track = pitch_track(np.pad(block, (0, 1200)), RATE, hop_seconds=FRAME_S)[:count]
        track = np.pad(track, (0, count - len(track)), constant_values=np.nan)
        power = power_spectra(block)[::2][:count]
        semitones.append(12 * np.log2(track / 100))
        envelopes.append(cepstra(power, floor=noise).astype(np.float32))
    return np.concatenate(semitones), np.concatenate(envelopes)


def frames_from(regions: Sequence[tuple[float, float]], count: int) -> Flags:
    """Regions in seconds as one flag a frame, shape ``(count,)``."""
    flags = np.zeros(count, dtype=bool)
    for start, end in regions:
        flags[round(start / FRAME_S) : round(end / FRAME_S)] = True
    return flags


def spoken_turns(frames: VoiceFrames, speakers: int | None = None) -> list[SpokenTurn]:
    """Turns in order of time. *speakers* is how many people there are, if that is known."""
    voiced = np.isfinite(frames.semitones) & frames.speech
    if not frames.speech.any():
        return []
    points = _points(frames, voiced)
    if voiced.sum() < _LEAST_VOICED:
        return _turns(np.where(frames.speech, 0, -1))
    labels = _first_guess(points, voiced, frames.speech, speakers)
    for _ in range(2):
        labels = _path(points, voiced, frames.speech, labels)
    return _turns(labels)


def _points(frames: VoiceFrames, voiced: Flags) -> npt.NDArray[np.float32]:
    """Pitch and envelope on one scale, shape ``(k, 13)``: a unit is about a semitone."""
    envelope = frames.envelope
    centre, spread = (envelope[voiced].mean(axis=0), envelope[voiced].std(axis=0)) if voiced.any() else (0.0, 1.0)
    scaled = (envelope - centre) / (spread + np.float32(1e-3)) * _ENVELOPE_WEIGHT
    pitch = np.where(voiced, np.nan_to_num(frames.semitones), 0.0)
    return np.concatenate((pitch[:, None], scaled), axis=1).astype(np.float32)


def _windows(speech: Flags) -> Ints:
    """Starts and ends of windows within stretches of speech, shape ``(w, 2)``."""
    edges = np.flatnonzero(np.diff(np.concatenate(([False], speech, [False])).astype(np.int8))).reshape(-1, 2)
    found = []
    for first, last in edges:
        starts = np.arange(first, max(first + 1, last - _WINDOW + 1), _STEP)
        found += [(int(start), int(min(last, start + _WINDOW))) for start in starts]
    return np.array(found, dtype=np.int64).reshape(-1, 2)


def _first_guess(points: npt.NDArray[np.float32], voiced: Flags, speech: Flags, speakers: int | None) -> Ints:
    """A speaker for every frame of the windows that tell most; -1 elsewhere."""
    from scipy.cluster.hierarchy import linkage

    windows = _windows(speech)
    counts = np.array([voiced[a:b].sum() for a, b in windows])
    stretches = (
        np.cumsum(np.append(True, windows[1:, 0] > windows[:-1, 1])) if len(windows) else np.empty(0, dtype=np.int64)
    )
    windows, stretches = windows[counts >= _LEAST_VOICED], stretches[counts >= _LEAST_VOICED]
    labels = np.full(len(points), -1, dtype=np.int64)
    if len(windows) < 2:
        labels[speech] = 0
        return labels
    if len(windows) > _MOST_WINDOWS:
        kept = np.linspace(0, len(windows) - 1, _MOST_WINDOWS).astype(int)
        windows, stretches = windows[kept], stretches[kept]
    centres = np.array([_centre(points[a:b][voiced[a:b]]) for a, b in windows])
    tree = linkage(centres, "average")
    groups = _grouped(tree, speakers, _within_one(centres, windows, stretches))
    groups = _without_small(centres, groups)
    for (a, b), group in zip(windows, groups, strict=True):
        labels[a:b] = group
    return labels


def _centre(rows: npt.NDArray[np.float32]) -> Floats:
    return np.concatenate((np.median(rows[:, :1], axis=0), rows[:, 1:].mean(axis=0))).astype(np.float64)


def _within_one(centres: Floats, windows: Ints, stretches: Ints) -> float:
    """How far apart two groups may be and still be one person: as far as windows of one stretch of speech that do not
    overlap mostly are, within bounds. Somebody lively is further from himself than somebody who reads."""
    apart = []
    for ahead in range(1, 7):
        same = (stretches[ahead:] == stretches[:-ahead]) & (windows[ahead:, 0] >= windows[:-ahead, 1])
        apart.append(np.linalg.norm(centres[ahead:] - centres[:-ahead], axis=1)[same])
    every = np.concatenate(apart)
    if len(every) < _LEAST_PAIRS:
        return _SAME_SPEAKER[0]
    return float(np.clip(_LIVELY * np.percentile(every, 75), *_SAME_SPEAKER))


def _grouped(tree: Floats, speakers: int | None, apart: float) -> Ints:
    """Groups no further apart than one speaker is from himself; or as many as there are speakers, not counting
    groups of a few stray windows, which a door or a bell may make."""
    from scipy.cluster.hierarchy import fcluster

    if speakers is None:
        return np.asarray(fcluster(tree, apart, "distance"), dtype=np.int64)
    best = np.ones(len(tree) + 1, dtype=np.int64)
    found = 1
    for height in tree[::-1, 2] - 1e-9:
        groups = np.asarray(fcluster(tree, height, "distance"), dtype=np.int64)
        big = int((np.bincount(groups) >= _least(len(groups))).sum())
        if big > found:
            best, found = groups, big
        if found >= speakers:
            break
    return best


def _least(windows: int) -> int:
    return max(2, round(_LEAST_SHARE * windows))


def _without_small(centres: Floats, groups: Ints) -> Ints:
    """Groups of a few stray windows go to the nearest group that is somebody."""
    names, sizes = np.unique(groups, return_counts=True)
    big = sizes >= _least(len(groups))
    kept = names[big] if big.any() else names[[sizes.argmax()]]
    means = np.array([centres[groups == name].mean(axis=0) for name in kept])
    nearest = ((centres[:, None, :] - means[None]) ** 2).sum(axis=2).argmin(axis=1)
    place = {int(name): k for k, name in enumerate(kept)}
    return np.array([place.get(int(g), int(n)) for g, n in zip(groups, nearest, strict=True)], dtype=np.int64)


def _path(points: npt.NDArray[np.float32], voiced: Flags, speech: Flags, labels: Ints) -> Ints:
    """The cheapest way through all speech; the speaker may change anywhere, most cheaply in a pause."""
    names = np.unique(labels[labels >= 0])
    costs = np.stack([_cost(points, voiced, labels == name) for name in names], axis=1)
    costs[~speech] = 0.0
    change = np.where(speech, _CHANGE_PRICE, 0.0)
    count = len(names)
    total = np.zeros(count)
    came = np.empty((len(points), count), dtype=np.int16)
    here = np.arange(count)
    for t in range(len(points)):
        best = int(total.argmin())
        moved = total[best] + change[t] < total
        came[t] = np.where(moved, best, here)
        total = np.where(moved, total[best] + change[t], total) + costs[t]
        if t % 4096 == 0:
            total -= total.min()
    path = np.empty(len(points), dtype=np.int64)
    state = int(total.argmin())
    for t in range(len(points) - 1, -1, -1):
        path[t] = state
        state = int(came[t, state])
    return np.where(speech, path, -1)


def _cost(points: npt.NDArray[np.float32], voiced: Flags, own: Flags) -> Floats:
    """How ill each frame fits the Gaussian of a speaker; unvoiced frames tell little."""
    rows = points[own & voiced]
    if len(rows) < _LEAST_VOICED:
        rows = points[own] if own.any() else points
    centre = np.median(rows, axis=0).astype(np.float64)
    spread = np.maximum(rows.std(axis=0).astype(np.float64), _LEAST_SPREAD)
    off = np.minimum(((points - centre) / spread) ** 2, 12.0)
    weights = np.concatenate(([1.0], np.full(points.shape[1] - 1, 0.35)))
    cost = 0.5 * (off * weights).sum(axis=1) + float((weights * np.log(spread)).sum())
    unvoiced = 0.15 * 0.5 * (off[:, 1:] * weights[1:]).sum(axis=1)
    return np.where(voiced, cost, unvoiced)


def _turns(labels: Ints) -> list[SpokenTurn]:
    """Runs of one speaker, numbered by first appearance; a run too short to be anybody's joins its neighbour."""
    edges = np.flatnonzero(np.diff(labels)) + 1
    runs = [(int(a), int(b)) for a, b in zip([0, *edges], [*edges, len(labels)], strict=True)]
    owners = [int(labels[first]) for first, _ in runs]
    for k, (first, last) in enumerate(runs):
        if owners[k] < 0 or (last - first) * FRAME_S >= _SHORTEST_TURN_S:
            continue
        if k and owners[k - 1] >= 0:
            owners[k] = owners[k - 1]
        elif k + 1 < len(runs) and owners[k + 1] >= 0:  # the breath before a first word
            owners[k] = owners[k + 1]
    turns: list[tuple[int, int, int]] = []
    for (first, last), speaker in zip(runs, owners, strict=True):
        if speaker < 0:
            continue
        if turns and turns[-1][1] == first and turns[-1][2] == speaker:
            turns[-1] = (turns[-1][0], last, speaker)
        else:
            turns.append((first, last, speaker))
    numbers: dict[int, int] = {}
    for _, _, speaker in turns:
        numbers.setdefault(speaker, len(numbers))
    return [SpokenTurn(a * FRAME_S, b * FRAME_S, numbers[speaker]) for a, b, speaker in turns]
