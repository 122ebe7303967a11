"""A new transcript in place of one that is there: who and what is the same stays the same, with all it has."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import replace
from typing import Final

from zweistimme.project.access import in_order, people_made, person_number, segment_id, segments_made
from zweistimme.project.intervals import Intervals
from zweistimme.project.model import Project, Segment, Speaker
from zweistimme.project.transcript import set_transcript

_SHARED: Final = 0.5
"""How much of the longer of two segments must be common for them to be the same."""


def replace_transcript(project: Project, speakers: Iterable[Speaker], segments: Iterable[Segment]) -> Project:
    """Replace the transcript. A segment that lies where one lay is that one: its lines and takes stay, stale if it
    says something else now. A speaker with a known name is that person, and keeps the voices cast for it."""
    people, known = _known_people(project, list(speakers))
    given = [replace(segment, speaker_id=people[segment.speaker_id]) for segment in in_order(segments)]
    return set_transcript(project, known, _with_known_ids(project, given))


def _known_people(project: Project, speakers: Sequence[Speaker]) -> tuple[dict[str, str], list[Speaker]]:
    """Which id each given speaker has from now on, and the speakers under these ids."""
    by_name = {speaker.name: speaker for speaker in project.speakers.values()}
    ids: dict[str, str] = {}
    number = people_made(project)
    made = []
    for speaker in speakers:
        there = by_name.get(speaker.name)
        if there is not None:
            ids[speaker.id] = there.id
            pitch_hz, traits = speaker.pitch_hz or there.pitch_hz, speaker.traits or there.traits
            made.append(replace(speaker, id=there.id, pitch_hz=pitch_hz, traits=traits))
            continue
        number = max(number + 1, person_number(speaker.id))
        fresh = f"p{number}"
        ids[speaker.id] = fresh
        made.append(replace(speaker, id=fresh))
    return ids, made


def _with_known_ids(project: Project, given: Sequence[Segment]) -> list[Segment]:
    """The given segments, in order, with the ids of those they take the place of; the others with ids nobody had."""
    before = project.segments
    spans = Intervals((segment.start_us, segment.end_us) for segment in before)
    used: set[str] = set()
    number = segments_made(project)
    named = []
    for segment in given:
        match = _same_place(segment, before, spans, used)
        if match:
            used.add(match)
        else:
            number += 1
            match = segment_id(number)
        named.append(replace(segment, id=match))
    return named


def _same_place(segment: Segment, before: Sequence[Segment], spans: Intervals, used: set[str]) -> str:
    """The id of the segment that lies there, or empty."""
    best, best_share = "", _SHARED
    for place, time in spans.shared(segment.start_us, segment.end_us):
        other = before[place]
        share = time / max(segment.end_us - segment.start_us, other.end_us - other.start_us)
        share += 0.2 if other.text == segment.text else 0.0
        if share > best_share and other.id not in used:
            best, best_share = other.id, share
    return best
