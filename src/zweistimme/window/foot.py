"""The foot of the desk: what was said last, and what runs. It has its room, and covers nothing."""

from __future__ import annotations

from PyQt6.QtCore import QTimer
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QProgressBar, QPushButton, QToolButton, QWidget

from zweistimme.messages import tr
from zweistimme.window.actions import tip
from zweistimme.window.bridge import Desk
from zweistimme.window.clipped_text import ClippedText
from zweistimme.window.durations import about_s
from zweistimme.window.job_board import Run
from zweistimme.window.notice import Notice
from zweistimme.window.theme import SMALL_PT, font, px, tint

_NOTE_MS = 9_000
_ROLES = {"error": "hard", "done": "calm"}


class Foot(QWidget):
    """Errors stay, the latest in front, until they are put away one by one; notes stand beside them and go by
    themselves."""

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._desk = desk
        self.errors: list[str] = []
        self._note = Notice("", "")
        self.words, self.beside = ClippedText(), ClippedText()
        self._away = QToolButton()
        self._away.clicked.connect(self.put_away)
        self._job = QLabel()
        self._bar = QProgressBar()
        self._bar.setRange(0, 1000)
        self._bar.setTextVisible(False)
        self._bar.setFixedWidth(px(110))
        self._bar.setAccessibleName(tr("How far it is"))
        self._stop = QPushButton(tr("Stop"))
        self._stop.setToolTip(tip("stop"))
        self._stop.clicked.connect(lambda: desk.jobs.stop())
        self.board = QToolButton()
        self.board.setText(tr("jobs"))
        self.board.setCheckable(True)
        self.board.setToolTip(tip("jobs"))
        self._lay_out()
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.timeout.connect(self._forget_note)
        desk.noticed.connect(self.say)
        desk.jobs.changed.connect(self._show_job)
        self._show_words()
        self._show_job()

    def _lay_out(self) -> None:
        row = QHBoxLayout(self)
        row.setContentsMargins(14, 3, 14, 3)
        row.setSpacing(8)
        row.addWidget(self.words, 3)
        row.addWidget(self._away)
        row.addWidget(self.beside, 2)
        for widget in (self._job, self._bar, self._stop, self.board):
            widget.setFont(font(SMALL_PT))
            row.addWidget(widget)
        for words in (self.words, self.beside, self._away):
            words.setFont(font(SMALL_PT + 0.5))
        self._stop.setStyleSheet("padding: 1px 8px")

    def say(self, notice: Notice) -> None:
        """Say something."""
        if notice.kind == "error":
            self.errors = [error for error in self.errors if error != notice.text] + [notice.text]
        else:
            self._note = notice
            self._timer.start(_NOTE_MS)
        self._show_words()

    def put_away(self) -> None:
        """Put away the error in front."""
        self.errors = self.errors[:-1]
        self._show_words()

    def clear(self) -> None:
        """Say nothing any more."""
        self.errors = []
        self._forget_note()

    def _forget_note(self) -> None:
        self._note = Notice("", "")
        self._timer.stop()
        self._show_words()

    def _show_words(self) -> None:
        front = Notice("error", self.errors[-1]) if self.errors else self._note
        _put(self.words, front)
        _put(self.beside, self._note if self.errors else Notice("", ""))
        self.beside.setVisible(bool(self.beside.text()))
        more = len(self.errors) - 1
        self._away.setText(tr("put away ({more} more)", more=more) if more > 0 else tr("put away"))
        self._away.setVisible(bool(self.errors))

    def _show_job(self) -> None:
        jobs = self._desk.jobs
        asked = [run for run in jobs.runs if not run.quiet]
        run = jobs.writer or (asked[-1] if asked else None)
        for widget in (self._job, self._bar, self._stop):
            widget.setVisible(run is not None)
        if run is not None:
            self._job.setText(_told(run))
            self._bar.setValue(round(run.job.progress * 1000))
        beside = len(jobs.runs) - (run is not None)
        self.board.setText(tr("jobs (+{beside})", beside=beside) if beside > 0 else tr("jobs"))


def _put(words: ClippedText, notice: Notice) -> None:
    if words.text() == notice.text:
        return
    tint(words, _ROLES.get(notice.kind, "ink"))
    words.setText(notice.text)


def _told(run: Run) -> str:
    left_s = run.pace.left_s
    return f"{run.words} …" if left_s is None else tr("{job} · {time} left", job=run.words, time=about_s(left_s))
