"""The page: engines at the left, the chosen one at the right, who does what below."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from zweistimme.engines.connections import BUNDLED, Kind, installed
from zweistimme.engines.engine_facts import facts
from zweistimme.engines.new_connection import remove_connection
from zweistimme.messages import tr
from zweistimme.project.errors import ZweistimmeError
from zweistimme.window.bridge import Desk
from zweistimme.window.engines.card import EngineCard
from zweistimme.window.engines.choices import Choices
from zweistimme.window.engines.connect import ConnectDialog
from zweistimme.window.engines.spending import Spending
from zweistimme.window.estimates import next_estimates
from zweistimme.window.layouts import scrolled
from zweistimme.window.page import Page
from zweistimme.window.theme import SMALL_PT, TITLE_PT, font, tint


class EnginesPage(Page):
    """Connect, test, remove; choose who does what; see what the next step will cost."""

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._desk, self.chosen = desk, BUNDLED
        self.cards: dict[str, EngineCard] = {}
        column = QVBoxLayout(self)
        column.setContentsMargins(28, 20, 28, 16)
        column.setSpacing(8)
        column.addWidget(_heading(tr("Engines"), TITLE_PT + 2))
        about = _faded(tr("Whoever recognises, translates and speaks stands here. The bundled engine is always there."))
        column.addWidget(about)
        middle = QHBoxLayout()
        middle.setSpacing(24)
        middle.addLayout(self._list(), 4)
        middle.addWidget(self._details(), 7)
        column.addLayout(middle, 1)
        rule = QFrame()
        rule.setFrameShape(QFrame.Shape.HLine)
        tint(rule, "rule")
        column.addWidget(rule)
        column.addWidget(_heading(tr("Who does what"), TITLE_PT - 1))
        self.choices = Choices(desk)
        column.addWidget(self.choices)
        self.estimate = _faded("")
        column.addWidget(self.estimate)
        for signal in (desk.changed, desk.version_changed):
            signal.connect(self._refresh_estimate)
        desk.book.changed.connect(self.refresh)
        self.refresh()

    def _list(self) -> QVBoxLayout:
        column = QVBoxLayout()
        inner = QWidget()
        self._cards = QVBoxLayout(inner)
        self._cards.setContentsMargins(0, 0, 6, 0)
        self._cards.setSpacing(6)
        self._cards.addStretch(1)
        column.addWidget(scrolled(inner), 1)
        row = QHBoxLayout()
        self.add_service, self.add_program = (
            QPushButton(tr("Connect a service …")),
            QPushButton(tr("Connect by a description …")),
        )
        self.add_service.setToolTip(tr("An engine that is reached over HTTP"))
        self.add_program.setToolTip(
            tr("A program on this machine, or a service of another shape, as a TOML file describes it")
        )
        self.add_service.clicked.connect(lambda: self._connect(Kind.SERVICE))
        self.add_program.clicked.connect(lambda: self._connect(Kind.PROGRAM))
        row.addWidget(self.add_service)
        row.addWidget(self.add_program)
        row.addStretch(1)
        column.addLayout(row)
        return column

    def _details(self) -> QWidget:
        panel = QWidget()
        column = QVBoxLayout(panel)
        column.setContentsMargins(0, 0, 0, 0)
        head = QHBoxLayout()
        self.title = _heading("", TITLE_PT)
        self.test, self.remove = QPushButton(tr("Test the connection")), QPushButton(tr("Remove"))
        self.test.setToolTip(tr("Ask the engines anew what they can do"))
        self.remove.setToolTip(tr("Forget this connection and its token"))
        self.test.clicked.connect(self._desk.book.refresh)
        self.remove.clicked.connect(self._remove)
        head.addWidget(self.title)
        head.addStretch(1)
        head.addWidget(self.test)
        head.addWidget(self.remove)
        column.addLayout(head)
        self.problem = QLabel()
        self.problem.setWordWrap(True)
        self.problem.setTextFormat(Qt.TextFormat.PlainText)
        tint(self.problem, "hard")
        column.addWidget(self.problem)
        self._facts = QGridLayout()
        self._facts.setHorizontalSpacing(18)
        self._facts.setVerticalSpacing(6)
        self._facts.setColumnStretch(1, 1)
        column.addLayout(self._facts)
        self.spending = Spending(self._desk)
        column.addWidget(self.spending)
        column.addStretch(1)
        return panel

    # what is shown

    def refresh(self) -> None:
        """Show the engines as they were last tested."""
        tests = self._desk.book.tests
        for card in self.cards.values():
            self._cards.removeWidget(card)
            card.hide()
            card.deleteLater()
        self.cards = {}
        if self.chosen not in tests:
            self.chosen = BUNDLED
        for place, (name, found) in enumerate(tests.items()):
            card = EngineCard(found)
            card.setChecked(name == self.chosen)
            card.clicked.connect(lambda _on=False, name=name: self._choose(name))
            self._cards.insertWidget(place, card)
            self.cards[name] = card
        self._show_details()
        self._refresh_estimate()

    def _choose(self, name: str) -> None:
        self.chosen = name
        for key, card in self.cards.items():
            card.setChecked(key == name)
        self._show_details()

    def _show_details(self) -> None:
        found = self._desk.book.tests.get(self.chosen)
        while (item := self._facts.takeAt(0)) is not None:
            widget = item.widget()
            if widget is not None:
                widget.hide()
                widget.deleteLater()
        self.remove.setEnabled(self.chosen not in {BUNDLED, *(one.name for one in installed())})
        self.title.setText(f"{self.chosen} {found.info.version}" if found and found.info else self.chosen)
        problem = self._desk.book.problem or (found.problem if found else "")
        self.problem.setText(problem)
        self.problem.setVisible(bool(problem))
        self.spending.show_engine(found)
        if found and found.info:
            for row, (words, text) in enumerate(facts(found)):
                self._facts.addWidget(_faded(words), row, 0, alignment=Qt.AlignmentFlag.AlignTop)
                label = QLabel(text)
                label.setWordWrap(True)
                label.setTextFormat(Qt.TextFormat.PlainText)
                self._facts.addWidget(label, row, 1)

    def showEvent(self, event: object) -> None:
        self._refresh_estimate()

    def _refresh_estimate(self) -> None:
        if not self.isVisible():
            return  # what nobody sees is made when it is shown
        found = next_estimates(self._desk)
        self.estimate.setText(found.sentence)

    # what a hand does

    def _connect(self, kind: Kind) -> None:
        dialog = ConnectDialog(kind, self)
        if dialog.exec() and dialog.made is not None:
            self.chosen = dialog.made.name
            self._desk.book.refresh()

    def _remove(self) -> None:
        name = self.chosen
        try:
            remove_connection(name)
        except ZweistimmeError as error:
            self._desk.notice("error", str(error))
            return
        self._desk.notice("note", tr("{name} is no longer connected.", name=name))
        self._desk.book.refresh()


def _heading(text: str, size: float) -> QLabel:
    label = QLabel(text)
    label.setFont(font(size, bold=True))
    return label


def _faded(text: str) -> QLabel:
    label = QLabel(text)
    label.setFont(font(SMALL_PT + 0.5))
    label.setWordWrap(True)
    label.setProperty("faded", True)
    return label
