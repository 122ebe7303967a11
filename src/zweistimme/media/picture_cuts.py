"""Cuts of a picture: where one shot ends and the next begins.

Each picture is known by histograms of luma and of both colours, quarter by quarter; at a cut they change at once, by
far more than in the pictures around it. Only key frames are decoded everywhere: where two in a row are alike, and not
far apart, nothing was cut between them (encoders put a key frame at most cuts); elsewhere all pictures between are
looked at.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass
from itertools import pairwise
from math import inf, isfinite
from pathlib import Path
from typing import TYPE_CHECKING, Any, Final

import numpy as np
import numpy.typing as npt

from zweistimme.media.probe import opened, origin_of, picture_stream
from zweistimme.project.times import SECOND_US

if TYPE_CHECKING:
    from av import VideoFrame

_WIDTH, _HEIGHT = 64, 36
_LUMA_BINS, _COLOUR_BINS = 16, 8
_ALIKE: Final = 0.06
"""Key frames that differ by less are of one shot."""
_FAR_S: Final = 3.0
"""Between key frames that are further apart than that, something may have been cut in and out again."""
_LEAST: Final = 0.12
_TIMES_USUAL: Final = 5.0
"""A cut changes pictures by at least so much, and by so many times what those around it change."""
_AROUND: Final = 12
_DRIFT: Final = 0.6
_MOST_STRETCH_S: Final = 30.0
_MOST_HELD: Final = 2_000
_BESIDE: Final = 40
"""Pictures: what is so far from the edge of what is held at once does not depend on what is behind it."""
_KEPT_EVERY_S: Final = 60.0
_FLASH_S: Final = 0.25
_SHORTEST_SHOT_S: Final = 0.2
Histogram = npt.NDArray[np.float32]


@dataclass(frozen=True, slots=True)
class _Seen:
    """A picture: when it is shown, in seconds of the programme, and its histograms."""

    seconds: float
    looks: Histogram


@dataclass(frozen=True, slots=True)
class CutsSoFar:
    """The cuts of a picture up to a key frame, in seconds of the programme: from there on somebody may go on; without
    end where all are known."""

    until_s: float = 0.0
    cuts_s: tuple[float, ...] = ()


def picture_cuts(
    path: Path,
    report: Callable[[float], None] = lambda _share: None,
    begun: CutsSoFar = CutsSoFar(),
    keep: Callable[[CutsSoFar], None] = lambda _so_far: None,
) -> list[int]:
    """When each shot but the first begins, in microseconds of the programme; empty where there is no picture. It goes
    on from what was *begun*; *keep* is given what there is every few minutes of the programme."""
    if not isfinite(begun.until_s):
        return [round(seconds * SECOND_US) for seconds in begun.cuts_s]
    with opened(path) as container, opened(path) as closer:
        stream, close_stream = picture_stream(container), picture_stream(closer)
        if stream is None or close_stream is None:
            return []
        stream.thread_type = close_stream.thread_type = "AUTO"
        length_s = float((container.duration or 0) / 1_000_000) or 1.0
        told = begun.until_s

        def tell(seen: _Seen) -> _Seen:
            nonlocal told
            told = max(told, seen.seconds)
            report(min(1.0, told / length_s))
            return seen

        found, kept_s = list(begun.cuts_s), begun.until_s
        keys = map(tell, _pictures(container, stream, (begun.until_s, inf), keys_only=True))
        for done_s, span_s in _to_look_into(keys):
            if span_s is not None:
                found += _cuts_in(map(tell, _pictures(closer, close_stream, span_s, keys_only=False)))
            if isfinite(done_s) and done_s - kept_s >= _KEPT_EVERY_S:
                kept_s = done_s
                keep(CutsSoFar(done_s, tuple(_apart(sorted(found)))))
    report(1.0)
    return [round(seconds * SECOND_US) for seconds in _apart(sorted(found))]


def _to_look_into(keys: Iterable[_Seen]) -> Iterator[tuple[float, tuple[float, float] | None]]:
    """From key frame to key frame: up to where all is known once the stretch beside it has been looked into, in which
    there may be a cut; None where there can be none. Stretches that touch are one, up to half a minute."""
    before, first_s = None, None
    for one in keys:
        if before is not None:
            unlike = _distance(before.looks, one.looks) > _ALIKE or one.seconds - before.seconds > _FAR_S
            if first_s is not None and (not unlike or one.seconds - first_s >= _MOST_STRETCH_S):
                yield before.seconds, (first_s, before.seconds)
                first_s = None
            if unlike:
                first_s = before.seconds if first_s is None else first_s
            elif first_s is None:
                yield one.seconds, None
        before = one
    if before is not None:  # behind the last key frame nobody has looked
        yield inf, (before.seconds if first_s is None else first_s, inf)


def _pictures(container: Any, stream: Any, span_s: tuple[float, float], *, keys_only: bool) -> Iterator[_Seen]:
    """Pictures from a key frame on, up to the one at the end of a span."""
    import av

    stream.codec_context.skip_frame = "NONKEY" if keys_only else "DEFAULT"
    reformatter = av.video.reformatter.VideoReformatter()
    origin = float(origin_of(container))
    if span_s[0] > 0:
        container.seek(int((span_s[0] + origin) / stream.time_base), stream=stream)
    try:
        for frame in container.decode(stream):
            seconds = float(frame.time or 0.0) - origin
            if seconds < span_s[0] - 1e-6:
                continue
            if seconds > span_s[1] + 1e-6:
                return
            yield _Seen(seconds, _looks(reformatter, frame))
    except av.FFmpegError:  # what is behind a damaged place is not looked at
        return


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


def _looks(reformatter: Any, frame: VideoFrame) -> Histogram:
    """Histograms of the quarters of a picture, shape ``(4, 32)``; each channel's adds up to a third."""
    small = reformatter.reformat(frame, _WIDTH, _HEIGHT, "yuv444p", interpolation="FAST_BILINEAR").to_ndarray()
    counts = np.bincount((_BY_VALUE[_CHANNELS, small] + _BY_QUARTER).ravel(), minlength=4 * _BY_VALUE.max() + 4)
    return (counts.reshape(4, -1) / (3 * _WIDTH * _HEIGHT / 4)).astype(np.float32)


def _distance(one: Histogram, two: Histogram) -> float:
    """From 0, alike, to 1, nothing in common: the middle of the quarters, so that what moves through one is no cut."""
    apart = np.abs(one - two).sum(axis=1) / 2
    return float(np.sort(apart)[1:].mean())


def _cuts_in(pictures: Iterable[_Seen]) -> list[float]:
    """When shots begin in a stretch of pictures, of which a few thousand are looked at at a time."""
    held: list[_Seen] = []
    found: list[float] = []
    for one in pictures:
        held.append(one)
        if len(held) >= _MOST_HELD:
            sure_s = held[-_BESIDE].seconds
            found += [at_s for at_s in _cuts_within(held) if at_s < sure_s]
            held = held[-2 * _BESIDE :]
    return found + _cuts_within(held)


def _cuts_within(seen: list[_Seen]) -> list[float]:
    """When shots begin in pictures that follow each other."""
    if len(seen) < 3:
        pairs = pairwise(seen)
        return [two.seconds for one, two in pairs if _distance(one.looks, two.looks) > _LEAST]
    steps = np.array([_distance(one.looks, two.looks) for one, two in pairwise(seen)])
    found = []
    for place in np.flatnonzero(steps > _LEAST).tolist():
        around = np.concatenate((steps[max(0, place - _AROUND) : place], steps[place + 1 : place + 1 + _AROUND]))
        if steps[place] > _TIMES_USUAL * max(float(np.median(around)), 0.01):
            found.append(place)
    return [seen[place + 1].seconds for place in found if not _is_flash(seen, place) and _at_once(seen, place, steps)]


def _at_once(seen: list[_Seen], place: int, steps: npt.NDArray[np.float64]) -> bool:
    """Whether a step is all there is of a change: what fades goes on changing."""
    before = [seen[k] for k in (place - 3, place - 2) if k >= 0]
    behind = [seen[k] for k in (place + 3, place + 4) if k < len(seen)]
    drift = [_distance(one.looks, seen[place].looks) for one in before]
    drift += [_distance(one.looks, seen[place + 1].looks) for one in behind]
    return not drift or max(drift) < _DRIFT * steps[place]


def _is_flash(seen: list[_Seen], place: int) -> bool:
    """Whether the picture is soon as it was before: a flash of light, or a picture of another shot thrown in."""
    before, at = seen[place], seen[place + 1].seconds
    later = [one for one in seen[place + 2 :] if 0 < one.seconds - at <= _FLASH_S]
    earlier = [one for one in seen[:place] if 0 < seen[place].seconds - one.seconds <= _FLASH_S]
    goes = any(_distance(before.looks, one.looks) < _ALIKE for one in later)
    comes = any(_distance(seen[place + 1].looks, one.looks) < _ALIKE for one in earlier)
    return goes or comes


def _apart(cuts: list[float]) -> list[float]:
    """Cuts that are a shortest shot apart."""
    kept: list[float] = []
    for one in cuts:
        if not kept or one - kept[-1] >= _SHORTEST_SHOT_S:
            kept.append(one)
    return kept
