"""Where pictures are in a file whose clock begins anew on the way: there, a time cannot be sought for by its stamp."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING, Final

from zweistimme.media.clock import StampClock, may_jump
from zweistimme.media.probe import origin_of

if TYPE_CHECKING:
    from av.container import InputContainer
    from av.video.stream import VideoStream

_ALIKE_S: Final = 2.0
_BACK_S, _AHEAD_S = 1.0, 10.0


@dataclass(frozen=True, slots=True)
class KeyPlaces:
    """Key frames in the order of the file: their times on the programme's clock, where they are in it (bytes), and
    what must be added to the stamps there; seconds."""

    times_s: tuple[float, ...]
    bytes_: tuple[int, ...]
    shifts_s: tuple[float, ...]

    def before(self, seconds: float) -> tuple[int, float]:
        """Place and shift of the last key frame at or before a time; of the first where there is none."""
        number = max(0, bisect_right(self.times_s, seconds) - 1)
        return self.bytes_[number], self.shifts_s[number]

    def shift_after(self, stamp_s: float, last_s: float, shift_s: float) -> float:
        """The shift of a frame that follows one shown at *last_s*: another one, where it would go back or leap."""
        if -_BACK_S <= stamp_s + shift_s - last_s <= _AHEAD_S:
            return shift_s
        return min(dict.fromkeys(self.shifts_s), key=lambda shift: abs(stamp_s + shift - last_s))


def key_places(container: InputContainer, stream: VideoStream, path: Path, length_s: float) -> KeyPlaces | None:
    """Key frames of a programme of *length_s*; None where stamps say where they are. A file is only read through if
    its stamps may jump and do not span what it lasts."""
    span_s = (container.duration or 0) / 1_000_000
    if not may_jump(container) or abs(span_s - length_s) < _ALIKE_S:
        return None
    import av

    found: list[tuple[float, int, float]] = []
    try:
        with av.open(str(path)) as whole:
            clock = StampClock(origin_of(whole), jumps=True)
            found += _key_frames(whole, clock, stream.index)
    except av.FFmpegError:  # a damaged file is shown as far as its stamps say where
        return None
    if not clock.breaks or not found:
        return None
    times, places, shifts = zip(*sorted(found), strict=True)
    return KeyPlaces(times, places, shifts)


def _key_frames(container: InputContainer, clock: StampClock, track: int) -> Iterator[tuple[float, int, float]]:
    """Each key frame's time on the programme's clock, its place and its shift; other tracks are watched, too."""
    watched = {one.index: float(one.time_base) for one in container.streams if one.time_base}
    for packet in container.demux():
        index, dts = packet.stream_index, packet.dts
        if dts is None or index not in watched:
            continue
        shift = float(clock.shift(index, dts * watched[index], (packet.duration or 0) * watched[index]))
        if index == track and packet.is_keyframe and packet.pos is not None and packet.pos >= 0:
            stamp = dts if packet.pts is None else packet.pts
            yield stamp * watched[index] + shift, packet.pos, shift
