"""Writing in place: a small editor laid over a card. Return keeps, Escape leaves it as it was; Ctrl+Return
keeps the original and splits it at the caret."""

from __future__ import annotations

from PyQt6.QtCore import QEvent, QRect, Qt, pyqtSignal
from PyQt6.QtGui import QFocusEvent, QKeyEvent, QTextCursor
from PyQt6.QtWidgets import QPlainTextEdit, QWidget

from zweistimme.messages import tr
from zweistimme.project.writing import word_spans
from zweistimme.window.bridge import Desk
from zweistimme.window.theme import font
from zweistimme.window.writing import Draft, Kind, Place

_STAYS_OPEN = (
    Qt.FocusReason.PopupFocusReason,
    Qt.FocusReason.MenuBarFocusReason,
    Qt.FocusReason.ActiveWindowFocusReason,
)
"""Ways to lose the keyboard for a moment."""


class CardEditor(QPlainTextEdit):
    """One card's text while it is written."""

    split = pyqtSignal(str, int)
    """Segment id, and how many words stand before the caret: the original should be split there."""
    typed = pyqtSignal(str)
    left = pyqtSignal()
    """It has closed, and had the keyboard."""

    def __init__(self, desk: Desk, parent: QWidget) -> None:
        super().__init__(parent)
        self.setFont(font())
        self.setTabChangesFocus(True)
        self.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setObjectName("wordingEdit")
        self.draft = Draft(desk, self)
        self.draft.escaped.connect(self._leave)
        self.textChanged.connect(lambda: self.typed.emit(self.toPlainText()))
        self.hide()

    @property
    def place(self) -> Place | None:
        """Where the text belongs that is being written."""
        return self.draft.place if self.isVisible() else None

    def begin(self, place: Place, text: str, box: QRect) -> None:
        """Open over *box*."""
        self.draft.show(place, text)
        self.setAccessibleName(tr("The original's words") if place.kind is Kind.ORIGINAL else tr("The line's wording"))
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
        if event is None or self.place is None:
            return
        if event.key() not in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            super().keyPressEvent(event)
            return
        place, words = self.place, self._words_before_caret()
        self.finish()
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier and place.kind is Kind.ORIGINAL:
            self.split.emit(place.key, words)

    def _words_before_caret(self) -> int:
        """Words that end before the caret; one the caret stands in counts if its greater part lies before it."""
        at = self.textCursor().position()
        spans = word_spans(self.toPlainText())
        return sum(1 for start, end in spans if at >= end or ((at - start) * 2 >= end - start > 0 and at > start))

    def focusOutEvent(self, event: QFocusEvent | None) -> None:
        super().focusOutEvent(event)
        if self.isVisible() and (event is None or event.reason() not in _STAYS_OPEN):
            self.finish()

    def finish(self) -> None:
        """Keep what was written, and close."""
        self.draft.keep()
        self._leave()

    def _leave(self) -> None:
        had_keyboard = self.hasFocus()
        self.hide()
        if had_keyboard:
            self.left.emit()
