"""A version said back in the language of the original, beside it, the worst first."""

from __future__ import annotations

from typing import Final

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtGui import QShowEvent
from PyQt6.QtWidgets import QComboBox, QMessageBox, QPushButton

from zweistimme.engines.offers import Role
from zweistimme.engines.registry import engine
from zweistimme.messages import money, msg, msg_act, number, tr
from zweistimme.project.languages import language_name, same_language, spoken_tag
from zweistimme.stages.engine_choice import engine_for, pair_known
from zweistimme.stages.translate.saying_back import SaidBack, say_back, sayable
from zweistimme.stages.work import Work
from zweistimme.window.bridge import Desk
from zweistimme.window.change_table import ChangePanel, ChangeRow, ChangeTable
from zweistimme.window.choices import fill

NAME: Final = msg("Said back")
SAYING: Final = msg_act("Say a version back")
_MOST: Final = 500


class SayingBackPanel(ChangePanel):
    """Asks for what is chosen, or for all; reads beside whatever else is done."""

    _took = pyqtSignal(str, list)

    def __init__(self, desk: Desk) -> None:
        self.chosen, self.all = QPushButton(tr("What is chosen")), QPushButton(tr("The whole version"))
        heads, name = (tr("Alike"), tr("Wording")), tr("Wordings said back, the worst first")
        self.by = QComboBox()
        self.by.setAccessibleName(tr("By way of another language"))
        self.by.setToolTip(tr("By way of another language"))
        table = ChangeTable(heads, name, tr("Said back"), wide=(3,))
        super().__init__(desk, table, [self.by, self.chosen, self.all])
        self._tag = ""
        self.said: dict[str, SaidBack] = {}
        self._took.connect(self._take_over)
        self.say(tr("Have wordings put back into the language of the original, and compare."))
        self.chosen.clicked.connect(lambda _checked=False: self.ask(desk.chosen_ids()))
        self.all.clicked.connect(lambda _checked=False: self.ask([one.id for one in desk.project.segments]))
        self.setFocusProxy(self.chosen)
        desk.changed.connect(lambda _change: self._forget())
        desk.version_changed.connect(lambda _tag: self._forget())

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self._offer_ways()

    def _offer_ways(self) -> None:
        """Languages that the engine knows the way to and back from."""
        desk = self._desk
        name = engine_for(desk.project, Role.TRANSLATE, desk.tag)
        info = desk.book.tests[name].info if name in desk.book.tests else None
        tags = {end for _, end in info.pairs} if info is not None and desk.tag else set()
        ends = [spoken_tag(desk.tag), desk.project.source_tag] if desk.tag else []
        known = [
            tag for tag in sorted(tags)
            if not any(same_language(tag, end) for end in ends)
            and info is not None and pair_known(info, ends[0], tag) and pair_known(info, tag, ends[1])
        ]  # fmt: skip
        ways = [(tr("by {language}", language=language_name(tag)), tag, "") for tag in known]
        fill(self.by, [(tr("directly"), "", ""), *ways], self.by.currentData() or "")
        self.by.setVisible(bool(known))

    def ask(self, ids: list[str]) -> None:
        """Have these lines said back, once what that costs is agreed to."""
        desk = self._desk
        if desk.version is None or not ids or not self._agreed(ids):
            return
        tag, name, by = desk.tag, engine_for(desk.project, Role.TRANSLATE, desk.tag), self.by.currentData() or ""

        def stage(work: Work) -> None:
            say_back(work, engine(name), tag, ids, lambda said: self._took.emit(tag, said), by)

        desk.jobs.read(SAYING, stage)

    def _agreed(self, ids: list[str]) -> bool:
        desk = self._desk
        name = engine_for(desk.project, Role.TRANSLATE, desk.tag)
        info = desk.book.tests[name].info if name in desk.book.tests else None
        letters = sum(len(item.text) for item in sayable(desk.project, desk.tag, ids))
        ways = 2 if self.by.currentData() else 1
        cost = info.price.of(ways * letters) if info is not None else None
        if cost is None or not cost.amount:
            return True
        words = tr(
            "Saying back {n:line|lines} costs about {price}.", n=len(ids), price=money(cost.amount, cost.currency, 4)
        )
        buttons = QMessageBox.StandardButton.Yes | QMessageBox.StandardButton.No
        return QMessageBox.question(self, tr(NAME), words, buttons) == QMessageBox.StandardButton.Yes

    def _take_over(self, tag: str, said: list[SaidBack]) -> None:
        if tag != self._desk.tag:
            return
        if tag != self._tag:
            self.said, self._tag = {}, tag
        self.said |= {one.segment_id: one for one in said}
        self._show()

    def _forget(self) -> None:
        """What was said back of a wording that is another by now, or of another version, says nothing any more."""
        version = self._desk.version
        lines = version.lines if version is not None and self._desk.tag == self._tag else {}
        kept = {
            key: one for key, one in self.said.items() if key in lines and lines[key].text.strip() == one.text
        }  # fmt: skip
        if len(kept) != len(self.said):
            self.said = kept
            self._show()

    def _show(self) -> None:
        worst = sorted(self.said.values(), key=lambda one: one.score)[:_MOST]
        self.list.fill([_row(one) for one in worst], self._desk.project.source_tag)
        mean = sum(one.score for one in self.said.values()) / max(1, len(self.said))
        self.say(
            tr("{n:line|lines} said back, alike by {mean} of 100 in the mean.", n=len(self.said), mean=round(mean))
            if self.said
            else tr("Have wordings put back into the language of the original, and compare.")
        )


def _row(one: SaidBack) -> ChangeRow:
    return ChangeRow(
        one.segment_id, one.number, number(one.score, ".0f"), one.source, one.back, (one.text,), ticked=None
    )
