"""Why a take stands where it stands, in one to three sentences."""

from __future__ import annotations

from zweistimme.project.model import Line, Segment
from zweistimme.project.writing import syllables
from zweistimme.stages.fit.limits import Limits
from zweistimme.stages.fit.plan import Plan, PlanInput

_SMALL_S = 0.06
_TOUCHING_S = 0.02


def reason(
    segment: Segment,
    line: Line,
    given: PlanInput,
    plan: Plan,
    k: int,
    *,
    following: str | None,
    limits: Limits,
) -> str:
    """The reason for placement *k*."""
    sentences = [
        _start(segment, line, given, plan, k, limits),
        _end(given, plan, k, following, limits),
        _tempo(plan, k),
    ]
    if plan.overflow[k] > 0:
        sentences = [_overflow(line, plan, given, k), *sentences]
    return " ".join(sentence for sentence in sentences if sentence)


def _start(segment: Segment, line: Line, given: PlanInput, plan: Plan, k: int, limits: Limits) -> str:
    late = float(plan.start[k] - given.start[k])
    if line.pin:
        return f"Put here by hand, {_away(late)}." if abs(late) > _SMALL_S else "Put here by hand."
    if limits.start_shift:
        return f"Starts {abs(late):.2f} s {'after' if late >= 0 else 'before'} the original."
    if abs(late) <= _SMALL_S:
        return "Starts on the lip." if segment.on_screen else "Starts with the original."
    return f"Starts {_away(late)}{_pushed_by(given, plan, k, late)}."


def _away(late: float) -> str:
    return f"{abs(late):.2f} s {'late' if late > 0 else 'early'}"


def _pushed_by(given: PlanInput, plan: Plan, k: int, late: float) -> str:
    before_end = float(plan.start[k - 1] + plan.length[k - 1]) if k else -1.0
    if late > 0 and k and plan.start[k] - before_end < 0.08 + _TOUCHING_S:
        return ", since the line before ends only then"
    return ", to leave room for its length" if late < 0 else ""


def _end(given: PlanInput, plan: Plan, k: int, following: str | None, limits: Limits) -> str:
    over = float(plan.start[k] + plan.length[k] - given.end[k])
    if over <= _SMALL_S:
        return "" if over > -0.4 else f"Ends {-over:.2f} s before the original does."
    if limits.inside_price:
        return f"Ends {over:.2f} s after the original: its words take longer at any tempo that is permitted."
    if following is None:
        return f"Runs {over:.2f} s on after the original."
    return f"Runs {over:.2f} s into the pause before {following}."


def _tempo(plan: Plan, k: int) -> str:
    parts = []
    percent = round((float(plan.tempo[k]) - 1) * 100)
    if percent:
        parts.append(f"{abs(percent)} % {'faster' if percent > 0 else 'slower'}")
    cut = float(plan.pause_cut[k])
    if abs(cut) >= 0.02:
        parts.append(f"inner pauses {'shortened' if cut > 0 else 'lengthened'} by {abs(cut):.2f} s")
    text = ", ".join(parts)
    return f"{text[0].upper()}{text[1:]}." if text else "Natural tempo."


def _overflow(line: Line, plan: Plan, given: PlanInput, k: int) -> str:
    over = float(plan.overflow[k])
    count = syllables_over(line.text, float(given.speech[k]), over)
    hint = " or move its pin" if line.pin else ""
    return f"{over:.1f} s too long whatever is done: take away about {count} syllable{'s' if count != 1 else ''}{hint}."


def syllables_over(text: str, speech_seconds: float, over_seconds: float) -> int:
    """How many syllables of *text* fill *over_seconds* once it is spoken as fast as permitted."""
    fastest = 1.5 * syllables(text) / max(speech_seconds, 0.1)
    return max(1, round(over_seconds * fastest))
