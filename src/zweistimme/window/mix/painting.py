"""Painting the lanes of a mix: time reads downwards, as in the Score, each lane is as wide as it is loud."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QImage, QPainter, QPen, QPolygonF

from zweistimme.messages import tr
from zweistimme.project.times import clock
from zweistimme.sound.arrays import Floats
from zweistimme.window.mix.columns import UNDER, WITHIN_LU, Lane, MixColumns
from zweistimme.window.theme import SMALL_PT, colour, font, px, speaker_colour

HEAD: Final = 44
TIMES: Final = 46
_LOWEST_LUFS: Final = -55.0
_HIGHEST_LUFS: Final = -8.0
_DEEPEST_DB: Final = 40.0
_TICKS_S: Final = (1, 2, 5, 10, 30, 60, 120, 300, 600, 1_800)
_TICK_GAP: Final = 46


@dataclass(frozen=True, slots=True)
class View:
    """What is in sight: seconds ``[first, last)`` in a field of this size; the loudness stands left, lanes beside
    it."""

    first: float
    last: float
    width: int
    height: int

    def y(self, seconds: float) -> float:
        """Where a time is."""
        return px(HEAD) + (seconds - self.first) / max(self.last - self.first, 1e-6) * (self.height - px(HEAD))

    def seconds(self, y: float) -> float:
        """The time at a place."""
        return self.first + (y - px(HEAD)) / max(self.height - px(HEAD), 1) * (self.last - self.first)

    def columns(self, lanes: int) -> list[QRectF]:
        """The loudness, then every lane."""
        left, room = px(TIMES), self.width - px(TIMES)
        loud = max(px(150), room * 0.3)
        each = (room - loud) / max(lanes, 1)
        body = self.height - px(HEAD)
        found = [QRectF(left, px(HEAD), loud, body)]
        return found + [QRectF(left + loud + k * each, px(HEAD), each, body) for k in range(lanes)]


def across(lufs: float) -> float:
    """A loudness as a share of a column's width."""
    return min(1.0, max(0.0, (lufs - _LOWEST_LUFS) / (_HIGHEST_LUFS - _LOWEST_LUFS)))


def paint(painter: QPainter, columns: MixColumns, view: View, unheard: frozenset[str]) -> None:
    """All of it but the playhead."""
    painter.fillRect(QRectF(0, 0, view.width, view.height), colour("sheet"))
    boxes = view.columns(len(columns.lanes))
    _paint_times(painter, view)
    _paint_loudness(painter, columns, view, boxes[0])
    for lane, box in zip(columns.lanes, boxes[1:], strict=True):
        _paint_lane(painter, columns, lane, view, box, heard=lane.id not in unheard)


def _rows(levels: Floats, view: View, per_second: float = 10.0) -> Floats:
    """The largest of each row of pixels; of what was not measured, the least there is."""
    rows = max(1, view.height - px(HEAD))
    edges = np.linspace(view.first, view.last, rows + 1) * per_second
    starts = np.clip(edges[:-1].astype(int), 0, max(len(levels) - 1, 0))
    if not len(levels):
        return np.full(rows, _LOWEST_LUFS)
    if edges[1] - edges[0] <= 1.0:
        return np.asarray(levels[starts], dtype=np.float64)
    return np.maximum.reduceat(np.maximum(levels, _LOWEST_LUFS), np.unique(starts))[: len(np.unique(starts))][
        np.searchsorted(np.unique(starts), starts)
    ]


def _shares(levels: Floats, view: View) -> Floats:
    low, high = _LOWEST_LUFS, _HIGHEST_LUFS
    return np.clip((_rows(levels, view) - low) / (high - low), 0.0, 1.0)


def _fill_rows(painter: QPainter, box: QRectF, left: Floats, right: Floats, shade: QColor) -> None:
    """Bars between two shares of a column, a row of pixels each, as one image."""
    width, rows = max(1, int(box.width())), len(left)
    if not rows:
        return
    places = (np.arange(width) + 0.5) / width
    inside = (places[None, :] >= left[:, None]) & (places[None, :] < right[:, None])
    pixels = np.where(inside, np.uint32(shade.rgba()), np.uint32(0)).astype(np.uint32)
    image = QImage(pixels.tobytes(), width, rows, 4 * width, QImage.Format.Format_ARGB32)
    painter.drawImage(QPointF(box.left(), box.top()), image)


def _paint_times(painter: QPainter, view: View) -> None:
    per_second = (view.height - px(HEAD)) / max(view.last - view.first, 1e-6)
    step = next((s for s in _TICKS_S if s * per_second >= px(_TICK_GAP)), _TICKS_S[-1])
    painter.setFont(font(SMALL_PT))
    for tick in range(int(view.first // step) * step, int(view.last) + 1, step):
        y = view.y(tick)
        if y >= px(HEAD):
            painter.setPen(QPen(colour("rule"), 1))
            painter.drawLine(QPointF(px(TIMES) - 5, y), QPointF(view.width, y))
            painter.setPen(colour("faded"))
            box = QRectF(0, y - px(8), px(TIMES) - 8, px(16))
            painter.drawText(
                box, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, clock(tick * 1_000_000, 0)
            )


def _paint_loudness(painter: QPainter, columns: MixColumns, view: View, box: QRectF) -> None:
    """Short-term loudness over the target's band, with what is out of it marked at its edge."""
    wanted = columns.preset.loudness_lufs
    low, high = (box.left() + box.width() * across(wanted + by) for by in (-WITHIN_LU[0], WITHIN_LU[1]))
    painter.fillRect(QRectF(low, box.top(), high - low, box.height()), colour("calm_soft", 130))
    aim = box.left() + box.width() * across(wanted)
    painter.setPen(QPen(colour("calm"), 1.4, Qt.PenStyle.DashLine))
    painter.drawLine(QPointF(aim, box.top()), QPointF(aim, box.bottom()))
    shares = _shares(columns.loud, view)
    points = [
        QPointF(box.left() + box.width() * s, box.top() + row + 0.5) for row, s in enumerate(shares.tolist()) if s > 0
    ]
    painter.setPen(QPen(colour("ink"), 1.6))
    if len(columns.loud):
        painter.drawPolyline(QPolygonF(points))
    for first, last in columns.out:
        top, bottom = max(view.y(first), box.top()), min(view.y(last), box.bottom())
        if bottom >= box.top() and top <= box.bottom():
            painter.fillRect(QRectF(box.left() + 1, top, px(5), max(3.0, bottom - top)), colour("hard"))
    head = tr("Loudness, target {wanted:.0f} LUFS", wanted=wanted)
    _paint_head(painter, box, head, colour("ink"), heard=True, pressed=False)


def _paint_lane(painter: QPainter, columns: MixColumns, lane: Lane, view: View, box: QRectF, *, heard: bool) -> None:
    shade = QColor(_shade(lane))
    shade.setAlpha(205 if heard else 70)
    inner = box.adjusted(7, 0, -7, 0)
    shares = _shares(lane.lufs, view)
    _fill_rows(painter, inner, np.zeros(len(shares)), shares, shade)
    if lane.id == UNDER:
        _paint_over_bed(painter, columns, view, inner)
    painter.setPen(QPen(colour("rule"), 1))
    painter.drawLine(box.topLeft(), box.bottomLeft())
    _paint_head(painter, box, lane.name, _shade(lane), heard=heard, pressed=True)


def _paint_over_bed(painter: QPainter, columns: MixColumns, view: View, box: QRectF) -> None:
    """The dub that is heard over it as an outline, and how far it gives way as a curve from the right."""
    dub, bed = _shares(columns.dub, view), _shares(columns.under, view)
    _fill_rows(painter, box, bed, dub, colour("dub", 90))
    if columns.down_db is None or not len(columns.down_db):
        return
    down = -_rows(-columns.down_db, view, columns.curve_rate)
    points = [
        QPointF(box.right() + box.width() * 0.9 * max(db, -_DEEPEST_DB) / _DEEPEST_DB, box.top() + row + 0.5)
        for row, db in enumerate(down.tolist())
    ]
    painter.setPen(QPen(colour("firm"), 1.6))
    painter.drawPolyline(QPolygonF(points))


def _shade(lane: Lane) -> QColor:
    if lane.speaker >= 0:
        return speaker_colour(lane.speaker)
    return colour("original" if lane.id == "Original" else "faded")


def _paint_head(painter: QPainter, box: QRectF, words: str, shade: QColor, *, heard: bool, pressed: bool) -> None:
    """The name above a column; a filled mark before those that are heard."""
    room = QRectF(box.left() + 6, 4, box.width() - 10, px(HEAD) - 8)
    painter.setPen(QPen(shade, 1.6))
    if pressed:
        mark = QRectF(room.left(), room.center().y() - px(5), px(10), px(10))
        painter.setBrush(shade if heard else Qt.BrushStyle.NoBrush)
        painter.drawEllipse(mark)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        room.setLeft(mark.right() + 6)
    painter.setFont(font(SMALL_PT + 0.5, bold=True))
    flags = Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft | Qt.TextFlag.TextWordWrap
    painter.drawText(room, flags, words)
