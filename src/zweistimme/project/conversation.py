"""Who speaks to whom, and how they address each other. What is not said by anybody is derived from who answers."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from itertools import groupby
from typing import Final

from zweistimme.project.access import with_key, without_keys
from zweistimme.project.brief import Address, Brief, pair_of
from zweistimme.project.errors import EditError
from zweistimme.project.kept_values import KeptValues
from zweistimme.project.model import Project, Segment

LONGEST_NOTES: Final = 10_000
_ANSWERS_WITHIN_US: Final = 4_000_000
"""Who speaks later than this does not answer; the plan takes a silence of that length for an end, too."""
_kept: KeptValues[Mapping[str, str]] = KeptValues()


def listeners(project: Project) -> Mapping[str, str]:
    """By segment, the person it is said to: who speaks next, or else who spoke before, within four seconds. Segments
    that nobody seems to answer are not there."""
    return _kept.get("", (project.segments,), lambda: _listeners(project.segments))


def _listeners(segments: tuple[Segment, ...]) -> dict[str, str]:
    turns = [list(turn) for _, turn in groupby(segments, key=lambda segment: segment.speaker_id)]
    found: dict[str, str] = {}
    for place, turn in enumerate(turns):
        before = turns[place - 1] if place else None
        after = turns[place + 1] if place + 1 < len(turns) else None
        to = ""
        if after is not None and after[0].start_us - turn[-1].end_us <= _ANSWERS_WITHIN_US:
            to = after[0].speaker_id
        elif before is not None and turn[0].start_us - before[-1].end_us <= _ANSWERS_WITHIN_US:
            to = before[0].speaker_id
        if to:
            found |= {segment.id: to for segment in turn}
    return found


def address_at(project: Project, segment: Segment) -> Address:
    """How the one who is spoken to is addressed, as far as somebody said so."""
    to = listeners(project).get(segment.id)
    return project.brief.address.get(pair_of(segment.speaker_id, to), Address.UNKNOWN) if to else Address.UNKNOWN


def pairs_speaking(project: Project) -> list[tuple[str, str, int]]:
    """Who speaks to whom, and in how many segments, the most first."""
    to = listeners(project)
    count: dict[tuple[str, str], int] = {}
    for segment in project.segments:
        if segment.id in to:
            pair = segment.speaker_id, to[segment.id]
            count[pair] = count.get(pair, 0) + 1
    return [(*pair, n) for pair, n in sorted(count.items(), key=lambda item: -item[1])]


def set_brief(
    project: Project, *, subject: str | None = None, audience: str | None = None, notes: str | None = None
) -> Project:
    """Say what a programme is about, who it is for, or what else a translator has to know; what is None stays."""
    brief = project.brief
    if subject is not None:
        brief = replace(brief, subject=subject.strip())
    if audience is not None:
        brief = replace(brief, audience=audience.strip())
    if notes is not None:
        brief = replace(brief, notes=notes.strip())
    if max(len(brief.subject), len(brief.audience), len(brief.notes)) > LONGEST_NOTES:
        raise EditError("Notes on the programme have {most:,} letters at most.", most=LONGEST_NOTES)
    return project if brief == project.brief else replace(project, brief=brief)


def set_address(project: Project, speaker_id: str, listener_id: str, address: Address) -> Project:
    """Say how one person addresses another."""
    for one in (speaker_id, listener_id):
        if one not in project.speakers:
            raise EditError("There is no speaker {speaker_id} in this project.", speaker_id=one)
    if speaker_id == listener_id:
        raise EditError("Nobody addresses themselves here. Name two people.")
    pair, known = pair_of(speaker_id, listener_id), project.brief.address
    after = with_key(known, pair, address) if address else without_keys(known, [pair])
    return project if after == known else replace(project, brief=replace(project.brief, address=after))


def readdressed(brief: Brief, gone: str, instead: str) -> Brief:
    """A brief in which somebody is somebody else: what was said of the one holds where nothing is of the other."""
    address = dict(brief.address)
    for pair, how in brief.address.items():
        people = pair.split(">")
        if gone in people:
            del address[pair]
            speaker, listener = (instead if one == gone else one for one in people)
            if speaker != listener:
                address.setdefault(pair_of(speaker, listener), how)
    return replace(brief, address=address) if address != brief.address else brief
