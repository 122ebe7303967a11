"""The bar above the lines: which of them are looked at, and which other version stands beside."""

from __future__ import annotations

from typing import Final

from PyQt6.QtCore import QTimer, pyqtSignal
from PyQt6.QtWidgets import QComboBox, QFrame, QHBoxLayout, QLabel, QLineEdit, QToolButton

from zweistimme.messages import msg, tr
from zweistimme.project.languages import own_name
from zweistimme.project.sieve import ALL, ANY_REMARK, Sieve, Standing
from zweistimme.sentences import KINDS
from zweistimme.window.bridge import Desk
from zweistimme.window.choices import fill
from zweistimme.window.noticing import Noticing
from zweistimme.window.theme import SMALL_PT, font, px

_STANDINGS: Final = {
    Standing.ANY: msg("all lines"),
    Standing.MISSING: msg("not translated"),
    Standing.UNSETTLED: msg("not settled"),
    Standing.TRANSLATED: msg("translated"),
    Standing.REVIEWED: msg("reviewed"),
    Standing.FINAL: msg("final"),
    Standing.STALE: msg("the original has changed"),
    Standing.LOCKED: msg("locked"),
    Standing.NOTED: msg("with notes"),
}
_REST_MS: Final = 150


class SieveBar(QFrame):
    """Four questions, how many lines are left, and what stands beside."""

    beside_wanted = pyqtSignal(str)
    """The tag of a version, or empty."""

    def __init__(self, desk: Desk, noticing: Noticing) -> None:
        super().__init__()
        self._desk, self._noticing = desk, noticing
        self.standing, self.speaker, self.remark, self.beside = (self._box(name) for name in (
            tr("Lines that are"), tr("Spoken by"), tr("Of which is noticed"), tr("Another version beside"),
        ))  # fmt: skip
        self.text, self.count = QLineEdit(), QLabel()
        self.text.setPlaceholderText(tr("with these words"))
        self.text.setAccessibleName(tr("With these words"))
        self.text.setClearButtonEnabled(True)
        self.text.setMinimumWidth(px(120))
        self.count.setFont(font(SMALL_PT))
        self.all = QToolButton()
        self.all.setText(tr("all again"))
        self.all.setFont(font(SMALL_PT))
        self.all.clicked.connect(lambda _checked=False: self.clear())
        row = QHBoxLayout(self)
        row.setContentsMargins(14, 5, 14, 5)
        row.setSpacing(8)
        for box in (self.standing, self.speaker, self.remark):
            row.addWidget(box)
        row.addWidget(self.text, 1)
        row.addWidget(self.count)
        row.addWidget(self.all)
        row.addWidget(self.beside)
        self._rest = QTimer(self)
        self._rest.setSingleShot(True)
        self._rest.setInterval(_REST_MS)
        self._rest.timeout.connect(self._sift)
        self.text.textChanged.connect(lambda _text: self._rest.start())
        self.beside.activated.connect(lambda _index: self.beside_wanted.emit(self.beside.currentData()))
        self._connect()
        self.setFocusProxy(self.text)
        self.hide()

    def _box(self, name: str) -> QComboBox:
        box = QComboBox()
        box.setAccessibleName(name)
        box.setToolTip(name)
        box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        box.setMinimumContentsLength(7)
        box.activated.connect(lambda _index: self._sift())
        return box

    def _connect(self) -> None:
        desk, sifting = self._desk, self._desk.sifting
        sifting.noticed = lambda: {key: [one.code for one in ones] for key, ones in self._noticing.by_line.items()}
        sifting.changed.connect(self.refresh)
        self._noticing.found.connect(self._look)
        desk.changed.connect(lambda _change: self._look())
        desk.version_changed.connect(lambda _tag: self._look())

    def _look(self) -> None:
        self._desk.sifting.look(self._desk.project, self._desk.tag)
        if self.isVisible():
            self.refresh()

    def refresh(self) -> None:
        """Offer what there is, and say how many lines are left."""
        desk, sieve = self._desk, self._desk.sifting.sieve
        fill(self.standing, [(tr(words), one, "") for one, words in _STANDINGS.items()], sieve.standing)
        people = [(who.name, key, "") for key, who in desk.project.speakers.items()]
        fill(self.speaker, [(tr("anybody"), "", ""), *people], sieve.speaker_id)
        kinds = {one.code for ones in self._noticing.by_line.values() for one in ones} | ({sieve.remark} & set(KINDS))
        named = [(tr(words), kind, "") for kind, words in KINDS.items() if kind in kinds]
        anything = [(tr("noticed or not"), "", ""), (tr("anything noticed"), ANY_REMARK, "")]
        fill(self.remark, [*anything, *named], sieve.remark)
        others = [(own_name(tag), tag, "") for tag in desk.project.versions if tag != desk.tag]
        fill(self.beside, [(tr("nothing beside"), "", ""), *others], self.beside.currentData() or "")
        kept = desk.sifting.kept
        self.count.setText("" if kept is None else tr("{n:line|lines}", n=len(kept)))
        self.all.setEnabled(sieve != ALL)

    def _sift(self) -> None:
        """Ask what is chosen here."""
        sieve = Sieve(
            self.standing.currentData() or Standing.ANY, self.speaker.currentData() or "",
            self.remark.currentData() or "", self.text.text(),
        )  # fmt: skip
        self._desk.sifting.look(self._desk.project, self._desk.tag, sieve)
        self.refresh()

    def clear(self) -> None:
        """All lines again."""
        self.text.clear()
        self._rest.stop()
        self._desk.sifting.look(self._desk.project, self._desk.tag, ALL)
        self.refresh()

    def flip(self) -> bool:
        """Show the bar, or hide it, with which all lines are there again; whether it is seen."""
        shown = self.isHidden()
        self.setVisible(shown)
        if shown:
            self.refresh()
            self.text.setFocus()
        else:
            self.clear()
            self.beside.setCurrentIndex(0)
            self.beside_wanted.emit("")
        return shown
