"""Hand-over: where the files go, what was written, and how it measured."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

from PyQt6.QtCore import Qt, QUrl, pyqtSignal
from PyQt6.QtGui import QDesktopServices
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QFileDialog,
    QHBoxLayout,
    QHeaderView,
    QLabel,
    QLineEdit,
    QPushButton,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from zweistimme.project.progress import Step, progress
from zweistimme.stages.handover import MANIFEST
from zweistimme.window.bridge import Desk
from zweistimme.window.page import Page
from zweistimme.window.theme import TITLE_PT, font


class HandoverPage(Page):
    """The last page of the work."""

    wanted = pyqtSignal(Path)
    """Hand over into this folder."""

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._desk = desk
        column = QVBoxLayout(self)
        column.setContentsMargins(28, 20, 28, 20)
        column.setSpacing(8)
        title = QLabel("Hand-over")
        title.setFont(font(TITLE_PT + 2, bold=True))
        column.addWidget(title)
        self._state = QLabel()
        self._state.setWordWrap(True)
        self._state.setProperty("faded", True)
        column.addWidget(self._state)
        row = QHBoxLayout()
        self.folder = QLineEdit(str(desk.document.folder / "handover"))
        self.folder.setAccessibleName("Folder for the files")
        choose, write, show = QPushButton("Choose …"), QPushButton("Write files  ▸"), QPushButton("Show folder")
        choose.setToolTip("Choose the folder for the files")
        write.setObjectName("continue")
        write.setToolTip("Write mixes, stems, captions and the video, and measure each")
        show.setToolTip("Open the folder in the file manager")
        choose.clicked.connect(self._choose)
        write.clicked.connect(lambda: self.wanted.emit(Path(self.folder.text()).expanduser()))
        show.clicked.connect(lambda: QDesktopServices.openUrl(QUrl.fromLocalFile(self.folder.text())))
        row.addWidget(QLabel("Folder"))
        row.addWidget(self.folder, 1)
        for widget in (choose, show, write):
            row.addWidget(widget)
        column.addLayout(row)
        self.table = QTableWidget(0, 5)
        self.table.setHorizontalHeaderLabels(["File", "What it is", "Language", "Size", "As measured from the file"])
        self.table.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.table.setShowGrid(False)
        self.table.setAlternatingRowColors(True)
        header, side = self.table.horizontalHeader(), self.table.verticalHeader()
        assert header is not None
        assert side is not None
        side.hide()
        header.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
        header.setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
        header.setStretchLastSection(True)
        column.addWidget(self.table, 1)
        desk.changed.connect(lambda _change: self._refresh_if_seen())
        desk.version_changed.connect(lambda _tag: self._refresh_if_seen())

    def showEvent(self, event: object) -> None:
        self.refresh()

    def _refresh_if_seen(self) -> None:
        """What nobody sees is made when it is shown."""
        if self.isVisible():
            self.refresh()

    def refresh(self) -> None:
        """Show what is in the hand-over folder."""
        project, version = self._desk.project, self._desk.version
        if version is not None:
            state = progress(project, version)
            fitted = state[Step.FIT]
            if version.delivery is None:
                words = f"Nothing is written yet. {fitted.done} of {fitted.total} lines of {version.tag} are fitted."
            elif state[Step.HANDOVER].done:
                words = f"{version.tag} is handed over as it stands now."
                self.folder.setText(version.delivery.folder)
            else:
                words = f"{version.tag} has changed since it was handed over. Write the files again."
            self._state.setText(words)
        self._fill(Path(self.folder.text()))

    def _fill(self, folder: Path) -> None:
        try:
            entries = json.loads((folder / MANIFEST).read_text(encoding="utf-8"))["files"]
        except (OSError, ValueError, KeyError):
            entries = []
        self.table.setRowCount(len(entries))
        for row, entry in enumerate(entries):
            cells = (entry["name"], entry["kind"], entry["language"], _size(entry["size_bytes"]), _figures(entry))
            for place, text in enumerate(cells):
                self.table.setItem(row, place, QTableWidgetItem(text))

    def _choose(self) -> None:
        folder = QFileDialog.getExistingDirectory(self, "Folder for the files", self.folder.text())
        if folder:
            self.folder.setText(folder)
            self._fill(Path(folder))


def _size(count: int) -> str:
    """A size as people read it."""
    return f"{count / 1e6:.1f} MB" if count >= 100_000 else f"{count / 1e3:.1f} kB"


def _figures(entry: dict[str, Any]) -> str:
    """The figures of a manifest entry, in words."""
    measured = entry["measured"]
    if "loudness_lufs" in measured:
        loud, peak = measured["loudness_lufs"], measured["true_peak_dbtp"]
        if loud is None:
            return f"silent, {measured['duration_s']:.1f} s"
        return f"{loud:.1f} LUFS, true peak {peak:.1f} dBTP, {measured['duration_s']:.1f} s"
    if "count" in measured:
        return (
            f"{measured['count']} captions, up to {measured['fastest']} letters a second, "
            f"{measured['too_fast']} too fast, longest line {measured['longest_line']:g}"
        )
    tracks = measured.get("tracks", [])
    kinds = {kind: sum(1 for track in tracks if track["kind"] == kind) for kind in ("video", "audio", "subtitle")}
    untouched = "picture untouched" if measured.get("picture_untouched") else "picture differs"
    return f"{kinds['video']} picture ({untouched}), {kinds['audio']} sound and {kinds['subtitle']} caption tracks"
