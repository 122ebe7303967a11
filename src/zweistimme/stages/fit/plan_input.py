"""What a plan is made from, and what it is: arrays by line, in seconds."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

import numpy as np
import numpy.typing as npt

from zweistimme.sound.arrays import Floats, Ints

Bools = npt.NDArray[np.bool_]
BREATH_S: Final = 0.06
"""The least that phrases of a line are apart."""
SHORTEST_S: Final = 0.15
"""No take is crushed to less."""


@dataclass(frozen=True, slots=True)
class PlanInput:
    """All lines of a version, or the phrases of lines, sorted by start; every array has shape ``(n,)``. Pins are NaN
    where there are none."""

    start: Floats
    end: Floats
    speech: Floats
    spare_pause: Floats
    on_screen: Bools
    speaker: Ints
    pinned_start: Floats
    pinned_length: Floats
    line: Ints
    """Which line each belongs to: phrases of one line are placed one by one, and kept together."""
    least_before: Floats
    most_before: Floats
    """How long the pause before a phrase must be, and may be, within its line."""
    pause_cut: Floats
    """What a hand has inner pauses give, NaN where nobody says."""
    start_slack: Floats
    end_slack: Floats
    """By how much more than usual it may start, and end, apart from the original."""
    cut_before: Floats
    cut_after: Floats
    """The cuts of the picture nearest to it that the original does not cross; without end where there are none."""
    moved: Floats
    """By how much a hand moved what a phrase aims at along with its line; NaN: by as much as its own pin says."""
    programme_end: float

    @property
    def aimed_start(self) -> Floats:
        """Where each is to start, whoever says so, shape ``(n,)``."""
        return np.where(np.isfinite(self.pinned_start), self.pinned_start, self.start + np.nan_to_num(self.moved))


def whole_lines(
    start: Floats, end: Floats, speech: Floats, spare_pause: Floats, on_screen: Bools, speaker: Ints,
    pinned_start: Floats, pinned_length: Floats, programme_end: float,
) -> PlanInput:  # fmt: skip
    """Lines that are each placed as a whole."""
    count = len(start)
    nothing, unsaid = np.zeros(count), np.full(count, np.nan)
    return PlanInput(
        start, end, speech, spare_pause, on_screen, speaker, pinned_start, pinned_length, np.arange(count),
        np.full(count, BREATH_S), np.full(count, np.inf), unsaid, nothing, nothing,
        np.full(count, -np.inf), np.full(count, np.inf), unsaid, programme_end,
    )  # fmt: skip


@dataclass(frozen=True, slots=True)
class Plan:
    """Where every take starts and how long it is, in seconds; shape ``(n,)`` each. *tempo* is that of the speech,
    *pause_cut* what inner pauses gave, *overflow* what remains too long, *clash* by how much it is heard at once with
    another line against the original, *clash_with* the number of that line, -1 for none; *cost* is the optimum."""

    start: Floats
    length: Floats
    tempo: Floats
    pause_cut: Floats
    overflow: Floats
    clash: Floats
    clash_with: Ints
    cost: float
