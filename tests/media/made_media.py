"""Small media files of every kind, made for tests: a click at each second of their clock, in picture and sound."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from fractions import Fraction
from pathlib import Path
from typing import Any

import av
import numpy as np

from zweistimme.media.decode import decoded_blocks
from zweistimme.media.decode_notes import DecodeNotes
from zweistimme.media.sound_reader import SoundReader
from zweistimme.project.programme import SoundPick
from zweistimme.project.times import RATE

CLICK = 0.5 * np.sin(np.arange(48) * 2 * np.pi * 3000 / RATE).astype(np.float32)
Stamps = Callable[[int], int]
"""From the number of a sample to its stamp, in samples: where the clock has faults."""


def plain(sample: int) -> int:
    return sample


def holes(sample: int) -> int:
    """30 ms are missing in each second of sound."""
    return sample + (sample + RATE // 2) // RATE * 1440


def overlaps(sample: int) -> int:
    """30 ms stand twice in each second of sound."""
    return sample - (sample + RATE // 2) // RATE * 1440


@dataclass(frozen=True)
class Made:
    """What a file is to be; see the fields."""

    ending: str
    picture: str = "libx264"
    sound: str = "aac"
    layout: str = "stereo"
    rate: int = RATE
    tracks: int = 1
    seconds: int = 4
    pixels: str = "yuv420p"
    stamps: Stamps = plain
    origin_s: int = 0
    picture_options: dict[str, str] = field(default_factory=dict)
    metadata: dict[str, str] = field(default_factory=dict)
    track_metadata: tuple[dict[str, str], ...] = ()
    chapters: tuple[tuple[int, int, str], ...] = ()
    format: str | None = None
    options: dict[str, str] = field(default_factory=dict)

    def __str__(self) -> str:
        faults = f"{self.stamps.__name__}-{self.origin_s}"
        return f"{self.picture}-{self.sound}-{self.layout}-{self.tracks}-{faults}{self.ending}"

    def write(self, folder: Path) -> Path:
        """The file."""
        path = folder / f"made{self.ending}"
        with av.open(str(path), "w", format=self.format, options=self.options) as out:
            out.metadata.update(self.metadata)
            picture = self._picture_track(out) if self.picture else None
            sounds = [out.add_stream(self.sound, rate=self.rate, layout=self.layout) for _ in range(self.tracks)]
            for stream, metadata in zip(sounds, self.track_metadata, strict=False):
                stream.metadata.update(metadata)
            if self.chapters:
                out.set_chapters(
                    [
                        {"id": k, "start": a, "end": b, "time_base": Fraction(1, 1000), "metadata": {"title": title}}
                        for k, (a, b, title) in enumerate(self.chapters)
                    ]
                )
            out.start_encoding()
            packets = [*self._pictures(picture)] if picture else []
            for stream in sounds:
                packets += self._sounds(stream)
            for _, packet in sorted(packets, key=lambda timed: timed[0]):
                out.mux_one(packet)
        return path

    def _picture_track(self, out: Any) -> Any:
        stream = out.add_stream(self.picture, rate=25)
        stream.width, stream.height, stream.pix_fmt = 96, 64, self.pixels
        stream.options = self.picture_options
        return stream

    def _pictures(self, stream: Any):  # type: ignore[no-untyped-def]
        for k in range(self.seconds * 25):
            image = np.full((64, 96, 3), 255 if k % 25 == 0 and k else 40, np.uint8)
            image[:, k % 90 : k % 90 + 6] = 180
            frame = av.VideoFrame.from_ndarray(image, "rgb24").reformat(format=self.pixels)
            frame.pts, frame.time_base = k + 25 * self.origin_s, Fraction(1, 25)
            yield from _timed(stream.encode(frame))
        yield from _timed(stream.encode(None))

    def _sounds(self, stream: Any):  # type: ignore[no-untyped-def]
        """Sound in which a click stands wherever the stamps reach a whole second."""
        size = stream.codec_context.frame_size or 1024
        kind, count = stream.codec_context.format.name, len(av.AudioLayout(self.layout).channels)
        scale = Fraction(self.rate, RATE)
        for start in range(0, round(self.seconds * self.rate), size):
            stamp = round(self.stamps(round(start / scale)) * scale)
            sound = np.zeros(size, np.float32)
            click = -(-stamp // self.rate) * self.rate - stamp  # the next whole second
            part = CLICK[:: max(1, round(1 / scale))][: max(0, size - click)]
            if stamp + click > 0:
                sound[click : click + len(part)] = part
            frame = av.AudioFrame.from_ndarray(np.repeat(sound[None], count, axis=0), "fltp", self.layout)
            frame.sample_rate = self.rate
            for ready in av.AudioResampler(kind, self.layout, self.rate).resample(frame):
                ready.pts, ready.time_base = stamp + self.origin_s * self.rate, Fraction(1, self.rate)
                yield from _timed(stream.encode(ready))
        yield from _timed(stream.encode(None))


def _timed(packets: Any):  # type: ignore[no-untyped-def]
    for packet in packets:
        yield float(packet.dts * packet.time_base), packet


def click_errors_ms(sound: np.ndarray, seconds: int) -> list[float]:
    """How far the click of each whole second but the first and last is from its place; shape of *sound*: ``(n,)``."""
    errors = []
    for second in range(1, seconds - 1):
        near = sound[second * RATE - 4800 : second * RATE + 4800]
        match = np.abs(np.correlate(near, CLICK, "valid"))
        assert match.max() > 0.5, f"no click at {second} s"
        errors.append((int(match.argmax()) - 4800) / RATE * 1000)
    return errors


def decoded(path: Path, pick: SoundPick | None = None) -> tuple[np.ndarray, DecodeNotes]:
    """A file's sound, and what was said of it."""
    notes = DecodeNotes()
    return np.concatenate(list(decoded_blocks(path, notes, pick)), axis=1), notes


def read_whole(path: Path) -> np.ndarray:
    """A working copy or a mix."""
    with SoundReader(path) as reader:
        return reader.read(0, reader.length)
