"""Writing sound block by block: exact, in WAV, Broadcast Wave or FLAC; or coded, in Opus, AAC or MP3."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from contextlib import ExitStack, contextmanager
from dataclasses import dataclass, replace
from pathlib import Path
from typing import TYPE_CHECKING, Any, Final, Protocol

import numpy as np

from zweistimme.media.atomic import appearing
from zweistimme.media.broadcast_chunk import BroadcastNote
from zweistimme.media.coded_file import CodedFile
from zweistimme.media.decode import Sound
from zweistimme.media.wav_file import WavFile
from zweistimme.project.sound_delivery import SoundForm
from zweistimme.project.times import RATE
from zweistimme.sound.loudness import Loudness

if TYPE_CHECKING:
    import soundfile

_LARGEST_WAV: Final = (1 << 32) - (1 << 20)
_DITHER_SEED: Final = 16


@dataclass(frozen=True, slots=True)
class SoundFormat:
    """The form of a file: channels, rate, bits of exact forms, bit rate of coded ones (0: as usual), and what it says
    of itself: a title, a language, and the note of a Broadcast Wave file."""

    channels: int
    form: SoundForm = SoundForm.WAV
    rate: int = RATE
    bits: int = 24
    bit_rate_kbit: int = 0
    title: str = ""
    language: str = ""
    note: BroadcastNote | None = None


class _Steps(Protocol):
    """What takes whole numbers, or floats, and ends."""

    def write(self, values: Any) -> Any: ...

    def close(self) -> Any: ...


class SoundWriter:
    """A sound file that is being written, from sound at 48 kHz."""

    def __init__(self, file: _Steps, name: str, form: SoundFormat) -> None:
        import soxr

        self._file, self._name, self._form = file, name, form
        self._resampler = soxr.ResampleStream(RATE, form.rate, form.channels, "float32") if form.rate != RATE else None
        self._random = np.random.Generator(np.random.Philox(_DITHER_SEED))
        self._rest: Sound | None = None

    def write(self, sound: Sound) -> Sound:
        """Append a block, shape ``(channels, n)``; give back the values as they stand in the file, where it is exact.
        Values outside -1..1 are a ValueError: nothing is clipped silently."""
        if not sound.size:
            return sound
        if max(float(sound.max()), -float(sound.min())) > 1.0:
            raise ValueError(f"sound for {self._name} goes beyond full scale")
        if self._resampler is not None:
            self._put(self._resampler.resample_chunk(sound.T).T)
            return sound
        return self._put(sound)

    def _put(self, sound: Sound) -> Sound:
        if not self._form.form.is_exact:
            self._file.write(sound)
            return sound
        full = 1 << (self._form.bits - 1)
        scaled = sound * np.float32(full)
        if self._form.bits < 24:  # the difference of two even noises: what is left of rounding is no distortion
            noise = self._random.random((2, *sound.shape), dtype=np.float32)
            scaled = scaled + noise[0] - noise[1]
        steps = np.clip(np.rint(scaled), -full, full - 1).astype(np.int32)
        self._file.write(steps)
        return steps.astype(np.float32) / np.float32(full)

    def finish(self, loudness: Loudness | None = None) -> None:
        """Write what the resampler still has, and how loud all of it is, where the file can say so."""
        if self._resampler is not None:
            empty = np.zeros((0, self._form.channels), dtype=np.float32)
            self._put(np.asarray(self._resampler.resample_chunk(empty, last=True).T, dtype=np.float32))
        if isinstance(self._file, WavFile) and self._file.note is not None:
            self._file.note = replace(self._file.note, loudness=loudness)


@contextmanager
def written_sounds(files: Sequence[tuple[Path, SoundFormat]], length_samples: int) -> Iterator[list[SoundWriter]]:
    """Writers of sound files; all appear at the end, whole, or none does. *length_samples*, at 48 kHz, decides
    beforehand whether a file needs the 64-bit form."""
    with ExitStack() as stack:
        writers = []
        for path, form in files:
            temporary = stack.enter_context(appearing(path))
            file = _opened(temporary, form, length_samples)
            stack.callback(file.close)
            writers.append(SoundWriter(file, path.name, form))
        yield writers


def _opened(path: Path, form: SoundFormat, length_samples: int) -> _Steps:
    if form.form in (SoundForm.WAV, SoundForm.BWF):
        is_rf64 = length_samples * form.rate // RATE * form.channels * form.bits // 8 > _LARGEST_WAV
        note = form.note if form.form is SoundForm.BWF else None
        return WavFile(path, form.channels, is_rf64=is_rf64, bits=form.bits, rate=form.rate, note=note)
    if form.form is SoundForm.FLAC:
        return _FlacFile(path, form)
    return CodedFile(path, form.channels, form.rate, form.form, form.bit_rate_kbit, form.title, form.language)


class _FlacFile:
    """FLAC by libsndfile, which takes whole numbers of 32 bits from their top."""

    def __init__(self, path: Path, form: SoundFormat) -> None:
        import soundfile

        self._shift = 32 - form.bits
        kept = f"PCM_{form.bits}"
        self._file: soundfile.SoundFile = soundfile.SoundFile(path, "w", form.rate, form.channels, kept, format="FLAC")
        if form.title:
            self._file.title = form.title

    def write(self, steps: Any) -> None:
        self._file.write(np.ascontiguousarray((steps << self._shift).T, dtype=np.int32))

    def close(self) -> None:
        self._file.close()


def write_wav(path: Path, blocks: Iterable[Sound], channels: int, length_samples: int) -> None:
    """Write blocks of shape ``(channels, n)`` at 48 kHz as one WAV file of 24 bits."""
    with written_sounds([(path, SoundFormat(channels))], length_samples) as (writer,):
        for block in blocks:
            writer.write(block)
