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
        self.setToolTip(_hint(length) if length else "")
        self.update()

    @property
    def words(self) -> str:
        """What the gauge says."""
        if self._length is None:
            return ""
        spoken_s, spread_s, slot_s = (
            us / SECOND_US for us in (self._length.spoken_us, self._length.spread_us, self._length.slot_us)
        )
        return tr(
            "{spoken_s:.1f} ± {spread_s:.1f} of {slot_s:.1f} s", spoken_s=spoken_s, spread_s=spread_s, slot_s=slot_s
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
        painter.drawRoundedRect(QRectF(bar.left(), bar.top(), bar.width() * self._part(0), 8), 4, 4)
        self._draw_spread(painter, bar, role)
        mark = bar.left() + bar.width() / _FULL
        painter.setPen(QPen(colour("ink"), 2))
        painter.drawLine(QPointF(mark, bar.top() - 4), QPointF(mark, bar.bottom() + 4))
        painter.setPen(colour(role))
        flags = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
        painter.drawText(QRectF(bar.right(), 0, text_width, self.height()), flags, words)

    def _part(self, spreads: float) -> float:
        """Which part of the bar a length takes that is so many spreads longer than expected."""
        assert self._length is not None
        longer = (self._length.spoken_us + spreads * self._length.spread_us) / max(1, self._length.spoken_us)
        return min(1.0, max(0.0, self._length.share * longer / _FULL))

    def _draw_spread(self, painter: QPainter, bar: QRectF, role: str) -> None:
        """Between how long and how long two of three takes will be: a thin line with ends, across the bar's own end."""
        first, last = (bar.left() + bar.width() * self._part(way) for way in (-1, 1))
        middle = bar.center().y()
        painter.setPen(QPen(colour("card"), 1.4))
        painter.drawLine(QPointF(first, middle), QPointF(min(last, bar.left() + bar.width() * self._part(0)), middle))
        painter.setPen(QPen(colour(role), 1.6))
        painter.drawLine(QPointF(bar.left() + bar.width() * self._part(0), middle), QPointF(last, middle))
        painter.drawLine(QPointF(last, middle - 4), QPointF(last, middle + 4))
        painter.setPen(Qt.PenStyle.NoPen)


def _hint(length: Length) -> str:
    spoken = tr(
        "{syllables:syllable|syllables}; at a comfortable tempo there is room for {room}.",
        syllables=length.syllables,
        room=length.room,
    )
    learned = (
        tr("How long this voice takes is known from {n:take|takes}.", n=length.takes)
        if length.takes
        else tr("No take of this voice is known yet: it is expected to speak as people of its language do.")
    )
    return f"{spoken}\n{learned}\n{tr('Two of three takes are as long as that, within what stands behind ±.')}"
