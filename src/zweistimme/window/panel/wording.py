"""A text that is written in the panel."""

from __future__ import annotations

from PyQt6.QtCore import QTimer
from PyQt6.QtWidgets import QPlainTextEdit

_TYPING_MS = 700


class WordingEdit(QPlainTextEdit):
    """A text of the panel: what is typed is kept once typing rests, and when the field is left."""

    def __init__(self, name: str, lines: int) -> None:
        super().__init__()
        self.setAccessibleName(name)
        self.setTabChangesFocus(True)
        self.setObjectName("wordingEdit")
        self.setFixedHeight(int(self.fontMetrics().lineSpacing() * lines + 22))
        self.rest = QTimer(self)
        self.rest.setSingleShot(True)
        self.rest.setInterval(_TYPING_MS)

    def show_text(self, text: str) -> None:
        """Show *text* without counting it as typed; what is being typed is left alone."""
        if self.toPlainText() != text and not (self.hasFocus() and self.rest.isActive()):
            self.blockSignals(True)
            self.setPlainText(text)
            self.blockSignals(False)
