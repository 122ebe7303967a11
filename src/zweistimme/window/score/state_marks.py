"""How far a line is, as a mark: a note-head for translated, two for reviewed, two and a closing bar for final; hooks
around them where its words are locked."""

from __future__ import annotations

from typing import Final

from PyQt6.QtCore import QLineF, QPointF, QSize, Qt
from PyQt6.QtGui import QIcon, QPainter, QPen, QPixmap, QPolygonF

from zweistimme.project.wordings import LineState
from zweistimme.window.theme import colour, px

_HEADS: Final = {LineState.INITIAL: 0, LineState.TRANSLATED: 1, LineState.REVIEWED: 2, LineState.FINAL: 2}
_STEP: Final = 6
_BREADTH: Final = 9
_BARS: Final = 5
ROOM: Final = 14
"""Pixels at the ordinary type size that are kept free for the mark beside words."""
LENGTH: Final = 30
"""The marks of all states have room in it, in their direction."""


def paint_state(painter: QPainter, x: float, y: float, state: LineState, *, locked: bool, upright: bool = True) -> None:
    """Draw the mark with its end at a point: *upright* it rises from there, its middle at *x*, so that it takes little
    of the room for words; else it ends there to the right, its middle at *y*."""
    if state is LineState.INITIAL and not locked:
        return
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.translate(x, y)
    if upright:
        painter.rotate(90)  # the mark is drawn to end at the right; now its end is below
    _paint(painter, state, locked=locked, turned=upright)
    painter.restore()


def _paint(painter: QPainter, state: LineState, *, locked: bool, turned: bool) -> None:
    step, breadth, at = px(_STEP), px(_BREADTH), -1.0
    painter.setPen(QPen(colour("calm"), 1.4))
    if state is LineState.FINAL:
        for bar in (at, at - 3):
            painter.drawLine(QLineF(bar, -breadth / 2, bar, breadth / 2))
        at -= px(_BARS)
    painter.setBrush(colour("calm"))
    wide, high = step / 2 - 0.6, step / 2 - 1.2
    for _ in range(_HEADS[state]):
        middle = QPointF(at - step / 2 + 1, 0.0)
        painter.drawEllipse(middle, high if turned else wide, wide if turned else high)
        at -= step
    if locked:
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(colour("ink"), 1.4))
        top, bottom = -breadth / 2 - 1, breadth / 2 + 1
        for side, inwards in ((at - 1, 3.0), (1.5, -3.0)):
            hook = [QPointF(side + inwards, top), QPointF(side, top), QPointF(side, bottom)]
            painter.drawPolyline(QPolygonF([*hook, QPointF(side + inwards, bottom)]))


def state_icon(state: LineState, *, locked: bool, ratio: float) -> QIcon:
    """The mark as an icon for a button or a menu; *ratio* is that of the screen's pixels."""
    width, height = px(LENGTH), px(16)
    picture = QPixmap(QSize(round(width * ratio), round(height * ratio)))
    picture.setDevicePixelRatio(ratio)
    picture.fill(Qt.GlobalColor.transparent)
    painter = QPainter(picture)
    paint_state(painter, width - 3, height / 2, state, locked=locked, upright=False)
    painter.end()
    return QIcon(picture)
