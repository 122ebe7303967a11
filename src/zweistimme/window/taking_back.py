"""Taking back a version that somebody looked over: every change is seen before it is made, and can be left out."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial
from pathlib import Path
from typing import Final

from PyQt6.QtWidgets import QPushButton

from zweistimme.messages import msg, tr
from zweistimme.project.errors import ZweistimmeError
from zweistimme.sentences import STATES, sentence_of
from zweistimme.stages.translate.exchange import Change, doubts, proposed, read_exchange, take_back
from zweistimme.window.bridge import Desk
from zweistimme.window.change_table import ChangePanel, ChangeRow, ChangeTable

NAME: Final = msg("Take back a version")


class TakingBackPanel(ChangePanel):
    """Shows what a file would change; what is ticked is taken."""

    def __init__(self, desk: Desk) -> None:
        self.take = QPushButton(tr("Take what is ticked"))
        heads = (tr("To be looked at"), tr("State"), tr("Notes"))
        super().__init__(desk, ChangeTable(heads, tr("What the file would change"), tr("Change")), [self.take])
        self.changes: Sequence[Change] = ()
        self._file, self._tag, self._said = Path(), "", ""
        self.take.clicked.connect(lambda _checked=False: self._take())
        self.list.ticked.connect(self._count)
        self.setFocusProxy(self.list)

    def show_file(self, file: Path) -> bool:
        """Read a file and show what it would change in the version on the desk; False where it cannot be read."""
        try:
            found, said = proposed(self._desk.project, self._desk.tag, read_exchange(file))
        except ZweistimmeError as error:
            self._desk.notice("error", str(error))
            return False
        self._file, self._tag, self.changes = file, self._desk.tag, found
        self._said = " ".join(map(sentence_of, said))
        self.list.fill([_row(change) for change in found], self._tag)
        return True

    def wanted(self) -> list[Change]:
        """What is ticked."""
        return [self.changes[place] for place in self.list.wanted()]

    def _count(self) -> None:
        count = len(self.list.wanted())
        words = tr("{file}: {ticked:,} of {n:change|changes}.", file=self._file.name, ticked=count, n=len(self.changes))
        self.say(f"{words} {self._said}".strip())
        self.take.setEnabled(count > 0)

    def _take(self) -> None:
        """Look again first: somebody may have written meanwhile."""
        if self._desk.tag != self._tag:
            self._desk.notice("note", tr("This file is of another version. Put that one on the desk first."))
            return
        wanted = {change.segment_id for change in self.wanted()}
        before = {change.segment_id: change for change in self.changes}
        if not self.show_file(self._file):
            return
        now = [change for change in self.changes if change.segment_id in wanted]
        same = [change for change in now if before.get(change.segment_id) == change]
        edit = partial(take_back, tag=self._tag, changes=same, file=self._file.name)
        if not self._desk.apply(f"Take back {self._file.name}", edit):
            return
        left = len(wanted) - len(same)
        self._desk.notice("done", tr("{n:line|lines} taken from {file}.", n=len(same), file=self._file.name))
        self.show_file(self._file)
        if left:
            self._desk.notice("note", tr("{n:line has|lines have} changed meanwhile; look again.", n=left))


def _row(change: Change) -> ChangeRow:
    notes = "; ".join(": ".join(filter(None, (note.author, note.text))) for note in change.notes)
    about, more = ", ".join(doubts(change)), (tr(STATES[change.state]), notes)
    return ChangeRow(change.segment_id, change.number, about, change.before, change.after, more, ticked=change.sure)
