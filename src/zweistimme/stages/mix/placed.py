"""The takes of a version at their places, in samples."""

from __future__ import annotations

from dataclasses import dataclass

from zweistimme.project.model import Placement, Project, Segment, Take, Version
from zweistimme.stages.fit.render import placed_samples


@dataclass(frozen=True, slots=True)
class PlacedTake:
    """A take of a segment and where it stands, in samples."""

    take: Take
    placement: Placement
    start: int
    length: int
    segment: Segment


def placed_takes(project: Project, version: Version) -> list[PlacedTake]:
    """Every placement of a version, by start."""
    there = {segment.id: segment for segment in project.segments}
    placed = []
    for placement in version.placements.values():
        take, segment = version.takes.get(placement.take_id), there.get(placement.segment_id)
        if take is not None and segment is not None:
            placed.append(PlacedTake(take, placement, *placed_samples(placement), segment))
    return sorted(placed, key=lambda item: item.start)
