"""Finding the parts of a project, and putting changed ones back. What edits are made of.

Every edit looks through all segments, lines or takes once or more, so this is done without Python code for each.
"""

from __future__ import annotations

from bisect import insort
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import replace
from itertools import compress, count
from operator import attrgetter, is_not
from typing import TypeVar

from zweistimme.messages import tr
from zweistimme.project.errors import EditError
from zweistimme.project.model import Line, Project, Segment, Speaker, Version
from zweistimme.project.row_changes import Rows, with_rows

V = TypeVar("V")
Order = tuple[int, str]
_MANY = 64
_ID = attrgetter("id")


def with_key(mapping: Mapping[str, V], key: str, value: V) -> Rows[V]:
    """*mapping* with one more, or another, value."""
    return with_rows(mapping, {key: value})


def without_keys(mapping: Mapping[str, V], keys: Iterable[str]) -> Rows[V]:
    """*mapping* without what stands under *keys*, as far as it does."""
    return with_rows(mapping, {}, keys)


def in_order(segments: Iterable[Segment]) -> tuple[Segment, ...]:
    """Segments as a project keeps them: by start, then by id."""
    return tuple(sorted(segments, key=order))


def order(segment: Segment) -> Order:
    """What segments are sorted by."""
    return segment.start_us, segment.id


def changed_middle(before: Sequence[Segment], after: Sequence[Segment]) -> tuple[int, int, int]:
    """Where two rows of segments differ: ``before[first:last]`` became ``after[first:other]``, and everything around
    it is the same objects. An edit touches neighbours, so this is a short stretch however long the programme."""
    first = _same(before, after)
    same = min(_same(reversed(before), reversed(after)), len(before) - first, len(after) - first)
    return first, len(before) - same, len(after) - same


def _same(before: Iterable[Segment], after: Iterable[Segment]) -> int:
    """How many at the beginning are the same objects."""
    differ = bytes(map(is_not, before, after))
    place = differ.find(1)
    return len(differ) if place < 0 else place


def ids_of(segments: Iterable[Segment]) -> Iterator[str]:
    """The ids of segments, in order."""
    return map(_ID, segments)


def find_segment(project: Project, segment_id: str) -> Segment:
    """The segment with this id, or an EditError."""
    try:
        return project.segments[list(ids_of(project.segments)).index(segment_id)]
    except ValueError:
        raise EditError("There is no segment {segment_id} in this project.", segment_id=segment_id) from None


def find_segments(project: Project, segment_ids: Iterable[str]) -> list[Segment]:
    """The segments with these ids in order of time, or an EditError."""
    wanted = set(segment_ids)
    found = [*compress(project.segments, map(wanted.__contains__, ids_of(project.segments)))]
    if len(found) < len(wanted):
        missing = ", ".join(sorted(wanted.difference(ids_of(found))))
        raise EditError("There is no segment {missing} in this project.", missing=missing)
    return found


def find_speaker(project: Project, speaker_id: str) -> Speaker:
    """The speaker with this id, or an EditError."""
    try:
        return project.speakers[speaker_id]
    except KeyError:
        raise EditError("There is no speaker {speaker_id} in this project.", speaker_id=speaker_id) from None


def find_version(project: Project, tag: str) -> Version:
    """The version with this language tag, or an EditError that lists those there are."""
    try:
        return project.versions[tag]
    except KeyError:
        there = ", ".join(project.versions) or tr("none yet")
        raise EditError("This project has no version {tag}. Versions: {there}.", tag=tag, there=there) from None


def find_line(project: Project, tag: str, segment_id: str) -> Line:
    """The line of a segment in a version, or an EditError."""
    line = find_version(project, tag).lines.get(segment_id)
    if line is None:
        raise EditError(
            "Segment {segment_id} has no line in {tag} yet. Translate it or write it by hand first.",
            segment_id=segment_id,
            tag=tag,
        )
    return line


def put_version(project: Project, version: Version) -> Project:
    return replace(project, versions=with_key(project.versions, version.tag, version))


def put_segments(project: Project, changed: Iterable[Segment], gone: Iterable[str] = ()) -> Project:
    """*changed* segments in place of those with the same ids, or as new ones; those *gone* left out."""
    by_id = {segment.id: segment for segment in changed}
    away = {*by_id, *gone}
    made = max((segments_made(project), *map(segment_number, by_id)))
    if len(away) > _MANY:
        rest = [segment for segment in project.segments if segment.id not in away]
        return replace(project, segments=in_order((*rest, *by_id.values())), segments_made=made)
    kept = list(project.segments)
    for place in [*compress(count(), map(away.__contains__, ids_of(kept)))][::-1]:
        del kept[place]
    for segment in by_id.values():
        insort(kept, segment, key=order)
    return replace(project, segments=tuple(kept), segments_made=made)


def put_segment(project: Project, changed: Segment) -> Project:
    return put_segments(project, [changed])


def put_line(project: Project, tag: str, line: Line) -> Project:
    version = find_version(project, tag)
    return put_version(project, replace(version, lines=with_key(version.lines, line.segment_id, line)))


def person_number(speaker_id: str) -> int:
    """The number of an id that this desk gave somebody; 0 for others.

    >>> person_number("p12"), person_number("Mira")
    (12, 0)
    """
    return _number(speaker_id, "p")


def people_made(project: Project) -> int:
    """The highest number that an id of somebody has, or had."""
    return max(project.people_made, *map(person_number, project.speakers), 0)


def new_person_id(project: Project) -> str:
    """An id for one more person, which nobody has had before: what was chosen for somebody who is gone is not taken to
    be chosen for somebody else."""
    return f"p{people_made(project) + 1}"


def segment_number(segment_id: str) -> int:
    """The number of an id that this desk gave; 0 for others.

    >>> segment_number("s0012"), segment_number("scene 4")
    (12, 0)
    """
    return _number(segment_id, "s")


def _number(one: str, prefix: str) -> int:
    return int(one[1:]) if one[:1] == prefix and one[1:].isdecimal() else 0


def segment_id(number: int) -> str:
    """The id with a number."""
    return f"s{number:04d}"


def segments_made(project: Project) -> int:
    """The highest number that an id of a segment has, or had."""
    return project.segments_made or max(map(segment_number, ids_of(project.segments)), default=0)


def new_segment_id(project: Project) -> str:
    """An id for one more segment, which none has had before: what is said late of one that is gone is not said of
    another."""
    return segment_id(segments_made(project) + 1)
