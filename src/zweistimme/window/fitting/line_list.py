"""The lines of a fit that need somebody, the worst first, or those with pins, which can be freed here."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial
from typing import Final

import numpy as np
from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QComboBox, QHBoxLayout, QListWidget, QListWidgetItem, QPushButton, QVBoxLayout, QWidget

from zweistimme.messages import msg_act, tr
from zweistimme.project.facts import chosen_take
from zweistimme.project.fit_edits import free_pins
from zweistimme.project.held_words import waiting_words
from zweistimme.stages.fit import fit
from zweistimme.stages.fit.remedies import standing_of
from zweistimme.stages.fit.summary import FitSummary
from zweistimme.window.bridge import Desk
from zweistimme.window.panel.helps import standing_in_words
from zweistimme.window.theme import px

_MOST_ROWS: Final = 400
_ID: Final = int(Qt.ItemDataRole.UserRole)


class FitLines(QWidget):
    """A row for each line: who, what, and how it stands."""

    went = pyqtSignal(str)
    """To the Score, to this line."""

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._desk = desk
        self._shown: FitSummary | None = None
        self.rows, self.which = QListWidget(), QComboBox()
        self.rows.setAccessibleName(tr("Lines that need somebody, the worst first"))
        self.rows.setWordWrap(True)
        self.rows.setSpacing(px(3))
        self.which.setAccessibleName(tr("Which lines are listed"))
        for words, data in ((tr("lines that need somebody"), "worst"), (tr("lines with pins"), "pins")):
            self.which.addItem(words, data)
        self.free = QPushButton(tr("Free the chosen one"))
        self.free_all = QPushButton(tr("Free all pins"))
        freeing = QHBoxLayout()
        for button, only in ((self.free, True), (self.free_all, False)):
            button.hide()
            button.clicked.connect(partial(self._free, only=only))
            freeing.addWidget(button)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(self.which)
        column.addWidget(self.rows, 1)
        column.addLayout(freeing)
        self.which.activated.connect(lambda _place: self._fill())
        self.rows.itemActivated.connect(lambda item: self.went.emit(item.data(_ID)))
        self.rows.itemClicked.connect(lambda item: self._desk.select(item.data(_ID)))

    def show_fit(self, summary: FitSummary) -> None:
        """List the lines of this fit."""
        self._shown = summary
        self._fill()

    def _listed(self) -> list[int]:
        """The numbers of the lines that are wanted."""
        if self._shown is None:
            return []
        pins = self.which.currentData() == "pins"
        return [int(k) for k in np.flatnonzero(self._shown.pinned)] if pins else self._shown.worst()

    def _fill(self) -> None:
        pins, listed = self.which.currentData() == "pins", self._listed()
        self.free.setVisible(pins)
        self.free_all.setVisible(pins)
        self.rows.clear()
        if self._shown is None:
            return
        for k in listed[:_MOST_ROWS]:
            self._add(self._shown.segment_ids[k])
        if len(listed) > _MOST_ROWS:
            rest = QListWidgetItem(tr("and {count} more", count=len(listed) - _MOST_ROWS))
            rest.setFlags(Qt.ItemFlag.NoItemFlags)
            self.rows.addItem(rest)

    def _add(self, segment_id: str) -> None:
        project, tag = self._desk.project, self._desk.tag
        version = project.versions[tag]
        segment, placed = self._desk.segment(segment_id), version.placements.get(segment_id)
        if segment is None or placed is None:
            return
        standing = standing_in_words(standing_of(project, tag, segment, placed))
        number = (self._desk.place(segment_id) or 0) + 1
        line = version.lines.get(segment_id)
        take = chosen_take(version, line) if line else None
        waiting = waiting_words(line, take) if line and take else ()
        said = [standing, *(tr("“{word}” waits until it is said again", word=word) for word in waiting)]
        text = line.text if line else ""
        below = ", ".join(said)
        item = QListWidgetItem(f"{number}  {project.speakers[segment.speaker_id].name}: {text}\n{below}")
        item.setData(_ID, segment_id)
        self.rows.addItem(item)

    def _free(self, _on: bool, *, only: bool) -> None:
        """Free the pins of the chosen line, or of all that have any, listed or not."""
        item = self.rows.currentItem()
        ids: Sequence[str] = [item.data(_ID)] if only and item is not None and item.data(_ID) else []
        if not only and self._shown is not None:
            ids = [self._shown.segment_ids[k] for k in self._listed()]
        if ids:
            tag = self._desk.tag
            self._desk.apply(msg_act("Free pins"), partial(free_pins, tag=tag, segment_ids=ids))
            self._desk.jobs.start(msg_act("Fit"), partial(fit, tag=tag))
