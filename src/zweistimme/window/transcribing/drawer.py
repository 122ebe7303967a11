"""The drawer at the foot of the Score: one panel at a time, nothing modal; Escape closes it."""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QLabel, QStackedWidget, QToolButton, QVBoxLayout, QWidget

from zweistimme.messages import tr
from zweistimme.window.layouts import scrolled
from zweistimme.window.theme import SMALL_PT, font, px

_HEIGHT = 216


class Drawer(QFrame):
    """Holds the panels by name."""

    shut_by_hand = pyqtSignal()

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._names: list[str] = []
        self._panels: list[QWidget] = []
        self._stack = QStackedWidget()
        self._title = QLabel()
        self._title.setFont(font(SMALL_PT, bold=True))
        close = QToolButton()
        close.setText(tr("close"))
        close.setFont(font(SMALL_PT))
        close.setToolTip(tr("Close this panel (Escape)"))
        close.clicked.connect(self.shut)
        head = QHBoxLayout()
        head.addWidget(self._title)
        head.addStretch(1)
        head.addWidget(close)
        column = QVBoxLayout(self)
        column.setContentsMargins(14, 4, 14, 8)
        column.setSpacing(4)
        column.addLayout(head)
        column.addWidget(self._stack, 1)
        self.setFixedHeight(px(_HEIGHT))
        self.hide()

    def add(self, name: str, panel: QWidget) -> None:
        """One more panel."""
        self._names.append(name)
        self._panels.append(panel)
        self._stack.addWidget(scrolled(panel))

    @property
    def shown(self) -> str:
        """The name of the panel that is open, or empty."""
        return self._names[self._stack.currentIndex()] if self.isVisible() else ""

    def open(self, name: str) -> None:
        """Show a panel and put the keyboard in it."""
        self._stack.setCurrentIndex(self._names.index(name))
        self._title.setText(tr(name))
        self.show()
        self._panels[self._stack.currentIndex()].setFocus(Qt.FocusReason.ShortcutFocusReason)

    def shut(self) -> None:
        """Close whatever is open."""
        self.hide()
        self.shut_by_hand.emit()
