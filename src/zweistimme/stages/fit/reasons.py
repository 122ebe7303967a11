"""Why a take stands where it stands: one to four findings."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from zweistimme.project.findings import Finding
from zweistimme.project.fit_limits import Limits
from zweistimme.project.model import Line, Segment
from zweistimme.project.writing import spoken_text, syllables
from zweistimme.stages.fit.plan_input import Plan, PlanInput

_SMALL_S = 0.06
_TOUCHING_S = 0.02
_GAP_S = 0.08


@dataclass(frozen=True, slots=True)
class Reasons:
    """What is needed to say why lines of a plan stand where they do. *order* numbers them as they are heard, *names*
    are those of their speakers."""

    given: PlanInput
    plan: Plan
    limits: Limits
    order: Sequence[int]
    names: Sequence[str]

    def of(self, place: int, segment: Segment, line: Line) -> tuple[Finding, ...]:
        """The reasons for the line heard at *place* in the order."""
        k = self.order[place]
        before = self.order[place - 1] if place else None
        following = self.order[place + 1] if place + 1 < len(self.order) else None
        found = [
            self._overflow(k, line),
            self._clash(k),
            self._start(k, segment, line, before),
            self._end(k, line, following),
            *self._tempo(k),
        ]
        return tuple(finding for finding in found if finding is not None)

    def _start(self, k: int, segment: Segment, line: Line, before: int | None) -> Finding:
        late = float(self.plan.start[k] - self.given.start[k])
        by = {"by_s": round(abs(late), 3)}
        if line.pin:
            code = "by-hand" if abs(late) <= _SMALL_S else "by-hand-late" if late > 0 else "by-hand-early"
            return Finding(code, {} if code == "by-hand" else by)
        if self.limits.start_shift and abs(late) > _SMALL_S:
            return Finding("after-the-original" if late >= 0 else "before-the-original", by)
        if abs(late) <= _SMALL_S:
            return Finding("on-the-lip" if segment.on_screen else "with-the-original")
        if late < 0:
            return Finding("early-for-its-length", by)
        before_end = float(self.plan.start[before] + self.plan.length[before]) if before is not None else -1.0
        pushed = self.plan.start[k] - before_end < _GAP_S + _TOUCHING_S
        return Finding("late-after-another" if pushed else "late", by)

    def _end(self, k: int, line: Line, following: int | None) -> Finding | None:
        over = float(self.plan.start[k] + self.plan.length[k] - self.given.end[k])
        by = {"by_s": round(abs(over), 3)}
        if over <= _SMALL_S:
            return None if over > -0.4 or line.pin else Finding("ends-early", by)
        if self.limits.inside_price:
            return Finding("ends-late-at-any-tempo", by)
        if following is None or line.pin:
            return Finding("runs-on", by)
        return Finding("runs-into-pause", {**by, "name": self.names[following]})

    def _clash(self, k: int) -> Finding | None:
        other = int(self.plan.clash_with[k])
        if other < 0:
            return None
        return Finding("clashes", {"by_s": round(float(self.plan.clash[k]), 3), "name": self.names[other]})

    def _tempo(self, k: int) -> list[Finding]:
        found = []
        percent = round((float(self.plan.tempo[k]) - 1) * 100)
        if percent:
            found.append(Finding("faster" if percent > 0 else "slower", {"percent": abs(percent)}))
        cut = float(self.plan.pause_cut[k])
        if abs(cut) >= 0.02:
            code = "pauses-shortened" if cut > 0 else "pauses-lengthened"
            found.append(Finding(code, {"by_s": round(abs(cut), 3)}))
        return found or [Finding("natural-tempo")]

    def _overflow(self, k: int, line: Line) -> Finding | None:
        over = float(self.plan.overflow[k])
        if over <= 0:
            return None
        count = syllables_over(spoken_text(line.text), float(self.given.speech[k]), over)
        return Finding("too-long-pinned" if line.pin else "too-long", {"by_s": round(over, 2), "syllables": count})


def syllables_over(text: str, speech_seconds: float, over_seconds: float) -> int:
    """How many syllables of *text* fill *over_seconds* once it is spoken as fast as permitted."""
    fastest = 1.5 * syllables(text) / max(speech_seconds, 0.1)
    return max(1, round(over_seconds * fastest))
