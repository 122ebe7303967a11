"""The programme's clock: time stamps that start anywhere, wrap, or begin anew, on one line from zero.

Files that are recorded off the air carry stamps of 33 bits of 1/90,000 s, which begin anywhere and wrap after 26.5
hours (ISO/IEC 13818-1); joined recordings jump. Picture and sound must jump alike, so one clock serves all tracks.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from fractions import Fraction
from typing import TYPE_CHECKING, Any, Final

if TYPE_CHECKING:
    from av.container import InputContainer

_WRAP: Final = Fraction(1 << 33, 90_000)
_BACK: Final = 1.0
"""A stamp that goes back by more than this begins anew; less is an overlap."""
_AHEAD: Final = 10.0
_ALIKE: Final = 10.0


def may_jump(container: InputContainer) -> bool:
    """Whether stamps may jump ahead in this kind of file, as they may in a recording off the air."""
    from av.format import Flags

    flags: Any = container.format.flags
    return bool(flags & Flags.ts_discont.value)


@dataclass(slots=True)
class _Lane:
    """Where one track is: the end of what it has given, on the programme's clock, and what its stamps are moved by, as
    it is and rounded. It is asked for every packet, so it is counted in floats; what is given out is exact."""

    end: float
    shift: Fraction
    shift_s: float


@dataclass(slots=True)
class StampClock:
    """Puts stamps on the programme's clock. *jumps* says that the kind of file may jump ahead; all may jump back.

    Feed it every packet of every track in the order of the file.
    """

    origin: Fraction
    jumps: bool
    breaks: list[tuple[Fraction, Fraction]] = field(default_factory=list)
    """Where stamps began anew, on the programme's clock, and by how much they were moved there."""
    _lanes: dict[int, _Lane] = field(default_factory=dict)

    @property
    def end_s(self) -> float:
        """Where the last packet of any track ends, on the programme's clock."""
        return max((lane.end for lane in self._lanes.values()), default=0.0)

    def shift(self, track: int, stamp_s: float, duration_s: float) -> Fraction:
        """What must be added to the stamps, in seconds, of a packet that is decoded at *stamp_s*."""
        lane = self._lanes.get(track)
        if lane is None:
            shift = self.breaks[-1][1] if self.breaks else -self.origin
            lane = self._lanes[track] = _Lane(stamp_s + float(shift), shift, float(shift))
        time = stamp_s + lane.shift_s
        if time < lane.end - _BACK or (self.jumps and time > lane.end + _AHEAD and not self._others_near(track, time)):
            lane.shift = self._moved(stamp_s, lane)
            lane.shift_s = float(lane.shift)
            time = stamp_s + lane.shift_s
        lane.end = max(lane.end, time + duration_s) if time > lane.end - _BACK else time + duration_s
        return lane.shift

    def _others_near(self, track: int, time: float) -> bool:
        """Whether another track is there already, so that this one only had nothing to say for a while."""
        return any(abs(lane.end - time) < _ALIKE for other, lane in self._lanes.items() if other != track)

    def _moved(self, stamp_s: float, lane: _Lane) -> Fraction:
        for shift in (lane.shift + _WRAP, *(shift for _, shift in reversed(self.breaks))):
            if abs(stamp_s + float(shift) - lane.end) < _ALIKE:
                found = shift
                break
        else:
            found = Fraction(round((lane.end - stamp_s) * 1_000_000), 1_000_000)
        if not self.breaks or self.breaks[-1][1] != found:
            self.breaks.append((Fraction(round(lane.end * 1_000_000), 1_000_000), found))
        return found
