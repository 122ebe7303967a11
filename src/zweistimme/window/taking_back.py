"""Taking back a version that somebody looked over: every change is seen before it is made, and can be left out."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial
from pathlib import Path
from typing import Final

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QResizeEvent, QShowEvent
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QSizePolicy, QTableWidgetItem, QVBoxLayout, QWidget

from zweistimme.messages import msg, tr
from zweistimme.project.errors import ZweistimmeError
from zweistimme.project.text_changes import changes as text_changes
from zweistimme.sentences import STATES, sentence_of
from zweistimme.stages.translate.exchange import Change, doubts, proposed, read_exchange, take_back
from zweistimme.window.bridge import Desk
from zweistimme.window.layouts import list_table
from zweistimme.window.panel.marked_text import marked_changes
from zweistimme.window.theme import SMALL_PT, font, px

NAME: Final = msg("Take back a version")
_WORDS: Final = 2


class TakingBackPanel(QWidget):
    """Shows what a file would change; what is ticked is taken."""

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._desk = desk
        self.changes: Sequence[Change] = ()
        self._file, self._tag, self._said = Path(), "", ""
        self.about = QLabel()
        self.about.setFont(font(SMALL_PT))
        self.about.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        self.take = QPushButton(tr("Take what is ticked"))
        self.take.clicked.connect(lambda _checked=False: self._take())
        row = QHBoxLayout()
        row.addWidget(self.about, 1)
        row.addWidget(self.take)
        heads = [tr("Line"), tr("To be looked at"), tr("Change"), tr("State"), tr("Notes")]
        self.table = list_table(heads, tr("What the file would change"), (_WORDS,))
        self.table.setMinimumHeight(px(80))
        self.table.itemChanged.connect(lambda _item: self._count())
        self.table.currentCellChanged.connect(lambda row, *_: self._go_to(row))
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(5)
        column.addLayout(row)
        column.addWidget(self.table, 1)
        self.setFocusProxy(self.table)

    def show_file(self, file: Path) -> bool:
        """Read a file and show what it would change in the version on the desk; False where it cannot be read."""
        try:
            found, said = proposed(self._desk.project, self._desk.tag, read_exchange(file))
        except ZweistimmeError as error:
            self._desk.notice("error", str(error))
            return False
        self._file, self._tag, self.changes = file, self._desk.tag, found
        self._said = " ".join(map(sentence_of, said))
        self._fill()
        return True

    def _fill(self) -> None:
        self.table.blockSignals(True)
        self.table.setRowCount(len(self.changes))
        for row, change in enumerate(self.changes):
            notes = "; ".join(": ".join(filter(None, (note.author, note.text))) for note in change.notes)
            cells = (str(change.number), ", ".join(doubts(change)), "", tr(STATES[change.state]), notes)
            for place, words in enumerate(cells):
                item = QTableWidgetItem(words)
                item.setToolTip(words)
                if place == 0:
                    item.setFlags(item.flags() | Qt.ItemFlag.ItemIsUserCheckable)
                    item.setCheckState(Qt.CheckState.Checked if change.sure else Qt.CheckState.Unchecked)
                self.table.setItem(row, place, item)
            self.table.setCellWidget(row, _WORDS, _marked(change, self._tag))
        self.table.blockSignals(False)
        self._fit_rows()
        self._count()

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

    def wanted(self) -> list[Change]:
        """What is ticked."""
        ticked = []
        for row, change in enumerate(self.changes):
            item = self.table.item(row, 0)
            if item is not None and item.checkState() == Qt.CheckState.Checked:
                ticked.append(change)
        return ticked

    def _count(self) -> None:
        count = len(self.wanted())
        words = tr("{file}: {ticked:,} of {n:change|changes}.", file=self._file.name, ticked=count, n=len(self.changes))
        self.about.setText(f"{words} {self._said}".strip())
        self.about.setToolTip(self.about.text())
        self.take.setEnabled(count > 0)

    def _go_to(self, row: int) -> None:
        if 0 <= row < len(self.changes):
            self._desk.select(self.changes[row].segment_id)

    def _take(self) -> None:
        """Look again first: somebody may have written meanwhile."""
        if self._desk.tag != self._tag:
            self._desk.notice("note", tr("This file is of another version. Put that one on the desk first."))
            return
        wanted = {change.segment_id for change in self.wanted()}
        before = {change.segment_id: change for change in self.changes}
        if not self.show_file(self._file):
            return
        same = [
            change for change in self.changes if change.segment_id in wanted and before[change.segment_id] == change
        ]
        edit = partial(take_back, tag=self._tag, changes=same, file=self._file.name)
        self._desk.apply(f"Take back {self._file.name}", edit)
        left = len(wanted) - len(same)
        self._desk.notice("done", tr("{n:line|lines} taken from {file}.", n=len(same), file=self._file.name))
        self.show_file(self._file)
        if left:
            self._desk.notice("note", tr("{n:line has|lines have} changed meanwhile; look again.", n=left))


def _marked(change: Change, tag: str) -> QLabel:
    """The change, what is gone struck through, what is new underlined."""
    label = QLabel(marked_changes(text_changes(change.before, change.after, tag)))
    label.setTextFormat(Qt.TextFormat.RichText)
    label.setWordWrap(True)
    label.setMargin(px(3))
    return label
