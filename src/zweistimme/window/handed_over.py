"""Which versions are handed over."""

from __future__ import annotations

from functools import partial

from PyQt6.QtGui import QAction
from PyQt6.QtWidgets import QMenu, QPushButton, QWidget

from zweistimme.messages import tr
from zweistimme.project.delivery_edits import leave_out
from zweistimme.project.languages import own_name
from zweistimme.window.bridge import Desk


class HandedOver(QPushButton):
    """Says which versions a hand-over holds; opened, each can be left out or taken in."""

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._desk = desk
        self.setToolTip(tr("Which versions the files hold; one that is left out is worked on all the same"))
        self._menu = QMenu(self)
        self._menu.aboutToShow.connect(self._list_versions)
        self.setMenu(self._menu)
        self._list_versions()

    def refresh(self) -> None:
        """Show how many there are."""
        versions = self._desk.project.versions
        held = [tag for tag, version in versions.items() if not version.left_out]
        if len(held) == 1:
            words = own_name(held[0])
        elif len(held) == len(versions):
            words = tr("All {n:version|versions}", n=len(versions))
        else:
            words = tr("{n:version|versions} of {all}", n=len(held), all=len(versions))
        self.setText(words)
        self.setAccessibleName(tr("Versions handed over: {which}", which=words))

    def _list_versions(self) -> None:
        self._menu.clear()
        for tag, version in self._desk.project.versions.items():
            action = QAction(own_name(tag), self._menu)
            action.setCheckable(True)
            action.setChecked(not version.left_out)
            action.triggered.connect(partial(self._choose, tag))
            self._menu.addAction(action)

    def _choose(self, tag: str, checked: bool) -> None:
        if checked:
            self._desk.apply(f"Take in {tag}", partial(leave_out, tag=tag, left_out=False))
        else:
            self._desk.apply(f"Leave out {tag}", partial(leave_out, tag=tag, left_out=True))
