"""What checks notice of the version on the desk: found off the GUI thread a moment after something has changed."""

from __future__ import annotations

import time
from typing import Final

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from zweistimme.messages import tr
from zweistimme.project.line_edits import set_line_text
from zweistimme.stages.check import ByLine, Checker, Noticed
from zweistimme.window.background import Latest
from zweistimme.window.bridge import Desk

_REST_MS: Final = 600
_FIRST_MS: Final = 1_500
"""A project that was just opened is shown first."""
_WAY_S: Final = 0.001
Found = tuple[str, ByLine]


class Noticing(QObject):
    """*by_line* has what was noticed last, by segment; empty for another version until that was looked through."""

    found = pyqtSignal()

    def __init__(self, desk: Desk, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._desk, self._checker = desk, Checker()
        self.by_line: ByLine = {}
        self._tag = ""
        self._latest = Latest("checks", self)
        self._latest.ready.connect(self._take_over)
        self._rest = QTimer(self)
        self._rest.setSingleShot(True)
        self._rest.timeout.connect(self.look)
        desk.changed.connect(lambda _change: self._rest.start(_REST_MS))
        desk.version_changed.connect(lambda _tag: self.look())
        self._rest.start(_FIRST_MS)

    def look(self) -> None:
        """Look through the version on the desk."""
        self._rest.stop()
        project, tag = self._desk.project, self._desk.tag
        if tag != self._tag:
            self.by_line = {}
            self._tag = tag
            self.found.emit()
        if self._desk.version is not None:
            self._latest.want(lambda: (tag, self._checker.version(project, tag, self._make_way)))

    def _make_way(self, _share: float) -> None:
        """Let the window be drawn, which needs the interpreter more than this does; end for a newer state. What
        was found of lines is kept."""
        time.sleep(_WAY_S)
        self._latest.go_on()

    def _take_over(self, result: Found) -> None:
        tag, by_line = result
        if tag == self._desk.tag and by_line != self.by_line:
            self.by_line = by_line
            self.found.emit()

    def of_line(self, segment_id: str) -> tuple[Noticed, ...]:
        """What was noticed of a line."""
        return self.by_line.get(segment_id, ())

    def next_after(self, segment_id: str) -> str | None:
        """The next line of which something is noticed, from the beginning again behind the last."""
        ids = [segment.id for segment in self._desk.project.segments]
        here = ids.index(segment_id) if segment_id in ids else -1
        return next((one for one in ids[here + 1 :] + ids[: here + 1] if one in self.by_line), None)

    def mend(self, noticed: Noticed | None = None) -> None:
        """Have the selected line as it should be: in what is given, or in the first thing that can be mended."""
        desk, segment_id = self._desk, self._desk.segment_id
        mendable = [one for one in self.of_line(segment_id) if one.mended is not None]
        wanted = noticed or (mendable[0] if mendable else None)
        if wanted is None or wanted.mended is None:
            desk.notice("note", tr("Nothing in this line can be mended by a key."))
            return
        tag, mended = desk.tag, wanted.mended
        desk.apply("Mend a wording", lambda project: set_line_text(project, tag, segment_id, mended))
        self.look()

    def close(self) -> None:
        self._rest.stop()
        self._latest.close()
