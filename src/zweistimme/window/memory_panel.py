"""Searching the translation memory: any stretch of text in either language, as it was settled wherever it was said."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING, Final

from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtWidgets import (
    QComboBox,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QSizePolicy,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from zweistimme.messages import msg, tr
from zweistimme.project.errors import StoreError
from zweistimme.project.line_edits import take_offer
from zweistimme.project.units import Unit
from zweistimme.project.wordings import Origin, OriginKind
from zweistimme.store.own_projects import Whose, set_whose, whose
from zweistimme.window.background import Latest
from zweistimme.window.bridge import Desk
from zweistimme.window.layouts import list_table, push_button
from zweistimme.window.recollection import Recollection
from zweistimme.window.theme import SMALL_PT, font, px

if TYPE_CHECKING:
    from zweistimme.memory.memory import Memory

NAME: Final = msg("Search the translation memory")
_MOST: Final = 200
_REST_MS: Final = 250
_TARGET: Final = 1
_EDITABLE: Final = Qt.ItemFlag.ItemIsEditable
Answer = tuple[str, str, list[Unit], str]
"""The tag and the text somebody looked for, what there is, and why nothing can be had."""
_WHOSE: Final = (
    (Whose.OWN, msg("Settled lines go into the memory")),
    (Whose.LEFT_OUT, msg("Settled lines stay in this project")),
)


class MemoryPanel(QWidget):
    """Looks while one types; of the version on the desk and its language."""

    def __init__(self, desk: Desk, recollection: Recollection, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._desk, self._recollection = desk, recollection
        self.units: list[Unit] = []
        self._looking = Latest("concordance", self)
        self._looking.ready.connect(self._show)
        self.what, self.count = QLineEdit(), QLabel()
        self.what.setPlaceholderText(tr("any words, in either language"))
        self.what.setAccessibleName(tr("What to look for in the memory"))
        self.what.setMinimumWidth(px(160))
        self.count.setFont(font(SMALL_PT))
        self.use = push_button(tr("Use for the line"), self._use)
        self.mute = push_button(tr("Not in this project"), self._mute)
        self.delete = push_button(tr("Delete"), self._delete)
        self.mute.setToolTip(tr("Do not offer this in this project any more"))
        self.delete.setToolTip(tr("Take this out of the memory, for all projects"))
        self.whose = _whose_box(desk)
        self.whose.activated.connect(self._set_whose)
        self.table = list_table([tr("Said"), tr("Put as"), tr("Where")], tr("Found in the memory"), (0, 1))
        self.table.setEditTriggers(self.table.EditTrigger.DoubleClicked | self.table.EditTrigger.EditKeyPressed)
        self.table.setMinimumHeight(px(60))
        self._lay_out()
        self._rest = QTimer(self)
        self._rest.setSingleShot(True)
        self._rest.setInterval(_REST_MS)
        self._rest.timeout.connect(self.look)
        self.what.textChanged.connect(lambda _text: self._rest.start())
        self.what.returnPressed.connect(self.look)
        self.table.itemChanged.connect(self._edited)
        self.table.currentCellChanged.connect(lambda *_: self._refresh_buttons())
        desk.version_changed.connect(lambda _tag: self._of_another_version())
        self._refresh_buttons()

    def _of_another_version(self) -> None:
        """What was found is of the language of the one before."""
        self._show((self._desk.tag, "", [], ""))
        if self.isVisible():
            self.look()

    def _lay_out(self) -> None:
        foot = QHBoxLayout()
        foot.setSpacing(8)
        self.count.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        foot.addWidget(self.count, 1)
        for button in (self.use, self.mute, self.delete):
            foot.addWidget(button)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(5)
        head = QHBoxLayout()
        head.setSpacing(8)
        head.addWidget(self.what, 1)
        head.addWidget(self.whose)
        column.addLayout(head)
        column.addWidget(self.table, 1)
        column.addLayout(foot)
        self.setFocusProxy(self.what)

    def look_for(self, text: str) -> None:
        """Look for words that somebody marked; what was looked for stays where nothing is."""
        if text.strip():
            self.what.setText(text.strip())
        self.what.selectAll()
        self.look()

    def look(self) -> None:
        """Find, on a thread of its own, and show."""
        self._rest.stop()
        text, tag, source = self.what.text().strip(), self._desk.tag, self._desk.project.source_tag
        if not text:
            self._show((self._desk.tag, "", [], ""))
            return
        memory = self._recollection.opened

        def found() -> Answer:
            try:
                return tag, text, memory().holding(text, source_tag=source, target_tag=tag, most=_MOST), ""
            except StoreError as error:
                return tag, text, [], str(error)

        self._looking.want(found)

    def _show(self, answer: Answer) -> None:
        tag, text, units, trouble = answer
        if tag != self._desk.tag:
            return
        self.units = units
        self.table.blockSignals(True)
        self.table.setRowCount(len(self.units))
        for row, unit in enumerate(self.units):
            where = " · ".join(filter(None, (unit.origin, unit.author, unit.made[:10])))
            for place, words in enumerate((unit.source, unit.target, unit.origin)):
                item = QTableWidgetItem(words)
                item.setToolTip(words if place <= _TARGET else where)
                if place != _TARGET:
                    item.setFlags(item.flags() & ~_EDITABLE)
                self.table.setItem(row, place, item)
        self.table.blockSignals(False)
        if self.units:
            self.table.setCurrentCell(0, 0)
        self.count.setText(trouble or self._found_words(text))
        self.count.setToolTip(self.count.text())
        self._refresh_buttons()

    def _found_words(self, text: str) -> str:
        if not text:
            return tr("Look for words you have settled before, in this project or another.")
        if not self.units:
            return tr("Nothing was settled that has “{text}”.", text=text)
        more = " " + tr("There are more; write more words.") if len(self.units) == _MOST else ""
        return tr("{n:place|places}; a double click changes a wording in the memory.", n=len(self.units)) + more

    def _chosen(self) -> Unit | None:
        row = self.table.currentRow()
        return self.units[row] if 0 <= row < len(self.units) else None

    def _refresh_buttons(self) -> None:
        there = self._chosen() is not None
        self.use.setEnabled(there and self._desk.version is not None)
        self.mute.setEnabled(there)
        self.delete.setEnabled(there)

    def _use(self) -> None:
        unit, tag, segment_id = self._chosen(), self._desk.tag, self._desk.segment_id
        if unit is not None and segment_id:
            origin = Origin(OriginKind.MEMORY, unit.origin, 100)
            self._desk.apply("Take a wording on offer", lambda p: take_offer(p, tag, segment_id, unit.target, origin))

    def _mute(self) -> None:
        unit = self._chosen()
        if unit is not None and self._changed(lambda: self._memory().mute([unit.id], self._desk.document.id)):
            self._desk.notice("done", tr("“{text}” is not offered in this project any more.", text=unit.target[:60]))

    def _delete(self) -> None:
        unit = self._chosen()
        if unit is not None and self._changed(lambda: self._memory().remove([unit.id])):
            self._desk.notice("done", tr("“{text}” is out of the memory.", text=unit.target[:60]))

    def _edited(self, item: QTableWidgetItem) -> None:
        unit = self.units[item.row()]
        if item.text() != unit.target:
            self._changed(lambda: self._memory().set_target(unit.id, item.text()))

    def _set_whose(self, place: int) -> None:
        document = self._desk.document
        try:
            set_whose(document.id, document.folder, _WHOSE[place][0])
        except StoreError as error:
            self._desk.notice("error", str(error))
        self._recollection.keep_all()

    def _memory(self) -> Memory:
        return self._recollection.opened()

    def _changed(self, act: Callable[[], None]) -> bool:
        """Change the memory and look again; a sentence where that cannot be done."""
        try:
            act()
        except StoreError as error:
            self._desk.notice("error", str(error))
            return False
        finally:
            self.look()
        self._recollection.look(again=True)
        return True

    def close_parts(self) -> None:
        self._looking.close()


def _whose_box(desk: Desk) -> QComboBox:
    """Whether this project gives to the memory; one that was received does not until somebody says so."""
    box = QComboBox()
    for _, words in _WHOSE:
        box.addItem(tr(words))
    box.setAccessibleName(tr("What becomes of this project’s settled lines"))
    box.setToolTip(tr("What was settled elsewhere, in a project that you received, is taken in only when you want it."))
    own = whose(desk.document.id, desk.document.folder) is Whose.OWN
    box.setCurrentIndex(0 if own else 1)
    return box
