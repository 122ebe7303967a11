"""The lanes of a mix to look at: press to play from there, press a name to leave a lane out, turn the wheel to look
closer."""

from __future__ import annotations

from typing import Final

from PyQt6.QtCore import QEvent, QPointF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QHelpEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPixmap, QWheelEvent
from PyQt6.QtWidgets import QSizePolicy, QToolTip, QWidget

from zweistimme.messages import tr
from zweistimme.project.times import clock
from zweistimme.window.mix.columns import Lane, MixColumns
from zweistimme.window.mix.painting import HEAD, View, paint
from zweistimme.window.theme import colour, px

_CLOSEST_S: Final = 10.0
_STEP: Final = 1.25
_MOVE: Final = 0.15


class MixView(QWidget):
    """All lanes over the programme."""

    play_wanted = pyqtSignal(float)
    """From this time, in microseconds."""
    lane_pressed = pyqtSignal(str, bool)
    """A lane is to be heard or left out; or, with True, heard alone."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.columns: MixColumns | None = None
        self.unheard: frozenset[str] = frozenset()
        self._span: tuple[float, float] | None = None
        self._playhead_s = 0.0
        self._picture: QPixmap | None = None
        self.setMinimumSize(px(420), px(240))
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setLayoutDirection(Qt.LayoutDirection.LeftToRight)
        self.setAccessibleName(tr("The mix over the programme"))

    def sizeHint(self) -> QSize:
        return QSize(720, 520)

    def show_columns(self, columns: MixColumns, unheard: frozenset[str]) -> None:
        """Another mix, or others heard."""
        if self.columns is None or columns.seconds != self.columns.seconds:
            self._span = None
        self.columns, self.unheard = columns, unheard
        self.draw_anew()

    def draw_anew(self) -> None:
        """Draw it anew."""
        self._picture = None
        self.update()

    def show_playhead(self, time_us: float) -> None:
        """Where it plays."""
        before, self._playhead_s = self._playhead_s, time_us / 1e6
        view = self.view()
        if abs(view.y(before) - view.y(self._playhead_s)) >= 0.5:
            self.update()

    def view(self) -> View:
        """What is in sight."""
        first, last = self._span or (0.0, max(self.columns.seconds if self.columns else 1.0, 0.1))
        return View(first, last, self.width(), self.height())

    def lane_at(self, x: float) -> Lane | None:
        """The lane at a place from the left."""
        if self.columns is None:
            return None
        boxes = self.view().columns(len(self.columns.lanes))[1:]
        return next(
            (lane for lane, box in zip(self.columns.lanes, boxes, strict=True) if box.left() <= x < box.right()), None
        )

    def look_at(self, middle_s: float, by: float) -> None:
        """Look closer, or at more, with a time where it is."""
        if self.columns is None:
            return
        first, last = self.view().first, self.view().last
        length = min(max((last - first) / by, min(_CLOSEST_S, self.columns.seconds)), self.columns.seconds)
        share = (middle_s - first) / max(last - first, 1e-6)
        self._look_from(middle_s - share * length, length)

    def _look_from(self, first: float, length: float) -> None:
        whole = self.columns.seconds if self.columns else 1.0
        first = min(max(first, 0.0), whole - length)
        self._span = None if length >= whole else (first, first + length)
        self.draw_anew()

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        if event is None:
            return
        turns, view = event.angleDelta().y() / 120, self.view()
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.look_at(view.seconds(event.position().y()), _STEP**turns)
        else:
            self._look_from(view.first - turns * _MOVE * (view.last - view.first), view.last - view.first)
        event.accept()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        view = self.view()
        length = view.last - view.first
        if event.key() in (Qt.Key.Key_PageUp, Qt.Key.Key_PageDown):
            sign = 1 if event.key() == Qt.Key.Key_PageDown else -1
            self._look_from(view.first + sign * 0.9 * length, length)
        else:
            super().keyPressEvent(event)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None or event.button() != Qt.MouseButton.LeftButton:
            return
        x, y = event.position().x(), event.position().y()
        lane = self.lane_at(x)
        if y < px(HEAD):
            if lane is not None:
                self.lane_pressed.emit(lane.id, bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier))
            return
        self.play_wanted.emit(max(0.0, self.view().seconds(y)) * 1e6)

    def event(self, event: QEvent | None) -> bool:
        """What is under the pointer is said in figures."""
        if isinstance(event, QHelpEvent) and self.columns is not None:
            QToolTip.showText(event.globalPos(), self.words_at(event.pos().x(), event.pos().y()), self)
            return True
        return super().event(event)

    def words_at(self, x: float, y: float) -> str:
        """What a place says."""
        lane = self.lane_at(x)
        if y < px(HEAD):
            if lane is None:
                return tr("Short-term loudness; red at its edge where it is out of the band")
            how = tr("{lane}: press to hear it or leave it out, with Shift to hear it alone", lane=lane.name)
            return f"{how}\n{lane.about}".rstrip()
        seconds = self.view().seconds(y)
        levels = lane.lufs if lane else self.columns.loud if self.columns else ()
        place, at = int(seconds * 10), clock(round(max(seconds, 0.0) * 1e6))
        if not 0 <= place < len(levels) or not levels[place] > -70:
            return at
        return tr("{time}  {loud:.1f} LUFS. Press to play from here.", time=at, loud=float(levels[place]))

    def resizeEvent(self, _event: object) -> None:
        self.draw_anew()

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        if self.columns is None:
            painter.fillRect(self.rect(), colour("sheet"))
            return
        if self._picture is None:
            ratio = self.devicePixelRatioF()
            self._picture = QPixmap(round(self.width() * ratio), round(self.height() * ratio))
            self._picture.setDevicePixelRatio(ratio)
            inner = QPainter(self._picture)
            inner.setRenderHint(QPainter.RenderHint.Antialiasing)
            paint(inner, self.columns, self.view(), self.unheard)
            inner.end()
        painter.drawPixmap(0, 0, self._picture)
        y = self.view().y(self._playhead_s)
        if y >= px(HEAD):
            painter.setPen(QPen(colour("playhead"), 1.6))
            painter.drawLine(QPointF(0, y), QPointF(self.width(), y))
        if self.hasFocus():
            painter.setPen(QPen(colour("chosen_edge"), 1))
            painter.drawRect(self.rect().adjusted(0, 0, -1, -1))
