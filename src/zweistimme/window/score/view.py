"""The Score itself: shows what is visible, takes the mouse, and says what a person wants."""

from __future__ import annotations

from html import escape

from PyQt6.QtCore import QPointF, QRect, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QMouseEvent, QPainter, QPaintEvent, QResizeEvent, QWheelEvent
from PyQt6.QtWidgets import QAbstractScrollArea, QToolTip, QWidget

from zweistimme.project.edits import pin_line, set_line_text
from zweistimme.project.model import Pin, Project
from zweistimme.project.times import SECOND_US, clock
from zweistimme.project.transcript import retime_segment, set_segment_text
from zweistimme.window.bridge import Desk
from zweistimme.window.peaks import PeakStore
from zweistimme.window.score import overlay, painting
from zweistimme.window.score.editor import CardEditor
from zweistimme.window.score.geometry import (
    HEADER,
    RULER,
    CardIndex,
    Columns,
    Scale,
    columns_for,
    dub_cards,
    original_cards,
)
from zweistimme.window.score.gestures import Drag, Grip, card_at, drag_at
from zweistimme.window.score.text import forget
from zweistimme.window.theme import colour

_CLOSEST, _WIDEST = 400.0, 2.0
_TAIL_US = 3_000_000


class ScoreView(QAbstractScrollArea):
    """Reads downwards. Its scroll bar counts milliseconds."""

    looked = pyqtSignal(float, float)
    """The visible stretch of time, in microseconds."""
    playhead_wanted = pyqtSignal(float)
    typed = pyqtSignal(str, str)
    """Side and text, while a card is written."""

    def __init__(self, desk: Desk, peaks: PeakStore, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._desk, self._peaks = desk, peaks
        self.scale = Scale()
        self._playhead_us = 0.0
        self._drag: Drag | None = None
        self._drag_to: tuple[int, int] | None = None
        self._originals = CardIndex(())
        self._dubs = CardIndex(())
        self._seen: tuple[object, object] = (None, None)
        self.setFrameShape(QAbstractScrollArea.Shape.NoFrame)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Score: the original on the left, the dub on the right, time downwards")
        self._canvas().setMouseTracking(True)
        self.editor = CardEditor(self._canvas())
        self.editor.kept.connect(self._keep)
        self.editor.typed.connect(lambda text: self.typed.emit(self.editor.side, text))
        bar = self.verticalScrollBar()
        assert bar is not None
        self._bar = bar
        bar.valueChanged.connect(self._scrolled)
        desk.changed.connect(lambda _change: self.refresh())
        desk.version_changed.connect(lambda _tag: self.refresh())
        desk.selected.connect(lambda _id: self._canvas().update())
        peaks.arrived.connect(self._canvas().update)
        self.refresh()

    def _canvas(self) -> QWidget:
        canvas = self.viewport()
        assert canvas is not None
        return canvas

    def forget_text(self) -> None:
        """Colours or type have changed: lay all text out anew."""
        forget()
        self._canvas().update()

    # what is shown

    def refresh(self) -> None:
        """Take over the project as it is; cards are laid out anew only where they changed."""
        segments, version = self._desk.project.segments, self._desk.version
        placements = version.placements if version else None
        if segments is not self._seen[0]:
            self._originals = original_cards(segments)
        if segments is not self._seen[0] or placements is not self._seen[1]:
            self._dubs = dub_cards(segments, version)
        self._seen = (segments, placements)
        self._set_range()
        self._canvas().update()

    def _end_us(self) -> int:
        project = self._desk.project
        ends = [project.programme.sound.duration_us] if project.programme else [0]
        ends += [segment.end_us for segment in project.segments[-1:]]
        return max(ends) + _TAIL_US

    def _set_range(self) -> None:
        span = self.scale.span_us(self._canvas().height())
        self._bar.setPageStep(max(1, int(span / 1000)))
        self._bar.setSingleStep(max(1, int(span / 20_000)))
        self._bar.setRange(0, max(0, int((self._end_us() - span) / 1000)))
        self._scrolled()

    def _scrolled(self) -> None:
        self.scale.top_us = self._bar.value() * 1000.0
        if self.editor.editing:
            self.editor.clearFocus()
        self.looked.emit(self.scale.top_us, self.scale.top_us + self.scale.span_us(self._canvas().height()))
        self._canvas().update()

    def centre_on(self, time_us: float) -> None:
        """Scroll so that a time is in the middle."""
        self._bar.setValue(int((time_us - self.scale.span_us(self._canvas().height()) / 2) / 1000))

    def show_segment(self, segment_id: str) -> None:
        """Scroll as little as needed to have a segment in sight."""
        card = self._originals.by_id.get(segment_id)
        if card is None:
            return
        span = self.scale.span_us(self._canvas().height())
        margin = min(span * 0.08, 1.5 * SECOND_US)
        if card.start_us - margin < self.scale.top_us or card.end_us + margin > self.scale.top_us + span:
            self.centre_on((card.start_us + card.end_us) / 2)

    def show_playhead(self, time_us: float, *, follow: bool) -> None:
        """Move the playhead; *follow* turns the page when it leaves."""
        before, self._playhead_us = self._playhead_us, time_us
        span = self.scale.span_us(self._canvas().height())
        if follow and not self.scale.top_us <= time_us <= self.scale.top_us + span * 0.92:
            self._bar.setValue(int((time_us - span * 0.12) / 1000))
            return
        canvas = self._canvas()
        for time in (before, time_us):
            canvas.update(QRect(0, int(self.scale.y(time)) - 10, canvas.width(), 20))

    def zoom(self, factor: float, y: float | None = None) -> None:
        """Show more or less; the time at height *y* stays where it is."""
        at = self._canvas().height() / 2 if y is None else y
        fixed = self.scale.time(at)
        self.scale.pixels_per_second = max(_WIDEST, min(_CLOSEST, self.scale.pixels_per_second * factor))
        top = fixed - (at - HEADER) * SECOND_US / self.scale.pixels_per_second
        self._set_range()
        self._bar.setValue(int(top / 1000))
        self._scrolled()

    def scene(self) -> painting.Scene:
        """What painting and pointing need."""
        canvas = self._canvas()
        columns: Columns = columns_for(canvas.width())
        return painting.Scene(self._desk, self._peaks, columns, self.scale, canvas.width(), canvas.height())

    # painting

    def paintEvent(self, event: QPaintEvent | None) -> None:
        canvas = self._canvas()
        scene = self.scene()
        painter = QPainter(canvas)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(canvas.rect(), colour("paper"))
        if event is not None:
            painter.setClipRect(event.rect())
        painting.paint_ruler(painter, scene)
        start, end = round(self.scale.time(HEADER)), round(self.scale.time(scene.height)) + 1
        originals, dubs = self._originals.within(start, end), self._dubs.within(start, end)
        painter.save()
        painter.setClipRect(QRectF(0, HEADER, scene.width, scene.height - HEADER), Qt.ClipOperation.IntersectClip)
        painting.paint_original_wave(painter, scene, originals)
        tied = {card.segment.id: card for card in (*originals, *dubs)}
        for card in tied.values():
            placed = self._desk.placed(card.segment.id)
            if placed:
                painting.paint_ribbon(painter, scene, self._originals.by_id[card.segment.id], placed[0])
        for card in dubs:
            placed = self._desk.placed(card.segment.id)
            if placed:
                painting.paint_dub_wave(painter, scene, card, *placed)
            painting.paint_dub_card(painter, scene, card)
        for card in originals:
            painting.paint_original_card(painter, scene, card)
        if self._drag is not None and self._drag_to is not None:
            over_take = self._drag.grip is Grip.TAKE
            overlay.paint_ghost(painter, scene, self._drag_to, over_take=over_take)
        overlay.paint_playhead(painter, scene, self._playhead_us)
        painter.restore()
        overlay.paint_header(painter, scene)
        if not self._desk.project.segments:
            overlay.paint_empty(painter, scene)

    # the mouse

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        if event is None:
            return
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.zoom(1.0015 ** event.angleDelta().y(), event.position().y())
            event.accept()
            return
        pixels = event.pixelDelta().y() or event.angleDelta().y() * 0.6
        self._bar.setValue(self._bar.value() - int(pixels * 1000 / self.scale.pixels_per_second))

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None or event.button() is not Qt.MouseButton.LeftButton:
            return
        self.setFocus()
        scene, at = self.scene(), event.position()
        if at.x() < RULER and at.y() > HEADER:
            self.playhead_wanted.emit(max(0.0, self.scale.time(at.y())))
            return
        self._drag = drag_at(scene, self._originals, self._dubs, at)
        segment_id = self._drag.segment_id if self._drag else self._segment_at(scene, at)
        if segment_id:
            self._desk.select(segment_id)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        if self._drag is not None:
            self._drag_to = self._drag.moved(self.scale.time(event.position().y()))
            start, end = self._drag_to
            text = f"{clock(start, 2)} to {clock(end, 2)}"
            QToolTip.showText(event.globalPosition().toPoint(), text, self)
            self._canvas().update()
            return
        grip = drag_at(self.scene(), self._originals, self._dubs, event.position())
        shapes = {Grip.TAKE: Qt.CursorShape.OpenHandCursor, None: Qt.CursorShape.ArrowCursor}
        shape = shapes.get(grip.grip if grip else None, Qt.CursorShape.SizeVerCursor)
        self._canvas().setCursor(shape)
        self._hint(event)

    def mouseReleaseEvent(self, _event: QMouseEvent | None) -> None:
        drag, to = self._drag, self._drag_to
        self._drag = self._drag_to = None
        if drag is None or to is None or to == (drag.start_us, drag.end_us):
            return
        if drag.grip is Grip.TAKE:
            tag = self._desk.tag
            line = self._desk.line(drag.segment_id)
            length = line.pin.length_us if line and line.pin else None
            pin = Pin(to[0], length)
            self._desk.apply("Pin a take", lambda project: pin_line(project, tag, drag.segment_id, pin))
        else:
            self._desk.apply("Retime a segment", lambda project: retime_segment(project, drag.segment_id, *to))
        self._canvas().update()

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        self._drag = None
        scene, at = self.scene(), event.position()
        for side, index, column in (
            ("original", self._originals, scene.columns.original),
            ("dub", self._dubs, scene.columns.dub),
        ):
            card = card_at(scene, index, column, at)
            if card is not None:
                self._desk.select(card.segment.id)
                self.edit(side)
                return

    def _segment_at(self, scene: painting.Scene, at: QPointF) -> str:
        columns = scene.columns
        for index, column in (
            (self._originals, columns.original), (self._originals, columns.original_wave),
            (self._originals, columns.ribbon), (self._dubs, columns.dub_wave), (self._dubs, columns.dub),
        ):  # fmt: skip
            card = card_at(scene, index, column, at)
            if card is not None:
                return card.segment.id
        return ""

    def _hint(self, event: QMouseEvent) -> None:
        """Text that does not fit its card is shown whole on hover; a ribbon tells why the take stands there."""
        scene, at = self.scene(), event.position()
        card = card_at(scene, self._originals, scene.columns.original, at)
        text = card.segment.text if card else ""
        card = card_at(scene, self._dubs, scene.columns.dub, at)
        line = self._desk.line(card.segment.id) if card else None
        text = line.text if line else text
        card = card_at(scene, self._originals, scene.columns.ribbon, at)
        placed = self._desk.placed(card.segment.id) if card else None
        text = placed[0].reason if placed else text
        QToolTip.showText(event.globalPosition().toPoint(), f"<p>{escape(text)}</p>" if text else "", self)

    # writing in place

    def edit(self, side: str) -> None:
        """Write the selected card in place; *side* is "original" or "dub"."""
        segment = self._desk.segment()
        if segment is None or (side == "dub" and self._desk.version is None):
            return
        self.show_segment(segment.id)
        scene = self.scene()
        index, column = (
            (self._originals, scene.columns.original) if side == "original" else (self._dubs, scene.columns.dub)
        )
        rect = painting.card_rect(scene, index.by_id[segment.id], column)
        line = self._desk.line(segment.id)
        text = segment.text if side == "original" else (line.text if line else "")
        box = QRect(int(rect.left()), int(max(rect.top(), HEADER)), int(rect.width()), int(max(rect.height(), 58)))
        self.editor.begin(side, segment.id, text, box)

    def _keep(self, side: str, segment_id: str, text: str) -> None:
        tag = self._desk.tag

        def edit(project: Project) -> Project:
            if side == "original":
                return set_segment_text(project, segment_id, text)
            return set_line_text(project, tag, segment_id, text)

        self._desk.apply("Correct the original" if side == "original" else "Write a line", edit)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._set_range()
