"""From any media file to sound at 48 kHz, in step with the programme's clock, in blocks of bounded size."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from fractions import Fraction
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np
import numpy.typing as npt

from zweistimme.media.atomic import written_whole
from zweistimme.media.probe import MediaInfo, opened, probe
from zweistimme.project.errors import MediaError
from zweistimme.project.times import RATE, clock, samples_to_us

if TYPE_CHECKING:
    from av import AudioFrame, AudioResampler
    from av.container import InputContainer

Sound = npt.NDArray[np.float32]
Report = Callable[[float], None]
"""Told how far a job is, 0..1; may raise Cancelled."""

BLOCK = RATE
_GAP_SECONDS = 0.04


@dataclass(slots=True)
class DecodeNotes:
    """What a person should know of a decoded file."""

    notes: list[str] = field(default_factory=list)


class _Aligner:
    """Keeps decoded sound in step with its time stamps: silence for gaps, nothing for what lies before zero."""

    def __init__(self, info: MediaInfo, origin: Fraction, notes: DecodeNotes) -> None:
        import av

        self._layout = "mono" if info.channels == 1 else "stereo"
        self._resampler: AudioResampler = av.AudioResampler("fltp", self._layout, RATE)
        self._channels = 1 if info.channels == 1 else 2
        self._origin = origin
        self._expected: Fraction | None = None
        self._notes = notes

    def sound_of(self, frame: AudioFrame) -> Iterator[Sound]:
        seconds = self._seconds(frame)
        ahead = seconds - (self._expected if self._expected is not None else 0)
        if self._expected is None and ahead < 0:
            frame_sound = np.concatenate([*self._plain(frame)] or [np.zeros((self._channels, 0), np.float32)], axis=1)
            yield frame_sound[:, min(round(-ahead * RATE), frame_sound.shape[1]) :]
        else:
            if ahead > _GAP_SECONDS or (self._expected is None and ahead > 0):
                yield from self._gap(ahead, seconds)
            yield from self._plain(frame)
        self._expected = max(seconds, Fraction(0)) if self._expected is None and ahead >= 0 else seconds
        self._expected += Fraction(frame.samples, frame.sample_rate)

    def _seconds(self, frame: AudioFrame) -> Fraction:
        if frame.pts is None or frame.time_base is None:
            return self._expected if self._expected is not None else Fraction(0)
        return frame.pts * frame.time_base - self._origin

    def _gap(self, ahead: Fraction, seconds: Fraction) -> Iterator[Sound]:
        import av

        yield from self.flush()
        self._resampler = av.AudioResampler("fltp", self._layout, RATE)
        if self._expected is not None:
            where = clock(round((seconds - ahead) * 1_000_000))
            self._notes.notes.append(f"The sound has a hole of {float(ahead):.2f} s at {where}; it is kept as silence.")
        left = round(ahead * RATE)
        while left > 0:
            yield np.zeros((self._channels, min(left, BLOCK)), dtype=np.float32)
            left -= BLOCK

    def _plain(self, frame: AudioFrame) -> Iterator[Sound]:
        for part in self._resampler.resample(frame):
            yield np.asarray(part.to_ndarray(), dtype=np.float32)

    def flush(self) -> Iterator[Sound]:
        for part in self._resampler.resample(None):
            yield np.asarray(part.to_ndarray(), dtype=np.float32)


def decoded_blocks(path: Path, notes: DecodeNotes) -> Iterator[Sound]:
    """Sound of the first sound track at 48 kHz, mono or stereo, in blocks of a second; shape ``(channels, n)``.

    Position 0 is the beginning of the file's own clock. What is converted or missing is said in *notes*.
    """
    info = probe(path)
    _note_conversion(info, notes)
    with opened(path) as container:
        origin = Fraction(container.start_time or 0, 1_000_000)
        aligner = _Aligner(info, origin, notes)
        waiting: list[Sound] = []
        total = 0
        for sound in _all_sound(container, aligner, notes):
            waiting.append(sound)
            if sum(part.shape[1] for part in waiting) >= BLOCK:
                block = np.concatenate(waiting, axis=1)
                waiting = [block[:, BLOCK:]]
                total += BLOCK
                yield block[:, :BLOCK]
        rest = np.concatenate(waiting, axis=1) if waiting else np.zeros((1, 0), dtype=np.float32)
        total += rest.shape[1]
        if rest.shape[1]:
            yield rest
    _note_length(info, total, notes)


def _all_sound(container: InputContainer, aligner: _Aligner, notes: DecodeNotes) -> Iterator[Sound]:
    import av

    try:
        for frame in container.decode(container.streams.audio[0]):
            yield from aligner.sound_of(frame)
    except av.FFmpegError as error:
        notes.notes.append(f"The file is damaged: decoding stopped with “{error.strerror}”. What came before is used.")
    yield from aligner.flush()


def _note_conversion(info: MediaInfo, notes: DecodeNotes) -> None:
    if info.rate != RATE:
        notes.notes.append(f"Sound at {info.rate:,} Hz is converted to {RATE:,} Hz.")
    if info.channels > 2:
        notes.notes.append(f"{info.channels} channels are mixed down to stereo.")


def _note_length(info: MediaInfo, total: int, notes: DecodeNotes) -> None:
    if not total:
        raise MediaError(f"{info.path} has a sound track without any sound. Export it anew.")
    heard = samples_to_us(total)
    if info.picture is None and info.duration_us - heard > 1_000_000:
        notes.notes.append(
            f"The file is cut off: it says it lasts {clock(info.duration_us)}, but its sound ends at {clock(heard)}."
        )


def working_copy(path: Path, target: Path, report: Report) -> tuple[int, int, tuple[str, ...]]:
    """Decode *path* into a 24-bit FLAC at *target*, for reading at any place.

    Returns samples, channels and notes. The file appears whole or not at all; memory does not grow with length.
    """
    import soundfile

    notes = DecodeNotes()
    info = probe(path)
    expected = max(info.duration_us, 1)
    written = 0

    def write(temporary: Path) -> None:
        nonlocal written
        channels = 1 if info.channels == 1 else 2
        with soundfile.SoundFile(
            temporary, "w", RATE, channels, "PCM_24", format="FLAC", compression_level=0.1
        ) as file:
            for block in decoded_blocks(path, notes):
                file.write(block.T)
                written += block.shape[1]
                report(min(1.0, samples_to_us(written) / expected))

    written_whole(target, write)
    return written, 1 if info.channels == 1 else 2, tuple(notes.notes)


class SoundReader:
    """Sound at 48 kHz, read at any place. What lies outside the file is silence."""

    def __init__(self, path: Path) -> None:
        import soundfile

        try:
            self._file = soundfile.SoundFile(path)
        except soundfile.LibsndfileError as error:
            raise MediaError(f"{path} cannot be read. Bring the programme in again.") from error
        self.channels: int = self._file.channels
        self.length: int = self._file.frames

    def read(self, start: int, count: int) -> Sound:
        """*count* samples from *start*, shape ``(channels, count)``."""
        result = np.zeros((self.channels, count), dtype=np.float32)
        first, last = max(start, 0), min(start + count, self.length)
        if last > first:
            self._file.seek(first)
            part = self._file.read(last - first, dtype="float32", always_2d=True)
            result[:, first - start : first - start + len(part)] = part.T
        return result

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
