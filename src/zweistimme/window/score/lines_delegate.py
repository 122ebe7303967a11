"""Drawing the lines of the Score by text: as high as their words need, the ribbon in small."""

from __future__ import annotations

from functools import lru_cache
from typing import Final

from PyQt6.QtCore import QModelIndex, QPointF, QRect, QRectF, QSize, Qt
from PyQt6.QtGui import QBrush, QFontMetrics, QPainter, QPen
from PyQt6.QtWidgets import QStyledItemDelegate, QStyleOptionViewItem

from zweistimme.messages import number
from zweistimme.project.writing import is_rtl
from zweistimme.window.bridge import Desk
from zweistimme.window.score.lines_model import Column, LinesModel
from zweistimme.window.score.state_marks import ROOM, paint_state
from zweistimme.window.strain import Strain, strain_of
from zweistimme.window.theme import SMALL_PT, colour, font, px, speaker_colour

_EDGE: Final = 6
_WRAP: Final = Qt.TextFlag.TextWordWrap | Qt.TextFlag.TextIncludeTrailingSpaces


class LinesDelegate(QStyledItemDelegate):
    """Paints cells, and says how high their words are."""

    def __init__(self, desk: Desk, model: LinesModel) -> None:
        super().__init__(model)
        self._desk, self._model = desk, model
        self.heard_row = -1
        """The row at the playhead."""

    def height(self, row: int, widths: dict[Column, int]) -> int:
        """How many pixels a row needs with columns so wide."""
        state = self._model.state(row)
        notes = _notes_height(bool(state.trouble or state.marks))
        heights = [
            _text_height(self._model.segment(row).text, widths[Column.ORIGINAL], px(100)),
            _text_height(state.text, widths[Column.DUB] - px(ROOM), px(100)) + notes,
        ]
        if widths[Column.BESIDE]:
            heights.append(
                _text_height(self._model.beside_text(self._model.segment(row)), widths[Column.BESIDE], px(100))
            )
        return max(heights) + px(8)

    def sizeHint(self, option: QStyleOptionViewItem, _index: QModelIndex) -> QSize:
        return option.rect.size()

    def paint(self, painter: QPainter | None, option: QStyleOptionViewItem, index: QModelIndex) -> None:
        if painter is None:
            return
        painter.save()
        segment, rect = self._model.segment(index.row()), option.rect
        chosen = segment.id in self._desk.chosen
        painter.fillRect(rect, colour("chosen" if chosen else "card"))
        painter.setPen(QPen(colour("rule"), 1))
        painter.drawLine(rect.bottomLeft(), rect.bottomRight())
        box = rect.adjusted(_EDGE, px(3), -_EDGE, -px(3))
        column = Column(index.column())
        if column is Column.DUB:
            self._paint_dub(painter, box, index.row())
        elif column is Column.FIT:
            self._paint_fit(painter, QRectF(box), index.row())
        else:
            place = list(self._desk.project.speakers).index(segment.speaker_id)
            self._paint_words(painter, box, str(index.data()), column, place, written=bool(segment.text))
        if column is Column.NUMBER and index.row() == self.heard_row:
            painter.fillRect(QRect(rect.left(), rect.top(), 3, rect.height()), colour("playhead"))
        painter.restore()

    def _paint_words(
        self, painter: QPainter, box: QRect, words: str, column: Column, place: int, *, written: bool
    ) -> None:
        if column in (Column.ORIGINAL, Column.BESIDE):
            painter.setFont(font(italic=not written))
            painter.setPen(colour("ink" if written else "faded"))
            painter.drawText(box, _flags(words), words)
            return
        if column is Column.SPEAKER:
            painter.setFont(font(SMALL_PT, bold=True))
            painter.setPen(speaker_colour(place))
        else:
            painter.setFont(font(SMALL_PT))
            painter.setPen(colour("faded"))
        side = Qt.AlignmentFlag.AlignRight if column is Column.TIME else Qt.AlignmentFlag.AlignLeft
        shown = painter.fontMetrics().elidedText(words, Qt.TextElideMode.ElideRight, box.width())
        painter.drawText(box.adjusted(0, px(1), 0, 0), side, shown)

    def _paint_dub(self, painter: QPainter, box: QRect, row: int) -> None:
        state, whole = self._model.state(row), box
        box = box.adjusted(0, 0, -px(ROOM), 0)
        painter.setFont(font(italic=not state.written))
        painter.setPen(colour("ink" if state.written else "faded"))
        painter.drawText(box, _flags(state.text), state.text)
        note = state.trouble or "; ".join(state.marks)
        if note:
            painter.setFont(font(SMALL_PT, bold=bool(state.trouble), italic=not state.trouble))
            painter.setPen(colour("hard" if state.trouble else "firm"))
            below = QRect(box.left(), box.bottom() - _notes_height(True), box.width(), _notes_height(True))
            shown = painter.fontMetrics().elidedText(note, Qt.TextElideMode.ElideRight, box.width())
            painter.drawText(below, Qt.AlignmentFlag.AlignBottom, shown)
        paint_state(painter, whole.right() - px(ROOM) / 2 + 4, whole.bottom() - 2, state.state, locked=state.locked)
        if state.pinned:
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(colour("dub"))
            painter.drawEllipse(QPointF(box.right() - 2, box.top() + 5), 3.6, 3.6)

    def _paint_fit(self, painter: QPainter, box: QRectF, row: int) -> None:
        """The ribbon in small: colour, pattern and tempo."""
        placed = self._desk.placed(self._model.segment(row).id)
        if placed is None:
            return
        strain = strain_of(placed[0])
        band = QRectF(box.left(), box.top(), box.width(), px(17))
        pen = QPen(colour(strain.role), 1.2)
        if strain is Strain.FIRM:
            pen.setStyle(Qt.PenStyle.DotLine)
        painter.setPen(pen)
        painter.setBrush(colour(strain.soft_role, 215))
        painter.drawRect(band)
        if strain.pattern is not Qt.BrushStyle.NoBrush:
            painter.fillRect(band, QBrush(colour(strain.role, 90), strain.pattern))
        painter.setFont(font(SMALL_PT, bold=True))
        painter.setPen(colour("ink"))
        painter.drawText(band, Qt.AlignmentFlag.AlignCenter, f"×{number(placed[0].tempo, '.2f')}")


def _flags(text: str) -> int:
    side = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignAbsolute if is_rtl(text) else Qt.AlignmentFlag.AlignLeft
    return int(side.value) | int(Qt.AlignmentFlag.AlignTop.value) | int(_WRAP.value)


@lru_cache(maxsize=20_000)
def _text_height(text: str, width: int, _type_px: int) -> int:
    box = QRect(0, 0, max(20, width - 2 * _EDGE), 100_000)
    return QFontMetrics(font()).boundingRect(box, _flags(text), text or "x").height()


def _notes_height(there: bool) -> int:
    return QFontMetrics(font(SMALL_PT)).height() + 1 if there else 0
