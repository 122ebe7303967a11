"""The lanes of a mix, read block by block: the dub, and what lies under it."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from zweistimme.media.sound_reader import SoundReader
from zweistimme.project.model import Placement, Project, Style, Take, Version
from zweistimme.project.programme import SoundTrack
from zweistimme.project.times import RATE, SECOND_US
from zweistimme.sound.arrays import Floats, Mono, Sound, amplitude
from zweistimme.sound.ducking import Ducking, curve_gain, ducking_curve
from zweistimme.stages.fit.render import fitted_clip, placed_samples
from zweistimme.store.clips import ClipStore

BLOCK = 10 * RATE


@dataclass(frozen=True, slots=True)
class PlacedTake:
    """A take and where it stands, in samples."""

    take: Take
    placement: Placement
    start: int
    length: int


def placed_takes(project: Project, version: Version) -> list[PlacedTake]:
    """Every placement of a version, by start."""
    there = {segment.id for segment in project.segments}
    placed = []
    for placement in version.placements.values():
        take = version.takes.get(placement.take_id)
        if take is not None and placement.segment_id in there:
            placed.append(PlacedTake(take, placement, *placed_samples(placement)))
    return sorted(placed, key=lambda item: item.start)


def clip_of(item: PlacedTake, clips: ClipStore, cache: Path) -> Mono:
    """The fitted sound of a placed take."""
    return fitted_clip(item.take, item.placement, clips, cache)


class DubLane:
    """The dub alone, one channel; *gains* are factors by segment."""

    def __init__(
        self, takes: list[PlacedTake], clips: ClipStore, cache: Path, gains: Mapping[str, float] | None = None
    ) -> None:
        self._takes, self._clips, self._cache, self._gains = takes, clips, cache, gains or {}
        self._starts = np.array([item.start for item in takes], dtype=np.int64)
        self._longest = max((item.length for item in takes), default=0)

    def read(self, start: int, count: int) -> Mono:
        """*count* samples from *start*, shape ``(count,)``."""
        block = np.zeros(count, dtype=np.float32)
        first, last = np.searchsorted(self._starts, (start - self._longest, start + count))
        for item in self._takes[first:last]:
            a, b = max(item.start, start), min(item.start + item.length, start + count)
            if b > a:
                clip = clip_of(item, self._clips, self._cache)
                gain = np.float32(self._gains.get(item.placement.segment_id, 1.0))
                block[a - start : b - start] += clip[a - item.start : b - item.start] * gain
        return block


class UnderLane:
    """What lies under the dub: the bed, or the original made to give way, with its own rest beside it if it was picked
    out of a track; stereo."""

    def __init__(
        self, reader: SoundReader, curve_db: Floats | None, gain_db: float, beside: UnderLane | None = None
    ) -> None:
        self._reader, self._curve, self._gain = reader, curve_db, np.float32(amplitude(gain_db))
        self._beside = beside

    def read(self, start: int, count: int) -> Sound:
        """*count* samples from *start*, shape ``(2, count)``."""
        sound = self._own(start, count)
        return sound if self._beside is None else sound + self._beside.read(start, count)

    def _own(self, start: int, count: int) -> Sound:
        sound = self._reader.read(start, count) * self._gain
        if len(sound) == 1:
            sound = np.repeat(sound, 2, axis=0)
        if self._curve is not None:
            sound = sound * curve_gain(self._curve, start, count, RATE)
        return sound


def under_lane(
    project: Project, version: Version, takes: list[PlacedTake], opened: Callable[[SoundTrack], SoundReader]
) -> UnderLane:
    """What lies under the dub of a version; *opened* opens a track of the programme, which there is."""
    programme = project.programme
    assert programme is not None
    bed = programme.bed
    if bed is not None and version.style is not Style.VOICE_OVER:
        return UnderLane(opened(bed), under_curve(project, version, takes, is_bed=True), project.mix.bed_db)
    rest = UnderLane(opened(bed), None, project.mix.bed_db) if bed is not None and is_rest(project) else None
    return UnderLane(opened(programme.sound), under_curve(project, version, takes, is_bed=False), 0.0, rest)


def is_rest(project: Project) -> bool:
    """Whether the bed is what the dialogue's own track has besides it, so that the dialogue has nothing of it."""
    programme = project.programme
    if programme is None or programme.bed is None:
        return False
    sound, bed = programme.sound, programme.bed
    rest = bool(sound.pick.channels) and bed.pick.channels == f"-{sound.pick.channels}"
    return rest and sound.path == bed.path and sound.pick.tracks == bed.pick.tracks


def under_curve(project: Project, version: Version, takes: list[PlacedTake], *, is_bed: bool) -> Floats | None:
    """How the lane under the dub gives way, in dB; None where a bed simply lies there.

    Where the original itself lies under the dub it is kept down wherever either of them speaks, lest a word of
    the original stick out; in a voice-over it gives way to the dub alone.
    """
    if is_bed or project.programme is None:
        return None
    duration = project.programme.sound.duration_us / SECOND_US
    speech = [(item.start / RATE, (item.start + item.length) / RATE) for item in takes]
    if version.style is Style.VOICE_OVER:
        return ducking_curve(speech, duration, Ducking(project.mix.voice_over_duck_db))
    speech += [(s.start_us / SECOND_US, s.end_us / SECOND_US) for s in project.segments]
    return ducking_curve(speech, duration, Ducking(project.mix.duck_db))


def blocks_of(length: int) -> Iterator[tuple[int, int]]:
    """(start, count) of the blocks of *length* samples."""
    for start in range(0, length, BLOCK):
        yield start, min(BLOCK, length - start)
