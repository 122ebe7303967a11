"""The rail at the left: the pages of the desk, each with a small drawing of its own."""

from __future__ import annotations

from typing import Final

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QAbstractButton, QButtonGroup, QVBoxLayout, QWidget

from zweistimme.window.theme import SMALL_PT, colour, font

PAGES: Final = ("Score", "Speakers", "Cast", "Hand-over", "Engines")


class _RailButton(QAbstractButton):
    def __init__(self, name: str) -> None:
        super().__init__()
        self.setText(name)
        self.setCheckable(True)
        self.setFixedSize(70, 56)
        self.setToolTip(f"The {name.lower()} page")
        self.setAccessibleName(name)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)  # a click on it leaves the keyboard to the page

    def sizeHint(self) -> QSize:
        return QSize(70, 56)

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if self.isChecked():
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(colour("chosen"))
            painter.drawRoundedRect(self.rect().adjusted(1, 1, -1, -1), 7, 7)
        tint = colour("ink" if self.isChecked() else "faded")
        painter.setPen(QPen(tint, 1.8))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.translate(35, 20)
        _DRAWN[self.text()](painter)
        painter.resetTransform()
        painter.setFont(font(SMALL_PT, bold=self.isChecked()))
        painter.setPen(tint)
        painter.drawText(QRectF(0, 36, 70, 16), Qt.AlignmentFlag.AlignCenter, self.text())
        if self.hasFocus():
            painter.setPen(QPen(colour("original"), 1.5))
            painter.drawRoundedRect(self.rect().adjusted(1, 1, -2, -2), 7, 7)


def _draw_score(painter: QPainter) -> None:
    painter.drawLine(QPointF(-9, -9), QPointF(-9, 9))
    painter.drawLine(QPointF(9, -9), QPointF(9, 9))
    painter.drawLine(QPointF(-9, -5), QPointF(9, -3))
    painter.drawLine(QPointF(-9, 3), QPointF(9, 7))


def _draw_cast(painter: QPainter) -> None:
    painter.drawEllipse(QPointF(-5, -3), 5, 5)
    painter.drawEllipse(QPointF(6, 3), 5, 5)


def _draw_handover(painter: QPainter) -> None:
    painter.drawPolyline(QPolygonF([QPointF(-10, 1), QPointF(-10, 9), QPointF(10, 9), QPointF(10, 1)]))
    painter.drawPolyline(QPolygonF([QPointF(-6, -2), QPointF(4, -2), QPointF(4, -8), QPointF(12, -2)]))


def _draw_engines(painter: QPainter) -> None:
    painter.drawArc(QRectF(-10, -6, 12, 12), 90 * 16, 180 * 16)
    painter.drawArc(QRectF(-2, -6, 12, 12), -90 * 16, 180 * 16)
    painter.drawLine(QPointF(-4, -2.5), QPointF(4, -2.5))
    painter.drawLine(QPointF(-4, 2.5), QPointF(4, 2.5))


def _draw_speakers(painter: QPainter) -> None:
    for y, spans in ((-6, ((-10, -3), (4, 10))), (1, ((-4, 3),)), (8, ((-10, -6), (1, 10)))):
        for left, right in spans:
            painter.drawLine(QPointF(left, y), QPointF(right, y))


_DRAWN: Final = {
    "Score": _draw_score,
    "Speakers": _draw_speakers,
    "Cast": _draw_cast,
    "Hand-over": _draw_handover,
    "Engines": _draw_engines,
}


class Rail(QWidget):
    """Pages, one under the other."""

    chosen = pyqtSignal(str)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        column = QVBoxLayout(self)
        column.setContentsMargins(2, 8, 2, 8)
        column.setSpacing(6)
        self._group = QButtonGroup(self)
        self.buttons = {}
        for name in PAGES:
            button = _RailButton(name)
            button.clicked.connect(lambda _on=False, name=name: self.chosen.emit(name))
            self._group.addButton(button)
            column.addWidget(button)
            self.buttons[name] = button
        self.buttons[PAGES[0]].setChecked(True)
        column.addStretch(1)
        self.setFixedWidth(74)

    def show_page(self, name: str) -> None:
        self.buttons[name].setChecked(True)
