"""Engines compared: the same lines by several of them, side by side, blind if wanted; taken line by line or all."""

from __future__ import annotations

import random
from collections import Counter
from functools import partial
from typing import Final

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtGui import QShowEvent
from PyQt6.QtWidgets import QCheckBox, QComboBox, QMessageBox, QPushButton, QToolButton

from zweistimme.engines.offers import EngineInfo
from zweistimme.engines.registry import engine
from zweistimme.messages import money, msg, msg_act, number, tr
from zweistimme.project.facts import spoken_segments
from zweistimme.stages.engine_choice import pair_known
from zweistimme.stages.translate.comparing import Candidate, Compared, Comparison, compare, take_wordings
from zweistimme.stages.work import Work
from zweistimme.window.bridge import Desk
from zweistimme.window.change_table import ChangePanel, ChangeRow, ChangeTable
from zweistimme.window.layouts import checkable_menu

NAME: Final = msg("Engines compared")
COMPARING: Final = msg_act("Compare engines")
_MOST_TICKED: Final = 3
_MOST_LINES: Final = 300
_LETTERS: Final = "ABCDEFGH"


class ComparingPanel(ChangePanel):
    """Asks for what is chosen, or for all; reads beside whatever else is done."""

    _took = pyqtSignal(str, object)

    def __init__(self, desk: Desk) -> None:
        self.engines, self.blind = QToolButton(), QCheckBox(tr("blind"))
        self.engines.setText(tr("Engines"))
        self.engines.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        self.blind.setToolTip(tr("Who says what is shown once you have chosen"))
        self.chosen, self.all = QPushButton(tr("What is chosen")), QPushButton(tr("The whole version"))
        self.every = QComboBox()
        self.every.setAccessibleName(tr("Tick everything of one engine"))
        self.take = QPushButton(tr("Take what is ticked"))
        heads = (tr("Engine"), tr("Seconds"), tr("Noticed"), tr("Alike"))
        table = ChangeTable(heads, tr("Wordings of several engines"), tr("Against what is there"))
        super().__init__(
            desk, table, [self.engines, self.blind, self.chosen, self.all, self.every, self.take]
        )  # fmt: skip
        self.comparison = Comparison((), ())
        self._tag = ""
        self._without: set[str] = set()
        """Engines that somebody does not want."""
        self._shown: list[tuple[Compared, Candidate]] = []
        self._before: set[tuple[str, str, str]] = set()
        """What was ticked before the last tick."""
        self._took.connect(self._take_over)
        self.chosen.clicked.connect(lambda _checked=False: self.ask(desk.chosen_ids()))
        self.all.clicked.connect(lambda _checked=False: self.ask([one.id for one in spoken_segments(desk.project)]))
        self.blind.toggled.connect(lambda _on: self._show())
        self.every.activated.connect(lambda _index: self._show(self.every.currentData() or ""))
        self.take.clicked.connect(lambda _checked=False: self._take())
        table.ticked.connect(self._one_each)
        desk.version_changed.connect(lambda _tag: self._forget())
        desk.book.changed.connect(self._offer_engines)
        self.setFocusProxy(self.chosen)
        self._forget()

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self._offer_engines()

    def known(self) -> dict[str, EngineInfo]:
        """Engines that know the way into the version on the desk."""
        desk = self._desk
        infos = {name: test.info for name, test in desk.book.tests.items() if test.info is not None}
        return {
            name: info
            for name, info in infos.items()
            if desk.tag and pair_known(info, desk.project.source_tag, desk.tag)
        }

    def _offer_engines(self) -> None:
        names = list(self.known())
        ticked = [name for name in names if name not in self._without][:_MOST_TICKED]
        self.engines.setMenu(checkable_menu(self.engines, names, ticked, self._ticked))
        self._count()

    def _ticked(self) -> None:
        self._without = set(self.known()) - set(self.wanted())
        self._count()

    def wanted(self) -> list[str]:
        """The engines that are ticked."""
        menu = self.engines.menu()
        return [action.text() for action in menu.actions() if action.isChecked()] if menu is not None else []

    def _count(self) -> None:
        there = bool(self.wanted()) and self._desk.version is not None
        self.engines.setText(tr("{n:engine|engines}", n=len(self.wanted())))
        self.chosen.setEnabled(there)
        self.all.setEnabled(there)

    def ask(self, ids: list[str]) -> None:
        """Have these lines put by all that are ticked, once what that costs is agreed to."""
        desk, tag, names = self._desk, self._desk.tag, self.wanted()
        if desk.version is None or not ids or not names or not self._agreed(ids, names):
            return

        def stage(work: Work) -> None:
            compare(work, [engine(name) for name in names], tag, ids, lambda found: self._took.emit(tag, found))

        desk.jobs.read(COMPARING, stage)

    def _agreed(self, ids: list[str], names: list[str]) -> bool:
        known, wanted = self.known(), set(ids)
        letters = sum(len(one.text) for one in self._desk.project.segments if one.id in wanted)
        costs = [cost for name in names if (cost := known[name].price.of(letters)).amount]
        if not costs:
            return True
        price = " + ".join(money(cost.amount, cost.currency, 4) for cost in costs)
        words = tr("Comparing {n:line|lines} costs about {price}.", n=len(ids), price=price)
        buttons = QMessageBox.StandardButton.Yes | QMessageBox.StandardButton.No
        return QMessageBox.question(self, tr(NAME), words, buttons) == QMessageBox.StandardButton.Yes

    # what is shown

    def _forget(self) -> None:
        self.comparison = Comparison((), ())
        self._offer_engines()
        self._show()

    def _take_over(self, tag: str, found: Comparison) -> None:
        if tag == self._desk.tag:
            self.comparison, self._tag = found, tag
            self._show()

    def _ticks(self, engine: str = "") -> set[tuple[str, str, str]]:
        """Of open lines all that *engine* says; else what is ticked now, so that a later result unticks nothing."""
        if engine:
            rows = [(line, one) for line, one in self._rows() if one.engine == engine and not line.settled]
        else:
            rows = [self._shown[place] for place in self.list.wanted()]
        return {_key(line, one) for line, one in rows}

    def _one_each(self) -> None:
        """A line takes one wording: the tick made last takes the others of its line away."""
        wanted = self.list.wanted()
        times = Counter(self._shown[place][0].segment_id for place in wanted)
        for place in wanted:
            line, one = self._shown[place]
            if times[line.segment_id] > 1 and _key(line, one) in self._before:
                self.list.untick(place)
        self._before = self._ticks()
        self.take.setEnabled(bool(self._before))

    def _rows(self) -> list[tuple[Compared, Candidate]]:
        return [(line, one) for line in self.comparison.lines[:_MOST_LINES] for one in line.candidates]

    def _show(self, engine: str = "") -> None:
        """A row for each wording; all that *engine* says is ticked, if one is given."""
        blind, ticks = self.blind.isChecked(), self._ticks(engine)
        self._shown = self._rows()
        if blind:  # in another order for each line, always the same for one
            self._shown.sort(key=lambda row: (row[0].number, random.Random(":".join(_key(*row))).random()))
        letters: dict[str, int] = {}
        rows = []
        for line, one in self._shown:
            place = letters[line.segment_id] = letters.get(line.segment_id, -1) + 1
            rows.append(_row(line, one, _LETTERS[place] if blind else one.engine, ticked=_key(line, one) in ticks))
        self.list.fill(rows, self._desk.tag)
        names = [one.engine for one in self.comparison.asked]
        self.every.clear()
        self.every.addItem(tr("tick all of …"), "")
        for name in [] if blind else names:
            self.every.addItem(name, name)
        self.every.setCurrentIndex(max(0, self.every.findData(engine)))
        self.every.setEnabled(not blind and bool(names))
        self.say(self._words(blind))

    def _words(self, blind: bool) -> str:
        if not self.comparison.asked:
            return tr("Have the same lines put by several engines.")
        count = len(self.comparison.lines)
        if blind:
            words = [tr("{n:line|lines}; who says what is not shown.", n=count)]
        else:
            words = [
                tr(
                    "{engine}: {price}, {seconds:.1f} s", engine=one.engine, seconds=one.seconds,
                    price=money(one.cost.amount, one.cost.currency, 4) if one.cost.amount else tr("free"),
                )
                for one in self.comparison.asked
            ]  # fmt: skip
        if count > _MOST_LINES:
            words.append(tr("{n:line|lines}; the first {most} are shown.", n=count, most=_MOST_LINES))
        return "   ".join(words)

    def _take(self) -> None:
        tag = self._desk.tag
        wanted = [self._shown[place] for place in self.list.wanted()]
        if tag != self._tag or not wanted:
            return
        rows = [(line.segment_id, one.text, one.engine) for line, one in wanted]
        if self._desk.apply("Take wordings of engines", partial(take_wordings, tag=tag, wanted=rows)):
            count = Counter(one.engine for _, one in wanted)
            said = ", ".join(f"{name}: {times}" for name, times in sorted(count.items()))
            self._desk.notice("done", tr("{n:line was|lines were} taken. {said}", n=len(rows), said=said))


def _row(line: Compared, one: Candidate, name: str, *, ticked: bool) -> ChangeRow:
    more = (number(one.spoken_s, ".1f"), str(one.remarks) if one.remarks else "", number(one.alike, ".0f"))
    return ChangeRow(line.segment_id, line.number, name, line.present, one.text, more, ticked)


def _key(line: Compared, one: Candidate) -> tuple[str, str, str]:
    """What a tick is for."""
    return line.segment_id, one.engine, one.text
