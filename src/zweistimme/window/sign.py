"""The desk's sign."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QPainter, QPainterPath, QPaintEvent, QPen
from PyQt6.QtWidgets import QWidget

from zweistimme.window.theme import colour


class Sign(QWidget):
    """Two voices, one line each."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setFixedSize(46, 34)

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for role, way in (("original", 1), ("dub", -1)):
            path = QPainterPath(QPointF(3, 17))
            for k in range(3):
                x = 3 + k * 13.3
                bend = 17 - way * (13 if k % 2 == 0 else -13)
                path.quadTo(QPointF(x + 6.6, bend), QPointF(x + 13.3, 17))
            painter.setPen(QPen(colour(role), 2.6, cap=Qt.PenCapStyle.RoundCap))
            painter.drawPath(path)
