"""Keys by action, to be given and taken; a key that another action is on is not given twice."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Final

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QKeySequence
from PyQt6.QtWidgets import (
    QHBoxLayout,
    QKeySequenceEdit,
    QLabel,
    QPushButton,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from zweistimme.messages import tr
from zweistimme.project.errors import ZweistimmeError
from zweistimme.store.settings import read_settings, write_settings
from zweistimme.window.actions import ACTIONS, BY_ID, ActionSpec, give_keys, holder_of, key_words
from zweistimme.window.layouts import list_table
from zweistimme.window.theme import px

_ID: Final = Qt.ItemDataRole.UserRole


class KeysTable(QWidget):
    """What can be done, with its keys, and below it what changes those of the row that is chosen."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.changed = False
        """Whether any action is on another key than before."""
        self.table = list_table([tr("What is done"), tr("Keys"), tr("For")], tr("Keys by action"), (0,))
        self.table.setRowCount(len(ACTIONS))
        self.table.setMinimumHeight(px(220))
        for row, spec in enumerate(ACTIONS):
            for column, words in enumerate((spec.words, key_words(spec.key), tr(spec.group))):
                item = QTableWidgetItem(words)
                item.setData(_ID, spec.id)
                self.table.setItem(row, column, item)
        self.edit = QKeySequenceEdit()
        self.edit.setMaximumSequenceLength(1)
        self.edit.setAccessibleName(tr("Press the keys"))
        self.give, self.none, self.usual = (
            QPushButton(words) for words in (tr("Give it these keys"), tr("No keys"), tr("As it comes"))
        )
        self.said = QLabel()
        self.said.setWordWrap(True)
        self.give.clicked.connect(lambda: self.assign(self.edit.keySequence().toString()))
        self.none.clicked.connect(lambda: self.assign(""))
        self.usual.clicked.connect(lambda: self.assign(self.chosen.keys))
        self.table.currentCellChanged.connect(lambda *_: self._show())
        row_below = QHBoxLayout()
        for widget in (self.edit, self.give, self.none, self.usual):
            row_below.addWidget(widget)
        row_below.addStretch(1)
        column_all = QVBoxLayout(self)
        column_all.setContentsMargins(0, 0, 0, 0)
        for part in (self.table, self.said):
            column_all.addWidget(part)
        column_all.insertLayout(1, row_below)
        self.table.setCurrentCell(0, 0)

    @property
    def words(self) -> str:
        """All that can be done, to be searched."""
        return " ".join(f"{spec.words} {key_words(spec.key)}" for spec in ACTIONS)

    @property
    def chosen(self) -> ActionSpec:
        """The action of the row that is chosen."""
        item = self.table.item(max(0, self.table.currentRow()), 0)
        assert item is not None
        return BY_ID[item.data(_ID)]

    def assign(self, key: str) -> None:
        """Put the chosen action on a key, or on none; not where another is."""
        spec = self.chosen
        holder = holder_of(key, besides=spec.id)
        if holder is not None:
            self.said.setText(
                tr(
                    "{keys} already does: {action}. Give that other keys first.",
                    keys=key_words(key),
                    action=holder.words,
                )
            )
            return
        given = {known: kept for known, kept in read_settings().keys.items() if known != spec.id}
        if key != spec.keys:
            given[spec.id] = key
        try:
            write_settings(read_settings().having_keys(given))
        except ZweistimmeError as error:
            self.said.setText(str(error))
            return
        give_keys(given)
        self.changed = True
        self._show()
        self.said.setText(
            tr("{action}: {keys}.", action=spec.words, keys=key_words(spec.key) if spec.key else tr("No keys"))
        )

    def narrow(self, wanted: Sequence[str]) -> None:
        """Show the actions that have all these words; all of them, if none has."""
        rows = [f"{spec.words} {key_words(spec.key)} {tr(spec.group)}".casefold() for spec in ACTIONS]
        meant = [all(word in words for word in wanted) for words in rows]
        for row, there in enumerate(meant):
            self.table.setRowHidden(row, any(meant) and not there)

    def _show(self) -> None:
        self.said.clear()
        spec, row = self.chosen, max(0, self.table.currentRow())
        self.edit.setKeySequence(QKeySequence(spec.key))
        item = self.table.item(row, 1)
        assert item is not None
        item.setText(key_words(spec.key))
        self.usual.setEnabled(spec.key != spec.keys)
        self.none.setEnabled(bool(spec.key))
