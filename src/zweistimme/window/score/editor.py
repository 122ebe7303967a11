"""Writing in place: a small editor laid over a card. Return keeps, Escape leaves it as it was; Ctrl+Return
keeps the original and splits it at the caret."""

from __future__ import annotations

from PyQt6.QtCore import QEvent, QRect, Qt, pyqtSignal
from PyQt6.QtGui import QFocusEvent, QKeyEvent, QTextCursor
from PyQt6.QtWidgets import QPlainTextEdit, QWidget

from zweistimme.project.writing import word_spans
from zweistimme.window.theme import font


class CardEditor(QPlainTextEdit):
    """One card's text while it is written."""

    kept = pyqtSignal(str, str, str)
    """Side ("original" or "dub"), segment id, text."""
    split = pyqtSignal(str, int)
    """Segment id, and how many words stand before the caret: the original should be split there."""
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

    def event(self, event: QEvent | None) -> bool:
        """Ctrl+Return is this editor's while it is open, whatever it is elsewhere."""
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.ShortcutOverride:
            returned = event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter)
            if returned and event.modifiers() & Qt.KeyboardModifier.ControlModifier:
                event.accept()
                return True
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            control = bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
            segment_id, words = self._segment_id, self._words_before_caret()
            self._keep()
            if control and self._side == "original":
                self.split.emit(segment_id, words)
        elif event.key() == Qt.Key.Key_Escape:
            self._leave()
        else:
            super().keyPressEvent(event)

    def _words_before_caret(self) -> int:
        """Words that end before the caret; one the caret stands in counts if its greater part lies before it."""
        at = self.textCursor().position()
        spans = word_spans(self.toPlainText())
        return sum(1 for start, end in spans if at >= end or ((at - start) * 2 >= end - start > 0 and at > start))

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
