"""A connected engine in the list: its name, how it is reached, what it can do, and whether it answers."""

from __future__ import annotations

from typing import Final

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QAbstractButton, QSizePolicy

from zweistimme.engines.connections import Kind
from zweistimme.engines.offers import DESK_ROLES, EngineInfo
from zweistimme.engines.registry import Examined
from zweistimme.messages import msg, tr
from zweistimme.window.theme import SMALL_PT, TEXT_PT, colour, font

_HEIGHT: Final = 58
_REACHED: Final = {
    Kind.BUNDLED: msg("comes with the desk"),
    Kind.SERVICE: msg("service"),
    Kind.PROGRAM: msg("program"),
    Kind.MAPPED: msg("service, mapped"),
    Kind.PYTHON: "Python",
}


def _roles(info: EngineInfo) -> str:
    """What every project asks for, and how much more there is."""
    desk = [role for role in info.roles if role in DESK_ROLES]
    more = len(info.roles) - len(desk)
    return ", ".join(map(tr, desk or info.roles)) + (tr(" and {more} more", more=more) if desk and more else "")


class EngineCard(QAbstractButton):
    """One engine; pressed to see more of it."""

    def __init__(self, found: Examined) -> None:
        super().__init__()
        self.found = found
        self.setCheckable(True)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        name = found.connection.name
        self.setAccessibleName(f"{name}: {self.state}")
        self.setToolTip(found.connection.place or tr("The bundled engine"))

    @property
    def state(self) -> str:
        """Whether it answers, in a word or two."""
        if self.found.info is not None:
            return tr("answers")
        return tr("fails") if self.found.problem else tr("is asked …")

    @property
    def _role(self) -> str:
        """The colour of its state."""
        return "calm" if self.found.info is not None else "hard" if self.found.problem else "faded"

    def sizeHint(self) -> QSize:
        return QSize(300, _HEIGHT)

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        inner = QRectF(self.rect()).adjusted(1, 1, -1, -1)
        edge = "chosen_edge" if self.isChecked() else "original" if self.hasFocus() else "rule"
        painter.setPen(QPen(colour(edge), 2.6 if self.hasFocus() else 1.6 if self.isChecked() else 1))
        painter.setBrush(colour("chosen" if self.isChecked() else "card"))
        painter.drawRoundedRect(inner, 6, 6)
        self._draw_state(painter, QPointF(20, _HEIGHT / 2))
        painter.setPen(colour("ink"))
        painter.setFont(font(TEXT_PT, bold=True))
        painter.drawText(QPointF(38, 24), self.found.connection.name)
        painter.setFont(font(SMALL_PT))
        painter.setPen(colour("faded"))
        info = self.found.info
        does = _roles(info) if info else self.found.problem or tr("no answer yet")
        words = f"{tr(_REACHED[self.found.connection.kind])} · {does}"
        elided = painter.fontMetrics().elidedText(words, Qt.TextElideMode.ElideRight, self.width() - 50)
        painter.drawText(QPointF(38, 43), elided)
        painter.setPen(colour(self._role))
        right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
        painter.drawText(QRectF(self.width() - 100, 10, 88, 18), right, self.state)

    def _draw_state(self, painter: QPainter, middle: QPointF) -> None:
        """A plug that is in, out, or on its way: told by shape as well as by colour."""
        tint = colour(self._role)
        painter.setPen(QPen(tint, 2))
        gap = 0.0 if self.found.info is not None else 4.0
        x, y = middle.x(), middle.y()
        painter.drawArc(QRectF(x - 7 - gap / 2, y - 6, 12, 12), 90 * 16, 180 * 16)
        painter.drawArc(QRectF(x - 5 + gap / 2, y - 6, 12, 12), -90 * 16, 180 * 16)
        if self.found.info is not None:
            painter.drawLine(QPointF(x - 3, y), QPointF(x + 3, y))
