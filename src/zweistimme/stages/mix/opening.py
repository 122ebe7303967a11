"""The lanes of a version opened for a whole run: its takes as they sit, over what lies under them."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import ExitStack
from dataclasses import dataclass, replace

import numpy as np

from zweistimme.media.sound_reader import SoundReader
from zweistimme.project.access import find_version
from zweistimme.project.errors import EngineError, MediaError
from zweistimme.project.findings import Finding
from zweistimme.project.programme import SoundTrack
from zweistimme.project.times import us_to_samples
from zweistimme.sound.arrays import Mono, Sound
from zweistimme.stages.mix.beneath import UnderLane, measured_tone, under_lane, wants_tone
from zweistimme.stages.mix.lanes import DubLane, blocks_of
from zweistimme.stages.mix.placed import PlacedTake, placed_takes
from zweistimme.stages.mix.sitting import Sitting, measured_sitting
from zweistimme.stages.work import Report, Work, open_sound


@dataclass(frozen=True, slots=True)
class MixBlock:
    """A stretch of a mix, lane by lane: the dub, shape ``(n,)``; what its room answers and what lies under it, ``(2,
    n)``; and each person wanted by themselves, ``(n,)``."""

    dub: Mono
    room: Sound
    under: Sound
    people: dict[str, Mono]

    @property
    def sides(self) -> Sound:
        """All that is not in the middle."""
        return np.asarray(self.room + self.under)


@dataclass(frozen=True, slots=True)
class MixLanes:
    """The dub with its room and what lies under it, for as many samples as the programme has."""

    dub: DubLane
    under: UnderLane
    length: int
    sitting: Sitting

    def blocks(
        self, report: Report, span: tuple[int, int] | None = None, people: tuple[str, ...] = ()
    ) -> Iterator[MixBlock]:
        """The lanes, block by block, of all of it or of a *span* of samples; with *people* by themselves."""
        first, last = span or (0, self.length)
        for start, count in blocks_of(last - first):
            yield self.block(first + start, count, people)
            report((start + count) / (last - first))

    def block(self, start: int, count: int, people: tuple[str, ...] = ()) -> MixBlock:
        """*count* samples of each lane from *start*."""
        alone = {person: self.dub.read(start, count, (person,)) for person in people}
        return MixBlock(self.dub.read(start, count), self.dub.room(start, count), self.under.read(start, count), alone)


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

    tone = measured_tone(work) if wants_tone(project, version) else None
    if wants_tone(project, version) and tone is None:
        work.say(Finding("no-room-tone", {"version": tag}))
    under = under_lane(project, version, takes, opened, tone)
    sitting = measured_sitting(replace(work, report=work.part(0.0, 0.3)), tag, takes)
    dub = DubLane(takes, sitting, work.clips, work.cache)
    return MixLanes(dub, under, us_to_samples(programme.sound.duration_us), sitting), takes
