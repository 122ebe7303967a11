"""The length gauge: how a wording measures against its slot, moving while it is typed."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QSizePolicy, QWidget

from zweistimme.messages import tr
from zweistimme.project.times import SECOND_US
from zweistimme.stages.fit.slot import Length
from zweistimme.window.theme import SMALL_PT, colour, font, px

_FULL = 1.35


class LengthGauge(QWidget):
    """A bar, a mark where the slot ends, and the figures in words."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._length: Length | None = None
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setFixedHeight(px(22))
        self.setAccessibleName(tr("Length of the wording against its slot"))

    def sizeHint(self) -> QSize:
        return QSize(300, px(22))

    def show_length(self, length: Length | None) -> None:
        self._length = length
        self.setToolTip(
            tr(
                "About {spoken_s:.1f} s to say; the slot is {slot_s:.1f} s.",
                spoken_s=length.spoken_us / SECOND_US,
                slot_s=length.slot_us / SECOND_US,
            )
            if length
            else ""
        )
        self.update()

    @property
    def words(self) -> str:
        """What the gauge says."""
        return (
            tr("{syllables} of {room} syllables", syllables=self._length.syllables, room=self._length.room)
            if self._length
            else ""
        )

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        if self._length is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setFont(font(SMALL_PT, bold=True))
        words = self.words
        text_width = painter.fontMetrics().horizontalAdvance(words) + 10
        bar = QRectF(0, px(11) - 4, self.width() - text_width, 8)
        role = "calm" if self._length.share <= 1.0 else "firm" if self._length.share <= 1.13 else "hard"
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(colour("rule"))
        painter.drawRoundedRect(bar, 4, 4)
        painter.setBrush(colour(role))
        painter.drawRoundedRect(
            QRectF(bar.left(), bar.top(), bar.width() * min(1.0, self._length.share / _FULL), 8), 4, 4
        )
        mark = bar.left() + bar.width() / _FULL
        painter.setPen(QPen(colour("ink"), 2))
        painter.drawLine(QPointF(mark, bar.top() - 4), QPointF(mark, bar.bottom() + 4))
        painter.setPen(colour(role))
        flags = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
        painter.drawText(QRectF(bar.right(), 0, text_width, self.height()), flags, words)
