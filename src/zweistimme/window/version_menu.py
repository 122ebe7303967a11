"""The versions of a project: another is added, one is named, hidden or taken away."""

from __future__ import annotations

from functools import partial

from PyQt6.QtGui import QAction
from PyQt6.QtWidgets import QInputDialog, QLineEdit, QMenu, QMessageBox, QWidget

from zweistimme.engines.offers import Role
from zweistimme.messages import tr
from zweistimme.project.edits import add_version, choose_engine, remove_version, rename_version
from zweistimme.project.errors import TagError
from zweistimme.project.languages import given_name, named_tag, own_name
from zweistimme.project.model import Project, Style
from zweistimme.project.regions import set_basis
from zweistimme.window.bridge import Desk


class VersionMenu(QMenu):
    """What can be done with versions."""

    def __init__(self, desk: Desk, parent: QWidget) -> None:
        super().__init__(parent)
        self._desk = desk
        self._entry(tr("Add a version …")).triggered.connect(self.ask)
        self.addSeparator()
        self.rename, self.hide_one, self.show_all, self.remove = (self._entry("") for _ in range(4))
        self.rename.triggered.connect(self.ask_name)
        self.hide_one.triggered.connect(lambda: self._desk.hide_version(self._desk.tag))
        self.show_all.triggered.connect(lambda: self._desk.hide_versions(()))
        self.remove.triggered.connect(self.ask_to_remove)
        self.aboutToShow.connect(self._refresh)

    def _entry(self, words: str) -> QAction:
        made = self.addAction(words)
        assert made is not None
        return made

    def _refresh(self) -> None:
        tag, hidden = self._desk.tag, len(self._desk.hidden)
        name = own_name(tag) if tag else ""
        for entry, words in (
            (self.rename, tr("Name {version} …", version=name)),
            (self.hide_one, tr("Hide {version}", version=name)),
            (self.remove, tr("Remove {version} …", version=name)),
        ):
            entry.setVisible(bool(tag))
            entry.setText(words)
        self.hide_one.setEnabled(len(self._desk.shown_versions()) > 1)
        self.show_all.setVisible(bool(hidden))
        self.show_all.setText(tr("Show {n:hidden version|hidden versions} again", n=hidden))

    def ask(self) -> None:
        """Ask for another language to dub into."""
        from zweistimme.window.adding_version import AddVersionDialog

        dialog = AddVersionDialog(self._desk, self.parentWidget())
        if dialog.exec() and dialog.answer is not None:
            answer = dialog.answer
            self.add(answer.tag, answer.style, answer.engine, answer.basis)

    def add(self, tag: str, style: Style = Style.PHRASE_SYNC, engine: str = "", basis: str = "") -> None:
        """Add a version, translated by an engine of its own if one is named, or with the words of another version (its
        *basis*), and put it on the desk."""

        def edit(project: Project) -> Project:
            added = add_version(project, tag, style)
            new = list(added.versions)[-1]
            added = set_basis(added, new, basis) if basis else added
            return choose_engine(added, Role.TRANSLATE, engine, new) if engine else added

        if self._desk.apply("Add a version", edit):
            self._desk.show_version(list(self._desk.project.versions)[-1])

    def ask_name(self) -> None:
        """Ask for a name of its own for the version on the desk."""
        tag = self._desk.tag
        name, given = QInputDialog.getText(
            self.parentWidget(),
            tr("Name a version"),
            tr("A name of its own, in small letters, so that its language can be there twice; empty for none"),
            QLineEdit.EchoMode.Normal,
            given_name(tag),
        )
        if given:
            self.name_it(tag, name)

    def name_it(self, tag: str, name: str) -> None:
        """Give a version a name of its own, and keep it on the desk."""
        try:
            wanted = named_tag(tag, name)
        except TagError as error:
            self._desk.notice("error", str(error))
            return
        if wanted != tag and self._desk.apply("Name a version", partial(rename_version, tag=tag, name=name)):
            self._desk.show_version(wanted)

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
