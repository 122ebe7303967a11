"""New sound tracks of a copy: a sound file encoded on a thread of its own, packet by packet."""

from __future__ import annotations

from collections.abc import Generator, Iterable, Iterator
from fractions import Fraction
from itertools import chain
from typing import TYPE_CHECKING, Any, Final

import numpy as np

from zweistimme.media.ahead import ahead
from zweistimme.media.decode import Sound
from zweistimme.media.packets import Timed, due_us
from zweistimme.media.sound_reader import SoundReader
from zweistimme.project.times import RATE
from zweistimme.sound.arrays import steps_24

if TYPE_CHECKING:
    from pathlib import Path

    from av import AudioFrame, AudioStream

_BLOCK_SAMPLES: Final = 2 * RATE
_FRAME_SAMPLES: Final = 4096
"""Samples of a frame where the encoder takes any number."""
ENCODER_OPTIONS: Final = {"aac": {"aac_coder": "fast", "aac_is": "0", "aac_pns": "0", "aac_tns": "0"}}
"""Twice as fast as the encoder's own choice and, at the rates used here, nearer to the original by 3 to 5 dB: neither
intensity stereo nor substituted noise is worth what it loses. Shaping the noise in time costs a tenth and changes
neither what is lost in all nor what is heard before an attack."""
_BASE: Final = Fraction(1, RATE)


def coded(path: Path, stream: AudioStream) -> Generator[Timed, None, None]:
    """The packets of a sound file in the form of *stream*, in order of time. Closing it stops the encoding."""
    batches = ahead(_batches(path, stream))
    try:
        yield from chain.from_iterable(batches)
    finally:
        batches.close()


def _batches(path: Path, stream: AudioStream) -> Iterator[list[Timed]]:
    latest = 0

    def timed(packets: Iterable[Any]) -> list[Timed]:
        nonlocal latest
        batch = []
        for packet in packets:
            latest = max(latest, due_us(packet))
            batch.append((latest, packet))
        return batch

    with SoundReader(path) as reader:
        size = stream.codec_context.frame_size or _FRAME_SAMPLES
        for frames in _frames(reader, size, stream.codec_context.format.name):
            yield timed(packet for frame in frames for packet in stream.encode(frame))
    yield timed(stream.encode(None))


def _frames(reader: SoundReader, size: int, kind: str) -> Iterator[list[AudioFrame]]:
    """A sound in frames of *size* samples, block by block; the last may be shorter."""
    from av import AudioFrame
    from av.audio.fifo import AudioFifo

    queue = AudioFifo()
    for sound in reader.blocks(_BLOCK_SAMPLES):
        steps = as_kind(sound if len(sound) == 2 else np.repeat(sound, 2, axis=0), kind)
        array = steps if kind.endswith("p") else steps.T.reshape(1, -1)
        block = AudioFrame.from_ndarray(np.ascontiguousarray(array), kind, "stereo")
        block.sample_rate, block.pts, block.time_base = RATE, queue.samples_written, _BASE
        queue.write(block)
        yield queue.read_many(size)
    yield queue.read_many(size, partial=True)


def as_kind(sound: Sound, kind: str) -> np.ndarray[Any, Any]:
    """Samples in the form an encoder wants: floats, or whole numbers with 24 significant bits where it takes them."""
    if kind.startswith("flt"):
        return sound
    if kind.startswith("s32"):
        return steps_24(sound) << 8
    return np.clip(np.rint(sound.astype(np.float64) * 2**15), -(2**15), 2**15 - 1).astype(np.int16)
