"""The mouse on the Score: selecting, dragging edges and takes, hints, writing by double click."""

from __future__ import annotations

from html import escape
from typing import TYPE_CHECKING

from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QMouseEvent
from PyQt6.QtWidgets import QToolTip

from zweistimme.project.model import Pin
from zweistimme.project.times import clock
from zweistimme.project.transcript import retime_segment
from zweistimme.sentences import sentences_of
from zweistimme.window.bridge import Desk
from zweistimme.window.regions import SpeechRegions
from zweistimme.window.score.cards import word_at
from zweistimme.window.score.geometry import HEADER, RULER, Card
from zweistimme.window.score.gestures import Drag, Grip, card_at, drag_at
from zweistimme.window.score.painting import Scene

if TYPE_CHECKING:
    from zweistimme.window.score.view import ScoreView


class Pointer:
    """What the mouse does on one Score."""

    def __init__(self, view: ScoreView, desk: Desk, regions: SpeechRegions) -> None:
        self._view, self._desk, self._regions = view, desk, regions
        self._drag: Drag | None = None
        self._to: tuple[int, int] | None = None

    @property
    def ghost(self) -> tuple[tuple[int, int], bool] | None:
        """Where what is dragged would come to lie, and whether it is a take."""
        return (self._to, self._drag.grip is Grip.TAKE) if self._drag and self._to else None

    def press(self, event: QMouseEvent) -> None:
        """Take hold of something, or select it."""
        view, at = self._view, event.position()
        scene = view.scene()
        if at.x() < RULER and at.y() > HEADER:
            view.playhead_wanted.emit(max(0.0, view.scale.time(at.y())))
            return
        self._drag = drag_at(scene, view.originals, view.dubs, at)
        segment_id = self._drag.segment_id if self._drag else self._segment_at(scene, at)
        self._select(scene, at, segment_id, event.modifiers())

    def _select(self, scene: Scene, at: QPointF, segment_id: str, keys: Qt.KeyboardModifier) -> None:
        """A line and one of its words; with Shift everything up to it, with Ctrl it as well or no more."""
        desk, view = self._desk, self._view
        if not segment_id:
            if at.y() > HEADER:
                view.playhead_wanted.emit(max(0.0, view.scale.time(at.y())))
        elif keys & Qt.KeyboardModifier.ShiftModifier:
            desk.extend_choice(segment_id)
        elif keys & Qt.KeyboardModifier.ControlModifier:
            desk.choose(desk.chosen ^ {segment_id} or {segment_id})
        else:
            card = card_at(scene, view.originals, scene.columns.original, at)
            word = word_at(scene, card, at) if card and card.segment.id == segment_id else None
            desk.select(segment_id, word or 0)

    def move(self, event: QMouseEvent) -> None:
        """Drag on, or say what lies here."""
        view = self._view
        if self._drag is not None:
            self._to = self._drag.moved(view.scale.time(event.position().y()))
            start, end = self._to
            text = f"{clock(start, 2)} to {clock(end, 2)}"
            QToolTip.showText(event.globalPosition().toPoint(), text, view)
            view.canvas().update()
            return
        grip = drag_at(view.scene(), view.originals, view.dubs, event.position())
        shapes = {Grip.TAKE: Qt.CursorShape.OpenHandCursor, None: Qt.CursorShape.ArrowCursor}
        view.canvas().setCursor(shapes.get(grip.grip if grip else None, Qt.CursorShape.SizeVerCursor))
        QToolTip.showText(event.globalPosition().toPoint(), self._hint(event.position()), view)

    def release(self) -> None:
        """Let go: what was dragged becomes an edit."""
        drag, to = self._drag, self._to
        self._drag = self._to = None
        if drag is None or to is None or to == (drag.start_us, drag.end_us):
            return
        if drag.grip is Grip.TAKE:
            from zweistimme.stages.fit import pin_and_plan

            tag = self._desk.tag
            line = self._desk.line(drag.segment_id)
            pin = Pin(to[0], line.pin.length_us if line and line.pin else None)
            self._desk.apply("Pin a take", lambda project: pin_and_plan(project, tag, drag.segment_id, pin))
        else:
            self._desk.apply("Retime a segment", lambda project: retime_segment(project, drag.segment_id, *to))
        self._view.canvas().update()

    def double_click(self, event: QMouseEvent) -> None:
        """Write in place: a card, or speech that has no segment yet."""
        self._drag = None
        view, at = self._view, event.position()
        scene = view.scene()
        for side, index, column in (
            ("original", view.originals, scene.columns.original),
            ("dub", view.dubs, scene.columns.dub),
        ):
            card = card_at(scene, index, column, at)
            if card is not None:
                self._desk.select(card.segment.id)
                view.edit(side)
                return
        left, width = scene.columns.original
        if left <= at.x() <= left + width and at.y() > HEADER:
            time = round(view.scale.time(at.y()))
            for start, end in self._regions.open_between(time, time + 1).tolist():
                view.writing_wanted.emit(start, end)
                return

    def _cards_at(self, scene: Scene, at: QPointF) -> dict[str, Card | None]:
        """The card under the pointer in each column."""
        view, columns = self._view, scene.columns
        rows = (
            ("original", view.originals, columns.original),
            ("original_wave", view.originals, columns.original_wave),
            ("ribbon", view.originals, columns.ribbon),
            ("dub_wave", view.dubs, columns.dub_wave),
            ("dub", view.dubs, columns.dub),
        )
        return {name: card_at(scene, index, column, at) for name, index, column in rows}

    def _segment_at(self, scene: Scene, at: QPointF) -> str:
        return next((card.segment.id for card in self._cards_at(scene, at).values() if card), "")

    def _hint(self, at: QPointF) -> str:
        """Text that does not fit its card is shown whole on hover; a ribbon tells why the take stands there."""
        found = self._cards_at(self._view.scene(), at)
        original, dub, ribbon = found["original"], found["dub"], found["ribbon"]
        text = ""
        if original:
            aside = ", ".join(word.text.strip(",") for word in original.segment.fillers)
            text = original.segment.text + (f" (kept aside: {aside})" if aside else "")
        elif dub:
            line = self._desk.line(dub.segment.id)
            text = line.text if line else ""
        elif ribbon:
            placed = self._desk.placed(ribbon.segment.id)
            text = sentences_of(placed[0].why) if placed else ""
        return f"<p>{escape(text)}</p>" if text else ""
