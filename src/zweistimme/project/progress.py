"""How far each step of the work is, derived from the project; nothing here is stored.

Every view asks after every edit. What a segment stands at is worked out again only where one of the frozen parts it
depends on is another object than before, so that an edit costs little however long the programme.
"""

from __future__ import annotations

from collections import Counter, deque
from collections.abc import Iterator
from dataclasses import dataclass, replace
from enum import StrEnum
from typing import NamedTuple

from zweistimme.project.facts import (
    cast_voice_of,
    delivery_fingerprint,
    heard_of,
    line_is_stale,
    placement_is_stale,
    speakers_in_use,
    take_is_stale,
)
from zweistimme.project.line_edits import is_settled
from zweistimme.project.model import Line, Placement, Project, Segment, Take, Version
from zweistimme.project.pronunciations import Pronunciations, pronunciations_of
from zweistimme.project.regions import is_behind
from zweistimme.project.segment_takes import forget_takes


class Step(StrEnum):
    """The six steps shown at the top of the desk, in the order of the work."""

    TRANSCRIPT = "Transcript"
    TRANSLATION = "Translation"
    CAST = "Cast"
    TAKES = "Takes"
    FIT = "Fit"
    HANDOVER = "Hand-over"


@dataclass(frozen=True, slots=True)
class Progress:
    """How far a step is: *done* of *total*; *stale* were done once; the rest are missing."""

    step: Step
    done: int
    stale: int
    total: int
    first_open: str | None = None
    """The first segment that needs something, if the step speaks of segments."""
    clashes: int = 0
    """Fitted lines that are heard at once with another, since pins stand in the way: done, and not well."""

    @property
    def missing(self) -> int:
        return self.total - self.done - self.stale

    @property
    def complete(self) -> bool:
        return self.total > 0 and self.done == self.total


class Mark:
    """What is true of a segment in a version, as bits of one number: ten thousand are looked through after an edit."""

    SPOKEN = 1
    TRANSLATED = 2
    LINE_STALE = 4
    TAKE_FRESH = 8
    TAKE_THERE = 16
    SETTLED = 32
    PLACED = 64
    TO_TRANSLATE = 128
    """Its line is missing, empty or stale; a stale one that a person has settled is left to the person."""
    TO_VOICE = 256
    """Its line wants a take, and its speaker has a voice."""
    CLASHES = 512


class _Parts(NamedTuple):
    """What the marks of a segment are made from, and the marks; what a hand-over has of it, once that was asked."""

    segment: Segment
    line: Line | None
    take: Take | None
    placement: Placement | None
    marks: int
    heard: list[bytes]
    there: Line | None = None
    """The line of the version that this one has its words from."""


@dataclass(frozen=True, slots=True)
class _Standing:
    segments: tuple[Segment, ...]
    version: Version
    parts: dict[str, _Parts]
    basis: Version | None
    said: Pronunciations
    """How words are said, which takes depend on."""


_standings: deque[_Standing] = deque(maxlen=8)
_known: deque[tuple[tuple[object, ...], dict[Step, Progress]]] = deque(maxlen=8)


def marks_of(project: Project, version: Version) -> Iterator[tuple[Segment, int]]:
    """Every segment with its marks, in order."""
    return ((parts.segment, parts.marks) for parts in _parts(project, version).values())


def _parts(project: Project, version: Version) -> dict[str, _Parts]:
    before: dict[str, _Parts] = {}
    said = pronunciations_of(project, version.tag)
    basis = project.versions.get(version.basis) if version.basis else None
    for standing in list(_standings):
        other = standing.version
        if standing.said is not said:
            continue
        same = other.tag == version.tag and other.style is version.style and other.preference is version.preference
        if other is version and standing.segments is project.segments and standing.basis is basis:
            return standing.parts
        same = same and (other.limits is version.limits or other.limits == version.limits)
        same = same and (other.manners is version.manners or other.manners == version.manners)
        if same and (other.cast is version.cast or other.cast == version.cast):
            before = standing.parts
    lines, takes, placements = version.lines, version.takes, version.placements
    theirs = basis.lines if basis is not None else {}
    found: dict[str, _Parts] = {}
    for segment in project.segments:
        key = segment.id
        line, placement, was = lines.get(key), placements.get(key), before.get(key)
        take = takes.get(line.take_id) if line is not None and line.take_id else None
        there = theirs.get(key)
        if (
            was is not None
            and was[0] is segment and was[1] is line and was[2] is take and was[3] is placement and was[6] is there
        ):  # fmt: skip
            found[key] = was
        else:
            marks = _marks(project, version, segment, line, take)
            if basis is not None:
                marks = _on_basis(marks, line, behind=is_behind(version, segment, line, there))
            found[key] = _Parts(segment, line, take, placement, marks, [], there)
    _standings.append(_Standing(project.segments, version, found, basis, said))
    return found


def _on_basis(marks: int, line: Line | None, *, behind: bool) -> int:
    """The marks of a line that has its words from another version: to translate is what can be taken over now, and what
    waits for words there is not."""
    marks &= ~Mark.TO_TRANSLATE
    if behind:
        marks = marks & ~Mark.TRANSLATED | Mark.TO_TRANSLATE | (Mark.LINE_STALE if line is not None else 0)
    return marks


def _marks(project: Project, version: Version, segment: Segment, line: Line | None, take: Take | None) -> int:
    if not segment.text.strip():
        return 0
    marks = Mark.SPOKEN
    worded = line is not None and bool(line.text.strip())
    if line is not None and line_is_stale(segment, line):
        marks |= Mark.LINE_STALE
    elif worded:
        marks |= Mark.TRANSLATED
    if line is None or not worded or (marks & Mark.LINE_STALE and not is_settled(line)):
        marks |= Mark.TO_TRANSLATE
    if line is not None and take is not None and not take_is_stale(project, version, segment, line, take):
        marks |= Mark.TAKE_FRESH
        if not placement_is_stale(project, version, segment):
            marks |= Mark.SETTLED
    elif worded and cast_voice_of(version, segment):
        marks |= Mark.TO_VOICE
    if line is not None and line.take_id is not None:
        marks |= Mark.TAKE_THERE
    placement = version.placements.get(segment.id)
    if placement is not None:
        marks |= Mark.PLACED | (Mark.CLASHES if placement.clash_us else 0)
    return marks


def delivery_made_from(project: Project, version: Version) -> str:
    """The fingerprint of what a hand-over of *version* is made from."""
    return delivery_fingerprint(
        project, version, (_heard(parts, version) for parts in _parts(project, version).values())
    )


def _heard(parts: _Parts, version: Version) -> bytes:
    if not parts.heard:
        take = version.takes.get(parts.placement.take_id) if parts.placement else None
        parts.heard.append(heard_of(parts.segment, parts.line, take, parts.placement))
    return parts.heard[0]


def forget() -> None:
    """Keep nothing of a project that was closed."""
    _standings.clear()
    _known.clear()
    forget_takes()


def progress(project: Project, version: Version) -> dict[Step, Progress]:
    """How far each step of *version* is. The latest answers are kept, by the identity of what they were made from."""
    parts = (
        project.segments, version, project.programme, project.mix, project.speakers, project.title,
        project.caption_limits, project.versions.get(version.basis), pronunciations_of(project, version.tag),
    )  # fmt: skip
    for made_from, answer in list(_known):
        if all(was is now for was, now in zip(made_from, parts, strict=True)):
            return answer
    answer = _progress(project, version)
    _known.append((parts, answer))
    return answer


def _progress(project: Project, version: Version) -> dict[Step, Progress]:
    parts = _parts(project, version)
    codes = [one.marks for one in parts.values()]
    counts = Counter(codes)
    spoken = sum(count for code, count in counts.items() if code & Mark.SPOKEN)
    ids = list(parts)

    def first(codes_open: set[int]) -> str | None:
        if not codes_open:
            return None
        return next(key for key, code in zip(ids, codes, strict=True) if code in codes_open)

    def tally(step: Step, done_mark: int, there_mark: int) -> Progress:
        done = sum(count for code, count in counts.items() if code & done_mark)
        stale = sum(
            n for code, n in counts.items() if code & there_mark and not code & done_mark and code & Mark.SPOKEN
        )
        return Progress(step, done, stale, spoken, first({c for c in counts if c & Mark.SPOKEN and not c & done_mark}))

    clashes = sum(count for code, count in counts.items() if code & Mark.CLASHES)
    users = speakers_in_use(project)
    uncast = {speaker for speaker in users if speaker not in version.cast}
    first_uncast = next((s.id for s in project.segments if s.speaker_id in uncast and s.text.strip()), None)
    delivery = version.delivery
    current = delivery is not None and delivery.made_from == delivery_made_from(project, version)
    wordless = first({code for code in counts if not code & Mark.SPOKEN})
    return {
        Step.TRANSCRIPT: Progress(Step.TRANSCRIPT, spoken, 0, len(codes), wordless),
        Step.TRANSLATION: tally(Step.TRANSLATION, Mark.TRANSLATED, Mark.LINE_STALE),
        Step.CAST: Progress(Step.CAST, len(users) - len(uncast), 0, len(users), first_uncast if uncast else None),
        Step.TAKES: tally(Step.TAKES, Mark.TAKE_FRESH, Mark.TAKE_THERE),
        Step.FIT: replace(tally(Step.FIT, Mark.SETTLED, Mark.PLACED), clashes=clashes),
        Step.HANDOVER: Progress(Step.HANDOVER, int(current), int(delivery is not None and not current), 1)
        if not version.left_out
        else Progress(Step.HANDOVER, 0, 0, 0),
    }
