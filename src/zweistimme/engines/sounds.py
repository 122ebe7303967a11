"""Sound on its way to an engine."""

from __future__ import annotations

from typing import IO, Final

from zweistimme.engines.protocol import Report, SoundSource
from zweistimme.project.times import RATE

_BLOCK: Final = 10 * RATE


def written_flac(sound: SoundSource, file: IO[bytes], report: Report) -> None:
    """Write *sound* as 24-bit FLAC, in blocks, so that memory does not grow with its length."""
    import soundfile

    with soundfile.SoundFile(file, "w", RATE, 1, "PCM_24", format="FLAC") as out:
        for start in range(0, sound.length_samples, _BLOCK):
            out.write(sound.read(start, min(_BLOCK, sound.length_samples - start)))
            report(min(1.0, (start + _BLOCK) / sound.length_samples))
