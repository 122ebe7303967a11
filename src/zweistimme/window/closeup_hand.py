"""Dragging in the close-up: edges of the segment, edges between words, the take and its end."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING, Final

from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtWidgets import QWidget

from zweistimme.messages import msg_act, tr
from zweistimme.project.held_words import pins_in
from zweistimme.project.model import Pin, Word
from zweistimme.project.times import clock
from zweistimme.project.transcript import move_word_edge, retime_segment
from zweistimme.project.words import LEAST_WORD_US, SHORTEST_SEGMENT_US, spoken_words
from zweistimme.window.bridge import Desk
from zweistimme.window.closeup_dub import Stretch, placed_words, stretches_of
from zweistimme.window.held_word import Edit, holding, moment_near
from zweistimme.window.hold import Hold
from zweistimme.window.theme import px

if TYPE_CHECKING:
    from zweistimme.window.trial_fit import Ghost, TrialFit

_REACH: Final = 6
_WORD_REACH: Final = 4


@dataclass(frozen=True, slots=True)
class Rows:
    """Where the two waves lie in the close-up: both *wave* pixels high, the words of both between them."""

    top: int
    lower: int
    wave: int


def rows_of(height: int) -> Rows:
    """The waves get what words leave of so many pixels.

    >>> rows_of(158)
    Rows(top=24, lower=98, wave=40)
    """
    top, between, foot = px(24), px(34), px(20)
    wave = max(16, (height - top - between - foot) // 2)
    return Rows(top, top + wave + between, wave)


@dataclass(frozen=True, slots=True)
class WordEdge:
    """Where word number *place* begins."""

    place: int
    at_us: int


def word_edges(words: Sequence[Word]) -> list[WordEdge]:
    """The edges between words that can be dragged."""
    return [WordEdge(place, word.start_us) for place, word in enumerate(words) if place]


@dataclass(frozen=True, slots=True)
class Bar:
    """One of the two waves: where it starts and ends in programme time."""

    start_us: int
    end_us: int


def bars_of(desk: Desk) -> dict[str, Bar]:
    """The selected segment as "original", and its placed take as "dub"."""
    segment, placed = desk.segment(), desk.placed()
    bars = {}
    if segment is not None:
        bars["original"] = Bar(segment.start_us, segment.end_us)
    if placed is not None:
        bars["dub"] = Bar(placed[0].start_us, placed[0].start_us + placed[0].length_us)
    return bars


class Hand:
    """What is held, and where it would come to lie."""

    def __init__(
        self, view: QWidget, desk: Desk, x_of: Callable[[float], float], time_at: Callable[[float], float],
        marker_us: Callable[[], float],
    ) -> None:  # fmt: skip
        """On *view* a time lies at ``x_of(time_us)``; ``time_at`` is the other way round."""
        self._view, self._desk, self._x_of, self._time_at = view, desk, x_of, time_at
        self._marker_us = marker_us
        self._hold = Hold(view, self.drop)
        self._drag: tuple[str, float] | None = None
        self._taken: dict[str, Bar] = {}
        """Where both lay before anything moved: what the desk shows while dragging moves along."""
        self._held: tuple[int, int] | None = None
        self._origin_us: int | None = None
        self._trial: TrialFit | None = None
        self.moved: dict[str, Bar] = {}
        self.edge: tuple[int, int] | None = None
        """The word whose edge is dragged, and where it is."""

    @property
    def holding(self) -> bool:
        return self._drag is not None

    def _grip(self, at: QPointF) -> str:
        bars = bars_of(self._desk)
        rows = rows_of(self._view.height())
        upper = rows.top <= at.y() <= rows.top + rows.wave
        lower = rows.lower <= at.y() <= rows.lower + rows.wave
        if upper and "original" in bars:
            for name, time in (("start", bars["original"].start_us), ("end", bars["original"].end_us)):
                if abs(at.x() - self._x_of(time)) <= _REACH:
                    return name
            segment = self._desk.segment()
            for edge in word_edges(spoken_words(segment)) if segment else ():
                if abs(at.x() - self._x_of(edge.at_us)) <= _WORD_REACH:
                    return f"word {edge.place}"
        if word := self._word_of_take(at, rows):
            return f"held {word - 1}"
        if lower and "dub" in bars:
            if abs(at.x() - self._x_of(bars["dub"].end_us)) <= _REACH:
                return "length"
            for stretch in self._stretches()[1:]:
                if stretch.word > 0 and abs(at.x() - self._x_of(stretch.start_us)) <= _WORD_REACH:
                    return f"held {stretch.word}"
            if self._x_of(bars["dub"].start_us) - _REACH <= at.x() <= self._x_of(bars["dub"].end_us):
                return "take"
        return ""

    def _stretches(self) -> list[Stretch]:
        placed = self._desk.placed()
        return stretches_of(*placed) if placed else []

    def _word_of_take(self, at: QPointF, rows: Rows) -> int:
        """The number, from 1, of the take's word whose name lies here; 0 for none."""
        placed = self._desk.placed()
        if placed is None or not rows.lower - px(20) <= at.y() < rows.lower - 1:
            return 0
        words = placed_words(*placed)
        near = [(abs(at.x() - self._x_of(word.start_us)), number) for number, word in enumerate(words, 1)]
        distance, number = min(near, default=(_WORD_REACH * 4.0, 0))
        return number if distance < _WORD_REACH * 3 else 0

    def free(self, at: QPointF) -> None:
        """Let the word that lies here go, if it is held."""
        self.drop()
        number = self._word_of_take(at, rows_of(self._view.height()))
        line, placed, tag, here = self._desk.line(), self._desk.placed(), self._desk.tag, self._desk.segment_id
        if number and line and placed and any(pin.word == number - 1 for pin in pins_in(line, placed[1])):
            self._desk.apply(msg_act("Let a word go"), holding(tag, here, number - 1, None))

    def ghosts(self) -> list[Ghost]:
        """Where else the take that is held could stand."""
        taken = self._drag is not None and self._drag[0] == "take" and bool(self.moved)
        return self._trial.ghosts() if self._trial is not None and taken else []

    @property
    def trying(self) -> bool:
        """Whether the plan shows what becomes of what is held."""
        return self._trial is not None

    def take(self, at: QPointF) -> None:
        """Take hold of what lies here, if anything."""
        if grip := self._grip(at):
            self._drag = (grip, self._time_at(at.x()))
            self._taken = bars_of(self._desk)
            self._hold.take(at)

    def move(self, at: QPointF) -> None:
        """Drag on; or show what could be taken."""
        if self._drag is None:
            shapes = {"take": Qt.CursorShape.OpenHandCursor, "": Qt.CursorShape.ArrowCursor}
            self._view.setCursor(shapes.get(self._grip(at), Qt.CursorShape.SizeHorCursor))
            return
        if not self._hold.pulled(at):
            return
        grip, origin = self._drag
        if grip.startswith("word"):
            self._drag_word(int(grip.split()[1]), round(self._time_at(at.x()) / 1000) * 1000)
            return
        by = round((self._time_at(at.x()) - origin) / 1000) * 1000
        if grip.startswith("held"):
            self._hold_word(int(grip.split()[1]), by)
            return
        name = "original" if grip in ("start", "end") else "dub"
        bar = self._taken[name]
        start = bar.start_us + (by if grip in ("start", "take") else 0)
        end = bar.end_us + (by if grip != "start" else 0)
        if start >= 0 and end - start >= SHORTEST_SEGMENT_US:
            if grip == "take":
                snapped = self._tried().snapped(start, self._reach_us())
                start, end = snapped, end + snapped - start
            self.moved = {name: Bar(start, end)}
            if name == "dub":
                self._try(self._edit_of(grip, Bar(start, end)))
            self._view.setToolTip(tr("{start} to {end}", start=clock(start, 2), end=clock(end, 2)))
            self._view.update()

    def _drag_word(self, place: int, at_us: int) -> None:
        """Show an edge between two words where the pointer is, as far as the words allow."""
        segment = self._desk.segment()
        words = spoken_words(segment) if segment else ()
        if place >= len(words):
            return
        low, high = words[place - 1].start_us + LEAST_WORD_US, words[place].end_us - LEAST_WORD_US
        self.edge = (place, max(low, min(at_us, high)))
        self._view.setToolTip(tr("“{word}” begins at {time}", word=words[place].text, time=clock(self.edge[1], 3)))
        self._view.update()

    def _hold_word(self, word: int, by_us: int) -> None:
        """Show everything with a word of the take held where the pointer is."""
        if self._origin_us is None:
            placed = self._desk.placed()
            self._origin_us = placed_words(*placed)[word].start_us if placed else 0
        at_us = moment_near(self._desk, self._marker_us(), max(0, self._origin_us + by_us), self._reach_us())
        self._held = (word, at_us)
        self._try(holding(self._desk.tag, self._desk.segment_id, word, at_us))
        self._view.setToolTip(clock(at_us, 2))

    def _reach_us(self) -> float:
        """So near to a moment that is worth it what is dragged goes there."""
        return self._time_at(px(_REACH)) - self._time_at(0)

    def _tried(self) -> TrialFit:
        from zweistimme.window.trial_fit import TrialFit

        if self._trial is None:
            self._trial = TrialFit(self._desk, self._desk.segment_id)
        return self._trial

    def _try(self, edit: Edit) -> None:
        self._tried().show(edit)

    def _edit_of(self, grip: str, bar: Bar) -> Edit:
        """What letting the take, or its end, go here does."""
        from zweistimme.stages.fit import pin_and_plan

        tag, segment_id, line = self._desk.tag, self._desk.segment_id, self._desk.line()
        kept = line.pin.length_us if line and line.pin else None
        if grip == "take" and self._trial is not None:
            return self._trial.edit(bar.start_us, kept)
        pin = Pin(bar.start_us, bar.end_us - bar.start_us if grip == "length" else kept)
        return lambda project: pin_and_plan(project, tag, segment_id, pin)

    def drop(self) -> None:
        """Another line is selected, or Escape pressed: what was held stays where it was."""
        self._hold.let_go()
        self._drag, self.moved, self.edge = None, {}, None
        self._held = self._origin_us = None
        if self._trial is not None:
            self._trial = None
            self._desk.put_preview(None)
        self._view.update()

    def let_go(self) -> None:
        """What was dragged becomes an edit."""
        drag, moved, edge, held = self._drag, self.moved, self.edge, self._held
        edit = self._edit_of(drag[0], moved["dub"]) if drag is not None and "dub" in moved else None
        self.drop()
        if edge is not None:
            here = self._desk.segment_id
            self._desk.apply("Move a word's edge", lambda project: move_word_edge(project, here, *edge))
            return
        if held is not None:
            self._desk.apply(msg_act("Hold a word"), holding(self._desk.tag, self._desk.segment_id, *held))
            return
        if drag is None or not moved:
            return
        (bar,) = moved.values()
        segment_id = self._desk.segment_id
        if drag[0] in ("start", "end"):
            self._desk.apply(
                "Retime a segment", lambda project: retime_segment(project, segment_id, bar.start_us, bar.end_us)
            )
        elif edit is not None:
            self._desk.apply("Pin a take", edit)
