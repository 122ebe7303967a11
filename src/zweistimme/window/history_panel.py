"""What was done to the project, the newest first: a fold at the foot of the desk, to go back to any point of it."""

from __future__ import annotations

from PyQt6.QtGui import QFont, QShowEvent
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QListWidget, QListWidgetItem, QPushButton, QVBoxLayout, QWidget

from zweistimme.messages import tr, tr_act
from zweistimme.store.database import HistoryStep
from zweistimme.window.bridge import Desk


class HistoryPanel(QWidget):
    """Steps that were undone stand above the one that was done last, and are faint."""

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._desk = desk
        self._steps: list[HistoryStep] = []
        self.list = QListWidget()
        self.list.setAccessibleName(tr("What was done, the newest first"))
        self.go = QPushButton(tr("Go back to it"))
        self.go.clicked.connect(self._go)
        self.list.itemActivated.connect(lambda _item: self._go())
        self.list.currentRowChanged.connect(lambda _row: self._show_button())
        about = QLabel(tr("The project becomes as it was when this was done. What comes after it can be done again."))
        about.setWordWrap(True)
        about.setProperty("faded", True)
        right = QVBoxLayout()
        right.addWidget(about)
        right.addWidget(self.go)
        right.addStretch(1)
        row = QHBoxLayout(self)
        row.setContentsMargins(14, 8, 14, 8)
        row.addWidget(self.list, 3)
        row.addLayout(right, 2)
        desk.changed.connect(lambda _change: self._look())
        self.setFocusProxy(self.list)

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self._look()

    @property
    def _done(self) -> int:
        """The row of what was done last: as many steps as are undone stand above it."""
        return sum(step.undone for step in self._steps)

    def _look(self) -> None:
        if not self.isVisible():
            return
        self._steps = self._desk.document.history()
        self.list.clear()
        for number, step in enumerate(self._steps):
            item = QListWidgetItem(tr("{act} (undone)", act=tr_act(step.label)) if step.undone else tr_act(step.label))
            style = QFont(self.list.font())
            style.setBold(number == self._done)
            style.setItalic(step.undone)
            item.setFont(style)
            self.list.addItem(item)
        self.list.setCurrentRow(min(self._done, self.list.count() - 1))
        self._show_button()

    def _show_button(self) -> None:
        by = self.list.currentRow() - self._done
        self.go.setText(tr("Do it again, up to here") if by < 0 else tr("Go back to it"))
        self.go.setEnabled(self.list.currentRow() >= 0 and by != 0)

    def _go(self) -> None:
        by = self.list.currentRow() - self._done
        if by:
            self._desk.go_in_history(-by)
