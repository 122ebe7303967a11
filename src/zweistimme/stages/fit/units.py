"""What the plan places: lines, or their phrases; and lines again from what it found."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from zweistimme.project.model import PlacedPhrase, Placement, Version
from zweistimme.project.times import RATE, SECOND_US, seconds_to_us
from zweistimme.sound.arrays import Floats, Ints
from zweistimme.stages.fit.matches import Match
from zweistimme.stages.fit.phrases import matched_phrases
from zweistimme.stages.fit.plan_input import BREATH_S, Plan, PlanInput
from zweistimme.stages.fit.taken import TakenLine

_LONGER_S = 0.35
"""So much longer than in the original, and than it is by itself, a pause within a line may be."""


@dataclass(frozen=True, slots=True)
class Units:
    """Which unit is of which line, shape ``(u,)``, by line and then by phrase; *matches* has those of lines that are
    placed phrase by phrase, by the number of the line."""

    line: Ints
    first: Ints
    """The first unit of each line, shape ``(n,)``."""
    matches: Mapping[int, Sequence[Match]]


def units_of(
    version: Version, lines: Sequence[TakenLine], held: Mapping[str, Placement], *, by_phrase: bool = True
) -> Units:
    """The units of lines; what is held stays whole, and everything does where it is not to go by phrase."""
    matches = {}
    for k, item in enumerate(lines):
        if by_phrase and item.segment.id not in held:
            found = matched_phrases(version.style, item.segment, item.line, item.take)
            if len(found) > 1 or any(one.pinned_us is not None for one in found):
                matches[k] = found
    counts = np.array([len(matches.get(k, (0,))) for k in range(len(lines))], dtype=np.int64)
    first = np.concatenate(([0], np.cumsum(counts)[:-1])) if len(lines) else np.zeros(0, dtype=np.int64)
    return Units(np.repeat(np.arange(len(lines)), counts), first, matches)


def unit_input(given: PlanInput, units: Units, near_s: float) -> PlanInput:
    """The plan's input by unit, from that by line. The phrases of a line that a hand moved by up to *near_s* stay with
    those of the original; those of one that it moved further go along, by what is more."""
    taken = {
        name: getattr(given, name)[units.line].copy()
        for name in (
            "start", "end", "speech", "spare_pause", "on_screen", "speaker", "pinned_start", "pinned_length",
            "least_before", "most_before", "pause_cut", "start_slack", "end_slack", "cut_before", "cut_after", "moved",
        )
    }  # fmt: skip
    for k, matches in units.matches.items():
        by = float(np.nan_to_num(given.pinned_start[k] - given.start[k]))
        for place, one in enumerate(matches, int(units.first[k])):
            taken["start"][place], taken["end"][place] = one.start_us / SECOND_US, one.end_us / SECOND_US
            taken["moved"][place] = np.nan if one.pinned_us is not None else by - min(max(by, -near_s), near_s)
            taken["speech"][place] = (one.take_end_samples - one.take_start_samples) / RATE
            taken["spare_pause"][place] = one.spare_us / SECOND_US
            taken["pinned_length"][place] = np.nan
            share = one.spare_us / SECOND_US / max(given.spare_pause[k], 1e-6)
            taken["pause_cut"][place] = given.pause_cut[k] * min(share, 1.0)
            if place < units.first[k] + len(matches) - 1:
                taken["cut_after"][place] = np.inf
            if place > units.first[k]:
                taken["cut_before"][place] = -np.inf
                taken["pinned_start"][place] = np.nan
                taken["least_before"][place] = 0.0 if one.is_word else BREATH_S
                taken["most_before"][place] = one.before_us / SECOND_US + _LONGER_S
                if one.hand is not None and one.hand.pause_us is not None:
                    taken["least_before"][place] = taken["most_before"][place] = one.hand.pause_us / SECOND_US
            if one.hand is not None and one.hand.tempo is not None:
                spare = taken["spare_pause"][place]
                kept = spare if np.isnan(taken["pause_cut"][place]) else spare - taken["pause_cut"][place]
                taken["pause_cut"][place] = spare - kept
                taken["pinned_length"][place] = (taken["speech"][place] - spare) / one.hand.tempo + kept
            if one.pinned_us is not None:
                taken["pinned_start"][place] = one.pinned_us / SECOND_US
    return PlanInput(**taken, line=units.line, programme_end=given.programme_end)


def by_lines(plan: Plan, units: Units, given: PlanInput, whole: PlanInput) -> Plan:
    """The plan of lines from that of their units, whose input is *given* (that of the lines is *whole*): each from
    its first phrase to its last. A tempo is that of all its speech; what pauses gave is what those within phrases
    did, and what those between them are shorter than the voice made them."""
    if not units.matches:
        return plan
    n = len(units.first)
    last = np.append(units.first[1:], len(units.line)) - 1
    start = plan.start[units.first]
    length = plan.start[last] + plan.length[last] - start
    body = given.speech - given.spare_pause
    spoken = _summed(body / plan.tempo, units.line, n)
    natural_gaps = whole.speech - _summed(given.speech, units.line, n)
    cut = _summed(plan.pause_cut, units.line, n) + natural_gaps - (length - _summed(plan.length, units.line, n))
    clash = np.zeros(n)
    np.maximum.at(clash, units.line, plan.clash)
    others = np.full(n, -1, dtype=np.int64)
    for unit in np.flatnonzero(plan.clash_with >= 0).tolist():
        if plan.clash[unit] == clash[units.line[unit]]:
            others[units.line[unit]] = units.line[plan.clash_with[unit]]
    tempo = _summed(body, units.line, n) / np.maximum(spoken, 1e-3)
    return Plan(start, length, tempo, cut, _summed(plan.overflow, units.line, n), clash, others, plan.cost)


def _summed(values: Floats, line: Ints, count: int) -> Floats:
    return np.bincount(line, weights=values, minlength=count).astype(np.float64)


def placed_phrases(plan: Plan, units: Units, k: int) -> tuple[PlacedPhrase, ...]:
    """The phrases of a line where the plan puts them; none where it is placed as a whole."""
    found = []
    for place, one in enumerate(units.matches.get(k, ()), int(units.first[k])):
        start = seconds_to_us(float(plan.start[place]))
        end = seconds_to_us(float(plan.start[place] + plan.length[place]))
        cut = seconds_to_us(float(plan.pause_cut[place]))
        found.append(PlacedPhrase(start, end - start, one.take_start_samples, one.take_end_samples, cut))
    return tuple(found)
