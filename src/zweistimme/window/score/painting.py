"""Drawing the Score: cards, ribbons, waves, the ruler. Pure painting; the view decides what is visible."""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

import numpy as np
from PyQt6.QtCore import QLineF, QPointF, QRectF, Qt
from PyQt6.QtGui import QBrush, QColor, QImage, QPainter, QPainterPath, QPen, QPolygonF

from zweistimme.media.peaks import PEAKS_PER_SECOND
from zweistimme.messages import msg, number, tr
from zweistimme.project.model import Placement, Take
from zweistimme.project.times import SECOND_US, clock, samples_to_us
from zweistimme.window.actions import BY_ID, key_words
from zweistimme.window.bridge import Desk
from zweistimme.window.peaks import PeakStore
from zweistimme.window.regions import SpeechRegions
from zweistimme.window.score.geometry import LEAST_CARD, Card, Columns, Scale, header, ruler, tick_seconds
from zweistimme.window.score.waves import row_levels, wave_image
from zweistimme.window.strain import Strain, strain_of
from zweistimme.window.theme import SMALL_PT, colour, font, px

_TICK: Final = 6
_RHYTHM_FROM: Final = 12.0
"""Pixels a second from which on the ticks of words can be told apart."""
_UNWRITTEN = msg("speech not written down yet ({key})")


@dataclass(frozen=True, slots=True)
class Scene:
    """What one paint needs."""

    desk: Desk
    peaks: PeakStore
    regions: SpeechRegions
    columns: Columns
    scale: Scale
    width: int
    height: int
    ratio: float = 1.0
    """Pixels of the screen in one of the window's."""


def card_rect(scene: Scene, card: Card, column: tuple[float, float]) -> QRectF:
    """Where a card stands."""
    left, width = column
    top = scene.scale.y(card.start_us)
    height = max(LEAST_CARD, scene.scale.y(card.end_us) - top)
    share = width / card.lanes
    return QRectF(left + share * card.lane, top, share - (4 if card.lanes > 1 else 0), height)


def paint_cuts(painter: QPainter, scene: Scene, start_us: int, end_us: int) -> None:
    """Cuts of the picture: a notch at the ruler, and a thin line across."""
    programme = scene.desk.project.programme
    cuts = programme.cuts_us if programme and programme.cuts_us else ()
    for at_us in cuts[bisect_left(cuts, start_us) : bisect_left(cuts, end_us)]:
        y = scene.scale.y(at_us)
        painter.setPen(QPen(colour("firm", 150), 1, Qt.PenStyle.DashDotLine))
        painter.drawLine(QPointF(ruler(), y), QPointF(scene.width, y))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(colour("firm"))
        painter.drawPolygon(QPolygonF([QPointF(ruler(), y), QPointF(ruler() - 7, y - 4), QPointF(ruler() - 7, y + 4)]))
    painter.setBrush(Qt.BrushStyle.NoBrush)


def paint_ruler(painter: QPainter, scene: Scene) -> None:
    """Times at the left, fine rules across."""
    step = tick_seconds(scene.scale.pixels_per_second)
    first = int(max(0.0, scene.scale.top_us / SECOND_US) / step)
    last = int(scene.scale.time(scene.height) / SECOND_US / step) + 1
    painter.setFont(font(SMALL_PT))
    for place in range(first, last + 1):
        y = scene.scale.y(place * step * SECOND_US)
        if y < header() - 4:
            continue
        painter.setPen(QPen(colour("rule"), 1))
        painter.drawLine(QPointF(ruler() - 8, y), QPointF(scene.width, y))
        painter.setPen(colour("faded"))
        label = clock(round(place * step * SECOND_US), 1 if step < 1 else 0)
        painter.drawText(
            QRectF(0, y - px(8), ruler() - 12, px(16)),
            Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter,
            label,
        )
        for part in range(1, 5):
            minor = scene.scale.y((place + part / 5) * step * SECOND_US)
            painter.setPen(QPen(colour("rule"), 1))
            painter.drawLine(QPointF(ruler() - 12, minor), QPointF(ruler() - 7, minor))


def paint_ribbon(painter: QPainter, scene: Scene, card: Card, placement: Placement) -> None:
    """Ties a segment to its placed take: straight, slanted or widening; coloured and patterned by strain."""
    left, width = scene.columns.ribbon
    y0, y1 = scene.scale.y(card.segment.start_us), scene.scale.y(card.segment.end_us)
    z0, z1 = scene.scale.y(placement.start_us), scene.scale.y(placement.start_us + placement.length_us)
    middle, right = left + width / 2, left + width
    path = QPainterPath(QPointF(left, y0))
    path.cubicTo(QPointF(middle, y0), QPointF(middle, z0), QPointF(right, z0))
    path.lineTo(right, z1)
    path.cubicTo(QPointF(middle, z1), QPointF(middle, y1), QPointF(left, y1))
    path.closeSubpath()
    strain = strain_of(placement)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.fillPath(path, colour(strain.soft_role, 215))
    if strain.pattern is not Qt.BrushStyle.NoBrush:
        painter.fillPath(path, QBrush(colour(strain.role, 120), strain.pattern))
    pen = QPen(colour(strain.role), 1.3)
    if strain is Strain.FIRM:
        pen.setStyle(Qt.PenStyle.DotLine)
    painter.strokePath(path, pen)
    _rhythm(painter, scene, card, placement)
    _ribbon_label(
        painter, QPointF(middle, (y0 + y1 + z0 + z1) / 4), f"×{number(placement.tempo, '.2f')}", colour(strain.role)
    )


def _rhythm(painter: QPainter, scene: Scene, card: Card, placement: Placement) -> None:
    """Ticks where words begin: those of the original at the left edge of a ribbon, those of the take at its right."""
    version = scene.desk.version
    take = version.takes.get(placement.take_id) if version else None
    if take is None or scene.scale.pixels_per_second < _RHYTHM_FROM:
        return
    left, width = scene.columns.ribbon
    first = samples_to_us(take.speech_start_samples)
    pace = placement.length_us / max(1, samples_to_us(take.speech_end_samples) - first)
    said = [word.start_us for word in card.segment.words]
    spoken = [placement.start_us + max(0, word.start_us - first) * pace for word in take.words]
    ticks = [QLineF(left, y, left + _TICK, y) for y in map(scene.scale.y, said)]
    ticks += [QLineF(left + width - _TICK, y, left + width, y) for y in map(scene.scale.y, spoken)]
    painter.setPen(QPen(colour(strain_of(placement).role, 170), 1))
    if ticks:
        painter.drawLines(*ticks)


def _ribbon_label(painter: QPainter, centre: QPointF, label: str, tint: QColor) -> None:
    painter.setFont(font(SMALL_PT, bold=True))
    width, height = painter.fontMetrics().horizontalAdvance(label) + 14, px(16)
    box = QRectF(centre.x() - width / 2, centre.y() - height / 2, width, height)
    painter.setPen(QPen(tint, 1))
    painter.setBrush(colour("card"))
    painter.drawRoundedRect(box, 8, 8)
    painter.setPen(tint)
    painter.drawText(box, Qt.AlignmentFlag.AlignCenter, label)


def paint_original_wave(painter: QPainter, scene: Scene, cards: Sequence[Card]) -> None:
    """The programme's sound down the column; what lies in segments stands out."""
    programme = scene.desk.project.programme
    peaks = scene.peaks.programme(programme.sound) if programme else None
    left, width = scene.columns.original_wave
    ratio = scene.ratio
    rows = np.arange(round((scene.height - header()) * ratio))
    for card in cards:
        rect = card_rect(scene, card, (left, width))
        painter.fillRect(QRectF(left, rect.top(), width, rect.height()), colour("original_soft"))
    if peaks is None or not len(rows):
        return
    step = SECOND_US / scene.scale.pixels_per_second / ratio
    levels = row_levels(peaks, scene.scale.top_us + rows * step, step)
    tints = [(slice(None), colour("faded", 90))]
    for card in cards:
        a, b = (round((scene.scale.y(time) - header()) * ratio) for time in (card.start_us, card.end_us))
        tints.append((slice(max(0, a), max(0, b)), colour("original")))
    _draw_wave(painter, QPointF(left, header()), wave_image(levels, round(width * ratio), tints, gain=1.4), ratio)


def paint_regions(painter: QPainter, scene: Scene, start_us: int, end_us: int) -> None:
    """Speech that no segment covers: somebody speaks here, and nobody has written it down."""
    left, width = scene.columns.original
    for start, end in scene.regions.open_between(start_us, end_us):
        top, bottom = scene.scale.y(start), scene.scale.y(end)
        rect = QRectF(left, top, width, max(4.0, bottom - top))
        painter.setPen(QPen(colour("faded"), 1, Qt.PenStyle.DotLine))
        painter.setBrush(QBrush(colour("original", 40), Qt.BrushStyle.BDiagPattern))
        painter.drawRoundedRect(rect, 4, 4)
        if rect.height() >= 15:
            painter.setPen(colour("faded"))
            painter.setFont(font(SMALL_PT, italic=True))
            words = painter.fontMetrics().elidedText(
                tr(_UNWRITTEN, key=key_words(BY_ID["insert"].key)), Qt.TextElideMode.ElideRight, int(width) - 16
            )
            painter.drawText(rect.adjusted(12, 0, -4, 0), Qt.AlignmentFlag.AlignVCenter, words)


def paint_dub_wave(painter: QPainter, scene: Scene, card: Card, placement: Placement, take: Take) -> None:
    """A placed take's sound, as long as its placement."""
    left, width = scene.columns.dub_wave
    share = width / card.lanes
    left, width = left + share * card.lane, share - (2 if card.lanes > 1 else 0)
    top, bottom = scene.scale.y(placement.start_us), scene.scale.y(placement.start_us + placement.length_us)
    painter.fillRect(QRectF(left, top, width, bottom - top), colour("dub_soft"))
    peaks = scene.peaks.take(take)
    first, last = max(header(), int(top)), min(scene.height, int(bottom))
    if peaks is None or last <= first:
        return
    speech = samples_to_us(take.speech_end_samples - take.speech_start_samples)
    pace = speech / max(1, placement.length_us)
    ratio = scene.ratio
    step = SECOND_US / scene.scale.pixels_per_second * pace / ratio
    rows = (first - top) * ratio + np.arange(round((last - first) * ratio))
    levels = row_levels(peaks, rows * step, max(step, SECOND_US / PEAKS_PER_SECOND))
    image = wave_image(levels, round(width * ratio), [(slice(None), colour("dub"))])
    _draw_wave(painter, QPointF(left, first), image, ratio)


def _draw_wave(painter: QPainter, at: QPointF, image: QImage, ratio: float) -> None:
    image.setDevicePixelRatio(ratio)
    painter.drawImage(at, image)
