"""The rail at the left: the pages of the desk, one under the other."""

from __future__ import annotations

from PyQt6.QtCore import QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QFontMetrics, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QAbstractButton, QButtonGroup, QVBoxLayout, QWidget

from zweistimme.messages import tr
from zweistimme.window.actions import tip
from zweistimme.window.pages import PAGES, PageSpec
from zweistimme.window.theme import SMALL_PT, colour, font, px


class _RailButton(QAbstractButton):
    def __init__(self, spec: PageSpec) -> None:
        super().__init__()
        self._spec = spec
        self.setText(tr(spec.title))
        self.setCheckable(True)
        self.setToolTip(tip(f"page_{spec.id}"))
        self.setAccessibleName(tr(spec.title))
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)  # a click on it leaves the keyboard to the page

    def sizeHint(self) -> QSize:
        words = QFontMetrics(font(SMALL_PT, bold=True)).horizontalAdvance(self.text())
        return QSize(max(px(70), words + px(8)), px(56))

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if self.isChecked():
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(colour("chosen"))
            painter.drawRoundedRect(self.rect().adjusted(1, 1, -1, -1), 7, 7)
        tint = colour("ink" if self.isChecked() else "faded")
        painter.setPen(QPen(tint, 1.8))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.translate(self.width() / 2, px(20))
        self._spec.draw(painter)
        painter.resetTransform()
        painter.setFont(font(SMALL_PT, bold=self.isChecked()))
        painter.setPen(tint)
        painter.drawText(QRectF(0, px(36), self.width(), px(16)), Qt.AlignmentFlag.AlignCenter, self.text())
        if self.hasFocus():
            painter.setPen(QPen(colour("original"), 1.5))
            painter.drawRoundedRect(self.rect().adjusted(1, 1, -2, -2), 7, 7)


class Rail(QWidget):
    """Pages, one under the other."""

    chosen = pyqtSignal(str)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        column = QVBoxLayout(self)
        column.setContentsMargins(2, 8, 2, 8)
        column.setSpacing(6)
        self._group = QButtonGroup(self)
        self.buttons = {}
        for spec in PAGES:
            button = _RailButton(spec)
            button.clicked.connect(lambda _on=False, page=spec.id: self.chosen.emit(page))
            self._group.addButton(button)
            column.addWidget(button)
            self.buttons[spec.id] = button
        self.buttons[PAGES[0].id].setChecked(True)
        column.addStretch(1)
        width = max(button.sizeHint().width() for button in self.buttons.values())
        for button in self.buttons.values():
            button.setFixedSize(width, px(56))
        self.setFixedWidth(width + 4)

    def show_page(self, page_id: str) -> None:
        """Mark a page as the one in sight."""
        self.buttons[page_id].setChecked(True)
