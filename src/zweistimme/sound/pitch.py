"""Fundamental frequency by YIN (de Cheveigné and Kawahara, JASA 111, 2002), all frames at once."""

from __future__ import annotations

import numpy as np

from zweistimme.sound.arrays import Floats, Mono, framed
from zweistimme.sound.fourier import good_size, irfft, rfft

LOWEST_HZ, HIGHEST_HZ = 60.0, 450.0
_QUIET = 10 ** (-35 / 10)
_NOTHING = 1e-12


def pitch_track(samples: Mono, rate: int, *, hop_seconds: float = 0.01, threshold: float = 0.15) -> Floats:
    """Pitch of each frame in Hz, NaN where there is none; shape ``(k,)``.

    Difference functions come from FFT autocorrelation, so a frame costs O(n log n).
    """
    longest = int(rate / LOWEST_HZ) + 1
    shortest = int(rate / HIGHEST_HZ)
    window = 2 * longest
    frames = framed(samples, window + longest, round(rate * hop_seconds))
    if not len(frames):
        return np.empty(0)
    parts = [
        _pitch_of(frames[i : i + 512], window, shortest, longest, rate, threshold) for i in range(0, len(frames), 512)
    ]
    pitch, energy = (np.concatenate([part[k] for part in parts]) for k in (0, 1))
    # quiet is what is far under the loud parts of this sound, whatever their level
    quiet = energy < max(float(np.percentile(energy, 95)) * _QUIET, _NOTHING)
    return np.where(quiet, np.nan, pitch)


def _pitch_of(
    frames: np.ndarray[tuple[int, int], np.dtype[np.float32]],
    window: int,
    shortest: int,
    longest: int,
    rate: int,
    threshold: float,
) -> tuple[Floats, Floats]:
    size = good_size(frames.shape[1])  # the head with the furthest lag ends where the frame does: nothing wraps round
    head = rfft(frames[:, :window], size)
    whole = rfft(frames, size)
    correlation = irfft(whole * head.conj(), size)[:, : longest + 1].astype(np.float64)
    squares = np.concatenate((np.zeros((len(frames), 1)), np.cumsum(frames.astype(np.float64) ** 2, axis=1)), axis=1)
    lags = np.arange(longest + 1)
    energy = squares[:, lags + window] - squares[:, lags]
    difference = np.maximum(energy[:, :1] + energy - 2 * correlation, 0)
    running = np.cumsum(difference[:, 1:], axis=1)
    normal = np.ones_like(difference)
    normal[:, 1:] = difference[:, 1:] * lags[1:] / np.maximum(running, 1e-12)
    inside = normal[:, shortest:longest]
    below = inside < threshold
    first = np.where(below.any(1), below.argmax(1), inside.argmin(1))
    # walk down to the bottom of the first dip
    rising = np.diff(inside, axis=1, append=np.inf) >= 0
    after = rising & (np.arange(inside.shape[1]) >= first[:, None])
    lag = after.argmax(1) + shortest
    rows = np.arange(len(frames))
    left, mid, right = (normal[rows, np.clip(lag + k, 0, longest)] for k in (-1, 0, 1))
    bend = left - 2 * mid + right
    shift = np.where(np.abs(bend) > 1e-12, 0.5 * (left - right) / np.where(bend == 0, 1, bend), 0.0)
    pitch = np.where(mid < 2 * threshold, rate / (lag + np.clip(shift, -0.5, 0.5)), np.nan)
    return pitch, energy[:, 0] / window


def median_pitch_hz(samples: Mono, rate: int) -> float | None:
    """The pitch in the middle of all voiced frames, or None where nothing is voiced.

    >>> tone = np.sin(2 * np.pi * 200 * np.arange(16000) / 16000).astype(np.float32)
    >>> round(median_pitch_hz(tone, 16000), 1)
    200.0
    """
    track = pitch_track(samples, rate, hop_seconds=0.02)
    voiced = track[np.isfinite(track)]
    return float(np.median(voiced)) if len(voiced) >= 3 else None
