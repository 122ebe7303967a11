"""The shortcut sheet, made from the list of actions."""

from __future__ import annotations

from PyQt6.QtGui import QKeySequence
from PyQt6.QtWidgets import QDialog, QGridLayout, QHBoxLayout, QLabel, QVBoxLayout, QWidget

from zweistimme.window.actions import ACTIONS
from zweistimme.window.theme import TITLE_PT, font

_COLUMN_OF = {"Listening": 0, "Moving": 0, "Transcript": 1}


class ShortcutSheet(QDialog):
    """All keys, by the part of the work they are for."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("Shortcuts")
        column = QVBoxLayout(self)
        column.setContentsMargins(24, 18, 24, 18)
        row_of_columns = QHBoxLayout()
        row_of_columns.setSpacing(34)
        column.addLayout(row_of_columns)
        groups = list(dict.fromkeys(spec.group for spec in ACTIONS))
        columns = [QVBoxLayout() for _ in range(3)]
        for one in columns:
            one.setSpacing(18)
            row_of_columns.addLayout(one)
        for group in groups:
            block = QGridLayout()
            title = QLabel(group)
            title.setFont(font(TITLE_PT, bold=True))
            block.addWidget(title, 0, 0, 1, 2)
            for row, spec in enumerate((s for s in ACTIONS if s.group == group and s.listed), 1):
                shown = QKeySequence(spec.keys).toString(QKeySequence.SequenceFormat.NativeText)
                keys = QLabel(shown or "menu")
                keys.setFont(font(bold=True))
                block.addWidget(keys, row, 0)
                block.addWidget(QLabel(spec.text), row, 1)
            block.setHorizontalSpacing(14)
            block.setVerticalSpacing(6)
            columns[_COLUMN_OF.get(group, 2)].addLayout(block)
        for one in columns:
            one.addStretch(1)
