"""Why a line stands where it stands, and what would help: who binds it by how much, how much shorter it would have to
be, and every remedy with what comes of it."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from zweistimme.project.access import find_segment, find_version
from zweistimme.project.findings import Finding
from zweistimme.project.fit_limits import Limits
from zweistimme.project.model import Project
from zweistimme.project.writing import syllables
from zweistimme.stages.fit.binding import binders, shorter_by_s
from zweistimme.stages.fit.by_hand import chain_of
from zweistimme.stages.fit.limits import limits_of
from zweistimme.stages.fit.placements import plan_input
from zweistimme.stages.fit.plan_input import Plan, PlanInput
from zweistimme.stages.fit.remedies import Remedy, Standing, remedies, standing_of

_LEAST_S = 0.03


@dataclass(frozen=True, slots=True)
class Explained:
    """A line of a version looked into: how it stands, findings that say who binds it, and what would help, the best
    first."""

    tag: str
    segment_id: str
    standing: Standing | None
    findings: tuple[Finding, ...]
    remedies: tuple[Remedy, ...]


def explained(project: Project, tag: str, segment_id: str) -> Explained:
    """Look into a line of a version; nothing is said of one that has no place, or stands well."""
    segment, version = find_segment(project, segment_id), find_version(project, tag)
    placed = version.placements.get(segment_id)
    standing = standing_of(project, tag, segment, placed) if placed else None
    if standing is None or standing.trouble <= 0:
        return Explained(tag, segment_id, standing, (), ())
    findings, helps = _findings(project, tag, segment_id), tuple(remedies(project, tag, segment_id))
    return Explained(tag, segment_id, standing, findings, helps)


def _findings(project: Project, tag: str, segment_id: str) -> tuple[Finding, ...]:
    """Who binds it, by how much, and how much shorter it would have to be."""
    version = find_version(project, tag)
    lines, held = chain_of(project, tag, segment_id)
    given, limits = plan_input(project, lines, held), limits_of(version)
    order = np.argsort(np.where(np.isfinite(given.pinned_start), given.pinned_start, given.start), kind="stable")
    ordered = [lines[k] for k in order.tolist()]
    given = plan_input(project, ordered, held)
    unit = next((k for k, item in enumerate(ordered) if item.segment.id == segment_id), None)
    if unit is None:
        return ()
    found = []
    for one in binders(given, limits, unit):
        if one.by_s >= _LEAST_S:
            name = project.speakers[ordered[one.unit].segment.speaker_id].name
            code = "bound-by-the-one-before" if one.before else "bound-by-the-one-behind"
            found.append(Finding(code, {"name": name, "by_s": one.by_s}))
    less_s = shorter_by_s(given, limits, unit, lambda plan, k: _is_well(plan, k, given, limits))
    if less_s is not None:
        count = syllables(version.lines[segment_id].text) * less_s / max(0.1, float(given.speech[unit]))
        found.append(Finding("well-if-shorter", {"by_s": less_s, "syllables": max(1, round(count))}))
    return tuple(found)


def _is_well(plan: Plan, k: int, given: PlanInput, limits: Limits) -> bool:
    seen = 0 if given.on_screen[k] else 1
    late = abs(float(plan.start[k] - given.start[k]) - limits.start_shift)
    ends = float(plan.start[k] + plan.length[k] - given.end[k])
    comfortable = limits.comfort[0] - 0.005 <= plan.tempo[k] <= limits.comfort[1] + 0.005
    near = late <= limits.start_tolerance[seen] + float(given.start_slack[k]) + 0.005
    fits = ends <= limits.end_tolerance[seen] + float(given.end_slack[k]) + 0.005
    return bool(near and fits and comfortable and plan.overflow[k] <= 0 and plan.clash[k] <= 0)
