"""Having the speech recognised: what the engine is told beforehand, and what it will cost."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import (
    QCheckBox,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QPlainTextEdit,
    QPushButton,
    QSpinBox,
    QVBoxLayout,
    QWidget,
)

from zweistimme.engines.offers import Role
from zweistimme.engines.registry import engine
from zweistimme.messages import msg, msg_act, tr
from zweistimme.project.errors import EditError
from zweistimme.project.facts import spoken_segments
from zweistimme.project.languages import language_name, language_tag
from zweistimme.project.progress import Step
from zweistimme.project.term_edits import set_terms_said
from zweistimme.project.writing import one_line
from zweistimme.stages.engine_choice import engine_for
from zweistimme.stages.estimate import estimated
from zweistimme.stages.work import Work
from zweistimme.window.bridge import Desk

NAME = msg("Have the speech recognised")


class RecognisePanel(QWidget):
    """Names, how many people, in which languages."""

    begun = pyqtSignal()

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._desk = desk
        self.languages, self.people, self.terms = QLineEdit(), QSpinBox(), QPlainTextEdit()
        self.languages.setPlaceholderText(tr("none other"))
        self.languages.setToolTip(tr("Other languages the speech may be in, with commas between them, such as de-DE"))
        self.languages.setAccessibleName(tr("Other languages it may be in"))
        self.people.setRange(0, 100)
        self.people.setSpecialValueText(tr("not known"))
        self.people.setToolTip(tr("How many people speak"))
        self.people.setAccessibleName(tr("How many people speak"))
        self.terms.setPlaceholderText(tr("one a line, written as they should be"))
        self.terms.setToolTip(
            tr("Names and terms that are said: they help to recognise them, and give them their capitals")
        )
        self.terms.setAccessibleName(tr("Names and terms"))
        self.terms.setObjectName("wordingEdit")
        self.terms.setTabChangesFocus(True)
        self.go, self.only = QPushButton(tr("Recognise")), QPushButton(tr("Only find who speaks when"))
        self.anew = QCheckBox(tr("ask anew"))
        self.anew.setToolTip(tr("Ask, and pay, also for what the engine has answered before"))
        self.go.setToolTip(tr("Ask the engine; undo brings back what there was"))
        self.only.setToolTip(tr("Segments without words, found in the sound alone; no engine is asked"))
        self.go.clicked.connect(self.recognise)
        self.only.clicked.connect(self.find_speech)
        self.about, self.price = QLabel(), QLabel()
        self.price.setWordWrap(True)
        left = QGridLayout()
        left.setVerticalSpacing(6)
        left.setHorizontalSpacing(10)
        left.addWidget(self.about, 0, 0, 1, 2)
        left.addWidget(QLabel(tr("It may also be in")), 1, 0)
        left.addWidget(self.languages, 1, 1)
        left.addWidget(QLabel(tr("People who speak")), 2, 0)
        left.addWidget(self.people, 2, 1)
        buttons = QHBoxLayout()
        buttons.setSpacing(8)
        buttons.addWidget(self.go)
        buttons.addWidget(self.anew)
        buttons.addWidget(self.only)
        buttons.addStretch(1)
        left.addLayout(buttons, 3, 0, 1, 2)
        left.addWidget(self.price, 4, 0, 1, 2)
        left.setRowStretch(5, 1)
        right = QVBoxLayout()
        right.setSpacing(4)
        right.addWidget(QLabel(tr("Names and terms")))
        right.addWidget(self.terms, 1)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 4, 0, 0)
        row.setSpacing(18)
        row.addLayout(left, 1)
        row.addLayout(right, 1)
        self.setFocusProxy(self.languages)
        desk.jobs.changed.connect(self._show_buttons)

    def showEvent(self, event: object) -> None:
        project = self._desk.project
        self.terms.setPlainText("\n".join(self._known()))
        words = tr("Spoken in {language}.", language=language_name(project.source_tag))
        self.about.setText(words + (tr(" Replaces the transcript there is.") if spoken_segments(project) else ""))
        self._show_price()
        self._show_buttons()

    def hideEvent(self, event: object) -> None:
        self._keep_terms()

    def _show_price(self) -> None:
        name = engine_for(self._desk.project, Role.RECOGNISE)
        test = self._desk.book.tests.get(name)
        if test is None or test.info is None:
            self.price.setText(tr("{name} has not answered yet.", name=name))
            return
        one = estimated(self._desk.project, self._desk.tag, Step.TRANSCRIPT, name, test.info)
        self.price.setText(one.sentence + ("." if one.cost.amount else f", {tr('free')}."))

    def _show_buttons(self) -> None:
        for button in (self.go, self.only):
            button.setEnabled(not self._desk.jobs.busy and self._desk.project.programme is not None)

    def _known(self) -> list[str]:
        return list(dict.fromkeys(term.source for term in self._desk.project.terms.values()))

    def _keep_terms(self) -> None:
        terms = self.terms.toPlainText().split("\n")
        if list(filter(None, map(one_line, terms))) != self._known():
            self._desk.apply("Names and terms", lambda project: set_terms_said(project, terms))

    def recognise(self) -> None:
        """Ask the engine, with what was said here."""
        from zweistimme.stages.transcribe import transcribe

        try:
            maybe = tuple(language_tag(tag.strip()) for tag in self.languages.text().split(",") if tag.strip())
        except EditError as error:
            self._desk.notice("error", str(error))
            return
        self._keep_terms()
        people, anew = self.people.value() or None, self.anew.isChecked()

        def stage(work: Work) -> None:
            ear = engine(engine_for(work.project, Role.RECOGNISE))
            transcribe(work, ear, candidates=maybe, speakers=people, anew=anew)

        self._start(msg_act("Transcribe"), stage)

    def find_speech(self) -> None:
        """Lay segments over all speech that has none."""
        from zweistimme.stages.transcribe import find_speech

        people = self.people.value() or None
        self._start(msg_act("Find speech"), lambda work: find_speech(work, people))

    def _start(self, name: str, stage: Callable[[Work], object]) -> None:
        if self._desk.jobs.start(name, stage):
            self.begun.emit()
