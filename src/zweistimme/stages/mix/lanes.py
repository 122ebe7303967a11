"""The lanes of a mix, read block by block: the dub, its room, and what lies under both."""

from __future__ import annotations

from collections.abc import Collection, Iterator, Sequence
from pathlib import Path
from typing import Final

import numpy as np

from zweistimme.project.mix_settings import Place
from zweistimme.project.times import RATE
from zweistimme.sound.arrays import Mono, Sound
from zweistimme.sound.room_response import Room, reach_samples, reflected, response_of, rung
from zweistimme.stages.mix.placed import PlacedTake
from zweistimme.stages.mix.sitting import Sitting
from zweistimme.stages.mix.treated_clips import treated_clips
from zweistimme.stages.mix.treatments import UNTREATED
from zweistimme.store.clips import ClipStore

BLOCK: Final = 10 * RATE
_EARLY_REACH: Final = RATE // 20


class DubLane:
    """The dub alone, one channel, and what of it its room answers."""

    def __init__(self, takes: Sequence[PlacedTake], sitting: Sitting, clips: ClipStore, cache: Path) -> None:
        self._takes, self._sitting, self._clips, self._cache = takes, sitting, clips, cache
        self._starts = np.array([item.start for item in takes], dtype=np.int64)
        self._longest = max((item.length for item in takes), default=0)
        self._groups = _groups(takes, sitting)

    def read(self, start: int, count: int, people: Collection[str] | None = None) -> Mono:
        """*count* samples from *start*, shape ``(count,)``; of some *people* alone, if wanted."""
        block = np.zeros(count, dtype=np.float32)
        for item in self._near(start, count):
            if people is None or item.segment.speaker_id in people:
                self._add(block, start, item, self._sitting.gains.get(item.segment.id, 1.0))
        return block

    def room(self, start: int, count: int, people: Collection[str] | None = None) -> Sound:
        """What the room answers, *count* samples from *start*, shape ``(2, count)``: reflections alone for whoever is
        near, all of it for whoever is at a distance; of some *people* alone, if wanted."""
        sides = np.zeros((2, count), dtype=np.float32)
        for (room, is_near), members in self._groups.items():
            response = response_of(room)
            back = _EARLY_REACH if is_near else reach_samples(response)
            sent = np.zeros(back + count, dtype=np.float32)
            spoken = [
                item
                for item in self._near(start - back, back + count)
                if item.segment.id in members and (people is None or item.segment.speaker_id in people)
            ]
            for item in spoken:
                segment_id = item.segment.id
                self._add(sent, start - back, item, self._sitting.gains.get(segment_id, 1.0) * members[segment_id])
            if spoken:
                sides += (reflected if is_near else rung)(sent, response)[:, back:]
        return sides

    def _near(self, start: int, count: int) -> list[PlacedTake]:
        first, last = np.searchsorted(self._starts, (start - self._longest, start + count))
        return [item for item in self._takes[first:last] if item.start + item.length > start]

    def _add(self, block: Mono, start: int, item: PlacedTake, gain: float) -> None:
        a, b = max(item.start, start), min(item.start + item.length, start + len(block))
        if b > a:
            treatment = self._sitting.treatments.get(item.segment.id, UNTREATED)
            (clip,) = treated_clips([item], [treatment], self._clips, self._cache)
            block[a - start : b - start] += clip[a - item.start : b - item.start] * np.float32(gain)


def _groups(takes: Sequence[PlacedTake], sitting: Sitting) -> dict[tuple[Room, bool], dict[str, float]]:
    """Lines by the room they are heard in and whether they are near, with what of each is sent there."""
    found: dict[tuple[Room, bool], dict[str, float]] = {}
    for item in takes:
        known = sitting.rooms.get(item.segment.id)
        if known is not None:
            near = sitting.treatments.get(item.segment.id, UNTREATED).place is Place.NEAR
            found.setdefault((known[0], near), {})[item.segment.id] = known[1]
    return found


def blocks_of(length: int) -> Iterator[tuple[int, int]]:
    """(start, count) of the blocks of *length* samples."""
    for start in range(0, length, BLOCK):
        yield start, min(BLOCK, length - start)
