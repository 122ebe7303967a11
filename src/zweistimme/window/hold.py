"""A press that may become a drag: once the pointer has gone further than a hand trembles, until it is let go, or Escape
puts everything back."""

from __future__ import annotations

from collections.abc import Callable
from typing import Final

from PyQt6.QtCore import QEvent, QObject, QPointF, Qt
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QApplication

_TREMBLE: Final = 4
"""Pixels. The system's own distance is meant for things that are carried elsewhere; edges are moved by less."""


class Hold(QObject):
    """What one pointer holds. While it does, Escape is nobody else's."""

    def __init__(self, parent: QObject, put_back: Callable[[], None]) -> None:
        super().__init__(parent)
        self._put_back = put_back
        self._from: QPointF | None = None
        self._pulled = False

    @property
    def holding(self) -> bool:
        return self._from is not None

    def take(self, at: QPointF) -> None:
        """A press."""
        self._from, self._pulled = QPointF(at), False
        app = QApplication.instance()
        assert app is not None
        app.installEventFilter(self)

    def pulled(self, at: QPointF) -> bool:
        """Whether the pointer, now *at*, has gone far enough since the press; from then on it has."""
        if self._from is None:
            return False
        self._pulled = self._pulled or (at - self._from).manhattanLength() >= _TREMBLE
        return self._pulled

    def let_go(self) -> None:
        """The button is up, or there is nothing to hold any more."""
        self._from = None
        app = QApplication.instance()
        if app is not None:
            app.removeEventFilter(self)

    def eventFilter(self, _watched: QObject | None, event: QEvent | None) -> bool:
        if not isinstance(event, QKeyEvent) or event.key() != Qt.Key.Key_Escape:
            return False
        if event.type() == QEvent.Type.ShortcutOverride:
            event.accept()
        elif event.type() == QEvent.Type.KeyPress:
            self.let_go()
            self._put_back()
        return True
