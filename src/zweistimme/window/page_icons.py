"""Small drawings of the pages, around the origin; the painter has pen and colour."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF
from PyQt6.QtGui import QPainter, QPolygonF


def draw_score(painter: QPainter) -> None:
    painter.drawLine(QPointF(-9, -9), QPointF(-9, 9))
    painter.drawLine(QPointF(9, -9), QPointF(9, 9))
    painter.drawLine(QPointF(-9, -5), QPointF(9, -3))
    painter.drawLine(QPointF(-9, 3), QPointF(9, 7))


def draw_cast(painter: QPainter) -> None:
    painter.drawEllipse(QPointF(-5, -3), 5, 5)
    painter.drawEllipse(QPointF(6, 3), 5, 5)


def draw_fit(painter: QPainter) -> None:
    painter.drawLine(QPointF(-10, 9), QPointF(10, 9))
    for x, height in ((-8, 3), (-4, 9), (0, 16), (4, 7), (8, 2)):
        painter.drawLine(QPointF(x, 9), QPointF(x, 9 - height))


def draw_mix(painter: QPainter) -> None:
    for x, top, width in ((-10, -9, 5), (-10, -4, 12), (-10, 1, 8), (-10, 6, 17)):
        painter.drawLine(QPointF(x, top), QPointF(x + width, top))
    painter.drawLine(QPointF(8, -10), QPointF(8, 10))


def draw_handover(painter: QPainter) -> None:
    painter.drawPolyline(QPolygonF([QPointF(-10, 1), QPointF(-10, 9), QPointF(10, 9), QPointF(10, 1)]))
    painter.drawPolyline(QPolygonF([QPointF(-6, -2), QPointF(4, -2), QPointF(4, -8), QPointF(12, -2)]))


def draw_engines(painter: QPainter) -> None:
    painter.drawArc(QRectF(-10, -6, 12, 12), 90 * 16, 180 * 16)
    painter.drawArc(QRectF(-2, -6, 12, 12), -90 * 16, 180 * 16)
    painter.drawLine(QPointF(-4, -2.5), QPointF(4, -2.5))
    painter.drawLine(QPointF(-4, 2.5), QPointF(4, 2.5))


def draw_speakers(painter: QPainter) -> None:
    for y, spans in ((-6, ((-10, -3), (4, 10))), (1, ((-4, 3),)), (8, ((-10, -6), (1, 10)))):
        for left, right in spans:
            painter.drawLine(QPointF(left, y), QPointF(right, y))
