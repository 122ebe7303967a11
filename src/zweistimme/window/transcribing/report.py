"""What the latest job had to say, whole: the repairs of an imported file, sentences that were not heard."""

from __future__ import annotations

from PyQt6.QtWidgets import QLabel, QListWidget, QVBoxLayout, QWidget

from zweistimme.messages import msg, tr
from zweistimme.window.theme import SMALL_PT, font

NAME = msg("What was said")


class ReportPanel(QWidget):
    """A list that can be read in peace; the notice bar shows only the latest."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.about = QLabel()
        self.about.setFont(font(SMALL_PT))
        self.list = QListWidget()
        self.list.setWordWrap(True)
        self.list.setAccessibleName(tr("What was said"))
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(self.about)
        column.addWidget(self.list, 1)
        self.setFocusProxy(self.list)

    def show_said(self, job: str, said: list[str]) -> None:
        """Show the sentences of a job."""
        count = len(said)
        self.about.setText(tr("“{job}” is done and had {n:thing|things} to say.", job=job, n=count))
        self.list.clear()
        self.list.addItems(said)
