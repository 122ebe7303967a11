"""WAV files that were written before anybody knew how long they would be, and sound that is heard while it comes."""

from __future__ import annotations

import struct
from collections.abc import Callable
from dataclasses import dataclass
from typing import Final

import numpy as np

from zweistimme.engines.protocol import Mono
from zweistimme.project.times import RATE

_HEAD: Final = 12
_CHUNK: Final = 8
_PCM, _FLOAT, _EXTENSIBLE = 1, 3, 0xFFFE
_LONGEST_HEAD: Final = 1 << 16


@dataclass(frozen=True, slots=True)
class _Layout:
    """How the samples of a WAV file lie: where they begin, and what each frame is."""

    begin: int
    length: int
    kind: int
    channels: int
    rate: int
    bits: int


def _layout(data: bytes) -> _Layout | None:
    """The layout once its head is there; None before, or if this is no WAV file (RIFF, 1991)."""
    if data[:4] not in (b"RIFF", b"RF64") or data[8:12] != b"WAVE":
        return None
    place, form = _HEAD, None
    while place + _CHUNK <= len(data):
        name, length = struct.unpack_from("<4sI", data, place)
        place += _CHUNK
        if name == b"fmt " and place + 16 <= len(data):
            kind, channels, rate, _, _, bits = struct.unpack_from("<HHIIHH", data, place)
            if kind == _EXTENSIBLE and place + 26 <= len(data):
                (kind,) = struct.unpack_from("<H", data, place + 24)
            form = kind, channels, rate, bits
        if name == b"data":
            return _Layout(place, length, *form) if form else None
        place += length + length % 2
    return None


def with_its_length(data: bytes) -> bytes:
    """A WAV file whose head says how long it is. Programs and services that write while they speak leave 0 or the
    highest number there; files cut short promise more than there is."""
    known = _layout(data)
    there = len(data) - known.begin if known else 0
    if known is None or (0 < known.length <= there):
        return data
    mended = bytearray(data)
    struct.pack_into("<I", mended, known.begin - 4, there)
    struct.pack_into("<I", mended, 4, len(data) - 8)
    return bytes(mended)


class SoundAsItComes:
    """Sound in pieces of bytes, given on in pieces of samples at 48 kHz: a WAV file, or (*pcm_rate* given) 16-bit
    samples of one channel without a head. What is neither is given on to nobody; the whole is checked at its end."""

    def __init__(self, hear: Callable[[Mono], None], pcm_rate: int | None = None) -> None:
        self._hear, self._rest = hear, b""
        self._layout = _Layout(0, 0, _PCM, 1, pcm_rate, 16) if pcm_rate else None
        self._deaf = False
        self._resampler: object = None

    def came(self, piece: bytes) -> None:
        """The next bytes."""
        if self._deaf:
            return
        self._rest += piece
        if self._layout is None:
            self._layout = _layout(self._rest)
            if self._layout is None:
                self._deaf = len(self._rest) > _LONGEST_HEAD or (len(self._rest) >= 4 and self._rest[:2] != b"RI")
                return
            self._rest = self._rest[self._layout.begin :]
        frame = self._layout.channels * self._layout.bits // 8
        whole = len(self._rest) - len(self._rest) % frame if frame else 0
        block, self._rest = self._rest[:whole], self._rest[whole:]
        samples = _samples(block, self._layout)
        if samples is None or self._layout.channels != 1:
            self._deaf = True
        elif len(samples):
            self._hear(self._at_48k(samples))

    def _at_48k(self, samples: Mono) -> Mono:
        import soxr

        assert self._layout is not None
        if self._layout.rate == RATE:
            return samples
        if self._resampler is None:
            self._resampler = soxr.ResampleStream(self._layout.rate, RATE, 1, dtype="float32", quality="MQ")
        made = self._resampler.resample_chunk(samples)  # type: ignore[attr-defined]
        return np.asarray(made, dtype=np.float32)


def _samples(block: bytes, layout: _Layout) -> Mono | None:
    """Samples of one frame behind the other; None for a kind that is not read."""
    match layout.kind, layout.bits:
        case (1, 16):
            return np.frombuffer(block, "<i2").astype(np.float32) / np.float32(1 << 15)
        case (1, 24):
            steps = np.zeros((len(block) // 3, 4), dtype=np.uint8)
            steps[:, 1:] = np.frombuffer(block, np.uint8).reshape(-1, 3)
            return (steps.reshape(-1).view("<i4") / float(1 << 31)).astype(np.float32)
        case (1, 32):
            return (np.frombuffer(block, "<i4") / float(1 << 31)).astype(np.float32)
        case (3, 32):
            return np.frombuffer(block, "<f4").astype(np.float32)
    return None


def head_without_length(rate: int) -> bytes:
    """The head of a WAV file of 24-bit samples of one channel that is written while it is spoken."""
    unknown = 0xFFFFFFFF
    return struct.pack("<4sI4s4sIHHIIHH4sI", b"RIFF", unknown, b"WAVE", b"fmt ", 16, 1, 1, rate, 3 * rate, 3, 24,
                       b"data", unknown)  # fmt: skip


def wav_of_pcm(pcm: bytes, rate: int) -> bytes:
    """16-bit samples of one channel as a WAV file."""
    head = struct.pack("<4sI4s4sIHHIIHH4sI", b"RIFF", 36 + len(pcm), b"WAVE", b"fmt ", 16, 1, 1, rate, 2 * rate, 2, 16,
                       b"data", len(pcm))  # fmt: skip
    return head + pcm
