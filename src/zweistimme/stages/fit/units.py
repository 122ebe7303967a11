"""What the plan places: lines, or their phrases; and lines again from what it found."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from zweistimme.project.fit_limits import Limits
from zweistimme.project.model import PlacedPhrase, Placement, Version
from zweistimme.project.times import RATE, SECOND_US, seconds_to_us
from zweistimme.sound.arrays import Floats, Ints
from zweistimme.stages.fit.matches import Match
from zweistimme.stages.fit.phrases import matched_phrases
from zweistimme.stages.fit.plan_input import BREATH_S, SHORTEST_S, Plan, PlanInput
from zweistimme.stages.fit.taken import TakenLine

_SHORTEST_US = 1_000
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


def unit_input(given: PlanInput, units: Units, limits: Limits) -> PlanInput:
    """The plan's input by unit, from that by line."""
    taken = {
        name: getattr(given, name)[units.line].copy()
        for name in (
            "start", "end", "speech", "spare_pause", "on_screen", "speaker", "pinned_start", "pinned_length",
            "least_before", "most_before", "pause_cut", "start_slack", "end_slack", "cut_before", "cut_after", "moved",
        )
    }  # fmt: skip
    for k, matches in units.matches.items():
        aims = _aims(matches, float(given.pinned_start[k] - given.start[k]), given.programme_end, limits)
        for place, one in enumerate(matches, int(units.first[k])):
            taken["start"][place], taken["end"][place] = one.start_us / SECOND_US, one.end_us / SECOND_US
            aim = aims[place - int(units.first[k])]
            taken["moved"][place] = np.nan if one.pinned_us is not None else aim - one.start_us / SECOND_US
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


def _aims(matches: Sequence[Match], by_s: float, end_s: float, limits: Limits) -> list[float]:
    """Where the phrases of a line are to start, in seconds; a hand moved the line by *by_s* (NaN: none did) in a
    programme that ends at *end_s*. Those of a line that was moved by no more than its tolerance stay with the
    original's; further, they go along by what is more."""
    near_s = limits.start_tolerance[0]
    along_s = 0.0 if np.isnan(by_s) else by_s - min(max(by_s, -near_s), near_s)
    aims = [one.start_us / SECOND_US + along_s for one in matches]
    fixed = [one.pinned_us is not None for one in matches]
    if not any(fixed) and np.isnan(by_s):
        return aims
    heard = [
        aim if one.pinned_us is None else one.pinned_us / SECOND_US for aim, one in zip(aims, matches, strict=True)
    ]
    if not fixed[0] and not np.isnan(by_s):
        heard[0], fixed[0] = matches[0].start_us / SECOND_US + by_s, True
    pushed = _pushed(matches, heard, fixed, end_s, limits)
    return [aim if one else at for aim, at, one in zip(aims, pushed, fixed, strict=True)]


def _pushed(
    matches: Sequence[Match], starts: Sequence[float], fixed: Sequence[bool], end_s: float, limits: Limits
) -> list[float]:
    """Starts of phrases of which some are *fixed*: those behind one are no earlier, and those before one, or before the
    end of the programme, no later than all between can be spoken at the fastest tempo there is."""
    found = list(starts)
    least = [max(SHORTEST_S, (one.take_end_samples - one.take_start_samples) / RATE / limits.hard[1])
             for one in matches]  # fmt: skip
    gaps = [0.0 if one.is_word else BREATH_S for one in matches]
    for place in range(1, len(matches)):
        if not fixed[place] and any(fixed[:place]):
            found[place] = max(found[place], found[place - 1] + least[place - 1] + gaps[place])
    until_s = end_s
    for place in reversed(range(len(matches))):
        if not fixed[place]:
            found[place] = max(0.0, min(found[place], until_s - least[place]))
        until_s = found[place] - gaps[place]
    return found


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
    """The phrases of a line where the plan puts them, one behind the other whatever a hand wanted; none where it is
    placed as a whole."""
    found: list[PlacedPhrase] = []
    for place, one in enumerate(units.matches.get(k, ()), int(units.first[k])):
        start = seconds_to_us(float(plan.start[place]))
        start = max(start, found[-1].start_us + found[-1].length_us) if found else start
        end = max(seconds_to_us(float(plan.start[place] + plan.length[place])), start + _SHORTEST_US)
        cut = seconds_to_us(float(plan.pause_cut[place]))
        found.append(PlacedPhrase(start, end - start, one.take_start_samples, one.take_end_samples, cut))
    return tuple(found)
