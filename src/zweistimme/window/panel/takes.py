"""The takes of a line: listen to each, choose one."""

from __future__ import annotations

from functools import partial

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QAction
from PyQt6.QtWidgets import QGridLayout, QInputDialog, QLabel, QPushButton, QToolButton, QWidget

from zweistimme.messages import msg_act, tr
from zweistimme.project.auditions import BEST
from zweistimme.project.edits import choose_take, score_take
from zweistimme.project.facts import chosen_take, take_is_stale
from zweistimme.project.model import Take
from zweistimme.project.segment_takes import takes_of
from zweistimme.project.times import SECOND_US
from zweistimme.stages.fit.taken import speech_us
from zweistimme.window.actions import BY_ID, tip
from zweistimme.window.bridge import Desk
from zweistimme.window.layouts import empty
from zweistimme.window.panel.makers import maker_in_words, take_words
from zweistimme.window.theme import px

_COLUMNS = 3
_MOST = 9


class TakeRow(QWidget):
    """Buttons, the newest take last."""

    heard = pyqtSignal(str)
    """A take's id, to be played."""
    another_wanted = pyqtSignal()

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._desk = desk
        self._grid = QGridLayout(self)
        self._grid.setContentsMargins(0, 0, 0, 0)
        self._grid.setSpacing(6)
        self._grid.setColumnStretch(_COLUMNS, 1)
        self.buttons: list[QPushButton] = []
        self._shown: object = None

    def refresh(self) -> None:
        """Show the takes of the selected line; nothing is made anew where nothing has changed."""
        version, line = self._desk.version, self._desk.line()
        takes = takes_of(version, (self._desk.segment_id,)) if version else []
        shown = (self._desk.segment_id, tuple(takes), line, version.cast if version else None)
        if shown == self._shown:
            return
        self._shown = shown
        empty(self._grid)
        self.buttons = []
        if not takes or line is None:
            words = QLabel(tr("No take yet. Continue makes what is missing."))
            words.setProperty("faded", True)
            self._grid.addWidget(words, 0, 0)
            return
        shown_takes = takes[-_MOST:]
        for place, take in enumerate(shown_takes):
            self._add(place, take, chosen=take.id == line.take_id)
        self._add_wish(len(shown_takes))

    def _add_wish(self, place: int) -> None:
        """Behind the last take: a wish for another one."""
        wish = QPushButton(tr("another\ntake …"))
        wish.setObjectName("take")
        wish.setToolTip(tip("another_take"))
        wish.setAccessibleName(tr("Ask for another take"))
        wish.setMinimumHeight(px(40))
        wish.setFixedWidth(_width(wish))
        wish.clicked.connect(self.another_wanted)
        self._grid.addWidget(wish, place // _COLUMNS, place % _COLUMNS)

    def _add(self, place: int, take: Take, *, chosen: bool) -> None:
        segment, version, line = self._desk.segment(), self._desk.version, self._desk.line()
        assert segment is not None
        assert version is not None
        assert line is not None
        stale = take_is_stale(self._desk.project, version, segment, line, take)
        seconds = speech_us(take) / SECOND_US
        button = QPushButton(
            f"{take_words(take.label)}\n{tr('{seconds:.2f} s', seconds=seconds)}"
            + (" · " + tr("older") if stale else "")
            + (f" · {take.score}/{BEST}" if take.score else "")
        )
        button.setObjectName("take")
        button.setCheckable(True)
        button.setChecked(chosen)
        made = f"\n{maker_in_words(take.maker)}" if take.maker else ""
        made += f"\n{take.note}" if take.note else ""
        button.setToolTip(
            (
                tr("Use {take}, made from an older wording or voice", take=take_words(take.label))
                if stale
                else tr("Use {take}", take=take_words(take.label))
            )
            + made
        )
        button.clicked.connect(lambda: self._choose(take.id))
        for words, act in (
            (tr("Hear {take}", take=take_words(take.label)), self.heard.emit),
            (tr("Use {take}", take=take_words(take.label)), self._choose),
        ):
            action = QAction(words, button)
            action.triggered.connect(lambda _on=False, act=act: act(take.id))
            button.addAction(action)
        self._offer_thoughts(button, take)
        wish = QAction(BY_ID["another_take"].words, button)
        wish.triggered.connect(self.another_wanted)
        button.addAction(wish)
        button.setContextMenuPolicy(Qt.ContextMenuPolicy.ActionsContextMenu)
        hear = QToolButton(button)
        hear.setText("▸")
        hear.setToolTip(tr("Hear {take}", take=take_words(take.label)))
        hear.setAccessibleName(tr("Hear {take}", take=take_words(take.label)))
        hear.setGeometry(_width(button) - px(26), px(8), 24, 24)
        hear.clicked.connect(lambda: self.heard.emit(take.id))
        button.setMinimumHeight(px(40))
        button.setFixedWidth(_width(button))
        self.buttons.append(button)
        self._grid.addWidget(button, place // _COLUMNS, place % _COLUMNS)

    def _offer_thoughts(self, button: QPushButton, take: Take) -> None:
        """In its menu: what one thinks of a take."""
        for score in range(1, BEST + 1):
            action = QAction(tr("Score {score} of {best}", score=score, best=BEST), button)
            action.setCheckable(True)
            action.setChecked(take.score == score)
            action.triggered.connect(lambda on, score=score: self._think(take.id, score if on else 0))
            button.addAction(action)
        note = QAction(tr("Note about the take …"), button)
        note.triggered.connect(lambda _on=False: self._note(take))
        button.addAction(note)

    def _think(self, take_id: str, score: int | None = None, note: str | None = None) -> None:
        edit = partial(score_take, tag=self._desk.tag, take_id=take_id, score=score, note=note)
        self._desk.apply(msg_act("Score a take"), edit)

    def _note(self, take: Take) -> None:
        text, given = QInputDialog.getText(self, take_words(take.label), tr("Note about the take"), text=take.note)
        if given:
            self._think(take.id, note=text)

    def use_next(self) -> None:
        """Use the take behind the one in use, round and round, and hear it."""
        version, line = self._desk.version, self._desk.line()
        takes = takes_of(version, (self._desk.segment_id,)) if version is not None else []
        if line is None or not takes:
            self._desk.notice("note", tr("This line has no take yet."))
            return
        here = next((place for place, one in enumerate(takes) if one.id == line.take_id), -1)
        take = takes[(here + 1) % len(takes)]
        self._choose(take.id)
        self.heard.emit(take.id)

    def score_chosen(self, score: int) -> None:
        """Say what one thinks of the take in use; the same once more takes it back."""
        version, line = self._desk.version, self._desk.line()
        take = chosen_take(version, line) if version is not None and line is not None else None
        if take is None:
            self._desk.notice("note", tr("This line has no take yet."))
            return
        self._think(take.id, 0 if take.score == score else score)

    def _choose(self, take_id: str) -> None:
        tag = self._desk.tag
        self._desk.apply("Choose a take", lambda project: choose_take(project, tag, take_id))
        self.refresh()


def _width(button: QPushButton) -> int:
    """As wide as its words and the sign beside them need."""
    metrics = button.fontMetrics()
    return max(px(104), max(map(metrics.horizontalAdvance, button.text().splitlines())) + px(38))
