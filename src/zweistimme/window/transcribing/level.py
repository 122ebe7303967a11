"""The level of what a microphone hears."""

from __future__ import annotations

from PyQt6.QtCore import QRectF, QSize
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import QWidget

from zweistimme.messages import tr
from zweistimme.window.theme import colour


class LevelBar(QWidget):
    """How loud it is, from -60 dB to full scale, with the room as a mark."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._level_db, self._room_db = -200.0, -200.0
        self.setFixedHeight(16)
        self.setAccessibleName(tr("Level of the microphone"))

    def sizeHint(self) -> QSize:
        return QSize(220, 16)

    def show_level(self, peak_db: float, room_db: float) -> None:
        self._level_db, self._room_db = peak_db, room_db
        self.setToolTip(tr("{peak_db:.0f} dB; full scale is 0 dB", peak_db=peak_db))
        self.update()

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), colour("rule"))
        role = "hard" if self._level_db > -1 else "firm" if self._level_db > -6 else "calm"
        painter.fillRect(QRectF(0, 2, self._x(self._level_db), self.height() - 4), colour(role))
        painter.fillRect(QRectF(self._x(self._room_db) - 1, 0, 2, self.height()), colour("ink"))

    def _x(self, level_db: float) -> float:
        return max(0.0, min(1.0, (level_db + 60) / 60)) * self.width()
