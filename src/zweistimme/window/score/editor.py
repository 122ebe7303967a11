"""Writing in place: a small editor laid over a card. Return keeps, Escape leaves it as it was."""

from __future__ import annotations

from PyQt6.QtCore import QRect, Qt, pyqtSignal
from PyQt6.QtGui import QFocusEvent, QKeyEvent, QTextCursor
from PyQt6.QtWidgets import QPlainTextEdit, QWidget

from zweistimme.window.theme import font


class CardEditor(QPlainTextEdit):
    """One card's text while it is written."""

    kept = pyqtSignal(str, str, str)
    """Side ("original" or "dub"), segment id, text."""
    typed = pyqtSignal(str)

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setFont(font())
        self.setTabChangesFocus(True)
        self.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setObjectName("wordingEdit")
        self._side, self._segment_id, self._before = "", "", ""
        self.textChanged.connect(lambda: self.typed.emit(self.toPlainText()))
        self.hide()

    @property
    def editing(self) -> str:
        """The segment whose text is being written, or empty."""
        return self._segment_id if self.isVisible() else ""

    @property
    def side(self) -> str:
        return self._side

    def begin(self, side: str, segment_id: str, text: str, box: QRect) -> None:
        """Open over *box*."""
        self._side, self._segment_id, self._before = side, segment_id, text
        self.setAccessibleName("The original's words" if side == "original" else "The line's wording")
        self.setPlainText(text)
        self.setGeometry(box)
        self.show()
        self.raise_()
        self.setFocus()
        self.moveCursor(QTextCursor.MoveOperation.End)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self._keep()
        elif event.key() == Qt.Key.Key_Escape:
            self._leave()
        else:
            super().keyPressEvent(event)

    def focusOutEvent(self, event: QFocusEvent | None) -> None:
        super().focusOutEvent(event)
        if self.isVisible() and (event is None or event.reason() != Qt.FocusReason.PopupFocusReason):
            self._keep()

    def _keep(self) -> None:
        side, segment_id, text = self._side, self._segment_id, self.toPlainText()
        changed = text != self._before
        self._leave()
        if changed and segment_id:
            self.kept.emit(side, segment_id, text)

    def _leave(self) -> None:
        self._segment_id = ""
        self.hide()
        canvas = self.parentWidget()
        score = canvas.parentWidget() if canvas is not None else None
        if score is not None:
            score.setFocus()
