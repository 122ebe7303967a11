"""What everybody who translates has to know: what the programme is about, who it is for, who addresses whom and how."""

from __future__ import annotations

from functools import partial
from typing import Final

from PyQt6.QtGui import QShowEvent
from PyQt6.QtWidgets import QComboBox, QGridLayout, QHBoxLayout, QLabel, QTableWidgetItem, QVBoxLayout, QWidget

from zweistimme.messages import msg, tr
from zweistimme.project.brief import Address, pair_of
from zweistimme.project.conversation import pairs_speaking, set_address
from zweistimme.sentences import ADDRESSES
from zweistimme.window.bridge import Desk
from zweistimme.window.layouts import list_table
from zweistimme.window.panel.wording import WordingEdit
from zweistimme.window.theme import SMALL_PT, font, px, tint
from zweistimme.window.writing import Kind, Place

NAME: Final = msg("Notes on the programme")
_MOST_PAIRS: Final = 100
_FIELDS: Final = (
    (Kind.SUBJECT, msg("What it is about"), 2),
    (Kind.AUDIENCE, msg("Who it is for"), 1),
    (Kind.NOTES, msg("What else to know"), 3),
)
_HOW: Final = 2


class BriefPanel(QWidget):
    """Texts at the left, people at the right."""

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._desk = desk
        self._shown: tuple[object, ...] = ()
        self.pairs: list[tuple[str, str]] = []
        self.texts = {kind: WordingEdit(desk, tr(name), lines) for kind, name, lines in _FIELDS}
        heads = [tr("Who speaks"), tr("To whom"), tr("Address"), tr("Lines")]
        self.table = list_table(heads, tr("Who addresses whom, and how"), (0, 1))
        self.table.setMinimumHeight(px(80))
        self.table.setMinimumWidth(px(330))
        self._lay_out()
        desk.changed.connect(lambda _change: self.refresh() if self.isVisible() else None)
        self.setFocusProxy(self.texts[Kind.SUBJECT])

    def _lay_out(self) -> None:
        grid = QGridLayout()
        grid.setVerticalSpacing(4)
        for row, (kind, name, _lines) in enumerate(_FIELDS):
            label = QLabel(tr(name))
            label.setFont(font(SMALL_PT))
            tint(label, "faded")
            grid.addWidget(label, row, 0)
            grid.addWidget(self.texts[kind], row, 1)
        grid.setRowStretch(len(_FIELDS), 1)
        left = QVBoxLayout()
        left.addLayout(grid)
        row_of_two = QHBoxLayout(self)
        row_of_two.setContentsMargins(0, 0, 0, 0)
        row_of_two.setSpacing(18)
        row_of_two.addLayout(left, 1)
        row_of_two.addWidget(self.table, 1)

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self.refresh()

    def refresh(self) -> None:
        """Show what is known, where it is other than what is shown."""
        project = self._desk.project
        for kind, edit in self.texts.items():
            place = Place(kind, "")
            edit.draft.show(place, self._desk.text_at(place))
        shown = (project.segments, project.speakers, project.brief.address)
        if len(self._shown) == len(shown) and all(a is b for a, b in zip(self._shown, shown, strict=True)):
            return
        self._shown = shown
        known = pairs_speaking(project)[:_MOST_PAIRS]
        self.pairs = [(speaker, listener) for speaker, listener, _ in known]
        self.table.setRowCount(len(known))
        for row, (speaker, listener, count) in enumerate(known):
            names = project.speakers[speaker].name, project.speakers[listener].name
            for column, words in ((0, names[0]), (1, names[1]), (3, str(count))):
                self.table.setItem(row, column, QTableWidgetItem(words))
            self.table.setCellWidget(row, _HOW, self._choice(speaker, listener, names))

    def _choice(self, speaker: str, listener: str, names: tuple[str, str]) -> QComboBox:
        choice = QComboBox()
        for how, words in ADDRESSES.items():
            choice.addItem(tr(words), how)
        known = self._desk.project.brief.address.get(pair_of(speaker, listener), Address.UNKNOWN)
        choice.setCurrentIndex(choice.findData(known))
        choice.setAccessibleName(tr("How {speaker} addresses {listener}", speaker=names[0], listener=names[1]))
        choice.activated.connect(partial(self._set, speaker, listener, choice))
        return choice

    def _set(self, speaker: str, listener: str, choice: QComboBox, _index: int) -> None:
        how: Address = choice.currentData()
        self._desk.apply("Say how somebody is addressed", lambda p: set_address(p, speaker, listener, how))
