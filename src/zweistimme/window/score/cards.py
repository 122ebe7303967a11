"""Drawing the cards of the Score: who, what, how sure, and what is missing or stale."""

from __future__ import annotations

from collections.abc import Mapping
from types import MappingProxyType
from typing import Final

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPen

from zweistimme.messages import tr
from zweistimme.project.words import DOUBTFUL
from zweistimme.window.score.geometry import Card
from zweistimme.window.score.painting import Scene, card_rect
from zweistimme.window.score.state_marks import ROOM, paint_state
from zweistimme.window.score.text import LaidLine, laid_out, line_height
from zweistimme.window.shown_line import shown_line
from zweistimme.window.theme import SMALL_PT, colour, font, px, speaker_colour

_NAME_WIDTH = 70
_NAMELESS_BELOW = 200
NO_DOUBTS: Final[Mapping[int, float]] = MappingProxyType({})


def paint_original_card(painter: QPainter, scene: Scene, card: Card) -> None:
    """A segment: who, what, and how sure."""
    segment = card.segment
    rect = card_rect(scene, card, scene.columns.original)
    text = segment.text or tr("(speech without words yet)")
    doubts = {k: w.confidence for k, w in enumerate(segment.words) if w.confidence < DOUBTFUL}
    aside = len(segment.fillers)
    _card(
        painter,
        scene,
        card,
        rect,
        text,
        faded=not segment.text,
        doubts=doubts,
        cursor=scene.desk.word if segment.text and segment.id == scene.desk.segment_id else None,
        mark=tr("{n:hesitation|hesitations} kept aside", n=aside) if aside else "",
    )


def paint_dub_card(painter: QPainter, scene: Scene, card: Card) -> None:
    """A line: its wording, and what is missing or stale about it."""
    state = shown_line(scene.desk, card.segment)
    _card(
        painter,
        scene,
        card,
        card_rect(scene, card, scene.columns.dub),
        state.text,
        faded=not state.written,
        hollow=not state.spoken,
        foot=state.trouble,
        mark="; ".join(state.marks),
        pinned=state.pinned,
        settled=state.locked or state.state.settled,
    )
    rect = card_rect(scene, card, scene.columns.dub)
    paint_state(painter, rect.right() - px(ROOM) / 2, rect.bottom() - 4, state.state, locked=state.locked)


def _card(
    painter: QPainter, scene: Scene, card: Card, rect: QRectF, text: str, *, faded: bool = False,
    hollow: bool = False, foot: str = "", mark: str = "", pinned: bool = False,
    settled: bool = False, doubts: Mapping[int, float] = NO_DOUBTS, cursor: int | None = None,
) -> None:  # fmt: skip
    chosen = card.segment.id in scene.desk.chosen
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
    if rect.width() >= px(_NAMELESS_BELOW):
        top = rect.top() + (1 if rect.height() < 22 else 4)
        painter.setFont(font(SMALL_PT, bold=True))
        painter.setPen(tint)
        name = scene.desk.project.speakers[card.segment.speaker_id].name
        shown = painter.fontMetrics().elidedText(name, Qt.TextElideMode.ElideRight, px(_NAME_WIDTH) - 4)
        painter.drawText(QPointF(rect.left() + 12, top + px(11)), shown)
        if rect.height() > px(34) and not card.segment.on_screen:
            painter.setFont(font(SMALL_PT, italic=True))
            painter.setPen(colour("faded"))
            painter.drawText(QPointF(rect.left() + 12, top + px(25)), tr("off screen"))
    box = text_box(rect, noted=bool(foot or mark), pinned=pinned, settled=settled)
    _text(painter, text, box, doubts, cursor, faded=faded)
    _footing(painter, rect, rect.left() + 12 if rect.height() > px(48) else box.left(), foot, mark)
    if pinned:
        _pin(painter, QPointF(rect.right() - 12, rect.top() + 10))
    painter.restore()


def text_box(rect: QRectF, *, noted: bool = False, pinned: bool = False, settled: bool = False) -> QRectF:
    """Where the words of a card stand within it."""
    aside = 20 if pinned else px(ROOM) if settled else 6
    left = rect.left() + 12 + (px(_NAME_WIDTH) if rect.width() >= px(_NAMELESS_BELOW) else 0)
    top = rect.top() + (1 if rect.height() < 22 else 4)
    room = rect.height() - (px(16) if noted else 3)
    return QRectF(left, top, rect.right() - left - aside, room)


def _lines(text: str, box: QRectF) -> tuple[LaidLine, ...]:
    return laid_out(text, int(box.width()), max(1, int((box.height() + 3) / line_height())))


def word_at(scene: Scene, card: Card, at: QPointF) -> int | None:
    """The number of the word of a segment's text under the pointer."""
    box = text_box(card_rect(scene, card, scene.columns.original), noted=bool(card.segment.fillers))
    line = int((at.y() - box.top()) / line_height())
    lines = _lines(card.segment.text, box)
    if not 0 <= line < len(lines):
        return None
    x = at.x() - box.left()
    return next((number for number, left, width in lines[line].words if left - 2 <= x <= left + width + 3), None)


def _speaker_bar(painter: QPainter, rect: QRectF, place: int, tint: QColor) -> None:
    """A bar at the card's edge; which part of it is doubled tells speakers apart without colour."""
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(tint)
    painter.drawRect(QRectF(rect.left(), rect.top(), 4, rect.height()))
    third = rect.height() / 3
    painter.drawRect(QRectF(rect.left() + 5, rect.top() + third * (place % 3), 2.5, third))


def _text(
    painter: QPainter, text: str, box: QRectF, doubts: Mapping[int, float], cursor: int | None, *, faded: bool
) -> None:
    height = line_height()
    painter.setFont(font(italic=faded))
    base = box.top() + height - 4
    for number, line in enumerate(_lines(text, box)):
        y = base + number * height
        for place, x, width in line.words:
            if place == cursor:
                painter.setPen(QPen(colour("chosen_edge"), 1.2))
                painter.setBrush(colour("card", 150))
                painter.drawRoundedRect(QRectF(box.left() + x - 2.5, y - height + 5.5, width + 5, height), 3, 3)
            if place in doubts:
                pen = QPen(colour("firm"), 1.6)
                pen.setStyle(Qt.PenStyle.CustomDashLine)
                pen.setDashPattern([1.0, 1.0 + 4.0 * max(0.0, doubts[place] - 0.3)])
                painter.setPen(pen)
                painter.drawLine(QPointF(box.left() + x, y + 3), QPointF(box.left() + x + width, y + 3))
        painter.setPen(colour("faded" if faded else "ink"))
        painter.drawText(QPointF(box.left() + line.left, y), line.text)


def _footing(painter: QPainter, rect: QRectF, left: float, foot: str, mark: str) -> None:
    if not (foot or mark) or rect.height() < px(30):
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
