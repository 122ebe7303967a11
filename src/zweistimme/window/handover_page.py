"""Hand-over: where the files go, what was written, and how it measured."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any, Final

from PyQt6.QtCore import Qt, QUrl, pyqtSignal
from PyQt6.QtGui import QDesktopServices
from PyQt6.QtWidgets import (
    QFileDialog,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QPushButton,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from zweistimme.messages import msg, tr
from zweistimme.project.languages import own_name
from zweistimme.project.model import Project
from zweistimme.project.progress import Step, progress
from zweistimme.sentences import sentence_of
from zweistimme.stages.handover import MANIFEST, UNTRANSLATED, open_points, ready_versions
from zweistimme.window.background import Latest
from zweistimme.window.bridge import Desk
from zweistimme.window.caption_limits import CaptionLimitsRow
from zweistimme.window.handed_over import HandedOver
from zweistimme.window.layouts import list_table
from zweistimme.window.page import Page
from zweistimme.window.preset_choice import PresetChoice
from zweistimme.window.preset_editor import PresetEditor
from zweistimme.window.theme import TITLE_PT, font

_KINDS: Final = (
    msg("mix"), msg("voice stem"), msg("music and effects"), msg("room"), msg("person"), msg("captions"), msg("video"),
    msg("sound programme"),
)  # fmt: skip
"""What a manifest calls its files, which is the same in every language."""


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
        title = QLabel(tr("Hand-over"))
        title.setFont(font(TITLE_PT + 2, bold=True))
        column.addWidget(title)
        self._state = QLabel()
        self._state.setWordWrap(True)
        self._state.setProperty("faded", True)
        self.points = QLabel()
        self.points.setWordWrap(True)
        self.points.setTextFormat(Qt.TextFormat.PlainText)
        self.points.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        self.points.setAccessibleName(tr("What is not good about this version yet"))
        self.points.hide()
        self._looking = Latest("open points", self)
        self._looking.ready.connect(self._show_points)
        above = QHBoxLayout()
        above.addWidget(self._state, 1)
        self.versions, self.presets, self.editor = HandedOver(desk), PresetChoice(desk), PresetEditor(desk)
        self.presets.edit_wanted.connect(self._show_editor)
        above.addWidget(QLabel(tr("Sound also as")))
        above.addWidget(self.presets)
        above.addWidget(self.versions)
        column.addLayout(above)
        column.addWidget(self.points)
        row = QHBoxLayout()
        self.folder = QLineEdit(str(desk.document.folder / "handover"))
        self.folder.setAccessibleName(tr("Folder for the files"))
        choose, write, show = (
            QPushButton(tr("Choose …")),
            QPushButton(tr("Write files  ▸")),
            QPushButton(tr("Show folder")),
        )
        choose.setToolTip(tr("Choose the folder for the files"))
        write.setObjectName("continue")
        write.setToolTip(tr("Write mixes, stems, captions and the video, and measure each"))
        show.setToolTip(tr("Open the folder in the file manager"))
        choose.clicked.connect(self._choose)
        write.clicked.connect(lambda: self.wanted.emit(Path(self.folder.text()).expanduser()))
        show.clicked.connect(lambda: QDesktopServices.openUrl(QUrl.fromLocalFile(self.folder.text())))
        row.addWidget(QLabel(tr("Folder")))
        row.addWidget(self.folder, 1)
        for widget in (choose, show, write):
            row.addWidget(widget)
        column.addLayout(row)
        self.captions = CaptionLimitsRow(desk)
        column.addWidget(self.captions)
        column.addWidget(self.editor)
        self.editor.hide()
        heads = [tr("File"), tr("What it is"), tr("Language"), tr("Size"), tr("As measured from the file")]
        self.table = list_table(heads, tr("Files"), (4,))
        self.table.setAlternatingRowColors(True)
        column.addWidget(self.table, 1)
        desk.changed.connect(lambda _change: self._refresh_if_seen())
        desk.version_changed.connect(self._follow)

    def showEvent(self, event: object) -> None:
        self.refresh()

    def _follow(self, _tag: str) -> None:
        self.captions.follow_version()
        self._refresh_if_seen()

    def _refresh_if_seen(self) -> None:
        """What nobody sees is made when it is shown."""
        if self.isVisible():
            self.refresh()

    def refresh(self) -> None:
        """Show what is in the hand-over folder."""
        project, version = self._desk.project, self._desk.version
        for part in (self.presets, self.captions, self.versions):
            part.refresh()
        if version is not None:
            state, name = progress(project, version), own_name(version.tag)
            fitted = state[Step.FIT]
            if version.left_out:
                words = tr("{version} is left out: the files hold the other versions.", version=name)
            elif version.delivery is None:
                words = tr(
                    "Nothing is written yet. {done} of {total} lines of {version} are fitted.",
                    done=fitted.done,
                    total=fitted.total,
                    version=name,
                )
            elif state[Step.HANDOVER].done:
                words = tr("{version} is handed over as it stands now.", version=name)
                self.folder.setText(version.delivery.folder)
            else:
                words = tr("{version} has changed since it was handed over. Write the files again.", version=name)
            self._state.setText(words)
            tag = version.tag
            self._looking.want(lambda: (tag, _points(project, tag)))
        self._fill(Path(self.folder.text()))

    def _show_points(self, found: tuple[str, list[str]]) -> None:
        tag, sentences = found
        if tag == self._desk.tag:
            self.points.setText("\n".join(f"• {sentence}" for sentence in sentences))
            self.points.setVisible(bool(sentences))

    def close_parts(self) -> None:
        """End the thread that looks through the version."""
        self._looking.close()

    def _show_editor(self) -> None:
        """Presets are looked at, or no more."""
        self.editor.setVisible(not self.editor.isVisible())
        if self.editor.isVisible():
            self.editor.refresh()
            self.editor.list.setFocus()

    def _fill(self, folder: Path) -> None:
        try:
            entries = json.loads((folder / MANIFEST).read_text(encoding="utf-8"))["files"]
        except (OSError, ValueError, KeyError):
            entries = []
        self.table.setRowCount(len(entries))
        for row, entry in enumerate(entries):
            cells = (entry["name"], tr(entry["kind"]), entry["language"], _size(entry["size_bytes"]), _figures(entry))
            for place, text in enumerate(cells):
                self.table.setItem(row, place, QTableWidgetItem(text))

    def _choose(self) -> None:
        folder = QFileDialog.getExistingDirectory(self, tr("Folder for the files"), self.folder.text())
        if folder:
            self.folder.setText(folder)
            self._fill(Path(folder))


def _points(project: Project, tag: str) -> list[str]:
    """What is to be said before a version is handed over; on a thread of its own, since engines are asked."""
    _, held = ready_versions(project, [tag])
    points = (one for one in open_points(project, tag) if not held or one.code != UNTRANSLATED)  # said already
    return [*map(str, held), *map(sentence_of, points)]


def _size(count: int) -> str:
    """A size as people read it."""
    return tr("{size:.1f} MB", size=count / 1e6) if count >= 100_000 else tr("{size:.1f} kB", size=count / 1e3)


def _figures(entry: dict[str, Any]) -> str:
    """The figures of a manifest entry, in words."""
    measured = entry["measured"]
    if "loudness_lufs" in measured:
        loud, peak = measured["loudness_lufs"], measured["true_peak_dbtp"]
        if loud is None:
            return tr("silent, {duration_s:.1f} s", duration_s=measured["duration_s"])
        return tr(
            "{loud:.1f} LUFS, true peak {peak:.1f} dBTP, {duration_s:.1f} s",
            loud=loud,
            peak=peak,
            duration_s=measured["duration_s"],
        )
    if "count" in measured:
        return tr(
            "{count:caption|captions}, up to {fastest} letters a second, {too_fast} too fast, "
            "longest line {longest_line:g}",
            count=measured["count"],
            fastest=measured["fastest"],
            too_fast=measured["too_fast"],
            longest_line=measured["longest_line"],
        )
    tracks = measured.get("tracks", [])
    kinds = {kind: sum(1 for track in tracks if track["kind"] == kind) for kind in ("video", "audio", "subtitle")}
    untouched = tr("picture untouched") if measured.get("picture_untouched") else tr("picture differs")
    return tr(
        "{video} picture ({untouched}), {audio} sound and {subtitle} caption tracks",
        video=kinds["video"],
        untouched=untouched,
        audio=kinds["audio"],
        subtitle=kinds["subtitle"],
    )
