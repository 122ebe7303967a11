"""Takes of what is chosen as they were and as they are now: all before heard in a row, then all after; what was better
comes back."""

from __future__ import annotations

from functools import partial
from typing import Final

from PyQt6.QtCore import QTimer, pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QTableWidgetItem, QVBoxLayout, QWidget

from zweistimme.messages import msg, msg_act, tr
from zweistimme.project.edits import choose_takes
from zweistimme.project.model import Take
from zweistimme.project.segment_takes import takes_of
from zweistimme.project.times import RATE
from zweistimme.window.bridge import Desk
from zweistimme.window.layouts import list_table, push_button
from zweistimme.window.panel.makers import take_words
from zweistimme.window.theme import SMALL_PT, font

NAME: Final = msg("Takes before and after")
_HEADS: Final = (msg("Speaker"), msg("Before"), msg("Now"), msg("Wording"))
_BETWEEN_MS: Final = 400
_MOST: Final = 300


class BeforeAfterPanel(QWidget):
    """A row for each chosen line that has a take before the one in use."""

    heard = pyqtSignal(str)
    """A take to be played."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self._desk = desk
        self._rows: list[tuple[Take, Take]] = []
        self._coming: list[tuple[int, Take]] = []
        self.table = list_table([tr(words) for words in _HEADS], tr(NAME), (3,))
        self.about = QLabel()
        self.about.setFont(font(SMALL_PT))
        self.before = push_button(tr("▸ All before"), lambda: self.play(0))
        self.after = push_button(tr("▸ All now"), lambda: self.play(1))
        self.back = push_button(tr("Use those before"), self.use_before)
        self.back.setToolTip(tr("Use the take before again: of the row one is in, or of all where none is chosen"))
        self._next = QTimer(self)
        self._next.setSingleShot(True)
        self._next.timeout.connect(self._play_next)
        top = QHBoxLayout()
        for widget in (self.before, self.after, self.back):
            top.addWidget(widget)
        top.addStretch(1)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(5)
        column.addLayout(top)
        column.addWidget(self.table, 1)
        column.addWidget(self.about)
        self.table.cellActivated.connect(lambda row, column: self._hear(row, 0 if column == 1 else 1))
        desk.chosen_changed.connect(self._refresh_if_seen)
        desk.changed.connect(lambda _change: self._refresh_if_seen())
        desk.version_changed.connect(lambda _tag: self._refresh_if_seen())
        self.setFocusProxy(self.before)

    def showEvent(self, event: object) -> None:
        self.refresh()

    def hideEvent(self, event: object) -> None:
        self._next.stop()

    def _refresh_if_seen(self) -> None:
        if self.isVisible():
            self.refresh()

    def refresh(self) -> None:
        """Show the chosen lines with two takes."""
        version, people = self._desk.version, self._desk.project.speakers
        self._rows = []
        names = []
        for segment_id in self._desk.chosen_ids() if version is not None else ():
            line, segment = self._desk.line(segment_id), self._desk.segment(segment_id)
            takes = takes_of(version, (segment_id,)) if version is not None else []
            now = next((one for one in takes if line is not None and one.id == line.take_id), None)
            earlier = [one for one in takes if one is not now]
            if now is None or not earlier or segment is None or len(self._rows) >= _MOST:
                continue
            place = takes.index(now)
            self._rows.append((takes[place - 1] if place else earlier[-1], now))
            names.append((people[segment.speaker_id].name, line.text if line else ""))
        self.table.setRowCount(len(self._rows))
        for row, ((before, now), (who, text)) in enumerate(zip(self._rows, names, strict=True)):
            for column, words in enumerate((who, _called(before), _called(now), text)):
                self.table.setItem(row, column, QTableWidgetItem(words))
        for button in (self.before, self.after, self.back):
            button.setEnabled(bool(self._rows))
        self.about.setText(
            tr("Return hears the take of the cell. What is chosen on the Score is shown.")
            if self._rows
            else tr("Choose lines that have several takes on the Score; ask for others with J.")
        )

    def _hear(self, row: int, side: int) -> None:
        self._next.stop()
        if 0 <= row < len(self._rows):
            self.heard.emit(self._rows[row][side].id)

    def play(self, side: int) -> None:
        """Play all takes of one side in a row."""
        self._coming = [(row, pair[side]) for row, pair in enumerate(self._rows)]
        self._play_next()

    def _play_next(self) -> None:
        if not self._coming:
            return
        (row, take), *self._coming = self._coming
        self.table.setCurrentCell(row, 3)
        self.heard.emit(take.id)
        self._next.start(round(1000 * take.length_samples / RATE) + _BETWEEN_MS)

    def use_before(self) -> None:
        """Use the take before again."""
        row = self.table.currentRow()
        rows = [self._rows[row]] if self.table.selectedItems() and 0 <= row < len(self._rows) else self._rows
        ids = [before.id for before, _ in rows]
        if ids:
            self._desk.apply(msg_act("Use the takes before"), partial(choose_takes, tag=self._desk.tag, take_ids=ids))


def _called(take: Take) -> str:
    parts = (take_words(take.label), take.maker.voice if take.maker else "", f"{take.score}" if take.score else "")
    return " · ".join(filter(None, parts))
