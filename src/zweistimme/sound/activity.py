"""Where somebody speaks: frame levels against a noise floor that adapts, with hysteresis and hang-over."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from zweistimme.sound.arrays import Floats, Ints, Mono, decibels, framed

Levels = npt.NDArray[np.floating]
"""In dB, one a frame."""
HOP_SECONDS = 0.01
SPEECH_BAND_HZ = (250.0, 4000.0)
_FIRST_FORMANT = slice(8, 29)
"""Bins from 250 to 900 Hz."""
_LEAST_MODULATION_DB = 5.0
_WHISPER = slice(32, 128)
"""Bins from 1 to 4 kHz."""
_LEAST_WHISPER_DB = 8.0
_SPECTRA = 512
"""Frames whose spectra are held at once."""
_STRETCH = 60_000
"""Frames that are looked at together: memory grows by little more than the levels themselves."""


@dataclass(frozen=True, slots=True)
class ActivitySettings:
    """Levels in dB over the noise floor, times in seconds."""

    on_db: float = 9.0
    off_db: float = 5.0
    least_speech: float = 0.12
    least_pause: float = 0.22
    edge: float = 0.03
    floor_window: float = 4.0
    lowest_db: float = -65.0


DEFAULT_ACTIVITY = ActivitySettings()


def frame_levels_db(samples: Mono, rate: int, *, hop_seconds: float = HOP_SECONDS) -> Floats:
    """Level of each 20 ms frame in the speech band, in dB, one every *hop_seconds*; shape ``(k,)``."""
    hop = round(rate * hop_seconds)
    frames = framed(np.pad(samples, (hop // 2, 2 * hop)), 2 * hop, hop)
    frames = frames[: max(1, len(samples) // hop)]
    levels = np.empty(len(frames))
    window = np.hanning(2 * hop).astype(np.float32)
    frequencies = np.fft.rfftfreq(2 * hop, 1 / rate)
    band = (frequencies >= SPEECH_BAND_HZ[0]) & (frequencies <= SPEECH_BAND_HZ[1])
    for start in range(0, len(frames), _SPECTRA):  # bounded memory, whatever the length
        spectrum = np.abs(np.fft.rfft(frames[start : start + _SPECTRA] * window))[:, band]
        levels[start : start + _SPECTRA] = np.sqrt((spectrum**2).sum(1)) / hop
    return decibels(levels)


def _over_floor(levels_db: Levels, hop_seconds: float, settings: ActivitySettings) -> Iterator[Levels]:
    """Levels over the noise floor, stretch by stretch.

    The floor of a frame is a low percentile of the levels around it, smoothed. The percentile is taken over a window
    long enough to hold a pause, so that steady noise (sea, fans) raises the floor while speech does not.
    """
    step = max(1, round(0.5 / hop_seconds))
    half = round(settings.floor_window / hop_seconds)
    centres = np.arange(0, len(levels_db), step)
    lows = np.array([np.percentile(levels_db[max(0, c - half) : c + half + 1], 12) for c in centres])
    for start in range(0, len(levels_db), _STRETCH):
        levels = levels_db[start : start + _STRETCH]
        floor = np.interp(np.arange(start, start + len(levels)), centres, lows)
        yield levels - np.maximum(floor, settings.lowest_db)


def speech_regions(
    levels_db: Levels, *, hop_seconds: float = HOP_SECONDS, settings: ActivitySettings = DEFAULT_ACTIVITY
) -> list[tuple[float, float]]:
    """Stretches of speech as ``(start, end)`` in seconds, in order, not overlapping."""
    if not len(levels_db):
        return []
    steps = [(over > settings.off_db, over > settings.on_db) for over in _over_floor(levels_db, hop_seconds, settings)]
    stretches = runs(np.concatenate([active for active, _ in steps]))
    loud = np.concatenate([loud for _, loud in steps])
    kept = [(int(a), int(b)) for a, b in stretches if loud[a:b].any()]
    merged: list[list[int]] = []
    for start, end in kept:
        if merged and (start - merged[-1][1]) * hop_seconds < settings.least_pause:
            merged[-1][1] = end
        else:
            merged.append([start, end])
    last = len(levels_db) * hop_seconds
    return [
        (max(0.0, a * hop_seconds - settings.edge), min(last, b * hop_seconds + settings.edge))
        for a, b in merged
        if (b - a) * hop_seconds >= settings.least_speech
    ]


def runs(active: np.ndarray[tuple[int], np.dtype[np.bool_]]) -> Ints:
    """Start and end of each run of True, shape ``(runs, 2)``."""
    edges = np.flatnonzero(np.diff(np.concatenate(([False], active, [False])).astype(np.int8)))
    return np.asarray(edges.reshape(-1, 2), dtype=np.int64)


def speechlike(power: Floats, noise: Floats) -> bool:
    """Whether a stretch has what speech has and gulls, bells and waves have not: a first formant that comes and
    goes, well above the noise, or a whisper that comes and goes even more.

    *power* are spectra as ``features.power_spectra`` gives them, shape ``(k, 257)``, *noise* one of what is under it.
    """
    if not len(power):
        return False
    for band, least_db in ((_FIRST_FORMANT, _LEAST_MODULATION_DB), (_WHISPER, _LEAST_WHISPER_DB)):
        levels = 10 * np.log10(power[:, band].sum(axis=1) / noise[band].sum() + 1e-6)
        if (levels > 6).mean() > 0.3 and levels.std() > least_db:
            return True
    return False


def noise_under(power: Floats, levels_db: Floats) -> Floats:
    """The spectrum of the quietest eighth of a stretch, shape ``(257,)``; both have a row every 10 ms."""
    local = levels_db[: len(power)]
    quiet = power[: len(local)][local <= np.percentile(local, 12)] if len(local) else power[:0]
    return np.asarray(quiet.mean(axis=0) if len(quiet) else power.min(axis=0))


@dataclass(frozen=True, slots=True)
class ClipSpeech:
    """Where a clip speaks, in its own samples; *pauses* lie within ``[start, end)``."""

    start: int
    end: int
    pauses: tuple[tuple[int, int], ...]


def clip_speech(samples: Mono, rate: int, *, threshold_db: float = 38.0, least_pause: float = 0.09) -> ClipSpeech:
    """Trim a clean clip: from the first to the last frame less than *threshold_db* under its loudest, and the
    pauses between. A clip with no sound at all is taken whole."""
    hop = round(rate * 0.005)
    frames = framed(np.pad(samples, (0, hop)), hop, hop)
    levels = decibels(np.sqrt((frames.astype(np.float64) ** 2).mean(1)))
    if not len(levels) or levels.max() < -80:
        return ClipSpeech(0, len(samples), ())
    active = np.flatnonzero(levels > levels.max() - threshold_db)
    start, end = max(0, int(active[0]) - 1), min(len(levels), int(active[-1]) + 2)
    quiet = runs(levels[start:end] <= levels.max() - threshold_db) + start
    pauses = tuple(
        (int(a) * hop, int(b) * hop) for a, b in quiet if (b - a) * hop >= least_pause * rate and a > start and b < end
    )
    return ClipSpeech(start * hop, min(end * hop, len(samples)), pauses)
