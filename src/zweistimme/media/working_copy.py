"""The working copy of a sound track: 48 kHz, 24 bit, read at any place; made in one go with peaks and checksum."""

from __future__ import annotations

import hashlib
import threading
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Final

import numpy as np
import numpy.typing as npt

from zweistimme.media.ahead import ahead
from zweistimme.media.atomic import written_whole
from zweistimme.media.decode import Report, Sound, channels_of, decoded_blocks, goes_beyond
from zweistimme.media.decode_notes import DecodeNotes
from zweistimme.media.probe import MediaInfo
from zweistimme.project.errors import MediaError
from zweistimme.project.findings import Finding
from zweistimme.project.model import SoundPick
from zweistimme.project.times import RATE, samples_to_us
from zweistimme.sound.arrays import steps_24

_HEADROOM_DB: Final = 12.0
_ROOM_FOR: Final = "headroom_db="
_HASHED_AT_ONCE: Final = 1 << 22

Watch = Callable[[Sound], None]
"""Told every block as it comes."""


@dataclass(frozen=True, slots=True)
class Copy:
    """What was copied: how many samples and channels, the SHA-256 of the file it is from, and what is worth saying."""

    samples: int
    channels: int
    checksum: str
    notes: tuple[Finding, ...]


def working_copy(
    info: MediaInfo, pick: SoundPick, target: Path, report: Report, watch: Watch = lambda _block: None
) -> Copy:
    """Decode what *pick* says into a 24-bit FLAC at *target*.

    Sound that can go beyond full scale is kept 12 dB lower, and read back at its level. The file appears whole or
    not at all; memory does not grow with length. Writing and the checksum of the source go on beside decoding.
    """
    import soundfile

    notes = DecodeNotes()
    channels, expected = channels_of(info, pick), max(info.duration_us, 1)
    headroom = _HEADROOM_DB if goes_beyond(info, pick) else 0.0
    gain = np.float32(10 ** (-headroom / 20))
    written = over = 0

    def write(temporary: Path) -> None:
        nonlocal written, over
        with soundfile.SoundFile(
            temporary, "w", RATE, channels, "PCM_24", format="FLAC", compression_level=0.0
        ) as file:
            if headroom:
                file.comment = f"{_ROOM_FOR}{headroom:g}"
            for block in ahead(decoded_blocks(info.path, notes, pick, info)):
                sound = block * gain if headroom else block
                if max(float(sound.max(initial=0.0)), -float(sound.min(initial=0.0))) > 1.0:
                    over += int((np.abs(sound) > 1.0).sum())
                file.write(steps_24(sound.T) << 8)
                written += block.shape[1]
                watch(block)
                report(min(1.0, samples_to_us(written) / expected))

    checksum = _Checksum(info.path)
    try:
        written_whole(target, write)
        if over:
            notes.notes.append(Finding("beyond-full-scale", {"samples": over}))
        return Copy(written, channels, checksum.result(), tuple(notes.notes))
    finally:
        checksum.stop()


class _Checksum:
    """SHA-256 of a file, on a thread of its own."""

    def __init__(self, path: Path) -> None:
        self._path, self._digest = path, hashlib.sha256()
        self._error: OSError | None = None
        self._stopped = threading.Event()
        self._thread = threading.Thread(target=self._run, name="checksum", daemon=True)
        self._thread.start()

    def _run(self) -> None:
        try:
            with self._path.open("rb") as file:
                while not self._stopped.is_set() and (part := file.read(_HASHED_AT_ONCE)):
                    self._digest.update(part)
        except OSError as error:
            self._error = error

    def result(self) -> str:
        """The whole file's checksum; MediaError if it went away meanwhile."""
        self._thread.join()
        if self._error:
            raise MediaError(
                "{path} cannot be read any more: {why}. Put it back and try again.",
                path=self._path,
                why=self._error.strerror,
            )
        return self._digest.hexdigest()

    def stop(self) -> None:
        self._stopped.set()


class SoundReader:
    """Sound at 48 kHz, read at any place, by several threads at once. What lies outside the file is silence."""

    def __init__(self, path: Path) -> None:
        import soundfile

        try:
            self._file = soundfile.SoundFile(path)
        except soundfile.LibsndfileError as error:
            raise MediaError("{path} cannot be read. Bring the programme in again.", path=path) from error
        self._turn = threading.Lock()
        self._at = 0
        self.channels: int = self._file.channels
        self.length: int = self._file.frames
        comment = self._file.comment or ""
        room = float(comment.removeprefix(_ROOM_FOR)) if comment.startswith(_ROOM_FOR) else 0.0
        self._gain = np.float32(10 ** (room / 20))

    def read(self, start: int, count: int) -> Sound:
        """*count* samples from *start*, shape ``(channels, count)``."""
        result = np.zeros((self.channels, count), dtype=np.float32)
        first, last = max(start, 0), min(start + count, self.length)
        if last > first:
            with self._turn:
                if first != self._at:  # to seek in FLAC, even to where one is, is to decode a frame anew
                    self._file.seek(first)
                part = self._file.read(last - first, dtype="float32", always_2d=True)
                self._at = first + len(part)
            result[:, first - start : first - start + len(part)] = part.T
        return result if self._gain == 1 else result * self._gain

    def mono(self, start: int, count: int) -> npt.NDArray[np.float32]:
        """The channels' mean, shape ``(count,)``."""
        return np.asarray(self.read(start, count).mean(axis=0), dtype=np.float32)

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
