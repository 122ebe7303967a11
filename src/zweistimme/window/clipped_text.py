"""Words in a room of so many lines: broken by their writing system, and cut with a sign if they are longer."""

from __future__ import annotations

from html import escape

from PyQt6.QtCore import QPointF, QRect, QSize, Qt
from PyQt6.QtGui import QFontMetrics, QPainter, QPaintEvent, QResizeEvent, QTextLayout, QTextOption
from PyQt6.QtWidgets import QLabel, QSizePolicy, QWidget

from zweistimme.project.writing.scripts import is_rtl


def as_plain(text: str) -> str:
    """A text from outside for a tooltip, which would read mark-up in it otherwise."""
    return f"<span>{escape(text)}</span>" if "<" in text else text


class ClippedText(QLabel):
    """A label that is always as high as *lines* lines; what does not fit is in its tooltip."""

    def __init__(self, lines: int = 2, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._lines = lines
        self.setTextFormat(Qt.TextFormat.PlainText)
        self.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)

    def sizeHint(self) -> QSize:
        """As wide as the words in one line, if anybody asks."""
        return QSize(
            QFontMetrics(self.font()).horizontalAdvance(self.text()) + 2,
            self._lines * QFontMetrics(self.font()).lineSpacing() + 2,
        )

    def minimumSizeHint(self) -> QSize:
        return QSize(0, self.sizeHint().height())

    def setText(self, text: str | None) -> None:
        super().setText(text)
        self.setAccessibleName(text or "")
        self._say_the_rest()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._say_the_rest()

    def _say_the_rest(self) -> None:
        shown = self.shown_lines()
        self.setToolTip("" if "".join(shown) == self.text() else as_plain(self.text()))

    def shown_lines(self) -> list[str]:
        """The lines as they are shown."""
        text, width = self.text().replace("\n", " "), self.width()
        layout = QTextLayout(text, self.font())
        option = QTextOption()
        option.setWrapMode(QTextOption.WrapMode.WrapAtWordBoundaryOrAnywhere)
        layout.setTextOption(option)
        layout.beginLayout()
        starts: list[int] = []
        for _ in range(self._lines + 1):
            line = layout.createLine()
            if not line.isValid():
                break
            line.setLineWidth(max(1, width))
            starts.append(line.textStart())
        layout.endLayout()
        ends = [*starts[1:], len(text)]
        shown = [text[start:end] for start, end in zip(starts, ends, strict=True)]
        if len(shown) > self._lines:
            rest = text[starts[self._lines - 1] :]
            elided = QFontMetrics(self.font()).elidedText(rest, Qt.TextElideMode.ElideRight, max(1, width))
            shown = [*shown[: self._lines - 1], elided]
        return shown

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setPen(self.palette().color(self.foregroundRole()))
        shown = self.shown_lines()
        spacing = QFontMetrics(self.font()).lineSpacing()
        top = (self.height() - len(shown) * spacing) / 2
        side = Qt.AlignmentFlag.AlignRight if is_rtl(self.text()) else Qt.AlignmentFlag.AlignLeft
        for number, line in enumerate(shown):
            place = QRect(0, round(QPointF(0, top + number * spacing).y()), self.width(), spacing)
            painter.drawText(place, side | Qt.AlignmentFlag.AlignVCenter, line)
