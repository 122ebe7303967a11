"""Reading transcripts and translations for a project: with what is known of it, and brought onto its clock."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace
from fractions import Fraction

from zweistimme.formats.context import Context
from zweistimme.formats.cue import Cue
from zweistimme.project.errors import EditError
from zweistimme.project.model import Project, Segment
from zweistimme.project.timecode import is_timecode, timecode_us
from zweistimme.project.times import SECOND_US

_USUAL_RATE = Fraction(25)


def frame_rate(project: Project) -> Fraction | None:
    """Pictures a second, where there is a picture."""
    picture = project.programme.picture if project.programme else None
    return Fraction(picture.rate_numerator, picture.rate_denominator) if picture else None


def context_of(project: Project, tag: str, encoding: str = "", *, translation: bool = False) -> Context:
    """What is known of a file in the language of *tag*. In a translation, only the programme's own people are names."""
    people = frozenset(speaker.name.casefold() for speaker in project.speakers.values()) if translation else None
    return Context(encoding, tag, frame_rate(project), people)


def offset_from(text: str, project: Project) -> int:
    """What is to be added to a file's times, in microseconds: seconds, or a timecode, either with a minus.

    >>> offset_from("-1.5", Project("x", "en")), offset_from("-10:00:00:00", Project("x", "en"))
    (-1500000, -36000000000)
    """
    if is_timecode(text):
        return timecode_us(text, frame_rate(project) or _USUAL_RATE)
    try:
        seconds = float(text)
    except ValueError:
        seconds = float("nan")
    if not abs(seconds) < 1e6:
        raise EditError("“{text}” is no offset. Give seconds (-1.5) or a timecode (-10:00:00:00).", text=text[:40])
    return round(seconds * SECOND_US)


def own_offset_us(project: Project, starts_us: Iterable[int]) -> int:
    """What brings times that are counted from the programme's start timecode to its beginning; 0 if they are not."""
    programme = project.programme
    first = min(starts_us, default=0)
    if programme is None or not is_timecode(programme.timecode) or first < programme.sound.duration_us:
        return 0
    start = timecode_us(programme.timecode, frame_rate(project) or _USUAL_RATE)
    return -start if 0 < start <= first + SECOND_US else 0


def moved_segments(segments: Iterable[Segment], by_us: int) -> list[Segment]:
    """Segments and their words at other times."""
    return [
        replace(
            segment,
            start_us=segment.start_us + by_us,
            end_us=segment.end_us + by_us,
            words=tuple(replace(w, start_us=w.start_us + by_us, end_us=w.end_us + by_us) for w in segment.words),
        )
        for segment in segments
    ]


def moved_cues(cues: Iterable[Cue], by_us: int) -> list[Cue]:
    """Captions at other times."""
    return [replace(cue, start_us=cue.start_us + by_us, end_us=cue.end_us + by_us) for cue in cues]
