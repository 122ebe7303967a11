"""Lines with the takes that are to be placed, and how long those speak."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

from zweistimme.project.model import Line, Segment, Take
from zweistimme.project.times import SECOND_US, samples_to_us

_KEPT_PAUSE_S: Final = 0.06


@dataclass(frozen=True, slots=True)
class TakenLine:
    """A line that has a take to place."""

    segment: Segment
    line: Line
    take: Take


def speech_us(take: Take) -> int:
    """How long a take speaks once its outer silence is trimmed."""
    return samples_to_us(take.speech_end_samples - take.speech_start_samples)


def spare_pause_s(take: Take) -> float:
    """What the inner pauses of a take have above what a breath needs, in seconds."""
    return sum(max(0.0, samples_to_us(b - a) / SECOND_US - _KEPT_PAUSE_S) for a, b in take.pauses_samples)
