"""Sound in whole numbers as it is written: PCM in WAV, or in RF64 (EBU Tech 3306) where lengths need 64 bits; a
Broadcast Wave file where it says of itself what it is.

The library that reads every kind of sound file packs whole numbers into three bytes one by one. Here it is done for
many at a time and takes a third to a quarter of that, which a mix of hours notices.
"""

from __future__ import annotations

import struct
from pathlib import Path
from typing import Final

import numpy as np
import numpy.typing as npt

from zweistimme.media.broadcast_chunk import BroadcastNote
from zweistimme.project.times import RATE

BYTES: Final = 3
"""Of one sample of one channel, where there are 24 bits."""
_PCM: Final = 1
_EXTENSIBLE: Final = 0xFFFE
_PCM_GUID: Final = bytes.fromhex("0100000000001000800000aa00389b71")
_SURROUND: Final = 6
_SURROUND_MASK: Final = 0x3F
"""Front left, right, centre, low, back left and right."""
_LEFT_TO_DS64: Final = (1 << 32) - 1
Steps = npt.NDArray[np.int32]


class WavFile:
    """A file that is being written, sample by sample in whole numbers of 24 or 16 bits. Its lengths are put in when
    it is closed; until then it says that it is empty. The *note* of a Broadcast Wave file may be another by then, as
    long as its history is."""

    def __init__(
        self,
        path: Path,
        channels: int,
        *,
        is_rf64: bool,
        comment: str = "",
        bits: int = 24,
        rate: int = RATE,
        note: BroadcastNote | None = None,
    ) -> None:
        self._channels, self._is_rf64, self._comment = channels, is_rf64, comment.encode()
        self._width, self._rate, self.note = bits // 8, rate, note
        self._bytes = 0
        self._file = path.open("wb", buffering=0)
        try:
            self._put(self._head())
        except OSError:
            self._file.close()
            raise

    def write(self, steps: Steps) -> None:
        """Append a block, shape ``(channels, n)``, values of as many bits as the file has."""
        data = packed(steps) if self._width == BYTES else steps.T.astype("<i2").tobytes()
        self._put(data)
        self._bytes += len(data)

    def close(self) -> None:
        """Put in the lengths."""
        if self._file.closed:
            return
        with self._file:
            if self._bytes % 2:
                self._put(b"\0")  # chunks begin at even places
            self._file.seek(0)
            self._put(self._head())

    def _put(self, data: bytes | memoryview) -> None:
        left = memoryview(data)
        while len(left):  # a full disk may take a part before it says so
            left = left[self._file.write(left) :]

    def _head(self) -> bytes:
        """All that stands before the samples."""
        frame, rate = self._channels * self._width, self._rate
        bits, kind = 8 * self._width, _EXTENSIBLE if self._channels == _SURROUND else _PCM
        form = struct.pack("<HHIIHH", kind, self._channels, rate, rate * frame, frame, bits)
        if kind == _EXTENSIBLE:
            form += struct.pack("<HHI", 22, bits, _SURROUND_MASK) + _PCM_GUID
        chunks = _chunk(b"bext", self.note.content()) if self.note is not None else b""
        chunks += _chunk(b"fmt ", form)
        if self._comment:
            chunks += _chunk(b"LIST", b"INFO" + _chunk(b"ICMT", self._comment + b"\0"))
        if not self._is_rf64:
            whole = 4 + len(chunks) + 8 + self._bytes + self._bytes % 2
            return struct.pack("<4sI4s", b"RIFF", whole, b"WAVE") + chunks + struct.pack("<4sI", b"data", self._bytes)
        whole = 4 + 36 + len(chunks) + 8 + self._bytes + self._bytes % 2
        sizes = _chunk(b"ds64", struct.pack("<QQQI", whole, self._bytes, self._bytes // frame, 0))
        outer = struct.pack("<4sI4s", b"RF64", _LEFT_TO_DS64, b"WAVE")
        return outer + sizes + chunks + struct.pack("<4sI", b"data", _LEFT_TO_DS64)

    def __enter__(self) -> WavFile:
        return self

    def __exit__(self, *_: object) -> None:
        self.close()


def _chunk(name: bytes, content: bytes) -> bytes:
    return struct.pack("<4sI", name, len(content)) + content + b"\0" * (len(content) % 2)


def packed(steps: Steps) -> memoryview:
    """Whole numbers, shape ``(channels, n)``, as bytes: the channels of a sample beside each other, three bytes each,
    the lowest first."""
    channels, count = steps.shape
    in_turn = np.empty((count, channels), dtype="<i4")
    for number, channel in enumerate(steps):
        in_turn[:, number] = channel
    room = np.empty(in_turn.size * BYTES + 1, dtype=np.uint8)
    # four bytes at every third place, one behind the other: of each the highest, its sign, goes under the next
    np.ndarray((in_turn.size,), "<i4", room.data, 0, (BYTES,))[...] = in_turn.ravel()
    return room.data[:-1]
