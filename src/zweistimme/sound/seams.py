"""Where the frames of a stretched sound are taken from: the offsets whose seams fit best, chosen all together.

The search goes over the seams of a signal decimated to 3 kHz by dynamic programming. It is cut at quiet frames, which
stand at their places; the parts between them are searched side by side, a step in all of them at once. Sound without a
quiet frame is searched in one go, which takes four times as long.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import partial
from typing import Final

import numpy as np
import numpy.typing as npt

from zweistimme.sound.arrays import Ints, Mono, decimated
from zweistimme.sound.cores import together

HOP: Final = 640
"""Half a frame: 13.3 ms at 48 kHz."""
SEARCH: Final = 384
"""How far a frame may stray from its place on the map, in samples."""
DECIMATION: Final = 16
"""Divides HOP and SEARCH, so that carrying straight on is among the choices."""
_HALF: Final = HOP // DECIMATION
_STEPS: Final = np.arange(-(SEARCH // DECIMATION), SEARCH // DECIMATION + 1)
_MIDDLE: Final = len(_STEPS) // 2
_PART: Final = (100, 200)
"""Seams of a part, at least, and, where there is anything quiet, at most: it ends at the quietest frame between."""
_QUIET: Final = 0.12
"""How loud a frame may be, beside the mean, at which the search is cut."""
_AT_ONCE: Final = 160
"""Seams that are looked at in one go."""
_STRAY: Final = (0.02 * np.abs(_STEPS / _STEPS[-1])).astype(np.float32)

Gains = npt.NDArray[np.float32]


def best_offsets(sounds: Sequence[tuple[Mono, Ints]]) -> list[Ints]:
    """For each of several sounds the best offset of each of its frames, which nominally start at the places given with
    it; in samples, multiples of DECIMATION. The first and the last frame stand at their places. Many sounds are
    searched at once as quickly as few long ones."""
    if not sounds:
        return []
    grounds = [_Ground.of(padded, starts) for padded, starts in sounds]
    ends = np.cumsum([0, *(len(ground.edges) for ground in grounds)])
    frames = np.cumsum([0, *(len(ground.base) for ground in grounds)])
    edges, norms, weights = (
        np.concatenate([getattr(ground, name) for ground in grounds]) for name in ("edges", "norms", "weights")
    )
    base = np.concatenate([ground.base + end for ground, end in zip(grounds, ends, strict=False)])
    cuts = [_cuts(ground.weights[ground.base]) + frame for ground, frame in zip(grounds, frames, strict=False)]
    firsts, counts = np.concatenate([one[:-1] for one in cuts]), np.concatenate([np.diff(one) for one in cuts])
    order = np.argsort(-counts, kind="stable")
    paths = _Search(edges, np.reciprocal(norms + np.float32(1e-4)), weights, base).paths(firsts[order], counts[order])
    offsets = np.zeros(len(base), dtype=np.int64)
    for first, path in zip(firsts[order], paths, strict=True):
        offsets[first : first + len(path)] = path
    return np.split(offsets * DECIMATION, frames[1:-1])


@dataclass(frozen=True, slots=True)
class _Ground:
    """What a sound is searched on: its decimated edges, how strong a half frame from each of them on is and how much
    its seam counts, and where frames nominally start."""

    edges: Mono
    norms: Mono
    weights: Mono
    base: Ints

    @classmethod
    def of(cls, padded: Mono, starts: Ints) -> _Ground:
        edges, base = _edges_of(padded), starts // DECIMATION
        energy = np.concatenate(([0.0], np.cumsum(edges.astype(np.float64) ** 2), np.zeros(_HALF - 1)))
        energy[len(edges) + 1 :] = energy[len(edges)]  # half frames beyond the end, which nobody asks for
        norms = np.sqrt(np.maximum(energy[_HALF:] - energy[:-_HALF], 0)).astype(np.float32)
        weights = (norms / (norms[base].mean() + np.float32(1e-9))).clip(0.05, 2.0)
        return cls(edges, norms, weights, base)


def _edges_of(padded: Mono) -> Mono:
    """What seams are heard by: the differences of the signal, smoothed and decimated."""
    kernel = (np.hanning(2 * DECIMATION + 1) / DECIMATION).astype(np.float32)
    smooth = decimated(padded, DECIMATION, kernel)
    return np.diff(smooth, prepend=smooth[:1])


def _cuts(weight: Mono) -> Ints:
    """The frames at which the search is cut: the first, the last, and quiet ones between, a part from each other. Where
    something sounds on, nothing is cut: a frame that had to stand at its place would put its phase out."""
    last, cuts = len(weight) - 1, [0]
    quiet = np.flatnonzero(weight <= _QUIET)
    while last - cuts[-1] > _PART[1]:
        low, high = np.searchsorted(quiet, (cuts[-1] + _PART[0], cuts[-1] + _PART[1]))
        if low >= len(quiet):
            break
        near = quiet[low : max(high, low + 1)]
        cuts.append(int(near[weight[near].argmin()]))
    return np.array([*cuts, last])


class _Search:
    """The search over the seams of several parts at once.

    From the offsets *i* of a frame to those *j* of the next a way costs ``cost[i] + weight[i] (1 - tail[i] head[j])``;
    the products of many seams are made in one go, the way through them step by step.
    """

    def __init__(self, edges: Mono, scales: Mono, weights: Mono, base: Ints) -> None:
        self._stretches = np.lib.stride_tricks.sliding_window_view(edges, _HALF + len(_STEPS) - 1)
        self._scales = np.lib.stride_tricks.sliding_window_view(scales, len(_STEPS))
        self._weights = np.lib.stride_tricks.sliding_window_view(weights, len(_STEPS))
        self._base = base + int(_STEPS[0])

    def paths(self, firsts: Ints, counts: Ints) -> list[Ints]:
        """The offsets, in steps, of the frames of each part from its first to its last; the longest parts come first,
        so that those that have ended can be left behind."""
        back = self._choices(firsts, counts)
        choice = np.full(len(firsts), _MIDDLE)
        ways = np.full((len(back) + 1, len(firsts)), _MIDDLE)
        for step in range(len(back) - 1, -1, -1):
            lanes = np.arange(len(back[step]))
            choice[lanes] = back[step][lanes, choice[lanes]]
            ways[step] = choice
        return [_STEPS[ways[: count + 1, lane]] for lane, count in enumerate(counts)]

    def _choices(self, firsts: Ints, counts: Ints) -> list[npt.NDArray[np.uint8]]:
        """For each step, part and offset the best offset of the frame before; parts that have ended are left out. While
        a way is found through some seams, those behind them are made ready."""
        batches = _batches(counts)
        cost = np.full((len(firsts), len(_STEPS)), 1e3, dtype=np.float32)
        cost[:, _MIDDLE] = 0.0
        back: list[npt.NDArray[np.uint8]] = []

        def ready(batch: int) -> tuple[Gains, Gains] | None:
            if batch == len(batches):
                return None
            steps, going = batches[batch]
            frames = firsts[:going] + steps[:, None]
            return self._gains(frames.ravel()), self._weights[self._base[frames]]

        def found(given: tuple[Gains, Gains]) -> None:
            nonlocal cost
            gains, weights = given
            cost = cost[: weights.shape[1]]
            rows = np.arange(cost.size)
            for ways, weight in zip(gains.reshape(len(weights), *cost.shape, -1), weights, strict=True):
                np.subtract((cost + weight)[:, None], ways, out=ways)
                flat = ways.reshape(cost.size, -1)
                best = flat.argmin(axis=1)
                cost = flat[rows, best].reshape(cost.shape) + _STRAY
                back.append(best.astype(np.uint8).reshape(cost.shape))

        given = ready(0)
        for batch in range(1, len(batches) + 1):
            assert given is not None
            both: list[Callable[[], tuple[Gains, Gains] | None]] = [partial(ready, batch), partial(found, given)]
            given, _ = together(both)
        return back

    def _gains(self, frames: Ints) -> Gains:
        """How well the seams from *frames* to those behind them fit, weighted, for every offset of both; shape
        ``(frames, offsets of the later, offsets of the earlier)``."""
        earlier, later = self._base[frames], self._base[frames + 1] - _HALF
        weights = self._weights[earlier] * self._scales[earlier]
        tails = np.einsum("kni,ki->kni", _windows(self._stretches[earlier], len(_STEPS)), weights)
        heads = np.einsum("kjn,kj->kjn", _windows(self._stretches[later], _HALF), self._scales[later])
        return np.matmul(heads, tails)


def _windows(stretches: Gains, length: int) -> Gains:
    return np.lib.stride_tricks.sliding_window_view(stretches, length, axis=1)


def _batches(counts: Ints) -> list[tuple[Ints, int]]:
    """Steps that are looked at in one go, and how many parts go on through all of them; *counts* fall."""
    batches, step = [], 0
    while step < counts.max():
        going = int((counts > step).sum())
        end = min(step + max(1, _AT_ONCE // going), int(counts[going - 1]))
        batches.append((np.arange(step, end), going))
        step = end
    return batches
