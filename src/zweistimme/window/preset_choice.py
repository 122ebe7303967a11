"""In which presets a version is handed over, beside the mix that the video has."""

from __future__ import annotations

from functools import partial

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtGui import QAction
from PyQt6.QtWidgets import QMenu, QPushButton, QWidget

from zweistimme.messages import msg_act, tr
from zweistimme.project.delivery_edits import choose_presets
from zweistimme.project.sound_delivery import SoundPreset, presets_of
from zweistimme.window.bridge import Desk
from zweistimme.window.preset_words import in_short


class PresetChoice(QPushButton):
    """Says which presets there are for the version on the desk; opened, each is taken or left."""

    edit_wanted = pyqtSignal()

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._desk = desk
        self.setToolTip(tr("In which presets the sound of this version is written, beside the mix of the video"))
        self._menu = QMenu(self)
        self._menu.setToolTipsVisible(True)
        self._menu.aboutToShow.connect(self._list)
        self.setMenu(self._menu)

    def refresh(self) -> None:
        """Show which are taken."""
        version = self._desk.version
        chosen = version.presets if version else ()
        words = ", ".join(chosen) if chosen else tr("no presets")
        self.setText(words if len(words) < 40 else tr("{n:preset|presets}", n=len(chosen)))
        self.setAccessibleName(tr("Presets of this version: {which}", which=words))
        self.setEnabled(version is not None)

    def _list(self) -> None:
        version = self._desk.version
        self._menu.clear()
        if version is None:
            return
        for name, preset in presets_of(self._desk.project.presets).items():
            self._menu.addAction(self._action(name, preset, name in version.presets))
        self._menu.addSeparator()
        more = self._menu.addAction(tr("Look at presets, make one of your own"))
        assert more is not None
        more.triggered.connect(lambda _on=False: self.edit_wanted.emit())

    def _action(self, name: str, preset: SoundPreset, chosen: bool) -> QAction:
        action = QAction(f"{name}  ·  {in_short(preset)}", self._menu)
        action.setCheckable(True)
        action.setChecked(chosen)
        action.triggered.connect(partial(self._choose, name))
        return action

    def _choose(self, name: str, checked: bool) -> None:
        version = self._desk.version
        if version is not None:
            names = (*version.presets, name) if checked else tuple(one for one in version.presets if one != name)
            self._desk.apply(msg_act("Choose presets"), partial(choose_presets, tag=version.tag, names=names))
