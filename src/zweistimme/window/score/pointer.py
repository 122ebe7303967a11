"""The mouse on the Score: selecting, dragging edges and takes, hints, writing by double click."""

from __future__ import annotations

from html import escape
from typing import Final, Protocol

from PyQt6.QtCore import QPoint, QPointF, Qt, QTimer, pyqtBoundSignal
from PyQt6.QtGui import QMouseEvent
from PyQt6.QtWidgets import QToolTip, QWidget

from zweistimme.messages import tr
from zweistimme.project.times import clock
from zweistimme.project.transcript import retime_segment
from zweistimme.sentences import sentences_of
from zweistimme.window.bridge import Desk
from zweistimme.window.hold import Hold
from zweistimme.window.regions import SpeechRegions
from zweistimme.window.score.cards import word_at
from zweistimme.window.score.geometry import Card, CardIndex, Scale, header, ruler
from zweistimme.window.score.gestures import Drag, Grip, card_at, drag_at
from zweistimme.window.score.painting import Scene
from zweistimme.window.trial_fit import Ghost, TrialFit

_SCROLL_MS: Final = 30
_SNAP: Final = 5
"""So many pixels from another place a take goes there."""
_EDGE: Final = 24
"""Pixels at either end of the Score where what is dragged scrolls it."""
_SCROLL_SHARE: Final = 0.35
"""How fast: of the pixels beyond that, each time."""


class Surface(Protocol):
    """What the mouse is on: the Score, as far as a pointer needs it."""

    scale: Scale
    originals: CardIndex
    dubs: CardIndex
    playhead_wanted: pyqtBoundSignal
    writing_wanted: pyqtBoundSignal

    def canvas(self) -> QWidget: ...

    def scene(self) -> Scene: ...

    def edit(self, side: str) -> None: ...

    def scroll_by(self, pixels: float) -> None: ...


class Pointer:
    """What the mouse does on one Score."""

    def __init__(self, view: Surface, desk: Desk, regions: SpeechRegions) -> None:
        self._view, self._desk, self._regions = view, desk, regions
        self._drag: Drag | None = None
        self._to: tuple[int, int] | None = None
        self._trial: TrialFit | None = None
        self._hold = Hold(view.canvas(), self._put_back)
        self._at = QPointF()
        self._scrolling = QTimer(view.canvas())
        self._scrolling.setInterval(_SCROLL_MS)
        self._scrolling.timeout.connect(self._scroll_on)

    @property
    def ghost(self) -> tuple[tuple[int, int], bool] | None:
        """Where what is dragged would come to lie, and whether it is a take."""
        return (self._to, self._drag.grip is Grip.TAKE) if self._drag and self._to else None

    def ghosts(self) -> list[Ghost]:
        """Where else a take that is dragged could be put."""
        return self._trial.ghosts() if self._trial is not None and self._to else []

    def press(self, event: QMouseEvent) -> None:
        """Take hold of something, or select it."""
        view, at = self._view, event.position()
        scene = view.scene()
        if at.x() < ruler() and at.y() > header():
            view.playhead_wanted.emit(max(0.0, view.scale.time(at.y())))
            return
        self._drag = drag_at(scene, view.originals, view.dubs, at)
        if self._drag is not None:
            self._hold.take(at)
        segment_id = self._drag.segment_id if self._drag else self._segment_at(scene, at)
        self._select(scene, at, segment_id, event.modifiers())

    def _select(self, scene: Scene, at: QPointF, segment_id: str, keys: Qt.KeyboardModifier) -> None:
        """A line and one of its words; with Shift everything up to it, with Ctrl it as well or no more."""
        desk, view = self._desk, self._view
        if not segment_id:
            if at.y() > header():
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
        view, at = self._view, event.position()
        if self._drag is not None:
            if self._hold.pulled(at):
                self._at = at
                self._drag_on(event.globalPosition().toPoint())
                self._scrolling.start()
            return
        grip = drag_at(view.scene(), view.originals, view.dubs, at)
        shapes = {Grip.TAKE: Qt.CursorShape.OpenHandCursor, None: Qt.CursorShape.ArrowCursor}
        view.canvas().setCursor(shapes.get(grip.grip if grip else None, Qt.CursorShape.SizeVerCursor))
        QToolTip.showText(event.globalPosition().toPoint(), self._hint(at), view.canvas())

    def _drag_on(self, screen: QPoint) -> None:
        assert self._drag is not None
        view = self._view
        start, end = self._drag.moved(view.scale.time(self._at.y()))
        if self._drag.grip is Grip.TAKE:
            start, end = self._try(start, end)
        self._to = (start, end)
        QToolTip.showText(screen, tr("{start} to {end}", start=clock(start, 2), end=clock(end, 2)), view.canvas())
        view.canvas().update()

    def _try(self, start_us: int, end_us: int) -> tuple[int, int]:
        """Have the plan show what becomes of all lines around a take that is held here; where it would lie."""
        assert self._drag is not None
        trial = self._trial = self._trial or TrialFit(self._desk, self._drag.segment_id)
        reach_us = _SNAP * 1_000_000 / self._view.scale.pixels_per_second
        start = trial.snapped(start_us, reach_us)
        trial.show(trial.edit(start, self._pinned_length()))
        placed = self._desk.placed(self._drag.segment_id)
        return (start, placed[0].start_us + placed[0].length_us) if placed else (start, end_us + start - start_us)

    def _pinned_length(self) -> int | None:
        line = self._desk.line(self._drag.segment_id) if self._drag else None
        return line.pin.length_us if line and line.pin else None

    def _scroll_on(self) -> None:
        """What is dragged to an edge of the Score goes on beyond it."""
        view, y = self._view, self._at.y()
        beyond = min(0.0, y - header() - _EDGE) + max(0.0, y - view.canvas().height() + _EDGE)
        if self._drag is not None and beyond:
            view.scroll_by(beyond * _SCROLL_SHARE)
            self._drag_on(view.canvas().mapToGlobal(self._at.toPoint()))

    def _put_back(self) -> None:
        """Nothing was dragged after all."""
        self._drag = self._to = self._trial = None
        self._desk.put_preview(None)
        self._scrolling.stop()
        self._view.canvas().update()

    def release(self) -> None:
        """Let go: what was dragged becomes an edit."""
        drag, to, trial, length = self._drag, self._to, self._trial, self._pinned_length()
        self._hold.let_go()
        self._put_back()
        if drag is None or to is None or to == (drag.start_us, drag.end_us):
            return
        if drag.grip is Grip.TAKE:
            if trial is not None:
                self._desk.apply("Pin a take", trial.edit(to[0], length))
        else:
            self._desk.apply("Retime a segment", lambda project: retime_segment(project, drag.segment_id, *to))

    def double_click(self, event: QMouseEvent) -> None:
        """Write in place: a card, or speech that has no segment yet."""
        self._hold.let_go()
        self._put_back()
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
        if left <= at.x() <= left + width and at.y() > header():
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

    def segment_at(self, at: QPointF) -> str:
        """The segment whose cards lie here; empty where there is none."""
        return self._segment_at(self._view.scene(), at)

    def _segment_at(self, scene: Scene, at: QPointF) -> str:
        return next((card.segment.id for card in self._cards_at(scene, at).values() if card), "")

    def menu_at(self, at: QPointF) -> str:
        """Select what lies here, if it is not among what is chosen; what kind of thing it is."""
        scene = self._view.scene()
        kind, card = next(((name, card) for name, card in self._cards_at(scene, at).items() if card), ("nothing", None))
        if card is not None and card.segment.id not in self._desk.chosen:
            word = word_at(scene, card, at) if kind == "original" else None
            self._desk.select(card.segment.id, word or 0)
        return {"original_wave": "original", "dub_wave": "take"}.get(kind, kind)

    def _hint(self, at: QPointF) -> str:
        """Text that does not fit its card is shown whole on hover; a ribbon tells why the take stands there."""
        found = self._cards_at(self._view.scene(), at)
        original, dub, ribbon = found["original"], found["dub"], found["ribbon"]
        text = ""
        if original:
            aside = ", ".join(word.text.strip(",") for word in original.segment.fillers)
            text = original.segment.text + (tr(" (kept aside: {aside})", aside=aside) if aside else "")
        elif dub:
            line = self._desk.line(dub.segment.id)
            text = line.text if line else ""
        elif ribbon:
            placed = self._desk.placed(ribbon.segment.id)
            text = sentences_of(placed[0].why) if placed else ""
        return f"<p>{escape(text)}</p>" if text else ""
