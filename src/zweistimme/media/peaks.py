"""Peaks for drawing: the lowest and highest value in every 10 ms, as signed bytes; a three-hour file takes 2 MB."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import numpy.typing as npt

from zweistimme.media.atomic import kept_array, written_array
from zweistimme.media.decode import Report
from zweistimme.media.sound_reader import SoundReader
from zweistimme.project.times import RATE

PEAKS_PER_SECOND = 100
Peaks = npt.NDArray[np.int8]
"""Shape ``(k, 2)``: low and high, -127..127."""


def peaks_of(sound: npt.NDArray[np.float32]) -> Peaks:
    """Peaks of sound at 48 kHz, shape ``(n,)`` or ``(channels, n)``."""
    step = RATE // PEAKS_PER_SECOND
    planar = np.atleast_2d(sound)
    short = -planar.shape[1] % step
    steps = np.pad(planar, ((0, 0), (0, short))).reshape(len(planar), -1, step)
    low, high = steps.min(axis=2).min(axis=0), steps.max(axis=2).max(axis=0)
    return np.clip(np.rint(np.stack([low, high], axis=1) * 127), -127, 127).astype(np.int8)


def file_peaks(source: Path, cache: Path, report: Report) -> Peaks:
    """Peaks of a working copy, made once and kept in *cache*."""
    kept = kept_array(cache, np.int8)
    if kept is not None:
        return kept
    parts = []
    with SoundReader(source) as reader:
        done = 0
        for block in reader.blocks():
            parts.append(peaks_of(block))
            done += block.shape[1]
            report(done / reader.length)
    return kept_peaks(cache, np.concatenate(parts))


def kept_peaks(cache: Path, peaks: Peaks) -> Peaks:
    """Keep peaks in the cache."""
    written_array(cache, peaks)
    return peaks
