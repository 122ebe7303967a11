"""A word of the selected line's take held to a moment of the programme: by key, and what dragging one does."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import Final

from zweistimme.messages import msg_act, tr
from zweistimme.project.facts import cuts_of
from zweistimme.project.fit_edits import pin_word
from zweistimme.project.held_words import pins_in
from zweistimme.project.model import Project
from zweistimme.project.times import clock
from zweistimme.window.bridge import Desk
from zweistimme.window.closeup_dub import placed_words

Edit = Callable[[Project], Project]
_REACH_US: Final = 5_000_000
_SAME_US: Final = 1_000


def holding(tag: str, segment_id: str, word: int, at_us: int | None) -> Edit:
    """What holds a word of a line's take to a moment, or lets it go (None)."""
    from zweistimme.stages.fit import change_and_plan

    change = partial(pin_word, tag=tag, segment_id=segment_id, word=word, start_us=at_us)
    return lambda project: change_and_plan(project, tag, segment_id, change)


def moment_near(desk: Desk, marker_us: float, at_us: int, reach_us: float) -> int:
    """Where a word that is dragged would be held: at the marker, or at a cut of the picture, if one is as near as
    that."""
    moments = [round(marker_us), *cuts_of(desk.project)]
    nearest = min(moments, key=lambda one: abs(one - at_us))
    return nearest if abs(nearest - at_us) <= reach_us else at_us


def hold_at_marker(desk: Desk, marker_us: int) -> None:
    """Hold the word that is said nearest to the marker there; let it go, if it is held there already."""
    line, placed, tag, here = desk.line(), desk.placed(), desk.tag, desk.segment_id
    if line is None or placed is None:
        desk.notice("note", tr("Only a placed take can be pinned. Fit this version first."))
        return
    words, (placement, take) = placed_words(*placed), placed
    if not words:
        desk.notice("note", tr("It is not known where the words of this take begin, so that none can be held."))
        return
    end_us = placement.start_us + placement.length_us
    if not placement.start_us - _REACH_US <= marker_us <= end_us + _REACH_US:
        desk.notice("note", tr("The marker is far from this line: put it where a word is to be heard."))
        return
    number = min(range(len(words)), key=lambda k: abs(words[k].start_us - marker_us))
    held = any(pin.word == number and abs(pin.start_us - marker_us) <= _SAME_US for pin in pins_in(line, take))
    if held:
        desk.apply(msg_act("Let a word go"), holding(tag, here, number, None))
    elif desk.apply(msg_act("Hold a word"), holding(tag, here, number, marker_us)):
        desk.notice("note", tr("“{word}” is held at {time}.", word=words[number].text, time=clock(marker_us, 2)))
