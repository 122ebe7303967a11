"""Marks over the waves of the close-up: what is pinned, where else a dragged take could stand, cuts of the picture."""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen, QPolygonF

from zweistimme.project.held_words import pins_in
from zweistimme.project.model import Line, Placement, Take
from zweistimme.window.closeup_dub import placed_words
from zweistimme.window.theme import SMALL_PT, colour, font, px

if TYPE_CHECKING:
    from zweistimme.window.trial_fit import Ghost

XOf = Callable[[float], float]


def paint_pins(
    painter: QPainter, line: Line | None, placed: tuple[Placement, Take], x_of: XOf, top: int, wave: int
) -> None:
    """A pin over each word that is held, and over the line's start where that is."""
    if line is None:
        return
    words = placed_words(*placed)
    held = [words[pin.word].start_us for pin in pins_in(line, placed[1])]
    held += [line.pin.start_us] if line.pin is not None else []
    for at_us in held:
        x = x_of(at_us)
        painter.setPen(QPen(colour("chosen_edge"), 1.6))
        painter.drawLine(QPointF(x, top - px(4)), QPointF(x, top + wave))
        painter.setBrush(colour("chosen_edge"))
        painter.drawEllipse(QPointF(x, top - px(5)), px(3), px(3))
    painter.setBrush(Qt.BrushStyle.NoBrush)


def paint_ghosts(painter: QPainter, ghosts: Sequence[Ghost], x_of: XOf, top: int, wave: int) -> None:
    """Where else a take that is dragged could stand: dotted outlines, their names under them; those that would lie on
    each other move on."""
    painter.setFont(font(SMALL_PT))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    free = 0.0
    for ghost in sorted(ghosts, key=lambda one: one.start_us):
        tint = colour("chosen_edge" if ghost.near else "ink")
        painter.setPen(QPen(tint, 2 if ghost.near else 1, Qt.PenStyle.DotLine))
        left, right = x_of(ghost.start_us), x_of(ghost.end_us)
        painter.drawRect(QRectF(left, top - 2, right - left, wave + 4))
        wide = painter.fontMetrics().horizontalAdvance(ghost.name) + px(8)
        x = max(left, free)
        free = x + wide
        painter.setPen(tint)
        painter.drawText(QRectF(x, top + wave + 2, wide, px(14)), Qt.AlignmentFlag.AlignLeft, ghost.name)


def paint_cuts(
    painter: QPainter, cuts_us: Sequence[int], span_us: tuple[float, float], x_of: XOf, top: int, end: int
) -> None:
    """Cuts of the picture within a span: a notch on top, and a thin line down."""
    for at_us in cuts_us[bisect_left(cuts_us, span_us[0]) : bisect_left(cuts_us, span_us[1])]:
        x = x_of(at_us)
        painter.setPen(QPen(colour("firm", 150), 1, Qt.PenStyle.DashDotLine))
        painter.drawLine(QPointF(x, top), QPointF(x, end))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(colour("firm"))
        painter.drawPolygon(QPolygonF([QPointF(x, top), QPointF(x - 4, top - 7), QPointF(x + 4, top - 7)]))
    painter.setBrush(Qt.BrushStyle.NoBrush)
