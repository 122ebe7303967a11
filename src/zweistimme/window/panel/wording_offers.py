"""Wordings on offer below the line: each with as many lines as it needs, how long it takes to say, and where it is
from."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial
from html import escape

from PyQt6.QtCore import QRect, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QFontMetrics, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QAbstractButton, QLabel, QSizePolicy, QVBoxLayout, QWidget

from zweistimme.messages import tr
from zweistimme.window.actions import BY_ID, key_words, tip
from zweistimme.window.layouts import empty
from zweistimme.window.panel.offers import OfferRow
from zweistimme.window.panel.standing import offer_in_words
from zweistimme.window.theme import SMALL_PT, colour, font

_MARGIN = 7
_LENGTH = 62
MOST_KEYS = 9
"""So many wordings on offer have keys."""


class WordingButton(QAbstractButton):
    """Press it to use its wording."""

    def __init__(self, wording: str, length: str, shorter: bool, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._wording, self._length, self._shorter = wording, length, shorter
        self.setAccessibleName(tr("Use “{wording}”, {length}", wording=wording, length=length))
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        policy = QSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        policy.setHeightForWidth(True)
        self.setSizePolicy(policy)

    def heightForWidth(self, width: int) -> int:
        """What the words need; the width is the panel's."""
        room = QRect(0, 0, max(20, width - 2 * _MARGIN - _LENGTH), 10_000)
        words = QFontMetrics(font()).boundingRect(room, Qt.TextFlag.TextWordWrap, self._wording)
        return words.height() + 2 * _MARGIN

    def sizeHint(self) -> QSize:
        return QSize(200, self.heightForWidth(max(200, self.width())))

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        edge = colour("original" if self.hasFocus() or self.underMouse() else "rule")
        painter.setPen(QPen(edge, 1))
        painter.setBrush(colour("chosen"))
        painter.drawRoundedRect(self.rect().adjusted(0, 0, -1, -1), 5, 5)
        painter.setPen(colour("ink"))
        painter.setFont(font())
        body = self.rect().adjusted(_MARGIN, _MARGIN, -_MARGIN - _LENGTH, -_MARGIN)
        painter.drawText(body, Qt.TextFlag.TextWordWrap, self._wording)
        painter.setFont(font(SMALL_PT, bold=True))
        painter.setPen(colour("calm" if self._shorter else "faded"))
        side = self.rect().adjusted(0, 0, -_MARGIN, 0)
        painter.drawText(side, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, self._length)


class WordingOffers(QWidget):
    """The wordings on offer for the selected line; made anew only where they are others."""

    wanted = pyqtSignal(int)
    """The number of one of them, from 0."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins(0, 0, 0, 0)
        self._column.setSpacing(3)
        self.rows: Sequence[OfferRow] = ()

    def show_offers(self, rows: Sequence[OfferRow]) -> None:
        """Show wordings with how long each takes."""
        if rows == self.rows:
            return
        self.rows = rows
        empty(self._column)
        for number, row in enumerate(rows):
            if row.share:
                self._column.addWidget(_about(row))
            button = WordingButton(row.text, row.length, row.shorter)
            button.setToolTip(f"<p>{escape(_hint(number, row))}</p>")
            button.clicked.connect(partial(self._want, number))
            self._column.addWidget(button)
        self.setVisible(bool(rows))

    def _want(self, number: int, _checked: bool = False) -> None:
        self.wanted.emit(number)


def _hint(number: int, row: OfferRow) -> str:
    key = key_words(BY_ID[f"offer_{number + 1}"].key) if number < MOST_KEYS else ""
    words = tr("Use “{wording}” instead.", wording=row.text) + (f" ({key})" if key else "")
    return " ".join(filter(None, (words, offer_in_words(row.origin), "" if row.share else tip("shorter"))))


def _about(row: OfferRow) -> QLabel:
    """Above a match: how alike, where it is from, and what was said there, marked."""
    origin = row.origin.name if row.origin else ""
    head = " · ".join(filter(None, (row.share, origin)))
    label = QLabel(f"<b>{escape(head)}</b>" + (f"<br>{row.said}" if row.said else ""))
    label.setTextFormat(Qt.TextFormat.RichText)
    label.setWordWrap(True)
    label.setFont(font(SMALL_PT))
    return label
