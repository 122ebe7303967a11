"""Who does what: an engine for each role, for all versions or for one."""

from __future__ import annotations

from typing import Final

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QComboBox, QGridLayout, QLabel, QWidget

from zweistimme.engines.connections import BUNDLED
from zweistimme.engines.offers import DESK_ROLES, Role
from zweistimme.messages import msg, tr
from zweistimme.project.edits import choose_engine
from zweistimme.project.languages import own_name
from zweistimme.window.bridge import Desk
from zweistimme.window.theme import SMALL_PT, font

_WORDS: Final = {
    Role.RECOGNISE: msg("Recognising the original"),
    Role.TRANSLATE: msg("Translating"),
    Role.SPEAK: msg("Proposing voices"),
}


class Choices(QWidget):
    """A row a role, a column a version; the first column is for all."""

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._desk = desk
        self._grid = QGridLayout(self)
        self._grid.setContentsMargins(0, 0, 0, 0)
        self._grid.setHorizontalSpacing(14)
        self._grid.setVerticalSpacing(6)
        self.boxes: dict[tuple[Role, str], QComboBox] = {}
        self._shown: tuple[object, ...] = ()
        desk.changed.connect(lambda _change: self.refresh())
        desk.book.changed.connect(self.refresh)
        self.refresh()

    def refresh(self) -> None:
        """Show the choices as they are; built anew only where versions or engines have changed."""
        project, book = self._desk.project, self._desk.book
        able = {role: tuple(n for n, t in book.tests.items() if t.info and role in t.info.roles) for role in DESK_ROLES}
        shown = (tuple(project.versions), tuple(able.items()))
        if shown != self._shown:
            self._shown = shown
            self._build(able)
        for (role, tag), box in self.boxes.items():
            chosen = project.versions[tag].engines.get(role, "") if tag else project.engines.get(role, BUNDLED)
            if box.findData(chosen) < 0:
                box.addItem(tr("{chosen} (does not answer)", chosen=chosen), chosen)
            box.setCurrentIndex(box.findData(chosen))

    def _build(self, able: dict[Role, tuple[str, ...]]) -> None:
        while (item := self._grid.takeAt(0)) is not None:
            widget = item.widget()
            if widget is not None:
                widget.hide()
                widget.deleteLater()
        self.boxes = {}
        versions = list(self._desk.project.versions)
        for place, words in enumerate(["", tr("all versions"), *map(own_name, versions)]):
            self._grid.addWidget(self._label(words), 0, place)
        for row, role in enumerate(DESK_ROLES, 1):
            self._grid.addWidget(QLabel(tr(_WORDS[role])), row, 0)
            for place, tag in enumerate(["", *versions] if role is not Role.RECOGNISE else [""], 1):
                box = self._box(role, tag, able[role])
                self.boxes[role, tag] = box
                self._grid.addWidget(box, row, place, alignment=Qt.AlignmentFlag.AlignLeft)
        self._grid.setColumnStretch(len(versions) + 2, 1)

    def _label(self, words: str) -> QLabel:
        label = QLabel(words)
        label.setFont(font(SMALL_PT))
        label.setProperty("faded", True)
        return label

    def _box(self, role: Role, tag: str, names: tuple[str, ...]) -> QComboBox:
        box = QComboBox()
        box.setMinimumWidth(150)
        box.setAccessibleName(f"{tr(_WORDS[role])}, {own_name(tag) if tag else tr('all versions')}")
        if tag:
            box.addItem(tr("as for all"), "")
        for name in names:
            box.addItem(name, name)
        box.activated.connect(lambda: self._choose(role, tag, box.currentData()))
        return box

    def _choose(self, role: Role, tag: str, name: str) -> None:
        self._desk.apply("Choose an engine", lambda project: choose_engine(project, role, name, tag or None))
