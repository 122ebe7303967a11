"""The shortcut sheet, made from the list of actions."""

from __future__ import annotations

from PyQt6.QtGui import QKeySequence
from PyQt6.QtWidgets import QDialog, QGridLayout, QLabel, QVBoxLayout, QWidget

from zweistimme.window.actions import ACTIONS
from zweistimme.window.theme import TITLE_PT, font


class ShortcutSheet(QDialog):
    """All keys, by the part of the work they are for."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("Shortcuts")
        column = QVBoxLayout(self)
        column.setContentsMargins(24, 18, 24, 18)
        grid = QGridLayout()
        grid.setHorizontalSpacing(30)
        grid.setVerticalSpacing(20)
        column.addLayout(grid)
        groups = list(dict.fromkeys(spec.group for spec in ACTIONS))
        for place, group in enumerate(groups):
            block = QGridLayout()
            title = QLabel(group)
            title.setFont(font(TITLE_PT, bold=True))
            block.addWidget(title, 0, 0, 1, 2)
            for row, spec in enumerate((s for s in ACTIONS if s.group == group), 1):
                keys = QLabel(QKeySequence(spec.keys).toString(QKeySequence.SequenceFormat.NativeText))
                keys.setFont(font(bold=True))
                block.addWidget(keys, row, 0)
                block.addWidget(QLabel(spec.text), row, 1)
            block.setRowStretch(20, 1)
            block.setHorizontalSpacing(14)
            grid.addLayout(block, place // 2, place % 2)
