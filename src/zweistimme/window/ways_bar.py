"""The selected line heard in several fits, from the close-up; blind, if wanted."""

from __future__ import annotations

import random
from functools import partial
from typing import Final

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QToolButton, QWidget

from zweistimme.messages import msg, tr
from zweistimme.project.model import Placement, Version
from zweistimme.stages.fit.ways import HeardWay, Way, heard_ways
from zweistimme.window.actions import BY_ID
from zweistimme.window.background import Latest
from zweistimme.window.bridge import Desk
from zweistimme.window.theme import SMALL_PT, font

_WORDS: Final = {
    Way.PLAIN: msg("as spoken"),
    Way.UNIFORM: msg("stretched to its slot"),
    Way.BY_LINE: msg("line by line"),
    Way.NOW: msg("as it is now"),
    Way.BEFORE: msg("as before"),
}


class WaysBar(QWidget):
    """A button for each fit; while it is blind they have letters in an order of chance, until one is revealed."""

    heard = pyqtSignal(object, float)
    """Samples to be played, and from when on the picture goes along."""

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._desk = desk
        self._order = list(Way)
        self._before: dict[tuple[str, str], Placement] = {}
        self._wanted: tuple[Way, str, str] | None = None
        """The fit that is to be heard, and the version and line it is of."""
        self._latest = Latest("fits heard", self)
        self._latest.ready.connect(self._play)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(2)
        self.buttons = [QToolButton() for _ in Way]
        self.blind = QToolButton()
        self.blind.setCheckable(True)
        self.blind.setText(tr("blind"))
        self.blind.setToolTip(tr("Hear them without knowing which is which; let go to see"))
        self.blind.toggled.connect(self._shuffle)
        for number, button in enumerate(self.buttons):
            button.clicked.connect(partial(self.hear, number))
        for button in (*self.buttons, self.blind):
            button.setFont(font(SMALL_PT))
            row.addWidget(button)
        desk.changed.connect(lambda change: self._remember(change.before.versions, change.after.versions))
        self._name()

    def close_parts(self) -> None:
        """End the thread."""
        self._latest.close()

    def _remember(self, before: dict[str, Version], after: dict[str, Version]) -> None:
        """Where the selected line was before it was moved."""
        tag, here = self._desk.tag, self._desk.segment_id
        was, now = (side[tag].placements.get(here) if tag in side else None for side in (before, after))
        if was is not None and now is not None and was != now:
            self._before[tag, here] = was

    def _shuffle(self, blind: bool) -> None:
        self._order = list(Way)
        if blind:
            random.shuffle(self._order)
        self._name()

    def _name(self) -> None:
        for number, (button, way) in enumerate(zip(self.buttons, self._order, strict=True)):
            button.setText("ABCDE"[number] if self.blind.isChecked() else tr(_WORDS[way]))
            key = BY_ID[f"way_{number + 1}"].key
            button.setToolTip(tr("Hear the line in this fit, the picture along with it ({key})", key=key))
            button.setAccessibleName(tr("Hear it {way}", way=button.text()))

    def hear(self, number: int, _checked: bool = False) -> None:
        """Hear the selected line in the fit with this number, from 0."""
        desk = self._desk
        if desk.version is None or desk.placed() is None:
            desk.notice("note", tr("Only a placed take can be heard in several fits. Fit this version first."))
            return
        self._wanted = (self._order[number], desk.tag, desk.segment_id)
        before = self._before.get((desk.tag, desk.segment_id))
        store, cache = desk.document.clips, desk.document.cache
        self._latest.want(partial(heard_ways, desk.project, desk.tag, desk.segment_id, store, cache, before))

    def _play(self, found: list[HeardWay]) -> None:
        if self._wanted is None or self._wanted[1:] != (self._desk.tag, self._desk.segment_id):
            return  # whoever asked is somewhere else by now
        one = next((way for way in found if way.way is self._wanted[0]), None)
        if one is not None:
            self.heard.emit(one.samples, float(one.start_us))
        else:
            self._desk.notice("note", tr("This line has not been anywhere else yet."))
