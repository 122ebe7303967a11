"""Directions proposed from how the original is said: each seen with its reason before it is taken over."""

from __future__ import annotations

from functools import partial
from typing import Final

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QPushButton

from zweistimme.engines.connections import BUNDLED
from zweistimme.engines.offers import Role
from zweistimme.messages import msg, msg_act, tr
from zweistimme.sentences.catalogue import sentence_of
from zweistimme.stages.voice.deliveries import DirectionProposed, give_directions, proposed_by_text, proposed_directions
from zweistimme.stages.work import Work
from zweistimme.window.bridge import Desk
from zweistimme.window.change_table import ChangePanel, ChangeRow, ChangeTable
from zweistimme.window.hearing_costs import agreed_to_read

NAME: Final = msg("Directions proposed")


class DirectingPanel(ChangePanel):
    """Listens to the original when asked; what is ticked is taken over."""

    _found = pyqtSignal(str, list)

    def __init__(self, desk: Desk) -> None:
        self.listen, self.take = QPushButton(tr("Listen to the original")), QPushButton(tr("Take over what is ticked"))
        self.read = QPushButton(tr("Read the wordings"))
        self.read.setToolTip(tr("Ask an engine in what tone each wording would be said"))
        table = ChangeTable((tr("Reason"),), tr(NAME), tr("Direction"))
        super().__init__(desk, table, [self.listen, self.read, self.take])
        self._tag = ""
        self.proposed: list[DirectionProposed] = []
        self._found.connect(self._show)
        self.listen.clicked.connect(lambda _checked: self._listen())
        self.read.clicked.connect(lambda _checked: self._read())
        self.take.clicked.connect(lambda _checked: self._take())
        self.list.ticked.connect(lambda: self.take.setEnabled(bool(self.list.wanted())))
        desk.version_changed.connect(lambda tag: self._show(tag, []))
        self.setFocusProxy(self.listen)
        self.take.setEnabled(False)
        self.say(tr("Each line is compared with its speaker's others."))

    def _listen(self) -> None:
        tag = self._desk.tag
        if self._desk.version is None:
            return

        def stage(work: Work) -> None:
            self._found.emit(tag, proposed_directions(work, tag))

        self._desk.jobs.read(msg_act("Listen how it is said"), stage)

    def _read(self) -> None:
        """Ask the first engine that senses tones, having said what it costs."""
        tag, tests = self._desk.tag, self._desk.book.tests
        able = [name for name, test in tests.items() if test.info is not None and Role.SENSE in test.info.roles]
        if self._desk.version is None or not able:
            self._desk.notice("note", tr("No engine is connected that tells the tone of a text."))
            return
        name = next((one for one in able if one != BUNDLED), able[0])
        if not agreed_to_read(self, self._desk, name):
            return

        def stage(work: Work) -> None:
            self._found.emit(tag, proposed_by_text(work, tag, name))

        self._desk.jobs.read(msg_act("Read in what tone it is said"), stage)

    def _show(self, tag: str, proposed: list[DirectionProposed]) -> None:
        if tag != self._desk.tag:
            return
        self._tag, self.proposed = tag, proposed
        rows = [
            ChangeRow(one.segment_id, one.number, sentence_of(one.why), one.before, one.direction) for one in proposed
        ]
        self.list.fill(rows, "en")
        self.say(tr("{n:direction|directions} proposed; lines that have one keep it.", n=len(proposed)))

    def _take(self) -> None:
        wanted = [self.proposed[place] for place in self.list.wanted()]
        if wanted and self._tag == self._desk.tag:
            label = msg_act("Take over directions")
            self._desk.apply(label, partial(give_directions, tag=self._tag, proposed=wanted))
            self._show(self._tag, [one for one in self.proposed if one not in wanted])
