"""What lies over the cards of the Score: the column heads, the playhead, the ghost of a drag, and an empty score."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen

from zweistimme.messages import tr
from zweistimme.project.languages import language_name, own_name
from zweistimme.project.times import clock
from zweistimme.window.score.geometry import header, ruler
from zweistimme.window.score.painting import Scene
from zweistimme.window.theme import SMALL_PT, colour, font, px
from zweistimme.window.trial_fit import Ghost


def paint_header(painter: QPainter, scene: Scene, *, focused: bool) -> None:
    """What each column is; underlined where the Score has the keyboard."""
    painter.fillRect(QRectF(0, 0, scene.width, header() - 4), colour("sheet"))
    painter.setPen(QPen(colour("original" if focused else "rule"), 2 if focused else 1))
    painter.drawLine(QPointF(0, header() - 4.5), QPointF(scene.width, header() - 4.5))
    project, version = scene.desk.project, scene.desk.version
    _heading(painter, scene.columns.original, tr("ORIGINAL"), language_name(project.source_tag), "original")
    painter.setFont(font(SMALL_PT, italic=True))
    painter.setPen(colour("faded"))
    left, width = scene.columns.ribbon
    painter.drawText(QRectF(left, 0, width, header() - 4), Qt.AlignmentFlag.AlignCenter, tr("fit"))
    if version is not None:
        _heading(painter, scene.columns.dub, tr("DUB"), f"{own_name(version.tag)} · {tr(version.style.value)}", "dub")


def _heading(painter: QPainter, column: tuple[float, float], title: str, about: str, role: str) -> None:
    left, width = column
    painter.setFont(font(SMALL_PT, bold=True))
    painter.setPen(colour(role))
    painter.drawText(QPointF(left + 2, px(17)), title)
    shift = painter.fontMetrics().horizontalAdvance(title) + 14
    painter.setFont(font(SMALL_PT))
    painter.setPen(colour("faded"))
    shown = painter.fontMetrics().elidedText(about, Qt.TextElideMode.ElideRight, int(width - shift - 4))
    painter.drawText(QPointF(left + shift, px(17)), shown)


def paint_playhead(painter: QPainter, scene: Scene, time_us: float) -> None:
    """A line across, with the time at the ruler."""
    y = scene.scale.y(time_us)
    if not header() <= y <= scene.height:
        return
    painter.setPen(QPen(colour("playhead"), 1.4))
    painter.drawLine(QPointF(ruler() - 6, y), QPointF(scene.width, y))
    box = QRectF(2, max(y - px(9), header()), ruler() - 6, px(18))
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(colour("playhead"))
    painter.drawRoundedRect(box, 4, 4)
    painter.setPen(colour("card"))
    painter.setFont(font(SMALL_PT, bold=True))
    painter.drawText(box, Qt.AlignmentFlag.AlignCenter, clock(round(time_us)))


def paint_places(painter: QPainter, scene: Scene, ghosts: Sequence[Ghost]) -> None:
    """Where else a take that is dragged could be put: a dashed outline each, named at its side; names that would lie on
    each other move down."""
    left, width = scene.columns.dub_wave
    painter.setFont(font(SMALL_PT))
    free = 0.0
    for ghost in sorted(ghosts, key=lambda one: one.start_us):
        top, bottom = scene.scale.y(ghost.start_us), scene.scale.y(ghost.end_us)
        pen = QPen(colour("chosen_edge" if ghost.near else "ink"), 2 if ghost.near else 1, Qt.PenStyle.DotLine)
        painter.setPen(pen)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(QRectF(left - 3, top, width + 6, bottom - top))
        words, height = ghost.name, px(15)
        room = painter.fontMetrics().horizontalAdvance(words) + 10
        at = max(top - height / 2, free)
        box = QRectF(left + width + 4, at, room, height)
        painter.setPen(QPen(colour("rule"), 1))
        painter.setBrush(colour("chosen" if ghost.near else "card"))
        painter.drawRoundedRect(box, 3, 3)
        painter.setPen(colour("ink"))
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, words)
        free = at + height + 2


def paint_ghost(painter: QPainter, scene: Scene, interval_us: tuple[int, int], *, over_take: bool) -> None:
    """Where what is dragged would come to lie."""
    left, width = scene.columns.dub_wave if over_take else scene.columns.original
    top, bottom = (scene.scale.y(time) for time in interval_us)
    pen = QPen(colour("chosen_edge"), 2)
    pen.setStyle(Qt.PenStyle.DashLine)
    painter.setPen(pen)
    painter.setBrush(colour("chosen", 110))
    painter.drawRect(QRectF(left, top, width, bottom - top))
