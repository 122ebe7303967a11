"""Takes that a hand puts somewhere: pinned, and what that moves planned again at once."""

from __future__ import annotations

from typing import Final

import numpy as np

from zweistimme.project.access import find_version
from zweistimme.project.edits import pin_line, put_placements
from zweistimme.project.model import Pin, Placement, Project
from zweistimme.project.times import seconds_to_us
from zweistimme.stages.fit.placements import TakenLine, planned, taken_lines

_APART_US: Final = seconds_to_us(4.0)
"""Lines so far apart do not move each other."""
_MOST_EACH_WAY: Final = 30


def pin_and_plan(project: Project, tag: str, segment_id: str, pin: Pin | None) -> Project:
    """Pin a placement, or leave it to the plan again (None); its neighbours, where it was and where it is, are planned
    again around it. Lines further off stay where they are."""
    before = find_version(project, tag).placements.get(segment_id)
    project = pin_line(project, tag, segment_id, pin)
    if before is None:
        return project
    lines = taken_lines(project, tag)
    if all(item.segment.id != segment_id for item in lines):  # its take is gone, so there is nothing to plan
        return project
    chain, held = _chain(lines, dict(find_version(project, tag).placements), segment_id, before.start_us)
    placements = planned(project, tag, chain, held)
    return put_placements(project, tag, placements)


def _chain(
    lines: list[TakenLine], placements: dict[str, Placement], segment_id: str, was_us: int
) -> tuple[list[TakenLine], dict[str, Placement]]:
    """The lines that one of them may move, and those at their ends that hold still, with what these have."""
    starts = np.array([item.line.pin.start_us if item.line.pin else item.segment.start_us for item in lines])
    order = np.argsort(starts, kind="stable")
    ends = starts + np.array([item.segment.end_us - item.segment.start_us for item in lines])
    ordered_starts, ordered_ends = starts[order], np.maximum.accumulate(ends[order])
    apart = np.flatnonzero(ordered_starts[1:] - ordered_ends[:-1] >= _APART_US) + 1  # places that begin anew
    here = int(np.flatnonzero([lines[k].segment.id == segment_id for k in order])[0])
    there = int(np.clip(np.searchsorted(ordered_starts, was_us), 0, len(lines) - 1))
    wanted: set[int] = set()
    ends_held: set[int] = set()
    for place in (here, there):
        group = int(np.searchsorted(apart, place, side="right"))
        first = int(apart[group - 1]) if group else 0
        last = int(apart[group]) if group < len(apart) else len(lines)
        low, high = max(first, place - _MOST_EACH_WAY), min(last, place + _MOST_EACH_WAY + 1)
        wanted |= set(range(low, high))
        ends_held |= {k for k in (low - 1, high) if first <= k < last}
    held_places = {k for k in ends_held - wanted if lines[order[k]].segment.id in placements}
    chosen = sorted(int(order[k]) for k in wanted | held_places)
    held = {lines[order[k]].segment.id: placements[lines[order[k]].segment.id] for k in held_places}
    return [lines[k] for k in chosen], held
