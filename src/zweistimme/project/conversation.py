"""Who speaks to whom, and how they address each other. What is not said by anybody is derived from who answers."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
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
    found: dict[str, str] = {}
    first = 0
    for _, turn in groupby(segments, key=lambda segment: segment.speaker_id):
        end = first + sum(1 for _ in turn)
        if to := _answers(segments, first, end):
            found |= dict.fromkeys((segment.id for segment in segments[first:end]), to)
        first = end
    return found


def _answers(segments: Sequence[Segment], first: int, end: int) -> str:
    """Who is spoken to in the turn ``segments[first:end]``; empty if nobody seems to be."""
    after, before = segments[end : end + 1], segments[max(0, first - 1) : first]
    if after and after[0].start_us - segments[end - 1].end_us <= _ANSWERS_WITHIN_US:
        return after[0].speaker_id
    if before and segments[first].start_us - before[0].end_us <= _ANSWERS_WITHIN_US:
        return before[0].speaker_id
    return ""


def listener_at(segments: Sequence[Segment], place: int) -> str:
    """To whom one segment is said, found without looking at others than those around it; empty if to nobody."""
    speaker, first, end = segments[place].speaker_id, place, place + 1
    while first and segments[first - 1].speaker_id == speaker:
        first -= 1
    while end < len(segments) and segments[end].speaker_id == speaker:
        end += 1
    return _answers(segments, first, end)


def address_at(project: Project, segment: Segment) -> Address:
    """How the one who is spoken to is addressed, as far as somebody said so."""
    return address_to(project, segment.speaker_id, listeners(project).get(segment.id, ""))


def address_to(project: Project, speaker_id: str, listener_id: str) -> Address:
    """How one person addresses another, as far as somebody said so."""
    known = project.brief.address.get(pair_of(speaker_id, listener_id)) if listener_id else None
    return known or Address.UNKNOWN


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


def addressed_among(brief: Brief, people: Collection[str]) -> Brief:
    """A brief without what was said of how people address each other of whom one is gone."""
    address = {pair: how for pair, how in brief.address.items() if all(one in people for one in pair.split(">"))}
    return replace(brief, address=address) if len(address) != len(brief.address) else brief


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
