"""The array types of the numeric core and the one gate that refuses bad input."""

from __future__ import annotations

from functools import partial

import numpy as np
import numpy.typing as npt

from zweistimme.sound.cores import together

Mono = npt.NDArray[np.float32]
"""Shape ``(n,)``."""
Sound = npt.NDArray[np.float32]
"""Shape ``(channels, n)``."""
Floats = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]
_DECIMATED_OVER = 64
"""About as many samples are gone on by in one row of a product."""
_AT_ONCE = 4096
"""Rows of one product."""


def checked_mono(samples: npt.NDArray[np.floating], what: str = "the sound") -> Mono:
    """*samples* as float32, or a ValueError if they are not one channel of finite numbers."""
    if samples.ndim != 1:
        raise ValueError(f"{what} must have shape (n,), not {samples.shape}")
    if not np.isfinite(samples).all():
        raise ValueError(f"{what} holds values that are not numbers")
    return np.ascontiguousarray(samples, dtype=np.float32)


def as_mono(sound: Sound) -> Mono:
    """The mean of all channels; one channel is itself."""
    return sound[0] if len(sound) == 1 else np.asarray(sound.mean(axis=0))


def steps_24(samples: npt.NDArray[np.floating]) -> npt.NDArray[np.int32]:
    """Samples as whole numbers of 24 bits, the form in which clips are kept; what is beyond ±1 is held there."""
    # float32 holds every step, so that nothing is rounded twice
    exact = samples if samples.dtype == np.float32 else samples.astype(np.float64)
    steps = exact * exact.dtype.type(2**23)
    np.rint(steps, out=steps)
    np.clip(steps, -(2**23), 2**23 - 1, out=steps)
    return steps.astype(np.int32)


def in_24_bits(samples: npt.NDArray[np.floating]) -> Mono:
    """Samples as they will be once kept; float32 holds them exactly."""
    return (steps_24(samples) / np.float64(2**23)).astype(np.float32)


def decibels(ratio: npt.NDArray[np.floating] | float) -> Floats:
    """Amplitude ratio to dB, floored at -200."""
    return 20.0 * np.log10(np.maximum(np.asarray(ratio, dtype=np.float64), 1e-10))


def amplitude(level_db: float) -> float:
    """dB to amplitude ratio.

    >>> round(amplitude(-6.0206), 4)
    0.5
    """
    return float(10.0 ** (level_db / 20.0))


def eased(samples: Mono, seconds: float, rate: int) -> Mono:
    """Both ends brought to nothing, each within so many seconds (a raised cosine), so that neither is heard as a
    click."""
    made, count = samples.copy(), min(round(seconds * rate), len(samples) // 2)
    ramp = (0.5 - 0.5 * np.cos(np.linspace(0, np.pi, count, endpoint=False))).astype(np.float32)
    made[:count] *= ramp
    made[len(made) - count :] *= ramp[::-1]
    return made


def framed(samples: Mono, length: int, hop: int) -> npt.NDArray[np.float32]:
    """Frames of *length* samples every *hop*, shape ``(k, length)``; a view, the tail that fills no frame is left."""
    if len(samples) < length:
        return np.empty((0, length), dtype=np.float32)
    return np.lib.stride_tricks.sliding_window_view(samples, length)[::hop]


def decimated(samples: Mono, factor: int, kernel: npt.NDArray[np.float32]) -> Mono:
    """Every *factor*-th sample of what *kernel* (of odd length, symmetric) makes of *samples*: some at once, as a
    product of the samples they hang on with the kernel in as many places."""
    count, wide = -(-len(samples) // factor), max(1, _DECIMATED_OVER // factor)
    blocks = -(-count // wide)
    size = (wide - 1) * factor + len(kernel)
    around = np.empty(blocks * wide * factor + size, dtype=np.float32)
    half = len(kernel) // 2
    around[:half] = around[half + len(samples) :] = 0
    around[half : half + len(samples)] = samples
    matrix = np.zeros((size, wide), dtype=np.float32)
    for place in range(wide):
        matrix[place * factor : place * factor + len(kernel), place] = kernel
    windows = np.lib.stride_tricks.sliding_window_view(around, size)[:: wide * factor][:blocks]
    result = np.empty((blocks, wide), dtype=np.float32)

    def decimate(part: slice) -> None:
        np.matmul(np.ascontiguousarray(windows[part]), matrix, out=result[part])

    together([partial(decimate, slice(k, k + _AT_ONCE)) for k in range(0, blocks, _AT_ONCE)])
    return result.ravel()[:count]


def is_silent(samples: Mono) -> bool:
    """Whether a clip has no sound at all, or none that anybody hears: its peak is under -80 dB."""
    return not len(samples) or float(np.abs(samples).max()) < 1e-4
