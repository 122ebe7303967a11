"""One speaker's row: the digit that gives lines to it, name, share, when it speaks, and ways to be somebody else."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QAction, QMouseEvent, QPainter, QPaintEvent
from PyQt6.QtWidgets import (
    QComboBox,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QPushButton,
    QSizePolicy,
    QToolTip,
    QWidget,
)

from zweistimme.messages import msg, tr
from zweistimme.project.model import Segment
from zweistimme.project.speaker_edits import merge_speakers, remove_speaker
from zweistimme.project.times import SECOND_US, clock
from zweistimme.window.bridge import Desk
from zweistimme.window.choices import Choice, fill
from zweistimme.window.theme import SPEAKER_COLOURS, TITLE_PT, colour, font, px, speaker_colour, tint
from zweistimme.window.writing import Draft, Kind, Place

HEADS = ("", msg("Name"), msg("Speaks"), msg("Share"), msg("Segments"), msg("When"), "")


class WhenBar(QWidget):
    """One speaker's segments over the programme; those without words are hollow."""

    pressed = pyqtSignal(str)

    def __init__(self, place: int, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._place = place
        self._segments: Sequence[Segment] = ()
        self._end_us = 1
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setMouseTracking(True)

    def sizeHint(self) -> QSize:
        return QSize(400, 26)

    def show_segments(self, segments: Sequence[Segment], end_us: int) -> None:
        self._segments, self._end_us = segments, max(1, end_us)
        self.update()

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.fillRect(QRectF(0, self.height() / 2 - 0.5, self.width(), 1), colour("rule"))
        shade = speaker_colour(self._place)
        for segment in self._segments:
            left = segment.start_us / self._end_us * self.width()
            width = max(1.5, (segment.end_us - segment.start_us) / self._end_us * self.width())
            box = QRectF(left, 4, width, self.height() - 8)
            if segment.text:
                painter.fillRect(box, shade)
            else:
                painter.fillRect(box, colour("card"))
                painter.setPen(shade)
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
            words = f"{clock(segment.start_us)}  {segment.text or tr('no words yet')}"
            QToolTip.showText(event.globalPosition().toPoint(), words, self)


class SpeakerRow:
    """The widgets of one speaker, which stay while the speaker does; *place* counts from 0."""

    def __init__(self, desk: Desk, key: str, place: int) -> None:
        self._desk, self.key = desk, key
        digit = QLabel(str(place + 1) if place < 9 else "")
        digit.setFont(font(TITLE_PT, bold=True))
        tint(digit, f"speaker{place % SPEAKER_COLOURS}")
        self.name = QLineEdit()
        self.name.setFixedWidth(px(170))
        self.name.setAccessibleName(tr("Name of speaker {number}", number=place + 1))
        self._draft = Draft(desk, self.name)
        self.name.returnPressed.connect(self._draft.keep)
        self._speaks, self._share, self._count = QLabel(), QLabel(), QLabel()
        self.when = WhenBar(place)
        self.same = QComboBox()
        self.same.setAccessibleName(tr("Merge into"))
        self.same.setToolTip(tr("They are one person: everything goes to the other name"))
        self.same.activated.connect(lambda _place: self._merge(self.same.currentData()))
        self.away = QPushButton(tr("Take away"))
        self.away.setToolTip(tr("Nobody by this name says anything"))
        self.away.clicked.connect(self._take_away)
        tools = QWidget()
        row = QHBoxLayout(tools)
        row.setContentsMargins(0, 0, 0, 0)
        row.addWidget(self.same)
        row.addWidget(self.away)
        self._offer_menu(digit)
        self.cells: tuple[QWidget, ...] = (
            digit, self.name, self._speaks, self._share, self._count, self.when, tools,
        )  # fmt: skip

    def _offer_menu(self, digit: QLabel) -> None:
        """What can be done with this person, by a right press on its digit, times or bar."""
        for widget in (digit, self._speaks, self._share, self._count, self.when):
            rename, first = QAction(tr("Rename"), widget), QAction(tr("Show the first segment"), widget)
            rename.triggered.connect(self._rename)
            first.triggered.connect(self._show_first)
            widget.addActions([rename, first])
            widget.setContextMenuPolicy(Qt.ContextMenuPolicy.ActionsContextMenu)

    def _rename(self) -> None:
        self.name.setFocus()
        self.name.selectAll()

    def _show_first(self) -> None:
        first = next((s.id for s in self._desk.project.segments if s.speaker_id == self.key), None)
        if first is not None:
            self.when.pressed.emit(first)

    def refresh(self, segments: Sequence[Segment], total_us: int, end_us: int) -> None:
        """Show the speaker's *segments* among all speech, in a programme that ends there."""
        people = self._desk.project.speakers
        spoken = sum(s.end_us - s.start_us for s in segments)
        self._draft.show(Place(Kind.NAME, self.key), people[self.key].name)
        self._speaks.setText(tr("{seconds:.1f} s", seconds=spoken / SECOND_US))
        self._share.setText(f"{spoken / total_us:.0%}")
        self._count.setText(str(len(segments)))
        self.when.show_segments(segments, end_us)
        others: list[Choice] = [(who.name, key, "") for key, who in people.items() if key != self.key]
        fill(self.same, [(tr("is the same as …"), None, ""), *others], None)
        self.away.setVisible(not segments)

    def _take_away(self) -> None:
        self._desk.apply("Take a speaker away", lambda project: remove_speaker(project, self.key))

    def _merge(self, into: str | None) -> None:
        if into is not None:
            self._desk.apply("Merge speakers", lambda project: merge_speakers(project, self.key, into))
