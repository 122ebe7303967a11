"""Which lines of a version are looked at: by how far they are, who speaks, what checks notice, and their words."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import dataclass
from enum import StrEnum

from zweistimme.project.facts import line_is_stale
from zweistimme.project.model import Line, Project, Segment
from zweistimme.project.wordings import LineState

ANY_REMARK = "*"
"""Stands for a kind of remark where every kind will do."""


class Standing(StrEnum):
    """How far a line is, as one looks for it."""

    ANY = ""
    MISSING = "missing"
    UNSETTLED = "unsettled"
    TRANSLATED = "translated"
    REVIEWED = "reviewed"
    FINAL = "final"
    STALE = "stale"
    LOCKED = "locked"
    NOTED = "noted"
    """With a note."""


@dataclass(frozen=True, slots=True)
class Sieve:
    """What a line must be to be kept; what is empty is not asked. *text* is looked for in the original, the wording and
    its notes, *remark* is a kind of remark or ANY_REMARK."""

    standing: Standing = Standing.ANY
    speaker_id: str = ""
    remark: str = ""
    text: str = ""


ALL = Sieve()


def kept_by(sieve: Sieve, project: Project, tag: str, noticed: Mapping[str, Collection[str]]) -> frozenset[str] | None:
    """The segments whose lines are kept; None where nothing is asked. *noticed* has kinds of remarks by segment. Of a
    version that is gone no line is there."""
    if sieve == ALL:
        return None
    version = project.versions.get(tag)
    lines = version.lines if version is not None else {}
    text = sieve.text.strip().casefold()
    return frozenset(
        segment.id
        for segment in project.segments
        if (not sieve.speaker_id or segment.speaker_id == sieve.speaker_id)
        and (not sieve.remark or _is_noticed(sieve.remark, noticed.get(segment.id, ())))
        and (not sieve.standing or _stands(sieve.standing, segment, lines.get(segment.id)))
        and (not text or text in _words(segment, lines.get(segment.id)))
    )


def _is_noticed(remark: str, kinds: Collection[str]) -> bool:
    return bool(kinds) if remark == ANY_REMARK else remark in kinds


def _words(segment: Segment, line: Line | None) -> str:
    notes = (note.text for note in line.notes) if line else ()
    return "\n".join((segment.text, line.text if line else "", *notes)).casefold()


def _stands(standing: Standing, segment: Segment, line: Line | None) -> bool:
    there = line is not None and bool(line.text.strip())
    if standing is Standing.MISSING:
        return not there and bool(segment.text.strip())
    if line is None:
        return standing is Standing.UNSETTLED and bool(segment.text.strip())
    if standing is Standing.UNSETTLED:
        return line.state is LineState.INITIAL
    if standing is Standing.STALE:
        return there and line_is_stale(segment, line)
    if standing is Standing.LOCKED:
        return line.locked
    if standing is Standing.NOTED:
        return bool(line.notes)
    return there and line.state.value == standing.value
