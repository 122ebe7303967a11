"""Where somebody speaks: frame levels against a noise floor that adapts, with hysteresis and hang-over."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Final

import numpy as np
import numpy.typing as npt

from zweistimme.sound.arrays import Floats, Ints, Mono, decibels, framed
from zweistimme.sound.fourier import rfft

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
    range_db: float = 45.0
    """How far under the loud parts of a sound its floor may lie; softer than that is as good as silent."""


DEFAULT_ACTIVITY = ActivitySettings()


def frame_levels_db(samples: Mono, rate: int) -> Floats:
    """Level of each 20 ms frame in the band of speech, in dB, one every 10 ms; shape ``(k,)``."""
    return band_levels_db(samples, rate, HOP_SECONDS, (SPEECH_BAND_HZ,))[0]


def band_levels_db(
    samples: Mono, rate: int, hop_seconds: float, bands_hz: Sequence[tuple[float, float]]
) -> tuple[Floats, ...]:
    """Level of each 20 ms frame in some bands, in dB, one every *hop_seconds*; an array of shape ``(k,)`` a band."""
    hop, length = round(rate * hop_seconds), 2 * round(rate * HOP_SECONDS)
    frames = framed(np.pad(samples, ((length - hop) // 2, length)), length, hop)
    frames = frames[: max(1, len(samples) // hop)]
    levels = np.empty((len(bands_hz), len(frames)))
    window = np.hanning(length).astype(np.float32)
    frequencies = np.fft.rfftfreq(length, 1 / rate)
    bands = [slice(*np.searchsorted(frequencies, (low, np.nextafter(high, np.inf)))) for low, high in bands_hz]
    for start in range(0, len(frames), _SPECTRA):  # bounded memory, whatever the length
        spectrum = rfft(frames[start : start + _SPECTRA] * window)
        for level, band in zip(levels, bands, strict=True):
            part = spectrum[:, band]
            level[start : start + _SPECTRA] = np.sqrt((part.real**2 + part.imag**2).sum(1)) / (length // 2)
    return tuple(decibels(level) for level in levels)


def _over_floor(levels_db: Levels, hop_seconds: float, settings: ActivitySettings) -> Iterator[Levels]:
    """Levels over the noise floor, stretch by stretch.

    The floor of a frame is a low percentile of the levels around it, smoothed. The percentile is taken over a window
    long enough to hold a pause, so that steady noise (sea, fans) raises the floor while speech does not.
    """
    step = max(1, round(0.5 / hop_seconds))
    half = round(settings.floor_window / hop_seconds)
    centres = np.arange(0, len(levels_db), step)
    lows = np.array([np.percentile(levels_db[max(0, c - half) : c + half + 1], 12) for c in centres])
    lowest_db = float(np.percentile(levels_db, 95)) - settings.range_db
    for start in range(0, len(levels_db), _STRETCH):
        levels = levels_db[start : start + _STRETCH]
        floor = np.interp(np.arange(start, start + len(levels)), centres, lows)
        yield levels - np.maximum(floor, lowest_db)


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
        under = max(float(noise[band].sum()), np.finfo(np.float64).tiny)  # digital silence has none
        levels = 10 * np.log10(power[:, band].sum(axis=1) / under + 1e-6)
        if (levels > 6).mean() > 0.3 and levels.std() > least_db:
            return True
    return False


def noise_under(power: Floats, levels_db: Floats) -> Floats:
    """The spectrum of the quietest eighth of a stretch, shape ``(257,)``; both have a row every 10 ms."""
    local = levels_db[: len(power)]
    quiet = power[: len(local)][local <= np.percentile(local, 12)] if len(local) else power[:0]
    return np.asarray(quiet.mean(axis=0) if len(quiet) else power.min(axis=0))


_CLIP_RANGE_DB: Final = 40.0
_OVER_ROOM_DB: Final = 8.0
_ROOM_APART_DB: Final = 12.0
_ROOM_STEPS: Final = 30
_STEADY_DB: Final = 2.6
_CLIP_HOP_S: Final = 0.005
_CLIP_BANDS_HZ: Final = ((150.0, 4000.0), (3500.0, 9000.0))
"""Where vowels are, and where an s is: either is speech."""
_SILENT_DB: Final = -100.0
_BEFORE: Final = 3
"""Steps of 5 ms."""


@dataclass(frozen=True, slots=True)
class ClipSpeech:
    """Where a clip speaks, in its own samples; *pauses* lie within ``[start, end)``."""

    start: int
    end: int
    pauses: tuple[tuple[int, int], ...]


def clip_speech(samples: Mono, rate: int, *, least_pause: float = 0.09, room_db: float = -200.0) -> ClipSpeech:
    """Trim a clip of one line: from its first to its last speech, and the pauses between.

    Speech is what is less than 40 dB under the clip's loudest, and more than 8 dB over its room: whatever the level,
    a voice in a quiet studio and one beside a fan are trimmed alike. It begins 15 ms before it is found, since an h is
    heard before it is loud. *room_db* is the level of the room, if it was measured beforehand. A clip with no sound at
    all is taken whole.
    """
    hop = round(rate * _CLIP_HOP_S)
    low, high = band_levels_db(samples, rate, _CLIP_HOP_S, _CLIP_BANDS_HZ)
    if not len(low) or low.max() < _SILENT_DB:
        return ClipSpeech(0, len(samples), ())
    loudest = float(np.percentile(low, 99))
    speaking = (low > _clip_threshold_db(low, loudest, room_db)) | (high > _clip_threshold_db(high, loudest, room_db))
    active = np.flatnonzero(speaking)
    start, end = max(0, int(active[0]) - _BEFORE), min(len(low), int(active[-1]) + 2)
    quiet = runs(~speaking[start:end]) + start
    pauses = tuple(
        (int(a) * hop, int(b) * hop) for a, b in quiet if (b - a) * hop >= least_pause * rate and a > start and b < end
    )
    return ClipSpeech(start * hop, min(end * hop, len(samples)), pauses)


def _clip_threshold_db(levels: Floats, loudest_db: float, room_db: float) -> float:
    """Where speech begins in a clip: 40 dB under its loudest, but 8 dB over its room where that can be heard."""
    under = loudest_db - _CLIP_RANGE_DB
    heard = max(_room_db(levels), room_db)
    return max(under, heard + _OVER_ROOM_DB) if heard < loudest_db - _ROOM_APART_DB else under


def _room_db(levels: Floats) -> float:
    """The softest stretch that is as steady as a room is and speech is not; -200 where there is none, as in a clip that
    was cut without any silence."""
    if len(levels) < _ROOM_STEPS:
        return -200.0
    windows = np.lib.stride_tricks.sliding_window_view(levels, _ROOM_STEPS)
    steady = windows.std(axis=1) < _STEADY_DB
    return float(windows.mean(axis=1)[steady].min(initial=0.0)) if steady.any() else -200.0
