"""Finding a command by what one wants: type some of its words, press Return."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Final

from PyQt6.QtCore import QEvent, QObject, Qt
from PyQt6.QtGui import QAction, QKeyEvent
from PyQt6.QtWidgets import QDialog, QLabel, QLineEdit, QTreeWidget, QTreeWidgetItem, QVBoxLayout, QWidget

from zweistimme.messages import tr
from zweistimme.window.actions import ACTIONS, ActionSpec, key_words

_ID: Final = Qt.ItemDataRole.UserRole
_MOVES: Final = (Qt.Key.Key_Up, Qt.Key.Key_Down, Qt.Key.Key_PageUp, Qt.Key.Key_PageDown)


def found(words: str, specs: Sequence[ActionSpec]) -> list[ActionSpec]:
    """The commands in which every one of *words* begins a word, or stands anywhere; those that say it in one, or
    begin with it, first.

    >>> [spec.id for spec in found("hear orig alo", ACTIONS)]
    ['play_original', 'alone_Original']
    """
    wanted = words.casefold().split()
    ranked = []
    for number, spec in enumerate(specs):
        text = f"{spec.words} {tr(spec.group)} {spec.key}".casefold()
        places = [_place(text, word) for word in wanted]
        if all(place is not None for place in places):
            together = 0 if " ".join(wanted) in text else 1
            ranked.append((together, sum(place or 0 for place in places), number, spec))
    return [spec for *_, spec in sorted(ranked, key=lambda one: one[:3])]


def _place(text: str, word: str) -> int | None:
    """0 where a text begins with a word, 1 where one of its words does, 2 where it stands anywhere, else None."""
    if word not in text:
        return None
    return 0 if text.startswith(word) else 1 if f" {word}" in text else 2


class CommandFinder(QDialog):
    """A line to type in, and the commands it could mean. Those that cannot be meant here are faint."""

    def __init__(self, actions: Mapping[str, QAction], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._actions = actions
        self.setWindowTitle(tr("Find a command"))
        self.chosen: str = ""
        """The command that was chosen."""
        self.line = QLineEdit()
        self.line.setPlaceholderText(tr("What do you want to do?"))
        self.line.setAccessibleName(tr("What do you want to do?"))
        self.line.installEventFilter(self)
        self.list = QTreeWidget()
        self.list.setColumnCount(3)
        self.list.setHeaderHidden(True)
        self.list.setRootIsDecorated(False)
        self.list.setUniformRowHeights(True)
        self.list.setAccessibleName(tr("Commands"))
        self.list.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.list.itemActivated.connect(lambda _item: self._choose())
        self.list.itemClicked.connect(lambda _item: self._choose())
        hint = QLabel(tr("↑ ↓ choose · Return does it · Esc leaves it"))
        hint.setProperty("faded", True)
        column = QVBoxLayout(self)
        for widget in (self.line, self.list, hint):
            column.addWidget(widget)
        self.line.textChanged.connect(self._show)
        self.line.returnPressed.connect(self._choose)
        self.resize(600, 420)
        self._show("")

    def _show(self, words: str) -> None:
        self.list.clear()
        for spec in found(words, ACTIONS):
            keys = key_words(spec.key)
            row = QTreeWidgetItem([self._actions[spec.id].text().replace("&", ""), tr(spec.group), keys])
            row.setData(0, _ID, spec.id)
            row.setDisabled(not self._actions[spec.id].isEnabled())
            self.list.addTopLevelItem(row)
        for column, width in enumerate((360, 110, 90)):
            self.list.setColumnWidth(column, width)
        first = next((row for row in self._rows() if not row.isDisabled()), None)
        if first is not None:
            self.list.setCurrentItem(first)

    def _rows(self) -> list[QTreeWidgetItem]:
        rows = [self.list.topLevelItem(place) for place in range(self.list.topLevelItemCount())]
        return [row for row in rows if row is not None]

    def _choose(self) -> None:
        row = self.list.currentItem()
        if row is not None and not row.isDisabled():
            self.chosen = row.data(0, _ID)
            self.accept()

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        """Arrows move in the list while the line has the keyboard."""
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress and event.key() in _MOVES:
            self.list.keyPressEvent(event)
            return True
        return super().eventFilter(watched, event)
