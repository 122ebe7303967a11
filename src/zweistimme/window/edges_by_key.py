"""What the pointer drags in the close-up, by key: edges between words, a take's place, its length."""

from __future__ import annotations

from collections.abc import Callable
from typing import Final

from zweistimme.messages import tr
from zweistimme.project.model import Pin
from zweistimme.project.transcript import move_word_edge
from zweistimme.project.words import LEAST_WORD_US, spoken_words
from zweistimme.window.bridge import Desk

_SHORTEST_US: Final = 100_000


class EdgesByKey:
    """Moves by the step that edges are moved by, *step_us*; moves in a row are undone together."""

    def __init__(self, desk: Desk, step_us: Callable[[], int]) -> None:
        self._desk, self._step_us = desk, step_us

    def move_word(self, by: int) -> None:
        """Have the word under the cursor begin earlier or later, as far as its neighbours allow."""
        desk, segment = self._desk, self._desk.segment()
        words = spoken_words(segment) if segment is not None else ()
        place = desk.word
        if segment is None or not 0 < place < len(words):
            desk.notice("note", tr("Put the cursor on a word behind the first (→): what is moved is where it begins."))
            return
        low, high = words[place - 1].start_us + LEAST_WORD_US, words[place].end_us - LEAST_WORD_US
        at = max(low, min(words[place].start_us + by * self._step_us(), high))
        here, gesture = segment.id, desk.in_a_row(f"word {place} of {segment.id}")
        desk.apply("Move a word's edge", lambda project: move_word_edge(project, here, place, at), gesture)

    def move_take(self, by: int) -> None:
        """Pin the line's take earlier or later than it stands."""
        placed, line = self._desk.placed(), self._desk.line()
        if placed is None:
            self._say_unplaced()
            return
        kept = line.pin.length_us if line and line.pin else None
        self._pin(Pin(max(0, placed[0].start_us + by * self._step_us()), kept))

    def lengthen_take(self, by: int) -> None:
        """Pin the line's take where it stands, longer or shorter than it is."""
        placed = self._desk.placed()
        if placed is None:
            self._say_unplaced()
            return
        length = max(_SHORTEST_US, placed[0].length_us + by * self._step_us())
        self._pin(Pin(placed[0].start_us, length))

    def _pin(self, pin: Pin) -> None:
        from zweistimme.stages.fit import pin_and_plan

        tag, segment_id = self._desk.tag, self._desk.segment_id
        gesture = self._desk.in_a_row(f"pin of {segment_id} in {tag}")
        self._desk.apply("Pin a take", lambda project: pin_and_plan(project, tag, segment_id, pin), gesture)

    def _say_unplaced(self) -> None:
        self._desk.notice("note", tr("Only a placed take can be pinned. Fit this version first."))
