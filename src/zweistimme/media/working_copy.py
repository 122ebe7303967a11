"""The working copy of a sound track: 48 kHz, 24 bit, as it lies in memory; made in one go with peaks and checksum."""

from __future__ import annotations

import hashlib
import threading
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import Final

import numpy as np

from zweistimme.media.ahead import ahead
from zweistimme.media.atomic import written_whole
from zweistimme.media.decode import Report, Sound, channels_of, decoded_blocks, goes_beyond
from zweistimme.media.decode_notes import DecodeNotes
from zweistimme.media.probe import MediaInfo
from zweistimme.media.sound_reader import ROOM_FOR
from zweistimme.media.wav_file import WavFile
from zweistimme.project.errors import MediaError
from zweistimme.project.findings import Finding
from zweistimme.project.programme import SoundPick
from zweistimme.project.times import samples_to_us
from zweistimme.sound.arrays import steps_24

_HEADROOM_DB: Final = 12.0
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
    """Decode what *pick* says into a 24-bit RF64 file at *target*.

    Sound that can go beyond full scale is kept 12 dB lower, and read back at its level. The file appears whole or
    not at all; memory does not grow with length. Writing and the checksum of the source go on beside decoding.
    """
    notes = DecodeNotes()
    channels, expected = channels_of(info, pick), max(info.duration_us, 1)
    headroom = _HEADROOM_DB if goes_beyond(info, pick) else 0.0
    gain = np.float32(10 ** (-headroom / 20))
    written = over = 0

    def write(temporary: Path) -> None:
        nonlocal written, over
        comment = f"{ROOM_FOR}{headroom:g}" if headroom else ""
        with WavFile(temporary, channels, is_rf64=True, comment=comment) as file:
            for block in ahead(decoded_blocks(info.path, notes, pick, info)):
                sound = block * gain if headroom else block
                if max(float(sound.max(initial=0.0)), -float(sound.min(initial=0.0))) > 1.0:
                    over += int((np.abs(sound) > 1.0).sum())
                file.write(steps_24(sound))
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
                why=self._error,
            )
        return self._digest.hexdigest()

    def stop(self) -> None:
        self._stopped.set()
