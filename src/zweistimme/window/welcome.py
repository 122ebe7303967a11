"""The first page: open the demo, bring in a programme, or go on with a project."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QDragEnterEvent, QDropEvent
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from zweistimme.messages import tr
from zweistimme.store.names import DATABASE
from zweistimme.window.recent import recent_projects
from zweistimme.window.sign import Sign
from zweistimme.window.theme import SMALL_PT, TITLE_PT, font, tint


class WelcomePage(QWidget):
    """What to do next when nothing is open."""

    demo_wanted = pyqtSignal()
    media_wanted = pyqtSignal()
    opening_wanted = pyqtSignal()
    media_dropped = pyqtSignal(Path)
    project_wanted = pyqtSignal(Path)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setAcceptDrops(True)
        outer = QHBoxLayout(self)
        outer.addStretch(1)
        column = QVBoxLayout()
        column.setSpacing(10)
        outer.addLayout(column, 2)
        outer.addStretch(1)
        column.addStretch(2)
        head = QHBoxLayout()
        head.addWidget(Sign())
        name = QLabel("Zweistimme")
        name.setFont(font(24, bold=True))
        head.addWidget(name)
        head.addStretch(1)
        column.addLayout(head)
        about = QLabel(
            tr("A desk for dubbing: what is said on the left, what will be said on the right, time running down.")
        )
        about.setProperty("faded", True)
        about.setWordWrap(True)
        column.addWidget(about)
        column.addSpacing(14)
        self.demo = self._choice(
            column,
            tr("Open the demo"),
            tr("The Tide Clock of Varnholm: 85 seconds, three speakers, German and Spanish."),
        )
        self.demo.clicked.connect(self.demo_wanted)
        self.media = self._choice(
            column, tr("Bring in a programme …"), tr("A video or sound file; or drop one anywhere on this page.")
        )
        self.media.clicked.connect(self.media_wanted)
        self.open = self._choice(column, tr("Open a project …"), tr("The folder of a project made before."))
        self.open.clicked.connect(self.opening_wanted)
        column.addSpacing(16)
        self._recent_title = QLabel(tr("Lately open"))
        self._recent_title.setFont(font(TITLE_PT, bold=True))
        column.addWidget(self._recent_title)
        self._recent = QVBoxLayout()
        self._recent.setSpacing(2)
        column.addLayout(self._recent)
        self.words = QLabel()
        self.words.setWordWrap(True)
        self.words.setTextFormat(Qt.TextFormat.PlainText)
        tint(self.words, "hard")
        column.addWidget(self.words)
        column.addStretch(3)
        self.refresh()

    def _choice(self, column: QVBoxLayout, title: str, about: str) -> QPushButton:
        row = QHBoxLayout()
        button = QPushButton(title)
        button.setMinimumWidth(210)
        button.setMinimumHeight(36)
        label = QLabel(about)
        label.setWordWrap(True)
        label.setProperty("faded", True)
        row.addWidget(button)
        row.addSpacing(10)
        row.addWidget(label, 1)
        column.addLayout(row)
        return button

    def refresh(self) -> None:
        """Show the projects that were open lately."""
        while (item := self._recent.takeAt(0)) is not None:
            widget = item.widget()
            if widget is not None:
                widget.deleteLater()
        projects = recent_projects()
        self._recent_title.setVisible(bool(projects))
        for folder in projects:
            button = QPushButton(f"{folder.name}   {folder.parent}")
            button.setObjectName("link")
            button.setFont(font(SMALL_PT + 1))
            button.setToolTip(tr("Open {folder}", folder=folder))
            button.clicked.connect(lambda _on=False, folder=folder: self.project_wanted.emit(folder))
            self._recent.addWidget(button, alignment=Qt.AlignmentFlag.AlignLeft)

    def say(self, words: str) -> None:
        """Say why something could not be opened."""
        self.words.setText(words)

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        data = event.mimeData() if event else None
        if event is not None and data is not None and data.hasUrls():
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent | None) -> None:
        data = event.mimeData() if event else None
        if data is None or not data.urls():
            return
        path = Path(data.urls()[0].toLocalFile())
        if (path / DATABASE).is_file():
            self.project_wanted.emit(path)
        else:
            self.media_dropped.emit(path)
