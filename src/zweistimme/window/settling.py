"""Saying how far lines are, and going on to the next that is not as far."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING, Final

from zweistimme.messages import msg_act, tr
from zweistimme.project.line_edits import copy_original, set_locked, settle
from zweistimme.project.model import Line
from zweistimme.project.wordings import LineState
from zweistimme.sentences import STATES
from zweistimme.window.bridge import Desk

if TYPE_CHECKING:
    from zweistimme.window.navigation import Navigation
    from zweistimme.window.noticing import Noticing

_LABELS: Final = {
    LineState.INITIAL: msg_act("Open a line again"),
    LineState.TRANSLATED: msg_act("Let a line stand"),
    LineState.REVIEWED: msg_act("Review a line"),
    LineState.FINAL: msg_act("Make a line final"),
}
_ORDER: Final = {state: place for place, state in enumerate(LineState)}


class Settling:
    """What is done to the lines that are chosen."""

    def __init__(self, desk: Desk, navigation: Navigation) -> None:
        self._desk, self._navigation = desk, navigation

    def settle(self, state: LineState) -> None:
        """Give what is chosen a state; after one line alone that got further, go to the next that is not as far."""
        line, alone = self._desk.line(), len(self._desk.chosen_ids()) == 1
        self.give(state)
        if alone and state.settled and line is not None and line.text.strip():
            self.next_below(state)

    def give(self, state: LineState) -> None:
        """Give what is chosen a state."""
        ids, tag = self._desk.chosen_ids(), self._desk.tag
        if self._desk.version is None or not ids:
            return

        before = self._desk.version.lines
        self._desk.apply(_LABELS[state], partial(settle, tag=tag, segment_ids=ids, state=state))
        filled = sum(
            line.text != (before[key].text if key in before else "") for key, line in self._desk.version.lines.items()
        )
        if filled:
            self._desk.notice("done", tr("{n:line that says|lines that say} the same got these words.", n=filled))

    def next_below(self, state: LineState) -> None:
        """Select the next line with words that is not as far as *state*, or has none yet."""
        desk, version = self._desk, self._desk.version
        if version is None:
            return
        spoken = [segment.id for segment in desk.project.segments if segment.text.strip()]
        here = spoken.index(desk.segment_id) if desk.segment_id in spoken else -1
        for segment_id in spoken[here + 1 :] + spoken[: here + 1]:
            if _below(version.lines.get(segment_id), state):
                self._navigation.go_to_segment(segment_id)
                return
        desk.notice("done", tr("Every line of this version is {state} or further.", state=tr(STATES[state])))

    def next_noticed(self, noticing: Noticing) -> None:
        """Select the next line of which checks notice something."""
        segment_id = noticing.next_after(self._desk.segment_id)
        if segment_id is None:
            self._desk.notice("done", tr("Checks notice nothing in this version."))
        else:
            self._navigation.go_to_segment(segment_id)

    def copy_original(self) -> None:
        """Put the original's words into what is chosen, to be worded from there."""
        ids, tag = self._desk.chosen_ids(), self._desk.tag
        if self._desk.version is not None and ids:
            self._desk.apply("Copy the original", partial(copy_original, tag=tag, segment_ids=ids))

    def flip_lock(self) -> None:
        """Lock all that is chosen where the selected line is open, else unlock it."""
        desk, line = self._desk, self._desk.line()
        if line is None:
            desk.notice("note", tr("There is no line here yet that could be locked."))
            return
        label = msg_act("Unlock a line") if line.locked else msg_act("Lock a line")
        ids, tag, locked = desk.chosen_ids(), desk.tag, not line.locked
        desk.apply(label, partial(set_locked, tag=tag, segment_ids=ids, locked=locked))


def _below(line: Line | None, state: LineState) -> bool:
    return line is None or not line.text.strip() or _ORDER[line.state] < _ORDER[state]
