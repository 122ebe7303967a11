"""From takes to placements: the plan's input gathered from a version, its answer as placements with their reasons."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from types import MappingProxyType
from typing import Final

import numpy as np

from zweistimme.project.access import find_version
from zweistimme.project.edits import set_placements
from zweistimme.project.errors import EngineError
from zweistimme.project.facts import chosen_take, cuts_of, placement_fingerprint, spoken_segments
from zweistimme.project.findings import Finding
from zweistimme.project.held_words import waiting_words
from zweistimme.project.model import Pin, PlacedPhrase, Placement, Project, Segment, Version
from zweistimme.project.placed_time import BEHIND_END, behind_end_us
from zweistimme.project.times import SECOND_US, seconds_to_us
from zweistimme.stages.cuts import cuts_wanted
from zweistimme.stages.fit.chains import solve
from zweistimme.stages.fit.hand_input import by_hand, within_shots
from zweistimme.stages.fit.limits import limits_of
from zweistimme.stages.fit.plan_input import Plan, PlanInput, whole_lines
from zweistimme.stages.fit.reasons import Reasons
from zweistimme.stages.fit.taken import TakenLine, spare_pause_s, speech_us
from zweistimme.stages.fit.units import by_lines, placed_phrases, unit_input, units_of
from zweistimme.stages.work import Work

NOTHING_HELD: Final[Mapping[str, Placement]] = MappingProxyType({})


def taken_lines(project: Project, tag: str, segments: Sequence[Segment] | None = None) -> list[TakenLine]:
    """Lines with a chosen take, of all segments or of some, in their order. A stale take is placed too: it is better
    heard in its place than not at all, and it counts as stale all the same."""
    version = find_version(project, tag)
    lines = []
    for segment in spoken_segments(project) if segments is None else segments:
        line = version.lines.get(segment.id)
        take = chosen_take(version, line) if line else None
        if line is not None and take is not None:
            lines.append(TakenLine(segment, line, take))
    return lines


def fit(work: Work, tag: str) -> None:
    """Plan the whole version and keep the placements."""
    project = work.project
    lines = taken_lines(project, tag)
    if not lines:
        raise EngineError("{tag} has no takes to fit yet. Voice the lines or import takes first.", tag=tag)
    if cuts_wanted(project.programme):
        work.say(Finding("cuts-unknown"))
    placements = planned(project, tag, lines)
    work.report(0.9)
    work.deliver(f"Fit {tag}", lambda now: set_placements(now, tag, placements))
    over = sum(bool(p.overflow_us) for p in placements)
    if over:
        work.say(Finding("lines-too-long", {"lines": over, "version": tag}))
    clashing = sum(bool(p.clash_us) for p in placements)
    if clashing:
        work.say(Finding("lines-clash", {"lines": clashing, "version": tag}))
    behind = sum(bool(behind_end_us(p, project.programme)) for p in placements)
    if behind:
        work.say(Finding("lines-behind-end", {"lines": behind, "version": tag}))


def planned(
    project: Project,
    tag: str,
    lines: Sequence[TakenLine],
    held: Mapping[str, Placement] = NOTHING_HELD,
    *,
    by_phrase: bool = True,
) -> list[Placement]:
    """The cheapest placements of *lines*, phrase by phrase where both the original and the take pause, unless each is
    to be placed as a whole. Those of segments in *held* stay where they are."""
    version = find_version(project, tag)
    limits = limits_of(version)
    units = units_of(version, lines, held, by_phrase=by_phrase)
    given = plan_input(project, lines, held)
    given_by_unit = unit_input(given, units, limits)
    by_unit = solve(given_by_unit, limits)
    plan = by_lines(by_unit, units, given_by_unit, given)
    order = np.argsort(plan.start, kind="stable").tolist()
    names = [project.speakers[item.segment.speaker_id].name for item in lines]
    reasons = Reasons(given, plan, limits, order, names)
    found = {}
    for place, k in enumerate(order):
        phrases = placed_phrases(by_unit, units, k)
        why = reasons.of(place, lines[k].segment, lines[k].line)
        if phrases:
            why = (*why, Finding("phrase-by-phrase", {"phrases": len(phrases)}))
        waiting = waiting_words(lines[k].line, lines[k].take)
        why = (*why, *(Finding("waits-for-its-word", {"word": word}) for word in waiting))
        found[k] = _placement(project, version, lines[k], plan, k, why, phrases)
    return [found[k] for k, item in enumerate(lines) if item.segment.id not in held]


def plan_input(project: Project, lines: Sequence[TakenLine], held: Mapping[str, Placement] = NOTHING_HELD) -> PlanInput:
    """Arrays for the plan, in seconds; what is *held* counts as pinned."""
    speakers = {key: number for number, key in enumerate(project.speakers)}
    pins = [_held(held.get(item.segment.id)) or item.line.pin for item in lines]
    end = max((item.segment.end_us for item in lines), default=0)
    if project.programme:
        end = max(end, project.programme.sound.duration_us)
    whole = whole_lines(
        start=np.array([item.segment.start_us for item in lines]) / SECOND_US,
        end=np.array([item.segment.end_us for item in lines]) / SECOND_US,
        speech=np.array([speech_us(item.take) for item in lines]) / SECOND_US,
        spare_pause=np.array([spare_pause_s(item.take) for item in lines]),
        on_screen=np.array([item.segment.on_screen for item in lines]),
        speaker=np.array([speakers[item.segment.speaker_id] for item in lines]),
        pinned_start=np.array([pin.start_us / SECOND_US if pin else np.nan for pin in pins]),
        pinned_length=np.array([pin.length_us / SECOND_US if pin and pin.length_us else np.nan for pin in pins]),
        programme_end=end / SECOND_US,
    )
    whole = within_shots(whole, lines, cuts_of(project))
    return by_hand(whole, lines, {k for k, item in enumerate(lines) if item.segment.id in held})


def _held(placement: Placement | None) -> Pin | None:
    return Pin(placement.start_us, placement.length_us) if placement else None


def _placement(
    project: Project, version: Version, item: TakenLine, plan: Plan, k: int, why: tuple[Finding, ...],
    phrases: tuple[PlacedPhrase, ...],
) -> Placement:  # fmt: skip
    start, length = seconds_to_us(float(plan.start[k])), seconds_to_us(float(plan.length[k]))
    if phrases:
        start = phrases[0].start_us
        length = phrases[-1].start_us + phrases[-1].length_us - start
    elif item.line.pin:
        start = item.line.pin.start_us
        length = item.line.pin.length_us or length
    placed = Placement(
        segment_id=item.segment.id,
        take_id=item.take.id,
        start_us=start,
        length_us=length,
        tempo=round(float(plan.tempo[k]), 4),
        why=why,
        made_from=placement_fingerprint(project, version, item.segment, item.line, item.take),
        pauses_cut_us=seconds_to_us(float(plan.pause_cut[k])),
        overflow_us=seconds_to_us(float(plan.overflow[k])),
        clash_us=seconds_to_us(float(plan.clash[k])),
        phrases=phrases,
    )
    behind_us = behind_end_us(placed, project.programme)
    if not behind_us:
        return placed
    return replace(placed, why=(Finding(BEHIND_END, {"by_s": round(behind_us / SECOND_US, 2)}), *why))
