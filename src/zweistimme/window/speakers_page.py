"""Speakers: who speaks when, and how much. Rename, merge, take away; press a stretch to go there."""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QGridLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from zweistimme.messages import tr
from zweistimme.project.model import Segment
from zweistimme.project.speaker_edits import add_somebody
from zweistimme.project.times import clock
from zweistimme.window.bridge import Desk
from zweistimme.window.layouts import empty, put_heads, scrolled
from zweistimme.window.page import Page
from zweistimme.window.speaker_row import HEADS, SpeakerRow
from zweistimme.window.theme import TITLE_PT, font


class SpeakersPage(Page):
    """A row a speaker."""

    went = pyqtSignal(str)
    """A segment that was pressed."""

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._desk = desk
        self._title, self._about = QLabel(tr("Speakers")), QLabel()
        self._title.setFont(font(TITLE_PT + 2, bold=True))
        self._about.setProperty("faded", True)
        self._about.setWordWrap(True)
        self.more = QPushButton(tr("Add somebody"))
        self.more.setToolTip(tr("One more speaker, to give lines to by digit on the Score"))
        self.more.clicked.connect(self._add)
        inside = QWidget()
        self._grid = QGridLayout()
        self._grid.setHorizontalSpacing(14)
        self._grid.setVerticalSpacing(8)
        body = QVBoxLayout(inside)
        body.setContentsMargins(0, 0, 0, 0)
        body.addLayout(self._grid)
        body.addWidget(self.more, alignment=Qt.AlignmentFlag.AlignLeft)
        body.addStretch(1)
        column = QVBoxLayout(self)
        column.setContentsMargins(28, 20, 28, 20)
        column.addWidget(self._title)
        column.addWidget(self._about)
        column.addSpacing(10)
        column.addWidget(scrolled(inside), 1)
        self.rows: list[SpeakerRow] = []
        desk.changed.connect(lambda _change: self.refresh() if self.isVisible() else None)

    def showEvent(self, event: object) -> None:
        self.refresh()

    def refresh(self) -> None:
        """Show the speakers as they are."""
        project = self._desk.project
        self._have_rows(tuple(project.speakers))
        self._say_overview()
        by_speaker: dict[str, list[Segment]] = {key: [] for key in project.speakers}
        for segment in project.segments:
            by_speaker[segment.speaker_id].append(segment)
        total = sum(s.end_us - s.start_us for s in project.segments) or 1
        ends = [project.programme.sound.duration_us] if project.programme else [s.end_us for s in project.segments]
        for row in self.rows:
            row.refresh(by_speaker[row.key], total, max(ends, default=1))

    def _have_rows(self, keys: tuple[str, ...]) -> None:
        """A row for each of these speakers; rows stay as long as the same people do."""
        if tuple(row.key for row in self.rows) == keys:
            return
        empty(self._grid)
        put_heads(self._grid, HEADS if keys else ())
        self.rows = [SpeakerRow(self._desk, key, place) for place, key in enumerate(keys)]
        for number, row in enumerate(self.rows, 1):
            row.when.pressed.connect(self.went)
            for column, widget in enumerate(row.cells):
                self._grid.addWidget(widget, number, column)
        self._grid.setColumnStretch(5, 1)

    def _say_overview(self) -> None:
        project = self._desk.project
        if not project.segments:
            self._about.setText(
                tr("Nobody yet. Find the speech in the sound, bring in a transcript, or have it recognised.")
            )
            return
        total = sum(s.end_us - s.start_us for s in project.segments)
        wordless = sum(not s.text for s in project.segments)
        words = [tr("{n:person speaks|people speak} for {time} in all.", n=len(project.speakers), time=clock(total, 0))]
        words += [tr("{n:stretch has|stretches have} no words yet.", n=wordless)] if wordless else []
        self._about.setText(
            " ".join([*words, tr("The digit before a name gives what is chosen on the Score to that person.")])
        )

    def _add(self) -> None:
        self._desk.apply("Add a speaker", add_somebody)
