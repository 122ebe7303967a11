"""What captions are held to in each language, and how a set of them measures."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import asdict, dataclass, replace
from typing import Final

from zweistimme.formats.cue import Cue
from zweistimme.project.languages import language_of
from zweistimme.project.model import CaptionLimits
from zweistimme.project.times import SECOND_US
from zweistimme.project.writing import letters


@dataclass(frozen=True, slots=True)
class CaptionRules:
    """Lines, letters a line, letters a second, and times in microseconds; *tag* is the language they are for."""

    lines: int = 2
    line_letters: float = 42
    aimed_speed: float = 17.0
    most_speed: float = 20.0
    shortest_us: int = 833_333
    longest_us: int = 7_000_000
    gap_us: int = 80_000
    tag: str = ""


_OF_LANGUAGE: Final = {
    # letters a line, letters a second aimed at and at the most
    "ja": (13.0, 5.0, 7.0),
    "zh": (16.0, 7.5, 9.0),
    "yue": (16.0, 7.5, 9.0),
    "ko": (16.0, 10.0, 12.0),
    "th": (35.0, 17.0, 20.0),
    "lo": (35.0, 17.0, 20.0),
    "my": (35.0, 17.0, 20.0),
    "km": (35.0, 17.0, 20.0),
    "hi": (42.0, 18.0, 22.0),
}


def rules_for(tag: str, limits: CaptionLimits | None = None) -> CaptionRules:
    """The rules of a language, where *limits* do not say otherwise.

    >>> rules_for("ja-JP").line_letters, rules_for("de-AT").most_speed
    (13.0, 20.0)
    """
    usual = CaptionRules(tag=tag)
    line, aimed, most = _OF_LANGUAGE.get(language_of(tag), (usual.line_letters, usual.aimed_speed, usual.most_speed))
    rules = CaptionRules(line_letters=line, aimed_speed=aimed, most_speed=most, tag=tag)
    if limits is None:
        return rules
    said = {name: value for name, value in asdict(limits).items() if value is not None}
    rules = replace(rules, **said)
    aimed *= rules.most_speed / most
    return replace(rules, aimed_speed=aimed, longest_us=max(rules.longest_us, rules.shortest_us))


@dataclass(frozen=True, slots=True)
class CaptionStatistics:
    """How a set of captions measures; speeds in letters a second."""

    count: int
    fastest: float
    mean_speed: float
    too_fast: int
    longest_line: float


def statistics(cues: Sequence[Cue], rules: CaptionRules) -> CaptionStatistics:
    """Figures for a report."""
    speeds = [speed(cue) for cue in cues]
    return CaptionStatistics(
        count=len(cues),
        fastest=round(max(speeds, default=0.0), 1),
        mean_speed=round(sum(speeds) / len(speeds), 1) if speeds else 0.0,
        too_fast=len(too_fast(cues, rules)),
        longest_line=max((letters(line) for cue in cues for line in cue.text.split("\n")), default=0),
    )


def too_fast(cues: Sequence[Cue], rules: CaptionRules) -> list[Cue]:
    """Captions that nobody can read in their time."""
    return [cue for cue in cues if speed(cue) > rules.most_speed + 0.05]


def reading_letters(text: str) -> float:
    """How much a caption is to read; a line's end is read like a space."""
    return sum(letters(line) for line in text.split("\n")) + text.count("\n") * 0.5


def speed(cue: Cue) -> float:
    """Letters a second."""
    return reading_letters(cue.text) * SECOND_US / (cue.end_us - cue.start_us)
