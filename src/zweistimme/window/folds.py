"""Folds at the foot of the desk: one at a time, above the line that says what is going on. They take room, and cover
nothing."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Final

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QStackedWidget, QWidget

from zweistimme.window.theme import px

JOBS: Final = "jobs"
HISTORY: Final = "history"
_HEIGHT: Final = 190


class Folds(QStackedWidget):
    """Shut at first."""

    turned = pyqtSignal(str)
    """The fold that is open now, or nothing."""

    def __init__(self, folds: Mapping[str, QWidget], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._folds = dict(folds)
        self.open = ""
        self.setFixedHeight(px(_HEIGHT))
        for fold in self._folds.values():
            self.addWidget(fold)
        self.hide()

    def flip(self, name: str) -> None:
        """Open a fold, or shut it if it is the one that is open."""
        self.open = "" if self.open == name else name
        if self.open:
            self.setCurrentWidget(self._folds[name])
        self.setVisible(bool(self.open))
        if self.open:
            self._folds[name].setFocus()
        self.turned.emit(self.open)
