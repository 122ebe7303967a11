"""Where the frames of a stretched sound are taken from: the offsets whose seams fit best, chosen all together.

The search goes over the seams of a signal decimated to 3 kHz by dynamic programming. It is cut at quiet frames, which
stand at their places; the parts between them are searched side by side, a step in all of them at once. Sound without a
quiet frame is searched in one go, which takes four times as long.
"""

from __future__ import annotations

from functools import partial
from typing import Final

import numpy as np
import numpy.typing as npt

from zweistimme.sound.arrays import Ints, Mono, decimated
from zweistimme.sound.cores import cores, together

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
_AT_ONCE: Final = 64
"""Seams whose prices are worked out in one go."""
_STRAY: Final = (0.02 * np.abs(_STEPS / _STEPS[-1])).astype(np.float32)

Prices = npt.NDArray[np.float32]


def best_offsets(padded: Mono, starts: Ints) -> Ints:
    """The best offset of each frame that nominally starts at *starts*, in samples, multiples of DECIMATION; shape
    ``(k,)``. The first and the last frame stand at their places."""
    edges = _edges_of(padded)
    base = starts // DECIMATION
    energy = np.concatenate(([0.0], np.cumsum(edges.astype(np.float64) ** 2)))
    norms = np.sqrt(np.maximum(energy[_HALF:] - energy[:-_HALF], 0))
    weights = (norms / (norms[base].mean() + 1e-9)).clip(0.05, 2.0).astype(np.float32)
    scales = (1 / (norms + 1e-4)).astype(np.float32)
    cuts = _cuts(weights[base])
    order = np.argsort(-np.diff(cuts), kind="stable")
    firsts, counts = cuts[:-1][order], np.diff(cuts)[order]
    lanes = [np.arange(len(firsts))[core :: cores()] for core in range(cores())]
    search = _Search(edges, scales, weights, base)
    paths = together([partial(search.paths, firsts[some], counts[some]) for some in lanes if len(some)])
    offsets = np.zeros(len(starts), dtype=np.int64)
    for lane, path in zip(
        [lane for some in lanes for lane in some], [one for some in paths for one in some], strict=True
    ):
        offsets[firsts[lane] : firsts[lane] + len(path)] = path
    return offsets * DECIMATION


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
    """The search over the seams of several parts at once."""

    def __init__(self, edges: Mono, scales: Mono, weights: Mono, base: Ints) -> None:
        self._rows = np.lib.stride_tricks.sliding_window_view(edges, _HALF)
        self._scales, self._weights, self._base = scales, weights, base

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

    def _choices(self, firsts: Ints, counts: Ints) -> list[Ints]:
        """For each step, part and offset the best offset of the frame before; parts that have ended are left out."""
        cost = np.full((len(firsts), len(_STEPS)), 1e3, dtype=np.float32)
        cost[:, _MIDDLE] = 0.0
        back: list[Ints] = []
        while len(back) < counts.max():
            going = int((counts > len(back)).sum())
            steps = np.arange(len(back), min(len(back) + max(1, _AT_ONCE // going), int(counts[going - 1])))
            frames = firsts[:going] + steps[:, None]
            prices = self._prices(frames.ravel()).reshape(*frames.shape, len(_STEPS), len(_STEPS))
            cost = cost[:going]
            for total in prices:
                total += cost[:, None, :]
                back.append(total.argmin(axis=2))
                cost = total.min(axis=2) + _STRAY
        return back

    def _prices(self, frames: Ints) -> Prices:
        """What the seams from *frames* to those behind them cost, for every offset of both; shape ``(lanes, offsets of
        the later, offsets of the earlier)``."""
        earlier = self._base[frames, None] + _STEPS
        later = self._base[frames + 1, None] + _STEPS - _HALF
        tails = self._rows[earlier] * self._scales[earlier][..., None]
        heads = self._rows[later] * self._scales[later][..., None]
        prices = np.matmul(heads, tails.transpose(0, 2, 1))
        np.subtract(1, prices, out=prices)
        prices *= self._weights[earlier][:, None, :]
        return prices
