"""Small films with shots of known lengths."""

from __future__ import annotations

from collections.abc import Sequence
from fractions import Fraction
from pathlib import Path

import av
import numpy as np

RATE = 25
SIZE = (160, 90)
LENGTHS = (40, 63, 12, 110, 55, 90, 31)
"""Pictures of each shot of a film."""
CUTS_US = [int(at) for at in np.cumsum(LENGTHS)[:-1] / RATE * 1e6]


def shot(seed: int, count: int) -> list[np.ndarray]:
    """Pictures of a place in which something moves through and the camera shakes."""
    random = np.random.default_rng(seed)
    width = SIZE[0]
    low = random.integers(20, 200, 3)
    ground = np.kron(random.integers(-30, 30, (9, 16, 1)), np.ones((10, 10, 1))) + low
    pictures = []
    for k in range(count):
        one = np.roll(ground, (int(random.integers(-2, 3)), int(random.integers(-2, 3))), axis=(0, 1)).copy()
        left = (k * 3) % (width - 20)
        one[30:60, left : left + 20] = 255 - low
        pictures.append(np.clip(one + random.normal(0, 4, one.shape), 0, 255).astype(np.uint8))
    return pictures


def shots(lengths: Sequence[int] = LENGTHS) -> list[np.ndarray]:
    """The pictures of a film with shots of these lengths."""
    return [one for seed, count in enumerate(lengths) for one in shot(seed, count)]


def film(
    path: Path, pictures: list[np.ndarray], keys_every: int = 50, *, sound: bool = False, origin_s: int = 0
) -> Path:
    """A film of these pictures, with a tone if it is to have a sound; its stamps begin at *origin_s*."""
    with av.open(str(path), "w") as out:
        stream = out.add_stream("mpeg2video" if path.suffix == ".ts" else "mpeg4", rate=RATE)
        stream.width, stream.height, stream.pix_fmt = *SIZE, "yuv420p"
        stream.gop_size = keys_every
        stream.bit_rate = 2_000_000
        stream.time_base = Fraction(1, RATE)
        if sound:
            tone = out.add_stream("pcm_s16le", rate=48_000, layout="mono")
            times = np.arange(len(pictures) * 48_000 // RATE) / 48_000
            wave = (8_000 * np.sin(2 * np.pi * 220 * times)).astype(np.int16)[None]
            frame = av.AudioFrame.from_ndarray(wave, format="s16", layout="mono")
            frame.sample_rate = 48_000
            out.mux(tone.encode(frame))
        for number, one in enumerate(pictures, origin_s * RATE):
            picture = av.VideoFrame.from_ndarray(one, format="rgb24")
            picture.pts, picture.time_base = number, Fraction(1, RATE)
            out.mux(stream.encode(picture))
        out.mux(stream.encode(None))
    return path
