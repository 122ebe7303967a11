"""The translation memory at the desk: what it has for the selected line, and what the project has settled given to it.
All of it on threads of its own."""

from __future__ import annotations

import threading
from collections.abc import Callable, Mapping
from typing import TYPE_CHECKING, Final

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from zweistimme.project.errors import StoreError
from zweistimme.project.findings import Finding
from zweistimme.project.model import Project, Segment, Version
from zweistimme.project.units import Match
from zweistimme.window.background import Latest
from zweistimme.window.bridge import Desk

if TYPE_CHECKING:
    from zweistimme.memory.memory import Memory

_REST_MS: Final = 20_000
"""So long after somebody has settled something it goes into the memory, or when the project is closed."""
_FIRST_MS: Final = 700
"""A project that was just opened is shown first."""
_MOST: Final = 6
Asked = tuple[str, str, str]
Matches = tuple[Match, ...]


class Recollection(QObject):
    """Follows the selection; *matches* are those of the line that is selected."""

    found = pyqtSignal()

    def __init__(self, desk: Desk, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._desk = desk
        self.matches: tuple[Match, ...] = ()
        self._asked: Asked | None = None
        self._trouble = ""
        self._told = False
        """That what is settled in a project from elsewhere stays out of the memory."""
        self._memory: Memory | None = None
        self._turn = threading.Lock()
        self._looking, self._keeping = Latest("memory", self), Latest("remembering", self)
        self._looking.ready.connect(self._take_over)
        self._keeping.ready.connect(self._note_kept)
        self._kept: Mapping[str, Version] = {}
        """As it stood when all of it was last kept: not yet, so that a desk that was killed has lost nothing."""
        self._first = QTimer(self)
        self._first.setSingleShot(True)
        self._first.timeout.connect(self._begin)
        self._rest = QTimer(self)
        self._rest.setSingleShot(True)
        self._rest.setInterval(_REST_MS)
        self._rest.timeout.connect(self._keep)
        for signal in (desk.selected, desk.version_changed, desk.changed):
            signal.connect(lambda _what: self._moved())
        desk.changed.connect(lambda _change: self._settled())
        self._first.start(_FIRST_MS)

    def _begin(self) -> None:
        self.look()
        self._keep()

    def _moved(self) -> None:
        if not self._first.isActive():
            self.look()

    def look(self, *, again: bool = False) -> None:
        """Ask what there is for the selected line, unless that is known; *again*, since the memory has changed."""
        desk, segment = self._desk, self._desk.segment()
        known = segment is not None and desk.version is not None and bool(segment.text.strip())
        asked = (segment.id, desk.tag, segment.text) if segment is not None and known else None
        if asked == self._asked and not again:
            return
        self._asked = asked
        if self.matches:
            self.matches = ()
            self.found.emit()
        if asked is not None and segment is not None:
            project, project_id = desk.project, desk.document.id
            self._looking.want(lambda: (asked, *self._looked_up(project, project_id, segment, asked[1])))

    def _looked_up(self, project: Project, project_id: str, segment: Segment, tag: str) -> tuple[Matches, str]:
        """What there is, and why nothing can be had."""
        from zweistimme.stages.translate.remembering import context_of, remembers

        if not remembers():
            return (), ""
        names = {
            *(term.source for term in project.terms.values()),
            *(speaker.name for speaker in project.speakers.values()),
        }
        try:
            found = self.opened().matches(
                segment.text, project.source_tag, tag, context=context_of(project, segment), project=project_id,
                names=names, most=_MOST,
            )  # fmt: skip
        except StoreError as error:
            return (), str(error)
        return tuple(found), ""

    def _take_over(self, result: tuple[Asked, Matches, str]) -> None:
        asked, matches, trouble = result
        if trouble != self._trouble:
            self._trouble = trouble
            if trouble:  # once, not at every line
                self._desk.notice("error", trouble)
        if asked == self._asked and matches != self.matches:
            self.matches = matches
            self.found.emit()

    def opened(self) -> Memory:
        """The memory, opened where it is not yet; from any thread."""
        from zweistimme.memory.memory import Memory

        with self._turn:
            if self._memory is None:
                self._memory = Memory()
            return self._memory

    # what the project gives

    def _settled(self) -> None:
        if self._desk.project.versions is not self._kept:
            self._rest.start()

    def _keep(self) -> None:
        versions, remembering = self._desk.project.versions, self._remembering()
        self._keeping.want(lambda: (versions, remembering()))

    def _note_kept(self, result: tuple[Mapping[str, Version], list[Finding]]) -> None:
        self._kept, kept_out = result
        if not self._told:  # once a sitting is enough
            self._told = bool(kept_out)
            self._desk.notice_findings(kept_out)

    def keep_all(self) -> None:
        """Whose the project is has changed: give the memory all of it, where it is this person's."""
        self._kept, self._told = {}, True
        self._keep()

    def _remembering(self) -> Callable[[], list[Finding]]:
        project, document, kept = self._desk.project, self._desk.document, self._kept

        def remembering() -> list[Finding]:
            from zweistimme.stages.translate.remembering import kept_out, remember

            remember(project, document.id, document.folder, kept)
            return kept_out(project, document.id, document.folder, kept)

        return remembering

    def close(self) -> None:
        """Give the memory what is not in it yet, and let go of it."""
        self._rest.stop()
        self._first.stop()
        self._looking.close()
        self._keeping.close()
        if self._desk.project.versions is not self._kept:
            try:
                self._remembering()()
            except StoreError as error:
                self._desk.notice("error", str(error))
        with self._turn:
            if self._memory is not None:
                self._memory.close()
