"""What of the lanes is heard, and how loud."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Final

from zweistimme.messages import msg

LANES: Final = (msg("Original"), msg("Bed"), msg("Dub"))
AS_IT_WAS: Final[Mapping[str, float]] = {"Original": 1.0, "Bed": 0.0, "Dub": 0.0}
CLIP_ALONE: Final[Mapping[str, float]] = {"Original": 0.0, "Bed": 0.0, "Dub": 1.0}
"""Where a clip lies when it is heard alone: in the middle, as the dub does."""


@dataclass(slots=True)
class LaneState:
    """How a lane is set: level 0..1.5, mute, solo; and whether a hand has muted it or not."""

    level: float = 1.0
    mute: bool = False
    solo: bool = False
    by_hand: bool = False


@dataclass(slots=True)
class LineUp:
    """The lanes as somebody has set them; with *before*, the programme as it was.

    >>> line_up = LineUp()
    >>> line_up.states["Original"].mute = True
    >>> line_up.factors()
    {'Original': 0.0, 'Bed': 1.0, 'Dub': 1.0}
    """

    states: dict[str, LaneState] = field(default_factory=lambda: {name: LaneState() for name in LANES})
    before: bool = False

    def factors(self) -> Mapping[str, float]:
        """What each lane is multiplied with."""
        if self.before:
            return AS_IT_WAS
        soloed = any(state.solo for state in self.states.values())
        return {
            name: state.level if state.solo or (not soloed and not state.mute) else 0.0
            for name, state in self.states.items()
        }

    def flip(self, name: str) -> None:
        """Hear a lane, or leave it out; while some are heard alone, one more or less of them."""
        state = self.states[name]
        if any(one.solo for one in self.states.values()):
            state.solo = not state.solo
        else:
            state.mute, state.by_hand = not state.mute, True

    def flip_alone(self, name: str) -> None:
        """Hear a lane alone, or all again as they were."""
        alone = not self.states[name].solo
        for one, state in self.states.items():
            state.solo = alone and one == name

    def suit(self, *, dubbed: bool) -> None:
        """Mute what is not in the mix, unless a hand has said otherwise: the original once it is dubbed, the bed, which
        is in the original, until then."""
        for name, mute in (("Original", dubbed), ("Bed", not dubbed)):
            if not self.states[name].by_hand:
                self.states[name].mute = mute
