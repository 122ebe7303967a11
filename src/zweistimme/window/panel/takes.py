"""The takes of a line: listen to each, choose one."""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QAction
from PyQt6.QtWidgets import QGridLayout, QLabel, QPushButton, QToolButton, QWidget

from zweistimme.project.access import takes_of
from zweistimme.project.edits import choose_take
from zweistimme.project.facts import take_is_stale
from zweistimme.project.model import Take
from zweistimme.project.times import SECOND_US
from zweistimme.stages.fit.placements import speech_us
from zweistimme.window.actions import BY_ID, tip
from zweistimme.window.bridge import Desk
from zweistimme.window.layouts import empty
from zweistimme.window.panel.makers import maker_in_words
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
        shown = (self._desk.segment_id, tuple(t.id for t in takes), line, version.cast if version else None)
        if shown == self._shown:
            return
        self._shown = shown
        empty(self._grid)
        self.buttons = []
        if not takes or line is None:
            words = QLabel("No take yet. Continue makes what is missing.")
            words.setProperty("faded", True)
            self._grid.addWidget(words, 0, 0)
            return
        shown_takes = takes[-_MOST:]
        for place, take in enumerate(shown_takes):
            self._add(place, take, chosen=take.id == line.take_id)
        self._add_wish(len(shown_takes))

    def _add_wish(self, place: int) -> None:
        """Behind the last take: a wish for another one."""
        wish = QPushButton("another\ntake …")
        wish.setObjectName("take")
        wish.setToolTip(tip("another_take"))
        wish.setAccessibleName("Ask for another take")
        wish.setMinimumHeight(px(40))
        wish.setFixedWidth(px(104))
        wish.clicked.connect(self.another_wanted)
        self._grid.addWidget(wish, place // _COLUMNS, place % _COLUMNS)

    def _add(self, place: int, take: Take, *, chosen: bool) -> None:
        segment, version, line = self._desk.segment(), self._desk.version, self._desk.line()
        assert segment is not None
        assert version is not None
        assert line is not None
        stale = take_is_stale(self._desk.project, version, segment, line, take)
        seconds = speech_us(take) / SECOND_US
        button = QPushButton(f"{take.label}\n{seconds:.2f} s{' · older' if stale else ''}")
        button.setObjectName("take")
        button.setCheckable(True)
        button.setChecked(chosen)
        made = f"\n{maker_in_words(take.maker)}" if take.maker else ""
        button.setToolTip(f"Use {take.label}" + (", made from an older wording or voice" if stale else "") + made)
        button.clicked.connect(lambda: self._choose(take.id))
        for words, act in ((f"Hear {take.label}", self.heard.emit), (f"Use {take.label}", self._choose)):
            action = QAction(words, button)
            action.triggered.connect(lambda _on=False, act=act: act(take.id))
            button.addAction(action)
        wish = QAction(BY_ID["another_take"].text, button)
        wish.triggered.connect(self.another_wanted)
        button.addAction(wish)
        button.setContextMenuPolicy(Qt.ContextMenuPolicy.ActionsContextMenu)
        hear = QToolButton(button)
        hear.setText("▸")
        hear.setToolTip(f"Hear {take.label}")
        hear.setAccessibleName(f"Hear {take.label}")
        hear.setGeometry(px(78), px(8), 24, 24)
        hear.clicked.connect(lambda: self.heard.emit(take.id))
        button.setMinimumHeight(px(40))
        button.setFixedWidth(px(104))
        self.buttons.append(button)
        self._grid.addWidget(button, place // _COLUMNS, place % _COLUMNS)

    def _choose(self, take_id: str) -> None:
        tag = self._desk.tag
        self._desk.apply("Choose a take", lambda project: choose_take(project, tag, take_id))
        self.refresh()
