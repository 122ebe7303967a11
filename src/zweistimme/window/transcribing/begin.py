"""What stands on the Score while there is no transcript: the ways to get one."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QEvent, QObject
from PyQt6.QtWidgets import QLabel, QPushButton, QVBoxLayout, QWidget

from zweistimme.messages import msg, tr
from zweistimme.window.bridge import Desk
from zweistimme.window.theme import TITLE_PT, font

_WAYS = (
    ("recognise", msg("Have the speech recognised …"), msg("An engine writes down words, times and speakers.")),
    (
        "bring_transcript",
        msg("Bring in a transcript …"),
        msg("Captions, words with times, a table, a transcript of ours."),
    ),
    ("align", msg("Align a script …"), msg("A text without times: each sentence is found in the sound.")),
    ("find_speech", msg("Find the speech, write by hand"), msg("Segments for everybody who speaks, without words.")),
)


class Beginnings(QWidget):
    """Four buttons; away as soon as there is a segment."""

    def __init__(self, desk: Desk, act: Callable[[str], None], parent: QWidget) -> None:
        super().__init__(parent)
        self._desk = desk
        column = QVBoxLayout(self)
        column.setSpacing(2)
        title = QLabel(tr("No transcript yet"))
        title.setFont(font(TITLE_PT, bold=True))
        column.addWidget(title)
        column.addSpacing(8)
        self.buttons: dict[str, QPushButton] = {}
        for action_id, words, about in _WAYS:
            button = QPushButton(tr(words))
            button.clicked.connect(lambda _on=False, action_id=action_id: act(action_id))
            label = QLabel(tr(about))
            label.setProperty("faded", True)
            column.addWidget(button)
            column.addWidget(label)
            column.addSpacing(8)
            self.buttons[action_id] = button
        self.setAutoFillBackground(True)
        parent.installEventFilter(self)
        desk.changed.connect(lambda _change: self.refresh())
        desk.jobs.changed.connect(self.refresh)
        self.refresh()

    def refresh(self) -> None:
        """Stand where there is nothing else."""
        there = bool(self._desk.project.segments) or self._desk.project.programme is None
        self.setVisible(not there)
        for button in self.buttons.values():
            button.setEnabled(not self._desk.jobs.busy)
        if not there:
            self._place()

    def _place(self) -> None:
        """On the dub's side, beside the speech that was found."""
        self.adjustSize()
        score = self.parentWidget()
        if score is not None:
            self.move(max(60, round(score.width() * 0.5)), 46)

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if event is not None and event.type() == QEvent.Type.Resize:
            self._place()
        return super().eventFilter(watched, event)
