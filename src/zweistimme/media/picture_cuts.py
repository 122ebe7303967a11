"""Cuts of a picture: where one shot ends and the next begins.

Each picture is known by histograms of luma and of both colours, quarter by quarter; at a cut they change at once, by
far more than in the pictures around it. Only key frames are decoded everywhere: where two in a row are alike, and not
far apart, nothing was cut between them (encoders put a key frame at most cuts); elsewhere all pictures between are
looked at.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from itertools import pairwise
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
_FLASH_S: Final = 0.25
_SHORTEST_SHOT_S: Final = 0.2
Histogram = npt.NDArray[np.float32]


@dataclass(frozen=True, slots=True)
class _Seen:
    """A picture: when it is shown, in seconds of the programme, and its histograms."""

    seconds: float
    looks: Histogram


def picture_cuts(path: Path, report: Callable[[float], None] = lambda _share: None) -> list[int]:
    """When each shot but the first begins, in microseconds of the programme; empty where there is no picture."""
    with opened(path) as container:
        stream = picture_stream(container)
        if stream is None:
            return []
        stream.thread_type = "AUTO"
        length_s = float((container.duration or 0) / 1_000_000) or 1.0
        keys = []
        for seen in _pictures(container, stream, None, keys_only=True):
            keys.append(seen)
            report(0.5 * min(1.0, seen.seconds / length_s))
    wanted = _to_look_into(keys)
    found: list[float] = []
    with opened(path) as container:
        stream = picture_stream(container)
        assert stream is not None
        stream.thread_type = "AUTO"
        for span_s in wanted:
            seen_here = []
            for seen in _pictures(container, stream, span_s, keys_only=False):
                seen_here.append(seen)
                report(0.5 + 0.5 * min(1.0, seen.seconds / length_s))
            found += _cuts_within(seen_here)
    report(1.0)
    return [round(seconds * SECOND_US) for seconds in _apart(sorted(found))]


def _to_look_into(keys: list[_Seen]) -> list[tuple[float, float]]:
    """Stretches between key frames in which there may be a cut; those that touch are one, up to half a minute."""
    stretches: list[tuple[float, float]] = []
    for one, two in pairwise(keys):
        if _distance(one.looks, two.looks) > _ALIKE or two.seconds - one.seconds > _FAR_S:
            if stretches and stretches[-1][1] == one.seconds and two.seconds - stretches[-1][0] < 30:
                stretches[-1] = (stretches[-1][0], two.seconds)
            else:
                stretches.append((one.seconds, two.seconds))
    if keys:  # behind the last key frame nobody has looked
        stretches.append((keys[-1].seconds, keys[-1].seconds + 3_600.0))
    return stretches


def _pictures(container: Any, stream: Any, span_s: tuple[float, float] | None, *, keys_only: bool) -> Iterator[_Seen]:
    """Pictures from a key frame on, up to the one at the end of a span with a few behind it."""
    import av

    stream.codec_context.skip_frame = "NONKEY" if keys_only else "DEFAULT"
    reformatter = av.video.reformatter.VideoReformatter()
    origin = float(origin_of(container))
    if span_s is not None:
        container.seek(int((span_s[0] + origin) / stream.time_base), stream=stream)
    try:
        for frame in container.decode(stream):
            seconds = float(frame.time or 0.0) - origin
            if span_s is not None and seconds < span_s[0] - 1e-6:
                continue
            if span_s is not None and seconds > span_s[1] + 1e-6:
                return
            yield _Seen(seconds, _looks(reformatter, frame))
    except av.FFmpegError:  # what is behind a damaged place is not looked at
        return


def _looks(reformatter: Any, frame: VideoFrame) -> Histogram:
    """Histograms of the quarters of a picture, shape ``(4, 32)``; each channel's adds up to a third."""
    small = reformatter.reformat(frame, _WIDTH, _HEIGHT, "yuv444p").to_ndarray()
    parts = []
    for rows in (slice(0, _HEIGHT // 2), slice(_HEIGHT // 2, _HEIGHT)):
        for columns in (slice(0, _WIDTH // 2), slice(_WIDTH // 2, _WIDTH)):
            channels = [
                np.bincount(small[k][rows, columns].ravel().astype(np.int64) * bins // 256, minlength=bins)
                for k, bins in enumerate((_LUMA_BINS, _COLOUR_BINS, _COLOUR_BINS))
            ]
            parts.append(np.concatenate(channels))
    return (np.array(parts) / (3 * _WIDTH * _HEIGHT / 4)).astype(np.float32)


def _distance(one: Histogram, two: Histogram) -> float:
    """From 0, alike, to 1, nothing in common: the middle of the quarters, so that what moves through one is no cut."""
    apart = np.abs(one - two).sum(axis=1) / 2
    return float(np.sort(apart)[1:].mean())


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
