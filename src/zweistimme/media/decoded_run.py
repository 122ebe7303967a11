"""Decoded frames that follow each other without a gap, put together before anything is done with them: a file has some
fifty frames a second, and what is done for each of them costs more than decoding it."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from fractions import Fraction
from typing import Any, Final

import numpy as np
import numpy.typing as npt

Sound = npt.NDArray[np.float32]
_FULL_SCALE: Final = {np.dtype(np.int16): 2.0**15, np.dtype(np.int32): 2.0**31, np.dtype(np.int64): 2.0**63}


@dataclass(frozen=True, slots=True)
class Stamped:
    """Sound, shape ``(channels, n)``, and where it begins by its stamp, in samples at its own rate; with what stamps
    count in, and the names of its channels."""

    stamp: int | None
    sound: Sound
    rate: int
    names: tuple[str, ...]
    time_base: Fraction | None


class FrameRun:
    """Frames of one kind whose stamps follow each other, to within what stamps are rounded to."""

    def __init__(self, frame: Any, stamp: int | None, time_base: Fraction | None) -> None:
        from av.audio.fifo import AudioFifo

        self._stamp = stamp
        self.rate: int = frame.sample_rate
        self.time_base = time_base
        self.names: tuple[str, ...] = tuple(channel.name for channel in frame.layout.channels)
        self._rounded = max(1.0, float(time_base or 0) * self.rate)
        self._count = 0
        self._fifo = AudioFifo()
        self._put(frame)

    def takes(self, frame: Any, stamp: int | None) -> bool:
        """Whether a frame belongs to this run; then it is part of it."""
        if (stamp is None) != (self._stamp is None):
            return False
        if stamp is not None and self._stamp is not None and abs(stamp - self._stamp - self._count) > self._rounded:
            return False
        try:
            self._put(frame)
        except ValueError:  # of another format, layout or rate
            return False
        return True

    def _put(self, frame: Any) -> None:
        frame.pts = None  # the queue would check it against its own count
        self._fifo.write(frame)
        self._count += frame.samples

    @property
    def has_second(self) -> bool:
        """Whether a second of sound can be taken from it."""
        return self._count >= self.rate

    def second(self) -> Stamped:
        """Its first second, which it does not hold any more."""
        return self._taken(self.rate)

    def rest(self) -> Iterator[Stamped]:
        """All it holds, if anything."""
        if self._count:
            yield self._taken(self._count)

    def _taken(self, samples: int) -> Stamped:
        stamp, frame = self._stamp, self._fifo.read(samples)
        self._count -= samples
        self._stamp = None if stamp is None else stamp + samples
        return Stamped(stamp, as_floats(frame), self.rate, self.names, self.time_base)


def as_floats(frame: Any) -> Sound:
    """The samples of a decoded frame, shape ``(channels, n)``, full scale at ±1."""
    array = frame.to_ndarray()
    if not frame.format.is_planar:
        array = array.reshape(-1, len(frame.layout.channels)).T
    if array.dtype == np.uint8:
        return (array.astype(np.float32) - 128.0) / np.float32(128.0)
    scale = _FULL_SCALE.get(array.dtype)
    if scale is None:
        return array.astype(np.float32, copy=False)
    # full scale is a power of two: it is rounded once, as a division in double precision would be
    return array.astype(np.float32) * np.float32(1 / scale)
