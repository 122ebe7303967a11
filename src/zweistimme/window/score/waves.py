"""Upright waveforms: one image a column, drawn from peaks row by row."""

from __future__ import annotations

from collections.abc import Iterable
from functools import lru_cache
from typing import Final

import numpy as np
import numpy.typing as npt
from PyQt6.QtGui import QColor, QImage

from zweistimme.media.peaks import PEAKS_PER_SECOND
from zweistimme.project.times import SECOND_US
from zweistimme.window.peaks import Peaks

_STEPS: Final = 512
_IN_SIGHT: Final = 32
"""So many waves are about as many as are seen; one down the whole column has half a megabyte on a fine screen."""
Rows = npt.NDArray[np.float64]


def row_levels(peaks: Peaks, times_us: npt.NDArray[np.floating], step_us: float) -> Rows:
    """The loudest peak, 0..1, in each row of pixels; shape ``(rows,)``. Rows outside the peaks are silent."""
    first = np.floor(times_us * (PEAKS_PER_SECOND / SECOND_US)).astype(np.int64)
    count = max(1, int(np.ceil(step_us * PEAKS_PER_SECOND / SECOND_US)))
    levels = np.zeros(len(times_us))
    # only what is seen is looked at, however long the programme is
    low = max(0, int(first.min(initial=len(peaks))))
    seen = peaks[low : max(low, int(first.max(initial=0)) + count)]
    if not len(seen):
        return levels
    loud = np.abs(seen.astype(np.int16)).max(axis=1) / 127.0
    for k in range(count):
        index = first + k - low
        inside = (index >= 0) & (index < len(loud))
        levels[inside] = np.maximum(levels[inside], loud[index[inside]])
    return levels


def wave_image(levels: Rows, width: int, colours: Iterable[tuple[slice, QColor]], gain: float = 1.0) -> QImage:
    """An image *width* pixels wide, a row of pixels for each level; *colours* says which rows have which. It is kept:
    an edit paints anew all that is seen, of which few waves are others."""
    steps = (np.sqrt(np.clip(levels * gain, 0, 1)) * (_STEPS - 1)).astype(np.uint16)
    stretches = tuple((rows.start, rows.stop, tint.rgba()) for rows, tint in colours)
    return _image(steps.tobytes(), width, stretches)


@lru_cache(maxsize=_IN_SIGHT)
def _image(levels: bytes, width: int, stretches: tuple[tuple[int | None, int | None, int], ...]) -> QImage:
    steps = np.frombuffer(levels, dtype=np.uint16)
    height = max(1, len(steps))
    image = np.zeros((height, width), dtype=np.uint32)
    for first, last, rgba in stretches:
        image[first:last] = _bars(width, rgba)[steps[first:last]]
    return QImage(image.tobytes(), width, height, width * 4, QImage.Format.Format_ARGB32_Premultiplied).copy()


@lru_cache(maxsize=64)
def _bars(width: int, rgba: int) -> npt.NDArray[np.uint32]:
    """Rows of pixels with a bar in the middle, from the narrowest to the whole width; premultiplied, since a wave is
    painted anew in every frame."""
    reach = np.maximum(np.linspace(0, 1, _STEPS) * (width - 2) / 2, 0.6)
    distance = np.abs(np.arange(width) - (width - 1) / 2)
    cover = np.clip(reach[:, None] - distance[None, :] + 0.5, 0, 1)
    alpha = cover * (rgba >> 24)
    bars = alpha.astype(np.uint32) << 24
    for shift in (16, 8, 0):
        bars |= (alpha * (rgba >> shift & 255) / 255).astype(np.uint32) << shift
    return bars
