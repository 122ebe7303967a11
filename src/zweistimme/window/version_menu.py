"""The versions of a project: another language is added, one is taken away."""

from __future__ import annotations

from PyQt6.QtWidgets import QInputDialog, QMenu, QMessageBox, QWidget

from zweistimme.messages import tr
from zweistimme.project.edits import add_version, remove_version
from zweistimme.project.languages import own_name
from zweistimme.window.bridge import Desk
from zweistimme.window.new_project import COMMON_TAGS


class VersionMenu(QMenu):
    """What can be done with versions."""

    def __init__(self, desk: Desk, parent: QWidget) -> None:
        super().__init__(parent)
        self._desk = desk
        add, self.remove = self.addAction(tr("Add a version …")), self.addAction("")
        assert add is not None
        assert self.remove is not None
        add.triggered.connect(self.ask)
        self.remove.triggered.connect(self.ask_to_remove)
        self.aboutToShow.connect(self._refresh)

    def _refresh(self) -> None:
        tag = self._desk.tag
        assert self.remove is not None
        self.remove.setVisible(bool(tag))
        self.remove.setText(tr("Remove {version} …", version=own_name(tag)) if tag else "")

    def ask(self) -> None:
        """Ask for another language to dub into."""
        there = self._desk.project.versions
        tags = [tag for tag in COMMON_TAGS if tag not in there and tag != self._desk.project.source_tag]
        tag, given = QInputDialog.getItem(
            self.parentWidget(), tr("Add a version"), tr("Language to dub into"), tags, 0, True
        )
        if given:
            self.add(tag.strip())

    def add(self, tag: str) -> None:
        """Add a version and put it on the desk."""
        if self._desk.apply("Add a version", lambda project: add_version(project, tag)):
            self._desk.show_version(list(self._desk.project.versions)[-1])

    def ask_to_remove(self) -> None:
        """Ask whether the version on the desk is to go."""
        version = self._desk.version
        if version is None:
            return
        words = tr(
            "{version} goes with its {lines:line|lines} and {takes:take|takes}. Undo brings it back. Files that "
            "were handed over stay where they are.",
            version=own_name(version.tag),
            lines=len(version.lines),
            takes=len(version.takes),
        )
        buttons = QMessageBox.StandardButton.Yes | QMessageBox.StandardButton.Cancel
        answer = QMessageBox.question(self.parentWidget(), tr("Remove a version"), words, buttons)
        if answer == QMessageBox.StandardButton.Yes:
            tag = version.tag
            self._desk.apply(f"Remove {tag}", lambda project: remove_version(project, tag))
