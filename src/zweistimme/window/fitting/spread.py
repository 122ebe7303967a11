"""How a figure is spread over the lines of a version, before and after."""

from __future__ import annotations

from collections.abc import Callable
from typing import Final

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QColor, QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QSizePolicy, QWidget

from zweistimme.messages import tr
from zweistimme.sound.arrays import Floats
from zweistimme.window.theme import SMALL_PT, colour, font, px

_BARS: Final = 40
_HEAD: Final = 20
_FOOT: Final = 16


class Spread(QWidget):
    """Bars for the lines there are now; an outline for how it was before, or would be; a ground where it is well."""

    def __init__(
        self, title: str, span: tuple[float, float], shown: Callable[[float], str], parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self._title, self._span, self._shown = title, span, shown
        self._now: Floats = np.empty(0)
        self._other: Floats | None = None
        self._well = (0.0, 0.0)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumHeight(px(74))
        self.setAccessibleName(title)

    def sizeHint(self) -> QSize:
        return QSize(px(220), px(96))

    def show_values(self, now: Floats, other: Floats | None, well: tuple[float, float]) -> None:
        """Show values; *well* is where they may lie."""
        self._now, self._other, self._well = now, other, well
        self.setAccessibleDescription(self.words())
        self.setToolTip(self.words())
        self.update()

    def words(self) -> str:
        """What it shows, in a sentence."""
        if not len(self._now):
            return tr("nothing is fitted yet")
        low, middle, high = (float(one) for one in np.percentile(self._now, (5, 50, 95)))
        said = tr(
            "{title}: half of the lines up to {middle}, nine tenths between {low} and {high}",
            title=self._title, middle=self._shown(middle), low=self._shown(low), high=self._shown(high),
        )  # fmt: skip
        if self._other is not None and len(self._other):
            said += "\n" + tr("outlined: {middle} in the middle", middle=self._shown(float(np.median(self._other))))
        return said

    def _counts(self, values: Floats) -> Floats:
        inside = np.clip(values, self._span[0], np.nextafter(self._span[1], self._span[0]))
        counts, _ = np.histogram(inside, _BARS, self._span)
        return np.sqrt(counts / max(1, counts.sum()))

    def _x(self, value: float, room: QRectF) -> float:
        low, high = self._span
        return room.left() + room.width() * (min(max(value, low), high) - low) / (high - low)

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        room = QRectF(2, px(_HEAD), self.width() - 4, self.height() - px(_HEAD) - px(_FOOT))
        painter.fillRect(room, colour("card"))
        left, right = (self._x(one, room) for one in self._well)
        painter.fillRect(QRectF(left, room.top(), right - left, room.height()), colour("calm_soft", 150))
        now, other = self._counts(self._now), None if self._other is None else self._counts(self._other)
        top = max(float(now.max(initial=0.0)), 0.0 if other is None else float(other.max(initial=0.0)), 1e-6)
        wide = room.width() / _BARS
        for place, share in enumerate(now.tolist()):
            step = (self._span[1] - self._span[0]) / _BARS
            from_, to = self._span[0] + place * step, self._span[0] + (place + 1) * step
            well = to >= self._well[0] and from_ <= self._well[1] + 1e-9
            height = room.height() * share / top
            shade = QColor(colour("dub" if well else "hard"))
            painter.fillRect(QRectF(room.left() + place * wide + 0.5, room.bottom() - height, wide - 1, height), shade)
        if other is not None:
            points = [
                QPointF(room.left() + (place + side) * wide, room.bottom() - room.height() * share / top)
                for place, share in enumerate(other.tolist())
                for side in (0, 1)
            ]
            painter.setPen(QPen(colour("ink"), 1.4))
            painter.drawPolyline(QPolygonF(points))
        painter.setPen(QPen(colour("rule"), 1))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(room)
        painter.setPen(colour("ink"))
        painter.setFont(font(SMALL_PT, bold=True))
        painter.drawText(QRectF(4, 0, self.width() - 8, px(_HEAD)), Qt.AlignmentFlag.AlignVCenter, self._title)
        painter.setFont(font(SMALL_PT))
        painter.setPen(colour("faded"))
        foot = QRectF(2, room.bottom() + 1, room.width(), px(_FOOT))
        for flag, value in (
            (Qt.AlignmentFlag.AlignLeft, self._span[0]),
            (Qt.AlignmentFlag.AlignHCenter, sum(self._span) / 2),
            (Qt.AlignmentFlag.AlignRight, self._span[1]),
        ):
            painter.drawText(foot, flag | Qt.AlignmentFlag.AlignVCenter, self._shown(value))
