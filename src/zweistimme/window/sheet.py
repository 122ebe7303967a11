"""The shortcut sheet, made from the list of actions."""

from __future__ import annotations

from PyQt6.QtCore import QSize
from PyQt6.QtWidgets import QDialog, QGridLayout, QHBoxLayout, QLabel, QScrollArea, QVBoxLayout, QWidget

from zweistimme.messages import tr
from zweistimme.window.actions import ACTIONS, key_words
from zweistimme.window.theme import TITLE_PT, font, px

_SHARE = 0.94
"""Of the window's size; what does not fit is scrolled to."""
_COLUMN = 440
_MOST_COLUMNS = 3


class ShortcutSheet(QDialog):
    """All keys, by the part of the work they are for, in as many columns as there is room for."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle(tr("Shortcuts"))
        room = parent.size() * _SHARE if parent is not None else QSize(1_200, 760)
        count = max(1, min(_MOST_COLUMNS, room.width() // px(_COLUMN)))
        sheet, area = QWidget(), QScrollArea()
        row = QHBoxLayout(sheet)
        row.setContentsMargins(24, 18, 24, 18)
        row.setSpacing(30)
        for groups in _in_columns(count):
            column = QVBoxLayout()
            column.setSpacing(18)
            for group in groups:
                column.addLayout(_block(group))
            column.addStretch(1)
            row.addLayout(column)
        area.setWidget(sheet)
        area.setFrameShape(QScrollArea.Shape.NoFrame)
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        outer.addWidget(area)
        self.resize((sheet.sizeHint() + QSize(24, 8)).boundedTo(room))


def _in_columns(count: int) -> list[list[str]]:
    """The groups of actions in their order, in so many columns that are nearly as high as each other."""
    sizes: dict[str, int] = {}
    for spec in ACTIONS:
        sizes[spec.group] = sizes.get(spec.group, 2) + spec.listed
    columns: list[list[str]] = [[] for _ in range(count)]
    filled, each = 0, sum(sizes.values()) / count
    for group, size in sizes.items():
        columns[min(count - 1, int((filled + size / 2) / each))].append(group)
        filled += size
    return columns


def _block(group: str) -> QGridLayout:
    block = QGridLayout()
    title = QLabel(tr(group))
    title.setFont(font(TITLE_PT, bold=True))
    block.addWidget(title, 0, 0, 1, 2)
    for row, spec in enumerate((s for s in ACTIONS if s.group == group and s.listed), 1):
        shown = key_words(spec.key)
        keys = QLabel(shown or tr("menu"))
        keys.setFont(font(bold=True))
        block.addWidget(keys, row, 0)
        block.addWidget(QLabel(spec.words), row, 1)
    block.setColumnMinimumWidth(0, px(124))
    block.setColumnStretch(1, 1)
    block.setHorizontalSpacing(14)
    block.setVerticalSpacing(6)
    return block
