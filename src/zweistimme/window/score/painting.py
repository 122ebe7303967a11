"""Drawing the Score: cards, ribbons, waves, the ruler. Pure painting; the view decides what is visible."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QBrush, QColor, QPainter, QPainterPath, QPen

from zweistimme.media.peaks import PEAKS_PER_SECOND
from zweistimme.project.facts import line_is_stale, take_is_stale
from zweistimme.project.model import Placement, Take
from zweistimme.project.times import SECOND_US, clock, samples_to_us
from zweistimme.window.bridge import Desk
from zweistimme.window.peaks import PeakStore
from zweistimme.window.score.geometry import HEADER, LEAST_CARD, RULER, Card, Columns, Scale, tick_seconds
from zweistimme.window.score.text import DOUBTFUL, laid_out, line_height
from zweistimme.window.score.waves import row_levels, wave_image
from zweistimme.window.strain import Strain, overflow_words, strain_of
from zweistimme.window.theme import SMALL_PT, colour, font, speaker_colour

_NAME_WIDTH = 70
_NAMELESS_BELOW = 200


@dataclass(frozen=True, slots=True)
class Scene:
    """What one paint needs."""

    desk: Desk
    peaks: PeakStore
    columns: Columns
    scale: Scale
    width: int
    height: int


def card_rect(scene: Scene, card: Card, column: tuple[float, float]) -> QRectF:
    """Where a card stands."""
    left, width = column
    top = scene.scale.y(card.start_us)
    height = max(LEAST_CARD, scene.scale.y(card.end_us) - top)
    share = width / card.lanes
    return QRectF(left + share * card.lane, top, share - (4 if card.lanes > 1 else 0), height)


def paint_ruler(painter: QPainter, scene: Scene) -> None:
    """Times at the left, fine rules across."""
    step = tick_seconds(scene.scale.pixels_per_second)
    first = int(max(0.0, scene.scale.top_us / SECOND_US) / step)
    last = int(scene.scale.time(scene.height) / SECOND_US / step) + 1
    painter.setFont(font(SMALL_PT))
    for number in range(first, last + 1):
        y = scene.scale.y(number * step * SECOND_US)
        if y < HEADER - 4:
            continue
        painter.setPen(QPen(colour("rule"), 1))
        painter.drawLine(QPointF(RULER - 8, y), QPointF(scene.width, y))
        painter.setPen(colour("faded"))
        label = clock(round(number * step * SECOND_US), 1 if step < 1 else 0)
        painter.drawText(
            QRectF(0, y - 8, RULER - 12, 16), Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, label
        )
        for part in range(1, 5):
            minor = scene.scale.y((number + part / 5) * step * SECOND_US)
            painter.setPen(QPen(colour("rule"), 1))
            painter.drawLine(QPointF(RULER - 12, minor), QPointF(RULER - 7, minor))


def paint_original_card(painter: QPainter, scene: Scene, card: Card) -> None:
    """A segment: who, what, and how sure."""
    segment = card.segment
    rect = card_rect(scene, card, scene.columns.original)
    text = segment.text or "(speech without words yet)"
    doubts = tuple((k, w.confidence) for k, w in enumerate(segment.words) if w.confidence < DOUBTFUL)
    _card(painter, scene, card, rect, text, faded=not segment.text, doubts=doubts, edge="original")


def paint_dub_card(painter: QPainter, scene: Scene, card: Card) -> None:
    """A line: its wording, and what is missing or stale about it."""
    version = scene.desk.version
    line = scene.desk.line(card.segment.id)
    rect = card_rect(scene, card, scene.columns.dub)
    if version is None or line is None or not line.text:
        text = "not translated yet" if card.segment.text else ""
        _card(painter, scene, card, rect, text, faded=True, edge="dub", hollow=True)
        return
    text = f"({line.direction}) {line.text}" if line.direction else line.text
    placed = scene.desk.placed(card.segment.id)
    over = overflow_words(placed[0], line.text) if placed else ""
    take = version.takes.get(line.take_id) if line.take_id else None
    marks = []
    if line_is_stale(card.segment, line):
        marks.append("the original has changed")
    elif take is None:
        marks.append("no take yet")
    elif take_is_stale(scene.desk.project, version, card.segment, line, take):
        marks.append("the take says something older")
    failure = scene.desk.failures.get((version.tag, card.segment.id))
    _card(
        painter,
        scene,
        card,
        rect,
        text,
        edge="dub",
        hollow=take is None,
        foot=failure.sentence if failure else over,
        mark="; ".join(marks),
        pinned=line.pin is not None,
    )


def _card(
    painter: QPainter, scene: Scene, card: Card, rect: QRectF, text: str, *, edge: str, faded: bool = False,
    hollow: bool = False, foot: str = "", mark: str = "", pinned: bool = False,
    doubts: tuple[tuple[int, float], ...] = (),
) -> None:  # fmt: skip
    chosen = card.segment.id == scene.desk.segment_id
    speakers = list(scene.desk.project.speakers)
    place = speakers.index(card.segment.speaker_id)
    tint = speaker_colour(place)
    fill = colour("chosen") if chosen else colour("card", 120 if hollow else 255)
    outline = colour("hard") if foot else colour("chosen_edge") if chosen else colour("rule")
    pen = QPen(outline, 1.6 if chosen or foot else 1.0)
    if hollow and not chosen:
        pen.setStyle(Qt.PenStyle.DashLine)
    painter.setPen(pen)
    painter.setBrush(fill)
    painter.drawRoundedRect(rect, 4, 4)
    _speaker_bar(painter, rect, place, tint)
    painter.save()
    painter.setClipRect(rect.adjusted(0, 0, -2, 0))
    named = rect.width() >= _NAMELESS_BELOW
    left = rect.left() + 12 + (_NAME_WIDTH if named else 0)
    top = rect.top() + (1 if rect.height() < 22 else 4)
    if named:
        painter.setFont(font(SMALL_PT, bold=True))
        painter.setPen(tint)
        name = scene.desk.project.speakers[card.segment.speaker_id].name
        shown = painter.fontMetrics().elidedText(name, Qt.TextElideMode.ElideRight, _NAME_WIDTH - 4)
        painter.drawText(QPointF(rect.left() + 12, top + 11), shown)
        if rect.height() > 34 and not card.segment.on_screen:
            painter.setFont(font(SMALL_PT, italic=True))
            painter.setPen(colour("faded"))
            painter.drawText(QPointF(rect.left() + 12, top + 25), "off screen")
    room = rect.height() - (16 if foot or mark else 3)
    _text(painter, text, QRectF(left, top, rect.right() - left - (20 if pinned else 6), room), doubts, faded=faded)
    _footing(painter, rect, rect.left() + 12 if rect.height() > 48 else left, foot, mark)
    if pinned:
        _pin(painter, QPointF(rect.right() - 12, rect.top() + 10))
    painter.restore()


def _speaker_bar(painter: QPainter, rect: QRectF, place: int, tint: QColor) -> None:
    """A bar at the card's edge; which part of it is doubled tells speakers apart without colour."""
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(tint)
    painter.drawRect(QRectF(rect.left(), rect.top(), 4, rect.height()))
    third = rect.height() / 3
    painter.drawRect(QRectF(rect.left() + 5, rect.top() + third * (place % 3), 2.5, third))


def _text(painter: QPainter, text: str, box: QRectF, doubts: tuple[tuple[int, float], ...], *, faded: bool) -> None:
    height = line_height()
    lines = laid_out(text, int(box.width()), max(1, int((box.height() + 3) / height)), doubts)
    painter.setFont(font(italic=faded))
    base = box.top() + height - 4
    for number, line in enumerate(lines):
        painter.setPen(colour("faded" if faded else "ink"))
        y = base + number * height
        painter.drawText(QPointF(box.left(), y), line.text)
        for x, width, confidence in line.doubts:
            pen = QPen(colour("firm"), 1.6)
            pen.setStyle(Qt.PenStyle.CustomDashLine)
            pen.setDashPattern([1.0, 1.0 + 4.0 * max(0.0, confidence - 0.3)])
            painter.setPen(pen)
            painter.drawLine(QPointF(box.left() + x, y + 3), QPointF(box.left() + x + width, y + 3))


def _footing(painter: QPainter, rect: QRectF, left: float, foot: str, mark: str) -> None:
    if not (foot or mark) or rect.height() < 30:
        return
    painter.setFont(font(SMALL_PT, bold=bool(foot), italic=not foot))
    painter.setPen(colour("hard" if foot else "firm"))
    words = painter.fontMetrics().elidedText(foot or mark, Qt.TextElideMode.ElideRight, int(rect.right() - left - 6))
    painter.drawText(QPointF(left, rect.bottom() - 5), words)


def _pin(painter: QPainter, at: QPointF) -> None:
    painter.setPen(QPen(colour("ink"), 1.4))
    painter.setBrush(colour("dub"))
    painter.drawEllipse(at, 3.6, 3.6)
    painter.drawLine(QPointF(at.x(), at.y() + 4), QPointF(at.x(), at.y() + 9))


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
    _ribbon_label(painter, QPointF(middle, (y0 + y1 + z0 + z1) / 4), f"×{placement.tempo:.2f}", colour(strain.role))


def _ribbon_label(painter: QPainter, centre: QPointF, label: str, tint: QColor) -> None:
    painter.setFont(font(SMALL_PT, bold=True))
    width = painter.fontMetrics().horizontalAdvance(label) + 14
    box = QRectF(centre.x() - width / 2, centre.y() - 8, width, 16)
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
    rows = np.arange(HEADER, scene.height)
    for card in cards:
        rect = card_rect(scene, card, (left, width))
        painter.fillRect(QRectF(left, rect.top(), width, rect.height()), colour("original_soft"))
    if peaks is None or not len(rows):
        return
    step = SECOND_US / scene.scale.pixels_per_second
    levels = row_levels(peaks, scene.scale.top_us + (rows - HEADER) * step, step)
    tints = [(slice(None), colour("faded", 90))]
    for card in cards:
        a, b = (int(scene.scale.y(time)) - HEADER for time in (card.start_us, card.end_us))
        tints.append((slice(max(0, a), max(0, b)), colour("original")))
    painter.drawImage(QPointF(left, HEADER), wave_image(levels, int(width), tints, gain=1.4))


def paint_dub_wave(painter: QPainter, scene: Scene, card: Card, placement: Placement, take: Take) -> None:
    """A placed take's sound, as long as its placement."""
    left, width = scene.columns.dub_wave
    share = width / card.lanes
    left, width = left + share * card.lane, share - (2 if card.lanes > 1 else 0)
    top, bottom = scene.scale.y(placement.start_us), scene.scale.y(placement.start_us + placement.length_us)
    painter.fillRect(QRectF(left, top, width, bottom - top), colour("dub_soft"))
    peaks = scene.peaks.take(take)
    first, last = max(HEADER, int(top)), min(scene.height, int(bottom))
    if peaks is None or last <= first:
        return
    speech = samples_to_us(take.speech_end_samples - take.speech_start_samples)
    pace = speech / max(1, placement.length_us)
    step = SECOND_US / scene.scale.pixels_per_second * pace
    levels = row_levels(peaks, (np.arange(first, last) - top) * step, max(step, SECOND_US / PEAKS_PER_SECOND))
    painter.drawImage(QPointF(left, first), wave_image(levels, int(width), [(slice(None), colour("dub"))]))
