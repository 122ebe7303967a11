"""Sound on its way to an engine, and how long a clip that comes back may be."""

from __future__ import annotations

from typing import IO, Final, Literal

from zweistimme.engines.protocol import Report, SoundSource
from zweistimme.project.times import RATE

_BLOCK: Final = 10 * RATE
_CHARACTER_S: Final = 0.5
"""No voice takes longer for a character, pauses between sentences included."""
SoundKind = Literal["flac", "wav", "pcm"]


def written_sound(sound: SoundSource, file: IO[bytes], kind: SoundKind, rate: int, report: Report) -> None:
    """Write *sound* in blocks, so that memory does not grow with its length: 24-bit FLAC, 16-bit WAV, or 16-bit samples
    without a head, one channel, at *rate*."""
    import soundfile
    import soxr

    resampler = soxr.ResampleStream(RATE, rate, 1, dtype="float32", quality="HQ") if rate != RATE else None
    ways = {"flac": ("FLAC", "PCM_24"), "wav": ("WAV", "PCM_16"), "pcm": ("RAW", "PCM_16")}
    form, subtype = ways[kind]
    with soundfile.SoundFile(
        file, "w", rate, 1, subtype, endian="LITTLE" if kind == "pcm" else None, format=form
    ) as out:
        for start in range(0, sound.length_samples, _BLOCK):
            block = sound.read(start, min(_BLOCK, sound.length_samples - start))
            if resampler is not None:
                block = resampler.resample_chunk(block, last=start + _BLOCK >= sound.length_samples)
            out.write(block)
            report(min(1.0, (start + _BLOCK) / sound.length_samples))


def longest_s(ssml: str) -> float:
    """The longest a clip of this text may sensibly be, in seconds."""
    return 10.0 + _CHARACTER_S * len(ssml)
