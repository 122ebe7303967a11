"""How far a line is, as a mark: a note-head for translated, two for reviewed, two and a closing bar for final; hooks
around them where its words are locked."""

from __future__ import annotations

from typing import Final

from PyQt6.QtCore import QLineF, QPointF, QSize, Qt
from PyQt6.QtGui import QIcon, QPainter, QPen, QPixmap, QPolygonF

from zweistimme.project.wordings import LineState
from zweistimme.window.theme import colour, px

_HEADS: Final = {LineState.INITIAL: 0, LineState.TRANSLATED: 1, LineState.REVIEWED: 2, LineState.FINAL: 2}
_STEP: Final = 8
_HEIGHT: Final = 9
WIDTH: Final = 30
"""Pixels at the ordinary type size; the marks of all states have room in it."""


def paint_state(painter: QPainter, right: float, middle: float, state: LineState, *, locked: bool) -> None:
    """Draw the mark so that it ends at *right* and lies about *middle*."""
    if state is LineState.INITIAL and not locked:
        return
    step, height = px(_STEP), px(_HEIGHT)
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setPen(QPen(colour("calm"), 1.4))
    x = right - 1.0
    if state is LineState.FINAL:
        painter.drawLine(QLineF(x, middle - height / 2, x, middle + height / 2))
        painter.drawLine(QLineF(x - 3, middle - height / 2, x - 3, middle + height / 2))
        x -= 6
    painter.setBrush(colour("calm"))
    for _ in range(_HEADS[state]):
        painter.drawEllipse(QPointF(x - step / 2 + 1, middle), step / 2 - 1.0, step / 2 - 1.6)
        x -= step
    if locked:
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(colour("ink"), 1.4))
        for side, inwards in ((x - 2, 3.0), (right + 2, -3.0)):
            top, bottom = middle - height / 2 - 1, middle + height / 2 + 1
            hook = [QPointF(side + inwards, top), QPointF(side, top), QPointF(side, bottom)]
            painter.drawPolyline(QPolygonF([*hook, QPointF(side + inwards, bottom)]))
    painter.restore()


def state_icon(state: LineState, *, locked: bool, ratio: float) -> QIcon:
    """The mark as an icon for a button or a menu; *ratio* is that of the screen's pixels."""
    width, height = px(WIDTH), px(16)
    picture = QPixmap(QSize(round(width * ratio), round(height * ratio)))
    picture.setDevicePixelRatio(ratio)
    picture.fill(Qt.GlobalColor.transparent)
    painter = QPainter(picture)
    paint_state(painter, width - 2, height / 2, state, locked=locked)
    painter.end()
    return QIcon(picture)
