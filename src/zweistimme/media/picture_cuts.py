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
from typing import Final

import numpy as np
import numpy.typing as npt

from zweistimme.media.picture_clock import key_places
from zweistimme.media.picture_looks import Seen, distance, seen_in_order, seen_within
from zweistimme.media.probe import opened, picture_stream
from zweistimme.project.times import SECOND_US

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
    length_s: float = 0.0,
) -> list[int]:
    """When each shot but the first begins, in microseconds of the programme, which is *length_s* long; empty where
    there is no picture. It goes on from what was *begun*; *keep* is given what there is every minute of the
    programme."""
    if isfinite(begun.until_s):
        with opened(path) as container, opened(path) as closer:
            stream, close_stream = picture_stream(container), picture_stream(closer)
            if stream is None or close_stream is None:
                return []
            stream.thread_type = close_stream.thread_type = "AUTO"
            length_s = length_s or (container.duration or 0) / 1_000_000
            tell = _telling(report, begun.until_s, length_s or 1.0)
            if key_places(container, stream, path, length_s) is not None:
                found = _cuts_in(map(tell, seen_in_order(closer, close_stream)))
            else:
                keys = map(tell, seen_within(container, stream, (begun.until_s, inf), keys_only=True))

                def closer_look(span_s: tuple[float, float]) -> list[float]:
                    return _cuts_in(map(tell, seen_within(closer, close_stream, span_s, keys_only=False)))

                found = _by_keys(keys, closer_look, begun, keep)
        begun = CutsSoFar(inf, tuple(_apart(sorted(found))))
    report(1.0)
    return [round(seconds * SECOND_US) for seconds in begun.cuts_s]


def _telling(report: Callable[[float], None], from_s: float, length_s: float) -> Callable[[Seen], Seen]:
    """Tells how far it is by each picture that is seen."""
    far_s = from_s

    def tell(seen: Seen) -> Seen:
        nonlocal far_s
        far_s = max(far_s, seen.seconds)
        report(min(1.0, far_s / length_s))
        return seen

    return tell


def _by_keys(
    keys: Iterable[Seen],
    closer_look: Callable[[tuple[float, float]], list[float]],
    begun: CutsSoFar,
    keep: Callable[[CutsSoFar], None],
) -> list[float]:
    """Cuts from key frames, with a closer look where these leave it open."""
    found, kept_s = list(begun.cuts_s), begun.until_s
    for done_s, span_s in _to_look_into(keys):
        if span_s is not None:
            found += closer_look(span_s)
        if isfinite(done_s) and done_s - kept_s >= _KEPT_EVERY_S:
            kept_s = done_s
            keep(CutsSoFar(done_s, tuple(_apart(sorted(found)))))
    return found


def _to_look_into(keys: Iterable[Seen]) -> Iterator[tuple[float, tuple[float, float] | None]]:
    """From key frame to key frame: up to where all is known once the stretch beside it has been looked into, in which
    there may be a cut; None where there can be none. Stretches that touch are one, up to half a minute."""
    before, first_s = None, None
    for one in keys:
        if before is not None:
            unlike = distance(before.looks, one.looks) > _ALIKE or one.seconds - before.seconds > _FAR_S
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


def _cuts_in(pictures: Iterable[Seen]) -> list[float]:
    """When shots begin in a stretch of pictures, of which a few thousand are looked at at a time."""
    held: list[Seen] = []
    found: list[float] = []
    for one in pictures:
        held.append(one)
        if len(held) >= _MOST_HELD:
            sure_s = held[-_BESIDE].seconds
            found += [at_s for at_s in _cuts_within(held) if at_s < sure_s]
            held = held[-2 * _BESIDE :]
    return found + _cuts_within(held)


def _cuts_within(seen: list[Seen]) -> list[float]:
    """When shots begin in pictures that follow each other."""
    if len(seen) < 3:
        pairs = pairwise(seen)
        return [two.seconds for one, two in pairs if distance(one.looks, two.looks) > _LEAST]
    steps = np.array([distance(one.looks, two.looks) for one, two in pairwise(seen)])
    found = []
    for place in np.flatnonzero(steps > _LEAST).tolist():
        around = np.concatenate((steps[max(0, place - _AROUND) : place], steps[place + 1 : place + 1 + _AROUND]))
        if steps[place] > _TIMES_USUAL * max(float(np.median(around)), 0.01):
            found.append(place)
    return [seen[place + 1].seconds for place in found if not _is_flash(seen, place) and _at_once(seen, place, steps)]


def _at_once(seen: list[Seen], place: int, steps: npt.NDArray[np.float64]) -> bool:
    """Whether a step is all there is of a change: what fades goes on changing."""
    before = [seen[k] for k in (place - 3, place - 2) if k >= 0]
    behind = [seen[k] for k in (place + 3, place + 4) if k < len(seen)]
    drift = [distance(one.looks, seen[place].looks) for one in before]
    drift += [distance(one.looks, seen[place + 1].looks) for one in behind]
    return not drift or max(drift) < _DRIFT * steps[place]


def _is_flash(seen: list[Seen], place: int) -> bool:
    """Whether the picture is soon as it was before: a flash of light, or a picture of another shot thrown in."""
    before, at = seen[place], seen[place + 1].seconds
    later = [one for one in seen[place + 2 :] if 0 < one.seconds - at <= _FLASH_S]
    earlier = [one for one in seen[:place] if 0 < seen[place].seconds - one.seconds <= _FLASH_S]
    goes = any(distance(before.looks, one.looks) < _ALIKE for one in later)
    comes = any(distance(seen[place + 1].looks, one.looks) < _ALIKE for one in earlier)
    return goes or comes


def _apart(cuts: list[float]) -> list[float]:
    """Cuts that are a shortest shot apart."""
    kept: list[float] = []
    for one in cuts:
        if not kept or one - kept[-1] >= _SHORTEST_SHOT_S:
            kept.append(one)
    return kept
