"""Choosing the wordings that fit, for the whole version at once: what would change is seen before it does."""

from __future__ import annotations

from functools import partial
from typing import Final

from PyQt6.QtGui import QShowEvent
from PyQt6.QtWidgets import QPushButton

from zweistimme.messages import msg, number, tr
from zweistimme.stages.translate.choosing import Choice, Choices, choices_that_fit, choose
from zweistimme.window.background import Latest
from zweistimme.window.bridge import Desk
from zweistimme.window.change_table import ChangePanel, ChangeRow, ChangeTable

NAME: Final = msg("Choose what fits")
Found = tuple[str, Choices]


class ChoosingPanel(ChangePanel):
    """Counted on a thread of its own each time it is opened."""

    def __init__(self, desk: Desk) -> None:
        self.again, self.take = QPushButton(tr("Look again")), QPushButton(tr("Choose what is ticked"))
        table = ChangeTable((tr("Seconds"), tr("Tempo")), tr("Wordings that fit better"), tr("Change"))
        super().__init__(desk, table, [self.again, self.take])
        self._tag = ""
        self.choices: tuple[Choice, ...] = ()
        self._latest = Latest("choosing", self)
        self._latest.ready.connect(self._show)
        self.again.clicked.connect(lambda _checked=False: self.look())
        self.take.clicked.connect(lambda _checked=False: self._take())
        self.list.ticked.connect(lambda: self.take.setEnabled(bool(self.list.wanted())))
        desk.version_changed.connect(lambda _tag: self.look() if self.isVisible() else None)
        self.setFocusProxy(self.take)

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self.look()

    def look(self) -> None:
        """Find what would be chosen in the version on the desk."""
        project, tag = self._desk.project, self._desk.tag
        self.list.fill((), tag)
        if self._desk.version is not None:
            self.say(tr("Looking for the wordings that fit …"))
            self._latest.want(lambda: (tag, choices_that_fit(project, tag)))

    def _show(self, found: Found) -> None:
        self._tag, result = found
        if self._tag != self._desk.tag:
            return
        self.choices = result.choices
        shares = {"before": round(100 * result.comfort_before), "after": round(100 * result.comfort_after)}
        self.say(
            tr(
                "{n:line|lines} would be worded otherwise; at a comfortable tempo {after} % instead of {before} %.",
                n=len(self.choices),
                **shares,
            )
            if self.choices
            else tr("No other wording on offer fits better; {before} % are at a comfortable tempo.", **shares)
        )
        self.list.fill([_row(choice) for choice in self.choices], self._tag)

    def _take(self) -> None:
        wanted = [self.choices[place] for place in self.list.wanted()]
        if self._tag != self._desk.tag:
            self.look()
            return
        if self._desk.apply("Choose what fits", partial(choose, tag=self._tag, choices=wanted)):
            lines = self._desk.project.versions[self._tag].lines
            there = [one for one in wanted if one.segment_id in lines and lines[one.segment_id].text == one.after]
            self._desk.notice("done", tr("{n:line is|lines are} worded otherwise.", n=len(there)))
        self.look()

    def close_parts(self) -> None:
        self._latest.close()


def _row(choice: Choice) -> ChangeRow:
    seconds = f"{number(choice.before_s, '.1f')} → {number(choice.after_s, '.1f')}"
    tempo = f"×{number(choice.before_tempo, '.2f')} → ×{number(choice.after_tempo, '.2f')}"
    return ChangeRow(choice.segment_id, choice.number, seconds, choice.before, choice.after, (tempo,))
