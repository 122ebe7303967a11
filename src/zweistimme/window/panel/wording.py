"""A text that is written in the panel."""

from __future__ import annotations

from PyQt6.QtWidgets import QPlainTextEdit

from zweistimme.window.bridge import Desk
from zweistimme.window.writing import Draft


class WordingEdit(QPlainTextEdit):
    """A text of the panel."""

    def __init__(self, desk: Desk, name: str, lines: int) -> None:
        super().__init__()
        self.setAccessibleName(name)
        self.setTabChangesFocus(True)
        self.setObjectName("wordingEdit")
        self.setFixedHeight(int(self.fontMetrics().lineSpacing() * lines + 22))
        self.draft = Draft(desk, self)
