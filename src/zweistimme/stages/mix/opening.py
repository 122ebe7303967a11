"""The lanes of a version opened for a whole run: its takes at their levels over what lies under them."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import ExitStack
from dataclasses import dataclass, replace

from zweistimme.media.sound_reader import SoundReader
from zweistimme.project.access import find_version
from zweistimme.project.errors import EngineError, MediaError
from zweistimme.project.programme import SoundTrack
from zweistimme.project.times import us_to_samples
from zweistimme.sound.arrays import Mono, Sound
from zweistimme.stages.mix.lanes import DubLane, PlacedTake, UnderLane, blocks_of, placed_takes, under_lane
from zweistimme.stages.mix.levels import measured_gains
from zweistimme.stages.work import Report, Work, open_sound


@dataclass(frozen=True, slots=True)
class MixLanes:
    """The dub and what lies under it, for as many samples as the programme has."""

    dub: DubLane
    under: UnderLane
    length: int

    def blocks(self, report: Report) -> Iterator[tuple[Mono, Sound]]:
        """Both lanes, block by block."""
        for start, count in blocks_of(self.length):
            yield self.dub.read(start, count), self.under.read(start, count)
            report((start + count) / self.length)


def opened_mix(work: Work, tag: str, stack: ExitStack) -> tuple[MixLanes, list[PlacedTake]]:
    """Open a version's lanes, its takes measured; the files are closed with *stack*."""
    project, version = work.project, find_version(work.project, tag)
    programme = project.programme
    if programme is None:
        raise MediaError("There is no programme to mix for. Bring one in first.")
    takes = placed_takes(project, version)
    if not takes:
        raise EngineError("{tag} has no placements to mix yet. Fit it first.", tag=tag)

    def opened(track: SoundTrack) -> SoundReader:
        return stack.enter_context(open_sound(work, track))

    under = under_lane(project, version, takes, opened)
    gains = measured_gains(replace(work, report=work.part(0.0, 0.2)), tag, takes)
    dub = DubLane(takes, work.clips, work.cache, gains)
    return MixLanes(dub, under, us_to_samples(programme.sound.duration_us)), takes
