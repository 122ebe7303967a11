"""What captions are held to, and how a set of them measures."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from zweistimme.formats.cue import Cue
from zweistimme.project.times import SECOND_US


@dataclass(frozen=True, slots=True)
class CaptionRules:
    """Lines, letters a line, letters a second, and times in microseconds."""

    lines: int = 2
    line_letters: int = 42
    aimed_speed: float = 17.0
    most_speed: float = 20.0
    shortest_us: int = 833_333
    longest_us: int = 7_000_000
    gap_us: int = 80_000


@dataclass(frozen=True, slots=True)
class CaptionStatistics:
    """How a set of captions measures; speeds in letters a second."""

    count: int
    fastest: float
    mean_speed: float
    too_fast: int
    longest_line: int


def statistics(cues: Sequence[Cue], rules: CaptionRules) -> CaptionStatistics:
    """Figures for a report."""
    speeds = [speed(cue) for cue in cues]
    return CaptionStatistics(
        count=len(cues),
        fastest=round(max(speeds, default=0.0), 1),
        mean_speed=round(sum(speeds) / len(speeds), 1) if speeds else 0.0,
        too_fast=sum(1 for value in speeds if value > rules.most_speed + 0.05),
        longest_line=max((len(line) for cue in cues for line in cue.text.split("\n")), default=0),
    )


def speed(cue: Cue) -> float:
    """Letters a second."""
    return len(cue.text.replace("\n", " ")) * SECOND_US / (cue.end_us - cue.start_us)
