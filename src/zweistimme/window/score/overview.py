"""The whole programme at a glance, with both voices, trouble as ticks, and the visible part as a frame."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent, QPen, QPixmap
from PyQt6.QtWidgets import QWidget

from zweistimme.window.bridge import Desk
from zweistimme.window.strain import Strain, strain_of
from zweistimme.window.theme import colour, speaker_colour

WIDTH = 34
_EDGE = 8


class Overview(QWidget):
    """A narrow strip; drag the frame or press anywhere to go there."""

    moved = pyqtSignal(float)
    """The time, in microseconds, that should be in the middle."""

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._desk = desk
        self._visible = (0.0, 1.0)
        self._playhead_us = 0.0
        self._picture: QPixmap | None = None
        self.setFixedWidth(WIDTH)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setToolTip("The whole programme. Press or drag to go there.")
        self.setAccessibleName("Overview of the programme")
        desk.changed.connect(self._forget)
        desk.version_changed.connect(self._forget)

    def sizeHint(self) -> QSize:
        return QSize(WIDTH, 400)

    def show_visible(self, start_us: float, end_us: float) -> None:
        """Move the frame."""
        self._visible = (start_us, end_us)
        self.update()

    def show_playhead(self, time_us: float) -> None:
        before, self._playhead_us = self._playhead_us, time_us
        if abs(self._y(before) - self._y(time_us)) >= 0.5:
            self.update()

    def _forget(self) -> None:
        self._picture = None
        self.update()

    def _duration(self) -> float:
        project = self._desk.project
        ends = [project.programme.sound.duration_us] if project.programme else []
        ends += [project.segments[-1].end_us] if project.segments else []
        return float(max(ends, default=1))

    def _y(self, time_us: float) -> float:
        return _EDGE + (self.height() - 2 * _EDGE) * time_us / self._duration()

    def _time(self, y: float) -> float:
        return (y - _EDGE) / max(1, self.height() - 2 * _EDGE) * self._duration()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is not None:
            self.moved.emit(self._time(event.position().y()))

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        self.mousePressEvent(event)

    def resizeEvent(self, _event: object) -> None:
        self._picture = None

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        if self._picture is None:
            self._picture = self._drawn()
        painter = QPainter(self)
        painter.drawPixmap(0, 0, self._picture)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        top, bottom = (self._y(max(0.0, min(t, self._duration()))) for t in self._visible)
        painter.setPen(QPen(colour("ink"), 1.6))
        painter.setBrush(colour("card", 60))
        painter.drawRoundedRect(QRectF(2.5, top, WIDTH - 5, max(8.0, bottom - top)), 3, 3)
        painter.setPen(QPen(colour("playhead"), 1.6))
        y = self._y(self._playhead_us)
        painter.drawLine(QPointF(2, y), QPointF(WIDTH - 2, y))

    def _drawn(self) -> QPixmap:
        ratio = self.devicePixelRatioF()
        picture = QPixmap(round(self.width() * ratio), round(self.height() * ratio))
        picture.setDevicePixelRatio(ratio)
        picture.fill(colour("sheet"))
        painter = QPainter(picture)
        painter.setPen(QPen(colour("rule"), 1))
        painter.setBrush(colour("card"))
        painter.drawRoundedRect(QRectF(5.5, _EDGE - 3, WIDTH - 11, self.height() - 2 * _EDGE + 6), 3, 3)
        speakers = {key: place for place, key in enumerate(self._desk.project.speakers)}
        version = self._desk.version
        painter.setPen(Qt.PenStyle.NoPen)
        for segment in self._desk.project.segments:
            tint = speaker_colour(speakers[segment.speaker_id])
            self._mark(painter, 8, segment.start_us, segment.end_us, tint)
            placement = version.placements.get(segment.id) if version else None
            if placement is not None:
                end = placement.start_us + placement.length_us
                self._mark(painter, 17, placement.start_us, end, colour("dub", 190))
                if strain_of(placement) is Strain.HARD:
                    painter.fillRect(QRectF(26, self._y(placement.start_us), 6, 3), colour("hard"))
        painter.end()
        return picture

    def _mark(self, painter: QPainter, x: int, start_us: int, end_us: int, tint: QColor) -> None:
        top = self._y(start_us)
        painter.fillRect(QRectF(x, top, 8, max(1.5, self._y(end_us) - top - 0.5)), tint)
