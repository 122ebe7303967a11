"""Changes of lines that are proposed: each seen as it would be, struck through what goes, underlined what comes, and
ticked or not."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QResizeEvent, QShowEvent
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QSizePolicy, QTableWidgetItem, QVBoxLayout, QWidget

from zweistimme.messages import tr
from zweistimme.project.text_changes import changes
from zweistimme.window.bridge import Desk
from zweistimme.window.layouts import list_table
from zweistimme.window.panel.marked_text import marked_changes
from zweistimme.window.theme import SMALL_PT, font, px

_WORDS: Final = 2
_BESIDE: Final = 3
"""With more buttons, what is to be said stands below."""


@dataclass(frozen=True, slots=True)
class ChangeRow:
    """A change of a line: *about* is said beside its number, *more* in further columns."""

    segment_id: str
    number: int
    about: str
    before: str
    after: str
    more: tuple[str, ...] = ()
    ticked: bool | None = True
    """None where there is nothing to tick."""


class ChangeTable(QWidget):
    """A row for each change."""

    ticked = pyqtSignal()
    """Something was ticked, or no more."""
    reached = pyqtSignal(str)
    """The segment of the row somebody is at."""

    def __init__(self, heads: Sequence[str], name: str, change: str, wide: Sequence[int] = ()) -> None:
        """*heads* are those of what is said beside the number, and of what is behind the *change*; *wide* are further
        columns that take what room is left."""
        super().__init__()
        self._rows: Sequence[ChangeRow] = ()
        about, *more = heads
        self.table = list_table([tr("Line"), about, change, *more], name, (_WORDS, *wide))
        self.table.setMinimumHeight(px(80))
        self.table.itemChanged.connect(lambda _item: self.ticked.emit())
        self.table.currentCellChanged.connect(lambda row, *_: self._reach(row))
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(self.table)
        self.setFocusProxy(self.table)

    def fill(self, rows: Sequence[ChangeRow], tag: str) -> None:
        """Show changes in the language of a tag."""
        self._rows = rows
        self.table.blockSignals(True)
        self.table.setRowCount(len(rows))
        for place, row in enumerate(rows):
            for column, words in enumerate((str(row.number), row.about, "", *row.more)):
                item = QTableWidgetItem(words)
                item.setToolTip(words)
                if column == 0 and row.ticked is not None:
                    item.setFlags(item.flags() | Qt.ItemFlag.ItemIsUserCheckable)
                    item.setCheckState(Qt.CheckState.Checked if row.ticked else Qt.CheckState.Unchecked)
                self.table.setItem(place, column, item)
            self.table.setCellWidget(place, _WORDS, _marked(row, tag))
        self.table.blockSignals(False)
        self._fit_rows()
        self.ticked.emit()

    def wanted(self) -> list[int]:
        """The places of the rows that are ticked, from 0."""
        items = ((place, self.table.item(place, 0)) for place in range(len(self._rows)))
        return [place for place, item in items if item is not None and item.checkState() == Qt.CheckState.Checked]

    def untick(self, place: int) -> None:
        """Take a tick away, and say nothing of it."""
        item = self.table.item(place, 0)
        if item is not None:
            self.table.blockSignals(True)
            item.setCheckState(Qt.CheckState.Unchecked)
            self.table.blockSignals(False)

    def _reach(self, row: int) -> None:
        if 0 <= row < len(self._rows):
            self.reached.emit(self._rows[row].segment_id)

    def _fit_rows(self) -> None:
        """Make rows as high as the words of their change need."""
        width = self.table.columnWidth(_WORDS)
        for row in range(self.table.rowCount()):
            label = self.table.cellWidget(row, _WORDS)
            self.table.setRowHeight(row, max(px(26), label.heightForWidth(width) if label is not None else 0))

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._fit_rows()

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self._fit_rows()


class ChangePanel(QWidget):
    """A panel of changes: what is to be said of all of them, buttons, and the table."""

    def __init__(self, desk: Desk, table: ChangeTable, buttons: Sequence[QWidget]) -> None:
        super().__init__()
        self._desk, self.list = desk, table
        self.about = QLabel()
        self.about.setFont(font(SMALL_PT))
        self.about.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        table.reached.connect(desk.select)
        row = QHBoxLayout()
        below = len(buttons) > _BESIDE
        if below:
            row.addStretch(1)
        else:
            row.addWidget(self.about, 1)
        for button in buttons:
            row.addWidget(button)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(5)
        column.addLayout(row)
        column.addWidget(table, 1)
        if below:
            column.addWidget(self.about)

    def say(self, words: str) -> None:
        """Say something of all of them; whole in the hint, where the panel is narrow."""
        self.about.setText(words)
        self.about.setToolTip(words)


def _marked(row: ChangeRow, tag: str) -> QLabel:
    label = QLabel(marked_changes(changes(row.before, row.after, tag)))
    label.setTextFormat(Qt.TextFormat.RichText)
    label.setWordWrap(True)
    label.setMargin(px(3))
    return label
