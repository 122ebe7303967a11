"""Writing sound: PCM in WAV, RF64 where it would not fit, block by block."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from contextlib import ExitStack, contextmanager
from pathlib import Path
from typing import Final

import numpy as np

from zweistimme.media.atomic import appearing
from zweistimme.media.decode import Sound
from zweistimme.media.wav_file import BYTES, WavFile
from zweistimme.sound.arrays import steps_24

_LARGEST_WAV: Final = (1 << 32) - (1 << 20)
_FULL_SCALE: Final = np.float32(1 << 23)


class WavWriter:
    """A 24-bit WAV file that is being written."""

    def __init__(self, file: WavFile, name: str) -> None:
        self._file, self._name = file, name

    def write(self, sound: Sound) -> Sound:
        """Append a block, shape ``(channels, n)``; give back the values as they stand in the file. Values outside
        -1..1 are a ValueError: nothing is clipped silently."""
        if not sound.size:
            return sound
        if max(float(sound.max()), -float(sound.min())) > 1.0:
            raise ValueError(f"sound for {self._name} goes beyond full scale")
        steps = steps_24(sound)
        self._file.write(steps)
        kept = steps.astype(np.float32)
        kept /= _FULL_SCALE
        return kept


@contextmanager
def written_wavs(paths: Sequence[Path], channels: Sequence[int], length_samples: int) -> Iterator[list[WavWriter]]:
    """Writers of 24-bit WAV files at 48 kHz, each with as many channels as said; all appear at the end, whole, or none
    does. *length_samples* decides beforehand whether a file needs the 64-bit form."""
    with ExitStack() as stack:
        writers = []
        for path, count in zip(paths, channels, strict=True):
            is_rf64 = length_samples * count * BYTES > _LARGEST_WAV
            temporary = stack.enter_context(appearing(path))
            file = WavFile(temporary, count, is_rf64=is_rf64)
            writers.append(WavWriter(stack.enter_context(file), path.name))
        yield writers


def write_wav(path: Path, blocks: Iterable[Sound], channels: int, length_samples: int) -> None:
    """Write blocks of shape ``(channels, n)`` as one such file."""
    with written_wavs([path], [channels], length_samples) as (writer,):
        for block in blocks:
            writer.write(block)
