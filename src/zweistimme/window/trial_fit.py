"""A take in the hand: the version as it would be if it were let go here, planned again at every move; and where else it
could be put."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Final

from zweistimme.messages import msg, tr
from zweistimme.project.errors import EditError
from zweistimme.project.model import Pin, Project
from zweistimme.stages.fit import pin_and_plan
from zweistimme.stages.fit.alternatives import Alternative, Kind, alternatives
from zweistimme.window.bridge import Desk

_WORDS: Final = {
    Kind.PLANNED: msg("as planned"),
    Kind.LIPS: msg("on the lips"),
    Kind.VOICE: msg("natural voice"),
    Kind.BEFORE: msg("as before"),
}
Edit = Callable[[Project], Project]


@dataclass(frozen=True, slots=True)
class Ghost:
    """Where a take could be put, with a name; *near* where letting go would put it there."""

    name: str
    start_us: int
    end_us: int
    near: bool = False


class TrialFit:
    """One drag of a line's take."""

    def __init__(self, desk: Desk, segment_id: str) -> None:
        self._desk, self._tag, self._segment_id = desk, desk.tag, segment_id
        self._project = desk.project
        self._places = alternatives(desk.project, desk.tag, segment_id)
        self._at: Alternative | None = None

    def snapped(self, start_us: int, reach_us: float) -> int:
        """Where a take that is held at a time would start: at one of the other places if it is as near as that."""
        near = min(self._places, key=lambda one: abs(one.start_us - start_us), default=None)
        self._at = near if near is not None and abs(near.start_us - start_us) <= reach_us else None
        return self._at.start_us if self._at is not None else start_us

    def ghosts(self) -> list[Ghost]:
        """The other places."""
        return [
            Ghost(tr(_WORDS[one.kind]), one.start_us, one.start_us + one.length_us, one is self._at)
            for one in self._places
        ]

    def edit(self, start_us: int, length_us: int | None) -> Edit:
        """What letting go here does: the take is pinned, or left to the plan where the plan would have it."""
        at_plan = self._at is not None and self._at.kind is Kind.PLANNED and length_us is None
        pin = None if at_plan else Pin(start_us, length_us)
        tag, segment_id = self._tag, self._segment_id
        return lambda project: pin_and_plan(project, tag, segment_id, pin)

    def show(self, edit: Edit) -> None:
        """Show everything as it would be after an edit."""
        try:
            self._desk.put_preview(edit(self._project).versions[self._tag])
        except EditError:  # it cannot be put there, and is said once it is let go
            self._desk.put_preview(None)
