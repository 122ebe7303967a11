"""Shorter wordings on offer: each with as many lines as it needs, and what it saves."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial
from html import escape

from PyQt6.QtCore import QRect, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QPainter, QPaintEvent, QPen, QResizeEvent
from PyQt6.QtWidgets import QAbstractButton, QSizePolicy, QVBoxLayout, QWidget

from zweistimme.messages import tr
from zweistimme.window.actions import tip
from zweistimme.window.layouts import empty
from zweistimme.window.theme import SMALL_PT, colour, font

_MARGIN = 7
_SAVING = 62


class WordingButton(QAbstractButton):
    """Press it to use its wording."""

    def __init__(self, wording: str, saving: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._wording, self._saving = wording, saving
        self.setAccessibleName(tr("Use “{wording}”, {saving}", wording=wording, saving=saving))
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)

    def _text_height(self, width: int) -> int:
        room = QRect(0, 0, width - 2 * _MARGIN - _SAVING, 400)
        return self.fontMetrics().boundingRect(room, Qt.TextFlag.TextWordWrap, self._wording).height()

    def sizeHint(self) -> QSize:
        return QSize(200, self._text_height(self.width()) + 2 * _MARGIN)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """The width is the panel's; the height is what the words need at that width."""
        super().resizeEvent(event)
        self.setFixedHeight(self.sizeHint().height())

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        edge = colour("original" if self.hasFocus() or self.underMouse() else "rule")
        painter.setPen(QPen(edge, 1))
        painter.setBrush(colour("chosen"))
        painter.drawRoundedRect(self.rect().adjusted(0, 0, -1, -1), 5, 5)
        painter.setPen(colour("ink"))
        painter.setFont(font())
        body = self.rect().adjusted(_MARGIN, _MARGIN, -_MARGIN - _SAVING, -_MARGIN)
        painter.drawText(body, Qt.TextFlag.TextWordWrap, self._wording)
        painter.setFont(font(SMALL_PT, bold=True))
        painter.setPen(colour("calm" if self._saving.startswith("-") else "faded"))
        side = self.rect().adjusted(0, 0, -_MARGIN, 0)
        painter.drawText(side, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, self._saving)


class WordingOffers(QWidget):
    """The shorter wordings of the selected line; made anew only where they are others."""

    wanted = pyqtSignal(str)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins(0, 0, 0, 0)
        self._column.setSpacing(3)
        self._shown: Sequence[tuple[str, str]] = ()

    def show_offers(self, offers: Sequence[tuple[str, str]]) -> None:
        """Show wordings with what each saves."""
        if offers == self._shown:
            return
        self._shown = offers
        empty(self._column)
        for wording, saving in offers:
            button = WordingButton(wording, saving)
            button.setToolTip(f"<p>{tr('Use “{wording}” instead.', wording=escape(wording))} {tip('shorter')}</p>")
            button.clicked.connect(partial(self._want, wording))
            self._column.addWidget(button)
        self.setVisible(bool(offers))

    def _want(self, wording: str, _checked: bool = False) -> None:
        self.wanted.emit(wording)
