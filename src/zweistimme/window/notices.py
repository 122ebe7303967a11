"""What the desk has to say, in place: a line for notices and errors, and the running job with progress and stop."""

from __future__ import annotations

from PyQt6.QtCore import Qt, QTimer, pyqtSignal
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QLabel, QProgressBar, QPushButton, QToolButton, QWidget

from zweistimme.window.actions import tip
from zweistimme.window.bridge import Desk, Notice
from zweistimme.window.theme import SMALL_PT, colour, font

_NOTE_MS = 9_000


class NoticeBar(QFrame):
    """Lies over the foot of the page, so that nothing moves when it comes and goes. Errors stay until they are put
    away; notes go by themselves."""

    changed = pyqtSignal()
    """It may need another height."""

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._desk = desk
        self.kind = ""
        self.setAutoFillBackground(True)
        self.setFrameShape(QFrame.Shape.StyledPanel)
        row = QHBoxLayout(self)
        row.setContentsMargins(14, 3, 14, 3)
        self.words = QLabel()
        self.words.setWordWrap(True)
        self.words.setTextFormat(Qt.TextFormat.PlainText)
        self._away = QToolButton()
        self._away.setText("put away")
        self._away.setFont(font(SMALL_PT))
        self._away.clicked.connect(self.put_away)
        self._job = QLabel()
        self._bar = QProgressBar()
        self._bar.setRange(0, 1000)
        self._bar.setTextVisible(False)
        self._bar.setFixedWidth(180)
        self._stop = QPushButton("Stop")
        self._stop.setToolTip(tip("stop"))
        self._stop.clicked.connect(desk.stop_job)
        row.addWidget(self.words, 1)
        for widget in (self._away, self._job, self._bar, self._stop):
            row.addWidget(widget)
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.timeout.connect(self.put_away)
        desk.noticed.connect(self.say)
        desk.job_changed.connect(self._show_job)
        self.put_away()
        self._show_job()

    def say(self, notice: Notice) -> None:
        """Say something."""
        role = {"error": "hard", "done": "calm"}.get(notice.kind, "ink")
        self.words.setStyleSheet(f"color: {colour(role).name()}")
        self.kind = notice.kind
        self.words.setText(notice.text)
        self._away.show()
        self.show()
        self.changed.emit()
        if notice.kind == "error":
            self._timer.stop()
        else:
            self._timer.start(_NOTE_MS)

    def put_away(self) -> None:
        """Say nothing any more; a running job stays in sight."""
        self.kind = ""
        self.words.clear()
        self._away.hide()
        self.setVisible(self._desk.job is not None)

    def _show_job(self) -> None:
        job = self._desk.job
        running = job is not None and not job.finished
        for widget in (self._job, self._bar, self._stop):
            widget.setVisible(running)
        if job is not None and running:
            self._job.setText(f"{job.name} …")
            self._bar.setValue(round(job.progress * 1000))
        self.setVisible(running or bool(self.words.text()))
        self.changed.emit()
