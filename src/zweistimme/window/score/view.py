"""The Score itself: shows what is visible, takes the mouse, and says what a person wants."""

from __future__ import annotations

from PyQt6.QtCore import QPoint, QPointF, QRect, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import (
    QContextMenuEvent,
    QFocusEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QResizeEvent,
    QShowEvent,
    QWheelEvent,
)
from PyQt6.QtWidgets import QAbstractScrollArea, QWidget

from zweistimme.messages import tr
from zweistimme.project.times import SECOND_US
from zweistimme.window.bridge import Desk
from zweistimme.window.peaks import PeakStore
from zweistimme.window.regions import SpeechRegions
from zweistimme.window.score import overlay, painting
from zweistimme.window.score.drops import ClipDrops
from zweistimme.window.score.geometry import (
    Columns,
    Scale,
    columns_for,
    dub_cards,
    header,
    original_cards,
)
from zweistimme.window.score.in_place import InPlace
from zweistimme.window.score.picture import Layers, Picture
from zweistimme.window.score.pointer import Pointer
from zweistimme.window.score.text import forget
from zweistimme.window.times import PlacedTimes, SegmentTimes
from zweistimme.window.writing import Kind, Place

_CLOSEST, _WIDEST = 400.0, 2.0
_TAIL_US = 3_000_000
_LEAST_EDITOR = 58
"""Pixels: two lines of text."""


class ScoreView(QAbstractScrollArea):
    """Reads downwards. Its scroll bar counts milliseconds."""

    looked = pyqtSignal(float, float)
    """The visible stretch of time, in microseconds."""
    playhead_wanted = pyqtSignal(float)
    writing_wanted = pyqtSignal(int, int)
    """A stretch of speech, in microseconds, that a person wants to write down."""
    split_wanted = pyqtSignal(str, int)
    """A segment's id, and the number of the word before which it should be split."""
    menu_wanted = pyqtSignal(str, QPoint)
    """What is under the pointer, and where on the screen it is."""
    typed = pyqtSignal(str)
    """The dub's wording, while it is written on its card."""

    def __init__(self, desk: Desk, peaks: PeakStore, regions: SpeechRegions, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._desk, self._peaks, self._regions = desk, peaks, regions
        self.scale = Scale()
        self._playhead_us = 0.0
        self._picture = Picture()
        self._left_behind = False
        """Somebody scrolled away from the playhead while it moved; it is followed again once it is in sight."""
        self._times, self._placed = SegmentTimes(), PlacedTimes()
        self.originals = original_cards(())
        self.dubs = original_cards(())
        self._seen: tuple[object, object] = (None, None)
        self.setFrameShape(QAbstractScrollArea.Shape.NoFrame)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setLayoutDirection(Qt.LayoutDirection.LeftToRight)  # as sound and the Score are read everywhere
        self.setAccessibleName(tr("Score: the original on the left, the dub on the right, time downwards"))
        self.canvas().setMouseTracking(True)
        self._pointer = Pointer(self, desk, regions)
        self.drops = ClipDrops(self.canvas(), lambda at: self._pointer.segment_at(QPointF(at)))
        self._in_place = InPlace(desk, self.canvas(), self._box_of, self.show_segment, self.typed.emit)
        self.editor = self._in_place.editor
        self.editor.split.connect(self.split_wanted)
        self.editor.left.connect(self.setFocus)
        bar = self.verticalScrollBar()
        assert bar is not None
        self._bar = bar
        bar.valueChanged.connect(self._scrolled)
        bar.actionTriggered.connect(lambda _action: self._leave_playhead())
        desk.changed.connect(lambda _change: self.refresh())
        desk.version_changed.connect(lambda _tag: self.refresh())
        desk.sifting.changed.connect(self.refresh)
        desk.previewed.connect(self.refresh)
        desk.selected.connect(lambda _id: self.canvas().update())
        for signal in (desk.chosen_changed, desk.word_changed, peaks.arrived, regions.arrived):
            signal.connect(lambda *_: self.canvas().update())
        self.refresh()

    def canvas(self) -> QWidget:
        canvas = self.viewport()
        assert canvas is not None
        return canvas

    def forget_text(self) -> None:
        """Colours or type have changed: lay all text out anew."""
        forget()
        self.canvas().update()

    # what is shown

    def refresh(self) -> None:
        """Take over the project as it is; cards are laid out anew only where they changed."""
        segments, version = self._desk.project.segments, self._desk.shown_version
        placements = version.placements if version else None
        if segments is not self._seen[0]:
            self.originals = original_cards(segments, self._times)
        if segments is not self._seen[0] or placements is not self._seen[1]:
            self.dubs = dub_cards(segments, version, self._placed)
        self._seen = (segments, placements)
        self._set_range()
        self.canvas().update()

    def _end_us(self) -> int:
        project = self._desk.project
        ends = [project.programme.sound.duration_us] if project.programme else [0]
        ends += [segment.end_us for segment in project.segments[-1:]]
        return max(ends) + _TAIL_US

    def _set_range(self) -> None:
        span = self.scale.span_us(self.canvas().height())
        self._bar.setPageStep(max(1, int(span / 1000)))
        self._bar.setSingleStep(max(1, int(span / 20_000)))
        self._bar.setRange(0, max(0, int((self._end_us() - span) / 1000)))
        self._scrolled()

    def _scrolled(self) -> None:
        self.scale.top_us = self._bar.value() * 1000.0
        self._in_place.follow()
        self.look()
        self.canvas().update()

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self.look()

    def look(self) -> None:
        """Say which stretch is seen, if this view is."""
        if self.isVisible():
            self.looked.emit(self.scale.top_us, self.scale.top_us + self.scale.span_us(self.canvas().height()))

    def centre_on(self, time_us: float) -> None:
        """Scroll so that a time is in the middle."""
        self._leave_playhead()
        self._bar.setValue(int((time_us - self.scale.span_us(self.canvas().height()) / 2) / 1000))

    def _leave_playhead(self) -> None:
        self._left_behind = True

    def show_segment(self, segment_id: str) -> None:
        """Scroll as little as needed to have a segment in sight."""
        card = self.originals.find(segment_id)
        if card is None:
            return
        span = self.scale.span_us(self.canvas().height())
        margin = min(span * 0.08, 1.5 * SECOND_US)
        if card.start_us - margin < self.scale.top_us or card.end_us + margin > self.scale.top_us + span:
            self.centre_on((card.start_us + card.end_us) / 2)

    def show_playhead(self, time_us: float, *, follow: bool) -> None:
        """Move the playhead; *follow* turns the page when it leaves."""
        before, self._playhead_us = self._playhead_us, time_us
        span = self.scale.span_us(self.canvas().height())
        in_sight = self.scale.top_us <= time_us <= self.scale.top_us + span * 0.92
        self._left_behind = self._left_behind and follow and not in_sight
        if follow and not in_sight and not self._left_behind and not self._desk.writing.going_on:
            self._bar.setValue(int((time_us - span * 0.12) / 1000))
            return
        canvas = self.canvas()
        for time in (before, time_us):
            canvas.update(QRect(0, int(self.scale.y(time)) - 10, canvas.width(), 20))

    def zoom(self, factor: float, y: float | None = None) -> None:
        """Show more or less; the time at height *y* stays where it is."""
        at = self.canvas().height() / 2 if y is None else y
        fixed = self.scale.time(at)
        self.scale.pixels_per_second = max(_WIDEST, min(_CLOSEST, self.scale.pixels_per_second * factor))
        top = fixed - (at - header()) * SECOND_US / self.scale.pixels_per_second
        self._set_range()
        self._bar.setValue(int(top / 1000))
        self._scrolled()

    def scene(self) -> painting.Scene:
        """What painting and pointing need."""
        canvas = self.canvas()
        columns: Columns = columns_for(canvas.width())
        return painting.Scene(
            self._desk,
            self._peaks,
            self._regions,
            columns,
            self.scale,
            canvas.width(),
            canvas.height(),
            canvas.devicePixelRatioF(),
        )

    # painting

    def focusInEvent(self, event: QFocusEvent | None) -> None:
        super().focusInEvent(event)
        self.canvas().update()

    def focusOutEvent(self, event: QFocusEvent | None) -> None:
        super().focusOutEvent(event)
        self.canvas().update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        canvas, scene = self.canvas(), self.scene()
        painter = QPainter(canvas)
        part = None if event is None or event.rect() == canvas.rect() else event.rect()
        self._picture.paint(
            painter,
            scene,
            Layers(self.originals, self.dubs, self._pointer.ghost, self._pointer.ghosts(), self.hasFocus()),
            part,
        )
        painter.setClipRect(QRectF(0, header(), scene.width, scene.height - header()))
        overlay.paint_playhead(painter, scene, self._playhead_us)

    # the mouse

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        if event is None:
            return
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.zoom(1.0015 ** event.angleDelta().y(), event.position().y())
            event.accept()
            return
        self.scroll_by(-(event.pixelDelta().y() or event.angleDelta().y() * 0.6))

    def scroll_by(self, pixels: float) -> None:
        """Scroll down by so many pixels."""
        self._leave_playhead()
        self._bar.setValue(self._bar.value() + int(pixels * 1000 / self.scale.pixels_per_second))

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and event.button() is Qt.MouseButton.LeftButton:
            self.setFocus()
            self._pointer.press(event)

    def contextMenuEvent(self, event: QContextMenuEvent | None) -> None:
        if event is None:
            return
        if event.reason() is QContextMenuEvent.Reason.Mouse:
            self.menu_wanted.emit(self._pointer.menu_at(QPointF(event.pos())), event.globalPos())
            return
        segment = self._desk.segment()  # by a key: what is selected
        box = self._box_of(Place(Kind.ORIGINAL, segment.id)) if segment else None
        corner = box.topLeft() if box else QPoint(header(), header())
        self.menu_wanted.emit("original" if box else "nothing", self.canvas().mapToGlobal(corner))

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is not None:
            self._pointer.move(event)

    def mouseReleaseEvent(self, _event: QMouseEvent | None) -> None:
        self._pointer.release()

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        if event is not None:
            self._pointer.double_click(event)

    # writing in place

    def edit(self, side: str) -> None:
        """Write the selected card in place; *side* is "original" or "dub"."""
        self._in_place.begin(side)

    def _box_of(self, place: Place) -> QRect | None:
        """Where the card of a place lies on the canvas, its upper end in sight if anything is; None without a card."""
        scene, original = self.scene(), place.kind is Kind.ORIGINAL
        card = (self.originals if original else self.dubs).find(place.key)
        if card is None:
            return None
        rect = painting.card_rect(scene, card, scene.columns.original if original else scene.columns.dub)
        top, bottom = rect.top(), max(rect.bottom(), rect.top() + _LEAST_EDITOR)
        if top < header() < bottom - _LEAST_EDITOR:
            top = header()
        return QRect(int(rect.left()), int(top), int(rect.width()), int(bottom - top))

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._set_range()
        self._in_place.follow()
