"""Fourier transforms of real sound, in double precision: with single precision NumPy's takes three times as long."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

from zweistimme.sound.arrays import Floats


def rfft(values: npt.NDArray[np.floating], size: int | None = None) -> npt.NDArray[np.complex128]:
    """The spectrum along the last axis, zero-padded or cut to *size*."""
    return np.fft.rfft(np.asarray(values, dtype=np.float64), size)


def irfft(spectrum: npt.NDArray[np.complexfloating], size: int | None = None) -> Floats:
    """The signal of a spectrum along the last axis, *size* samples long."""
    return np.fft.irfft(spectrum, size)


def good_size(least: int) -> int:
    """The smallest size of at least so many samples that is quickly transformed: no prime in it is over 5.

    >>> good_size(800), good_size(801)
    (800, 810)
    """
    size = least
    while True:
        left = size
        for prime in (2, 3, 5):
            while left % prime == 0:
                left //= prime
        if left == 1:
            return size
        size += 1
