"""Mel cepstra for comparing speech with speech."""

from __future__ import annotations

from functools import lru_cache

import numpy as np

from zweistimme.sound.arrays import Floats, Mono, framed
from zweistimme.sound.fourier import rfft

RATE = 16_000
HOP = 160
"""10 ms at 16 kHz."""
STEP = 2
"""Feature frames in one state of a template."""
STATE_SECONDS = 0.01 * STEP
WINDOW = 400
BANDS = 32
CEPSTRA = 13


def _mel(hertz: Floats) -> Floats:
    return 2595.0 * np.log10(1.0 + hertz / 700.0)


@lru_cache(maxsize=64)
def mel_bank(warp: float = 1.0, *, size: int = 512, low: float = 100.0, high: float = 6800.0) -> Floats:
    """Triangular filters, shape ``(bands, size // 2 + 1)``, with the frequency axis scaled by *warp*:
    vocal tract length normalisation in the sense of Lee and Rose (1996)."""
    edges_mel = np.linspace(_mel(np.array(low)), _mel(np.array(high)), BANDS + 2)
    edges = 700.0 * (10.0 ** (edges_mel / 2595.0) - 1.0) * warp
    bins = np.fft.rfftfreq(size, 1 / RATE)[None, :]
    left, centre, right = edges[:-2, None], edges[1:-1, None], edges[2:, None]
    return np.clip(np.minimum((bins - left) / (centre - left), (right - bins) / (right - centre)), 0, None)


@lru_cache(maxsize=1)
def _dct() -> Floats:
    bands, orders = np.arange(BANDS) + 0.5, np.arange(CEPSTRA)[:, None]
    lifter = 1 + 0.5 * 22 * np.sin(np.pi * np.arange(CEPSTRA) / 22)
    return np.cos(np.pi * orders * bands / BANDS) * np.sqrt(2 / BANDS) * lifter[:, None] / 6


def power_spectra(samples: Mono) -> Floats:
    """Power of each 25 ms frame of sound at 16 kHz, one every 10 ms; shape ``(k, 257)``."""
    emphasised = np.append(samples[:1], samples[1:] - 0.95 * samples[:-1]).astype(np.float32)
    frames = framed(np.pad(emphasised, (WINDOW // 2, WINDOW // 2)), WINDOW, HOP)
    return np.abs(rfft(frames * np.hamming(WINDOW).astype(np.float32), 512)) ** 2


def cepstra(power: Floats, *, warp: float = 1.0, floor: Floats | None = None) -> Floats:
    """Mel cepstra without the level, shape ``(k, 12)``; *floor* is a noise power spectrum to take away."""
    if floor is not None:
        power = np.maximum(power - 1.5 * floor, 0.08 * floor)
    bands = np.log(power @ mel_bank(warp).T + 1e-6)
    return (bands @ _dct().T)[:, 1:]


def with_slopes(features: Floats) -> Floats:
    """Features and their slopes over 50 ms, shape ``(k, 2 d)``."""
    padded = np.pad(features, ((2, 2), (0, 0)), mode="edge")
    slope = (2 * padded[4:] + padded[3:-1] - padded[1:-3] - 2 * padded[:-4]) / 10
    return np.concatenate((features, 2.5 * slope), axis=1)


def reduced(features: Floats) -> Floats:
    """Means of every two frames, shape ``(k // 2, d)``."""
    whole = len(features) // STEP * STEP
    return features[:whole].reshape(-1, STEP, features.shape[1]).mean(axis=1)
