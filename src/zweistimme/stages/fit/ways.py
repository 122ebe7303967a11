"""One line heard in several fits: as it was spoken, stretched as a whole, planned as a whole, phrase by phrase, as
before."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum
from pathlib import Path

from zweistimme.project.access import find_segment, find_version
from zweistimme.project.model import Placement, Project
from zweistimme.project.times import us_to_samples
from zweistimme.sound.arrays import Mono
from zweistimme.sound.stretch import stretch_by_tempo
from zweistimme.stages.fit.by_hand import chain_of
from zweistimme.stages.fit.placements import planned
from zweistimme.stages.fit.render import fitted_clip, trimmed
from zweistimme.store.clips import ClipStore


class Way(StrEnum):
    """A fit to hear."""

    PLAIN = "as spoken"
    UNIFORM = "stretched to its slot"
    BY_LINE = "line by line"
    NOW = "as it is now"
    BEFORE = "as before"


@dataclass(frozen=True, slots=True, eq=False)
class HeardWay:
    """A fit of a line as sound at 48 kHz, shape ``(n,)``, and the time at which it begins, in microseconds."""

    way: Way
    samples: Mono
    start_us: int


def heard_ways(
    project: Project, tag: str, segment_id: str, clips: ClipStore, cache: Path, before: Placement | None = None
) -> list[HeardWay]:
    """A line in every fit there is of it; *before* is where it was, if it was elsewhere."""
    version, segment = find_version(project, tag), find_segment(project, segment_id)
    now = version.placements.get(segment_id)
    take = version.takes.get(now.take_id) if now else None
    if now is None or take is None:
        return []
    spoken = trimmed(take, clips)
    slot = max(1, us_to_samples(segment.end_us - segment.start_us))
    tempo = min(4.0, max(0.25, len(spoken) / slot))
    uniform = stretch_by_tempo(spoken[None], tempo, even=True)[0]
    found = [HeardWay(Way.PLAIN, spoken, segment.start_us), HeardWay(Way.UNIFORM, uniform, segment.start_us)]
    placed: dict[Way, Placement | None] = {Way.BY_LINE: by_line(project, tag, segment_id), Way.NOW: now}
    placed[Way.BEFORE] = before if before is not None and before != now else None
    for way, one in placed.items():
        used = version.takes.get(one.take_id) if one is not None else None
        if one is not None and used is not None:
            found.append(HeardWay(way, fitted_clip(used, one, clips, cache), one.start_us))
    return found


def by_line(project: Project, tag: str, segment_id: str) -> Placement | None:
    """Where a line would be with all lines around it planned as wholes."""
    chain, held = chain_of(project, tag, segment_id)
    places = planned(project, tag, chain, held, by_phrase=False) if chain else []
    return next((one for one in places if one.segment_id == segment_id), None)
