"""Writing sound: PCM in WAV, RF64 where it would not fit, block by block."""

from __future__ import annotations

from collections.abc import Iterable
from pathlib import Path

from zweistimme.media.atomic import written_whole
from zweistimme.media.decode import Sound
from zweistimme.project.times import RATE

_LARGEST_WAV = (1 << 32) - (1 << 20)


def write_wav(path: Path, blocks: Iterable[Sound], channels: int, length_samples: int) -> None:
    """Write blocks of shape ``(channels, n)`` at 48 kHz as 24-bit WAV; whole or not at all.

    *length_samples* decides beforehand whether the file needs the 64-bit form. Values outside -1..1 are refused:
    nothing is clipped silently.
    """
    import soundfile

    large = length_samples * channels * 3 > _LARGEST_WAV

    def write(temporary: Path) -> None:
        form = "RF64" if large else "WAV"
        with soundfile.SoundFile(temporary, "w", RATE, channels, "PCM_24", format=form) as file:
            for block in blocks:
                if block.size and float(abs(block).max()) > 1.0:
                    raise ValueError(f"sound for {path.name} goes beyond full scale")
                file.write(block.T)

    written_whole(path, write)
