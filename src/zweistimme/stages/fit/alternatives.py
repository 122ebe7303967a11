"""Where else a line could stand: by the plan alone, nearer to the lips, in a more natural voice, where it was."""

from __future__ import annotations

from dataclasses import dataclass, replace
from enum import StrEnum
from typing import Final

from zweistimme.project.access import find_version, put_version
from zweistimme.project.fit_edits import free_pins
from zweistimme.project.hand_fit import AS_PLANNED
from zweistimme.project.line_edits import put_line_as
from zweistimme.project.model import Placement, Preference, Project
from zweistimme.stages.fit.by_hand import chain_placements


class Kind(StrEnum):
    """What an alternative is."""

    PLANNED = "as planned"
    LIPS = "on the lips"
    VOICE = "natural voice"
    BEFORE = "as before"


@dataclass(frozen=True, slots=True)
class Alternative:
    """A place for a take: microseconds, and the tempo its speech has there."""

    kind: Kind
    start_us: int
    length_us: int
    tempo: float


_PREFERENCES: Final = {Kind.LIPS: Preference.LIPS, Kind.VOICE: Preference.VOICE}


def alternatives(project: Project, tag: str, segment_id: str) -> list[Alternative]:
    """Where the take of a line would stand with nothing held by hand, as planned and as one or the other is preferred;
    and where it is now. Those that are alike to a hundredth of a second are there once."""
    version = find_version(project, tag)
    before = version.placements.get(segment_id)
    free = put_line_as(free_pins(project, tag, [segment_id]), tag, segment_id, hand=AS_PLANNED)
    found = []
    for kind in (Kind.PLANNED, Kind.LIPS, Kind.VOICE):
        version = find_version(free, tag)
        limits = None if kind in _PREFERENCES else version.limits
        preference = _PREFERENCES.get(kind, version.preference)
        other = put_version(free, replace(version, preference=preference, limits=limits))
        placed = next((one for one in chain_placements(other, tag, segment_id) if one.segment_id == segment_id), None)
        if placed is not None:
            found.append(_as(kind, placed))
    if before is not None:
        found.append(_as(Kind.BEFORE, before))
    return _unlike(found)


def _as(kind: Kind, placed: Placement) -> Alternative:
    return Alternative(kind, placed.start_us, placed.length_us, placed.tempo)


def _unlike(found: list[Alternative]) -> list[Alternative]:
    kept: list[Alternative] = []
    for one in found:
        same = any(abs(one.start_us - k.start_us) + abs(one.length_us - k.length_us) < 10_000 for k in kept)
        if not same or one.kind is Kind.BEFORE:
            kept.append(one)
    return kept
