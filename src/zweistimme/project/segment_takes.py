"""The takes of a segment, found without looking through all takes of a version."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import dataclass
from itertools import compress
from operator import attrgetter
from threading import Lock
from typing import Final

from zweistimme.project.model import Take, Version
from zweistimme.project.row_changes import changed_keys

_SEGMENT_ID = attrgetter("segment_id")
_FEW: Final = 64
"""More segments than these are looked for among all takes."""
_VERSIONS: Final = 64


@dataclass(slots=True)
class _Index:
    """The ids of takes by their segment, each with a number by which they stand in order, as they are in these *takes*;
    it follows edits of few takes."""

    takes: Mapping[str, Take]
    by_segment: dict[str, list[tuple[int, str]]]
    last: int

    def follow(self, takes: Mapping[str, Take]) -> bool:
        """Whether it could be brought to the state of other takes."""
        keys = changed_keys(self.takes, takes)
        if keys is None:
            return False
        for key in keys:
            was, now = self.takes.get(key), takes.get(key)
            if was is not None and now is not None and was.segment_id == now.segment_id:
                continue
            number = self.last + 1
            if was is not None:
                there = self.by_segment[was.segment_id]
                number, _ = there.pop(next(place for place, (_, other) in enumerate(there) if other == key))
            if now is not None:
                self.last = max(self.last, number)
                self.by_segment.setdefault(now.segment_id, []).append((number, key))
        self.takes = takes
        return True


_indexes: dict[str, _Index] = {}
_turn = Lock()


def takes_of(version: Version, segment_ids: Collection[str]) -> list[Take]:
    """All takes of these segments, in the order in which they were made."""
    takes = version.takes
    if len(segment_ids) > _FEW:
        return [*compress(takes.values(), map(segment_ids.__contains__, map(_SEGMENT_ID, takes.values())))]
    with _turn:
        index = _indexes.get(version.tag)
        if index is None or not index.follow(takes):
            index = _made(takes)
            if len(_indexes) >= _VERSIONS:
                _indexes.clear()
            _indexes[version.tag] = index
        there = [numbered for one in segment_ids for numbered in index.by_segment.get(one, ())]
    return [takes[key] for _, key in sorted(there)]


def _made(takes: Mapping[str, Take]) -> _Index:
    by_segment: dict[str, list[tuple[int, str]]] = {}
    for number, (key, take) in enumerate(takes.items()):
        by_segment.setdefault(take.segment_id, []).append((number, key))
    return _Index(takes, by_segment, len(takes))


def forget_takes() -> None:
    """Let go of what is kept of a project."""
    with _turn:
        _indexes.clear()
