"""What pictures look like, for telling shots apart: small histograms of each, read by key frames, by stretches, or in
one go where a file's stamps do not say where its pictures are."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any, Final

import numpy as np
import numpy.typing as npt

from zweistimme.media.clock import StampClock
from zweistimme.media.probe import origin_of

if TYPE_CHECKING:
    from av import VideoFrame
    from av.container import InputContainer
    from av.video.stream import VideoStream

_WIDTH, _HEIGHT = 64, 36
_LUMA_BINS, _COLOUR_BINS = 16, 8
Histogram = npt.NDArray[np.float32]


@dataclass(frozen=True, slots=True)
class Seen:
    """A picture: when it is shown, in seconds of the programme, and its histograms."""

    seconds: float
    looks: Histogram


def seen_within(
    container: InputContainer, stream: VideoStream, span_s: tuple[float, float], *, keys_only: bool
) -> Iterator[Seen]:
    """Pictures, or key frames alone, from a key frame on, up to the one at the end of a span. A damaged place is left
    out."""
    stream.codec_context.skip_frame = "NONKEY" if keys_only else "DEFAULT"
    reformatter, origin = _reformatter(), float(origin_of(container))
    if span_s[0] > 0 and stream.time_base:
        container.seek(int((span_s[0] + origin) / stream.time_base), stream=stream)
    for packet in container.demux(stream):
        for frame in _decoded(packet):
            seconds = float(frame.time or 0.0) - origin
            if seconds > span_s[1] + 1e-6:
                return
            if seconds >= span_s[0] - 1e-6:
                yield Seen(seconds, looks_of(reformatter, frame))


def seen_in_order(container: InputContainer, stream: VideoStream) -> Iterator[Seen]:
    """All pictures of a file whose clock begins anew on the way, in its order."""
    reformatter, clock = _reformatter(), StampClock(origin_of(container), jumps=True)
    steps = {one.index: float(one.time_base) for one in container.streams if one.time_base}
    shifts: dict[int, float] = {}
    shift_s = -float(clock.origin)
    for packet in container.demux():
        step = steps.get(packet.stream_index)
        if step is not None and packet.dts is not None:
            shift = float(clock.shift(packet.stream_index, packet.dts * step, (packet.duration or 0) * step))
            if packet.stream_index == stream.index:
                shifts[packet.dts if packet.pts is None else packet.pts] = shift
        if packet.stream_index != stream.index:
            continue
        for frame in _decoded(packet):
            if frame.pts is not None:
                shift_s = shifts.pop(frame.pts, shift_s)
                yield Seen(float(frame.time or 0.0) + shift_s, looks_of(reformatter, frame))


def _decoded(packet: Any) -> list[Any]:
    import av

    try:
        return list(packet.decode())
    except av.InvalidDataError:
        return []


def _reformatter() -> Any:
    import av

    return av.video.reformatter.VideoReformatter()


def _bins() -> tuple[npt.NDArray[np.int64], npt.NDArray[np.int64]]:
    """For each value of each channel its bin, shape ``(3, 256)``; where the bins of each pixel begin, by its quarter,
    shape ``(36, 64)``."""
    counts = (_LUMA_BINS, _COLOUR_BINS, _COLOUR_BINS)
    starts = np.cumsum((0, *counts[:-1]))
    by_value = [start + np.arange(256) * bins // 256 for start, bins in zip(starts, counts, strict=True)]
    below, right = np.mgrid[:_HEIGHT, :_WIDTH] >= np.array([_HEIGHT // 2, _WIDTH // 2])[:, None, None]
    return np.array(by_value), (2 * below + right) * sum(counts)


_BY_VALUE, _BY_QUARTER = _bins()
_CHANNELS: Final = np.arange(3)[:, None, None]


def looks_of(reformatter: Any, frame: VideoFrame) -> Histogram:
    """Histograms of the quarters of a picture, shape ``(4, 32)``; each channel's adds up to a third."""
    small = reformatter.reformat(frame, _WIDTH, _HEIGHT, "yuv444p", interpolation="FAST_BILINEAR").to_ndarray()
    counts = np.bincount((_BY_VALUE[_CHANNELS, small] + _BY_QUARTER).ravel(), minlength=4 * _BY_VALUE.max() + 4)
    return (counts.reshape(4, -1) / (3 * _WIDTH * _HEIGHT / 4)).astype(np.float32)


def distance(one: Histogram, two: Histogram) -> float:
    """From 0, alike, to 1, nothing in common: the middle of the quarters, so that what moves through one is no cut."""
    apart = np.abs(one - two).sum(axis=1) / 2
    return float(np.sort(apart)[1:].mean())
