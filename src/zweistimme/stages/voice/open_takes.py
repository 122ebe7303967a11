"""Which takes are to be made, and from what."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable
from dataclasses import dataclass, replace

from zweistimme.project.access import find_version
from zweistimme.project.facts import cast_voice_of, said_in, speaker_manner, spoken_segments, take_fingerprint, voice_of
from zweistimme.project.model import Line, Manner, Project, Segment, Version
from zweistimme.project.progress import Mark, marks_of
from zweistimme.stages.voice.manners import on_top


@dataclass(frozen=True, slots=True)
class OpenTake:
    """A line that needs a take, the voice to make it with, and how that is to speak; *made_from* is the fingerprint of
    all that. Another take of the same has another *seed*."""

    segment: Segment
    line: Line
    voice: str
    manner: Manner
    made_from: str
    seed: int = 0


def take_to_make(project: Project, version: Version, segment: Segment, seed: int = 0) -> OpenTake | None:
    """What is to be made for a segment; None if it has no words or no voice."""
    line, name, voice = version.lines.get(segment.id), cast_voice_of(version, segment), voice_of(version, segment)
    if line is None or not line.text.strip() or name is None or voice is None:
        return None
    manner = on_top(speaker_manner(version, segment), line.manner)
    made_from = take_fingerprint(line, voice, said_in(project, version, line))
    return OpenTake(segment, line, name, manner, made_from, seed + manner.seed)


def open_takes(project: Project, tag: str) -> list[OpenTake]:
    """Lines with words whose chosen take is missing or stale and whose speaker has a voice."""
    version = project.versions[tag]
    todo = (
        take_to_make(project, version, segment)
        for segment, marks in marks_of(project, version)
        if marks & Mark.TO_VOICE
    )
    return [item for item in todo if item is not None]


def takes_anew(project: Project, tag: str, segment_ids: Iterable[str]) -> list[OpenTake]:
    """These lines, as far as they have words and a voice, to be made once more whatever takes they have; a line that is
    named several times as often."""
    version, wanted = find_version(project, tag), Counter(segment_ids)
    made = Counter((take.segment_id, take.made_from) for take in version.takes.values())
    todo = (take_to_make(project, version, segment) for segment in spoken_segments(project) if segment.id in wanted)
    return [
        replace(item, seed=item.seed + made[item.segment.id, item.made_from] + more)
        for item in todo
        if item is not None
        for more in range(wanted[item.segment.id])
    ]
