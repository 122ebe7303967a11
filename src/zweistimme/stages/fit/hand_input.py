"""What hands say of lines, and where the picture is cut, put into the plan's input."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import replace
from typing import Final

import numpy as np

from zweistimme.project.hand_fit import AS_PLANNED, FitAs
from zweistimme.project.shots import cuts_near
from zweistimme.project.times import SECOND_US
from zweistimme.stages.fit.plan_input import PlanInput
from zweistimme.stages.fit.taken import TakenLine

_OVER_AFTER_S: Final = 0.7
_OVER_BEFORE_S: Final = 0.2
_MOST_OF_LINE: Final = 0.4


def by_hand(given: PlanInput, lines: Sequence[TakenLine], held: Collection[int]) -> PlanInput:
    """The input with what hands say of *lines*, by their numbers; what is *held* stays as it stands."""
    said = [k for k, item in enumerate(lines) if item.line.hand != AS_PLANNED and k not in held]
    if not said:
        return given
    names = ("start", "end", "on_screen", "pinned_length", "pause_cut", "start_slack", "end_slack")
    arrays = {name: getattr(given, name).copy() for name in names}
    for k in said:
        hand = lines[k].line.hand
        spare = float(given.spare_pause[k])
        if hand.pauses is not None:
            arrays["pause_cut"][k] = spare * (1 - hand.pauses)
        if hand.tempo is not None and not np.isfinite(arrays["pinned_length"][k]):
            kept = spare - (arrays["pause_cut"][k] if np.isfinite(arrays["pause_cut"][k]) else 0.0)
            arrays["pinned_length"][k] = (given.speech[k] - spare) / hand.tempo + kept
            arrays["pause_cut"][k] = spare - kept
        arrays["start_slack"][k] = hand.start_slack_us / SECOND_US
        arrays["end_slack"][k] = hand.end_slack_us / SECOND_US
        if hand.fit_as is not FitAs.USUAL:
            arrays["on_screen"][k] = False
        if hand.fit_as is FitAs.VOICE_OVER:
            room = _MOST_OF_LINE * (given.end[k] - given.start[k])
            arrays["start"][k] += min(_OVER_AFTER_S, room)
            arrays["end"][k] -= min(_OVER_BEFORE_S, room / 2)
    return replace(given, **arrays)


def within_shots(given: PlanInput, lines: Sequence[TakenLine], cuts_us: Sequence[int] | None) -> PlanInput:
    """The input with the cuts of the picture between which each of *lines* lies."""
    if not cuts_us:
        return given
    near = [cuts_near(item.segment, cuts_us) for item in lines]
    return replace(
        given,
        cut_before=np.array([-np.inf if before is None else before / SECOND_US for before, _ in near]),
        cut_after=np.array([np.inf if after is None else after / SECOND_US for _, after in near]),
    )
