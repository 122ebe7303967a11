"""Speakers: who speaks when, and how much. Rename, merge, take away; press a stretch to go there."""

from __future__ import annotations

from functools import partial

from PyQt6.QtCore import QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QMouseEvent, QPainter, QPaintEvent
from PyQt6.QtWidgets import (
    QComboBox,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QPushButton,
    QScrollArea,
    QSizePolicy,
    QToolTip,
    QVBoxLayout,
    QWidget,
)

from zweistimme.project.model import Segment
from zweistimme.project.speaker_edits import add_somebody, merge_speakers, remove_speaker, rename_speaker
from zweistimme.project.times import SECOND_US, clock
from zweistimme.window.bridge import Desk
from zweistimme.window.theme import SMALL_PT, TITLE_PT, colour, font, speaker_colour


class WhenBar(QWidget):
    """One speaker's segments over the programme; those without words are hollow."""

    pressed = pyqtSignal(str)

    def __init__(self, place: int, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._place = place
        self._segments: list[Segment] = []
        self._end_us = 1
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setMouseTracking(True)

    def sizeHint(self) -> QSize:
        return QSize(400, 26)

    def show_segments(self, segments: list[Segment], end_us: int) -> None:
        self._segments, self._end_us = segments, max(1, end_us)
        self.update()

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.fillRect(QRectF(0, self.height() / 2 - 0.5, self.width(), 1), colour("rule"))
        tint = speaker_colour(self._place)
        for segment in self._segments:
            left = segment.start_us / self._end_us * self.width()
            width = max(1.5, (segment.end_us - segment.start_us) / self._end_us * self.width())
            box = QRectF(left, 4, width, self.height() - 8)
            if segment.text:
                painter.fillRect(box, tint)
            else:
                painter.fillRect(box, colour("card"))
                painter.setPen(tint)
                painter.drawRect(box.adjusted(0, 0, -1, -1))

    def _at(self, x: float) -> Segment | None:
        time = x / max(1, self.width()) * self._end_us
        slack = 2 / max(1, self.width()) * self._end_us
        return next((s for s in self._segments if s.start_us - slack <= time <= s.end_us + slack), None)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        segment = self._at(event.position().x()) if event else None
        if segment is not None:
            self.pressed.emit(segment.id)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        segment = self._at(event.position().x()) if event else None
        if event is not None and segment is not None:
            words = f"{clock(segment.start_us)}  {segment.text or 'no words yet'}"
            QToolTip.showText(event.globalPosition().toPoint(), words, self)


class SpeakersPage(QWidget):
    """A row a speaker."""

    went = pyqtSignal(str)
    """A segment that was pressed."""

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._desk = desk
        self._title, self._about = QLabel("Speakers"), QLabel()
        self._title.setFont(font(TITLE_PT + 2, bold=True))
        self._about.setProperty("faded", True)
        self._about.setWordWrap(True)
        self.more = QPushButton("Add somebody")
        self.more.setToolTip("One more speaker, to give lines to by digit on the Score")
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
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setFrameShape(QScrollArea.Shape.NoFrame)
        scroll.setWidget(inside)
        column = QVBoxLayout(self)
        column.setContentsMargins(28, 20, 28, 20)
        column.addWidget(self._title)
        column.addWidget(self._about)
        column.addSpacing(10)
        column.addWidget(scroll, 1)
        self._shown: tuple[object, object] | None = None
        desk.changed.connect(lambda _change: self.refresh() if self.isVisible() else None)

    def showEvent(self, event: object) -> None:
        self.refresh()

    def refresh(self) -> None:
        """Show the speakers as they are; nothing is made anew where nothing has changed."""
        project = self._desk.project
        shown = (project.speakers, project.segments)
        if self._shown is not None and shown[0] is self._shown[0] and shown[1] is self._shown[1]:
            return
        if isinstance(self.focusWidget(), QLineEdit) and self.isVisible() and self._shown is not None:
            self.setFocus()
        self._shown = shown
        while (item := self._grid.takeAt(0)) is not None:
            widget = item.widget()
            if widget is not None:
                widget.hide()
                widget.deleteLater()
        self._say_overview()
        if project.speakers:
            for place, words in enumerate(("", "Name", "Speaks", "Share", "Segments", "When", "")):
                label = QLabel(words)
                label.setFont(font(SMALL_PT))
                label.setProperty("faded", True)
                self._grid.addWidget(label, 0, place)
        by_speaker: dict[str, list[Segment]] = {key: [] for key in project.speakers}
        for segment in project.segments:
            by_speaker[segment.speaker_id].append(segment)
        total = sum(s.end_us - s.start_us for s in project.segments) or 1
        for row, (key, segments) in enumerate(by_speaker.items()):
            self._add_row(row, key, segments, total)
        self._grid.setColumnStretch(5, 1)

    def _say_overview(self) -> None:
        project = self._desk.project
        if not project.segments:
            self._about.setText(
                "Nobody yet. Find the speech in the sound, bring in a transcript, or have it recognised."
            )
            return
        total = sum(s.end_us - s.start_us for s in project.segments)
        wordless = sum(not s.text for s in project.segments)
        words = [f"{len(project.speakers)} people speak for {clock(total, 0)} in all."]
        words += [f"{wordless} stretches have no words yet."] if wordless else []
        self._about.setText(
            " ".join([*words, "The digit before a name gives what is chosen on the Score to that person."])
        )

    def _add_row(self, place: int, key: str, segments: list[Segment], total_us: int) -> None:
        project, row = self._desk.project, place + 1
        spoken = sum(s.end_us - s.start_us for s in segments)
        digit = QLabel(str(place + 1) if place < 9 else "")
        digit.setFont(font(TITLE_PT, bold=True))
        digit.setStyleSheet(f"color: {speaker_colour(place).name()}")
        name = QLineEdit(project.speakers[key].name)
        name.setFixedWidth(170)
        name.setAccessibleName(f"Name of speaker {place + 1}")
        name.editingFinished.connect(partial(self._rename, key, name))
        when = WhenBar(place)
        programme = project.programme
        ends = [programme.sound.duration_us] if programme else [s.end_us for s in project.segments]
        when.show_segments(segments, max(ends, default=1))
        when.pressed.connect(self.went)
        cells: list[QWidget] = [digit, name, QLabel(f"{spoken / SECOND_US:.1f} s"), QLabel(f"{spoken / total_us:.0%}")]
        cells += [QLabel(str(len(segments))), when, self._tools(key, segments)]
        for column, widget in enumerate(cells):
            self._grid.addWidget(widget, row, column)

    def _tools(self, key: str, segments: list[Segment]) -> QWidget:
        tools = QWidget()
        row = QHBoxLayout(tools)
        row.setContentsMargins(0, 0, 0, 0)
        box = QComboBox()
        box.setAccessibleName("Merge into")
        box.setToolTip("They are one person: everything goes to the other name")
        box.addItem("is the same as …", None)
        for other, speaker in self._desk.project.speakers.items():
            if other != key:
                box.addItem(speaker.name, other)
        box.activated.connect(lambda _place: self._merge(key, box.currentData()))
        row.addWidget(box)
        if not segments:
            away = QPushButton("Take away")
            away.setToolTip("Nobody by this name says anything")
            away.clicked.connect(lambda: self._take_away(key))
            row.addWidget(away)
        return tools

    def _take_away(self, key: str) -> None:
        self._desk.apply("Take a speaker away", lambda project: remove_speaker(project, key))

    def _merge(self, key: str, into: str | None) -> None:
        if into is not None:
            self._desk.apply("Merge speakers", lambda project: merge_speakers(project, key, into))

    def _rename(self, key: str, edit: QLineEdit) -> None:
        speaker = self._desk.project.speakers.get(key)
        if speaker is not None and edit.text() != speaker.name:
            name = edit.text()
            if not self._desk.apply("Rename a speaker", lambda project: rename_speaker(project, key, name)):
                edit.setText(speaker.name)

    def _add(self) -> None:
        self._desk.apply("Add a speaker", add_somebody)
