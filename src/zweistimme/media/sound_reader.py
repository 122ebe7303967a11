"""Our own sound files read at any place: 48 kHz, 24 bit, in WAV or RF64 (EBU Tech 3306).

Read as they lie on disk, several times as fast as by the library that writes them: a mix reads its bed twice for each
version.
"""

from __future__ import annotations

import os
from collections.abc import Iterator
from pathlib import Path
from typing import BinaryIO, Final

import numpy as np

from zweistimme.project.errors import MediaError
from zweistimme.project.times import RATE
from zweistimme.sound.arrays import Mono, Sound, as_mono

ROOM_FOR: Final = "headroom_db="
"""How a file whose sound is kept lower says by how much, in its comment."""
_BYTES: Final = 3
_AT_ONCE: Final = 1 << 16
_FULL_SCALE: Final = 2.0**31


class SoundReader:
    """Sound at 48 kHz, read at any place, by several threads at once. What lies outside the file is silence."""

    def __init__(self, path: Path) -> None:
        import soundfile

        self._path = path
        try:
            with soundfile.SoundFile(path) as head:
                if head.format not in ("WAV", "RF64") or (head.subtype, head.samplerate) != ("PCM_24", RATE):
                    raise self._unreadable()
                self.channels: int = head.channels
                self.length: int = head.frames
                comment = head.comment or ""
            self._file = path.open("rb", buffering=0)
        except (soundfile.LibsndfileError, OSError) as error:
            raise self._unreadable() from error
        self._start = _data_start(self._file)
        room = float(comment.removeprefix(ROOM_FOR)) if comment.startswith(ROOM_FOR) else 0.0
        self._scale = np.float32(np.float64(np.float32(10 ** (room / 20))) / _FULL_SCALE)

    def _unreadable(self) -> MediaError:
        return MediaError("{path} cannot be read. Bring the programme in again.", path=self._path)

    def read(self, start: int, count: int) -> Sound:
        """*count* samples from *start*, shape ``(channels, count)``."""
        result = np.zeros((self.channels, count), dtype=np.float32)
        first, last = max(start, 0), min(start + count, self.length)
        for at in range(first, last, _AT_ONCE):
            some = min(_AT_ONCE, last - at)
            self._put(at, result[:, at - start : at - start + some])
        return result

    def _put(self, start: int, place: Sound) -> None:
        """Fill *place* with samples from *start* on."""
        frame, count = self.channels * _BYTES, place.shape[1]
        given = np.zeros(count * frame + 1, dtype=np.uint8)
        if os.preadv(self._file.fileno(), [given[:-1].data], self._start + start * frame) != count * frame:
            raise self._unreadable()
        # whole numbers of four bytes at every third byte: what belongs to the next sample is shifted out
        steps = np.ndarray((count, self.channels), "<i4", given.data, 0, (frame, _BYTES))
        np.copyto(place, steps.T << 8)
        place *= self._scale

    def mono(self, start: int, count: int) -> Mono:
        """The channels' mean, shape ``(count,)``."""
        return as_mono(self.read(start, count))

    def blocks(self, size: int = 10 * RATE) -> Iterator[Sound]:
        """All of it, block by block."""
        for start in range(0, self.length, size):
            yield self.read(start, min(size, self.length - start))

    def close(self) -> None:
        self._file.close()

    def __enter__(self) -> SoundReader:
        return self

    def __exit__(self, *_: object) -> None:
        self.close()


def _data_start(file: BinaryIO) -> int:
    """Where the samples begin: behind the head of the chunk named ``data``. The library has found it there before."""
    at = 12
    while (head := os.pread(file.fileno(), 8, at)) and head[:4] != b"data":
        size = int.from_bytes(head[4:], "little")
        at += 8 + size + size % 2
    return at + 8
