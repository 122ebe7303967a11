"""Takes that a hand puts somewhere: pinned, and what that moves planned again at once."""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Callable, Mapping
from typing import Final

import numpy as np

from zweistimme.project.access import find_segment, find_version
from zweistimme.project.edits import pin_line, put_placements
from zweistimme.project.model import Pin, Placement, Project
from zweistimme.project.times import SECOND_US
from zweistimme.stages.fit.chains import chain_edges
from zweistimme.stages.fit.placements import planned, taken_lines
from zweistimme.stages.fit.taken import TakenLine

_MOST_EACH_WAY: Final = 60
_NEAR: Final = _MOST_EACH_WAY + 8
"""Segments looked at on each side: more than are planned, so that what is planned is known to end or to go on."""


def pin_and_plan(project: Project, tag: str, segment_id: str, pin: Pin | None) -> Project:
    """Pin a placement, or leave it to the plan again (None); its chains, where it was and where it is, are planned
    again around it. Lines behind a long silence stay where they are, and those further off than sixty lines."""
    return change_and_plan(project, tag, segment_id, lambda before: pin_line(before, tag, segment_id, pin))


def change_and_plan(project: Project, tag: str, segment_id: str, change: Callable[[Project], Project]) -> Project:
    """Change how a line is fitted, and plan its chains again in the same way."""
    was = find_version(project, tag).placements.get(segment_id)
    project = change(project)
    return project if was is None else put_placements(project, tag, chain_placements(project, tag, segment_id, was))


def chain_placements(project: Project, tag: str, segment_id: str, was: Placement | None = None) -> list[Placement]:
    """Placements of the chain that a line is in, and of that in which it *was*; none where it has no take or place."""
    chain, held = chain_of(project, tag, segment_id, was)
    return planned(project, tag, chain, held) if chain else []


def chain_of(
    project: Project, tag: str, segment_id: str, was: Placement | None = None
) -> tuple[list[TakenLine], dict[str, Placement]]:
    """The lines that a line may move, with it, and those at their ends that hold still, with what these have; none
    where it has no take or place."""
    placements = find_version(project, tag).placements
    was = was or placements.get(segment_id)
    if was is None:
        return [], {}
    line = find_version(project, tag).lines[segment_id]
    moment_us = line.pin.start_us if line.pin else find_segment(project, segment_id).start_us
    lines = _near(project, tag, (moment_us, was.start_us))
    if all(item.segment.id != segment_id for item in lines):  # its take is gone, so there is nothing to plan
        return [], {}
    return _chain(lines, placements, segment_id, was.start_us)


def _near(project: Project, tag: str, moments_us: tuple[int, ...]) -> list[TakenLine]:
    """Lines with a take around these moments, and all that are pinned, whole or by a word: those may be heard far from
    their segments."""
    segments = project.segments
    places = [bisect_left(segments, moment, key=lambda segment: segment.start_us) for moment in moments_us]
    near = {k for place in places for k in range(max(0, place - _NEAR), min(len(segments), place + _NEAR))}
    pinned = {key for key, line in find_version(project, tag).lines.items() if line.pin or line.word_pins}
    if pinned:
        near |= {k for k, segment in enumerate(segments) if segment.id in pinned}
    return taken_lines(project, tag, [segments[k] for k in sorted(near)])


def _chain(
    lines: list[TakenLine], placements: Mapping[str, Placement], segment_id: str, was_us: int
) -> tuple[list[TakenLine], dict[str, Placement]]:
    """The lines that one of them may move, and those at their ends that hold still, with what these have."""
    starts = np.array([item.line.pin.start_us if item.line.pin else item.segment.start_us for item in lines])
    order = np.argsort(starts, kind="stable")
    ends = starts + np.array([item.segment.end_us - item.segment.start_us for item in lines])
    held_ends = [max((pin.start_us for pin in item.line.word_pins), default=0) for item in lines]
    places = (placements.get(item.segment.id) if item.line.word_pins else None for item in lines)
    ends = np.maximum(ends, np.maximum(held_ends, [one.start_us + one.length_us if one else 0 for one in places]))
    ordered_starts = starts[order]
    edges = chain_edges(ordered_starts / SECOND_US, ends[order] / SECOND_US)[1:]
    here = int(np.flatnonzero([lines[k].segment.id == segment_id for k in order])[0])
    there = int(np.clip(np.searchsorted(ordered_starts, was_us), 0, len(lines) - 1))
    wanted: set[int] = set()
    ends_held: set[int] = set()
    for place in (here, there):
        group = int(np.searchsorted(edges, place, side="right"))
        first = int(edges[group - 1]) if group else 0
        last = int(edges[group]) if group < len(edges) else len(lines)
        low, high = max(first, place - _MOST_EACH_WAY), min(last, place + _MOST_EACH_WAY + 1)
        wanted |= set(range(low, high))
        ends_held |= {k for k in (low - 1, high) if 0 <= k < len(lines)}
    held_places = {k for k in ends_held - wanted if lines[order[k]].segment.id in placements}
    chosen = sorted(int(order[k]) for k in wanted | held_places)
    held = {lines[order[k]].segment.id: placements[lines[order[k]].segment.id] for k in held_places}
    return [lines[k] for k in chosen], held
