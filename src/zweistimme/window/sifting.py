"""Looking at some lines alone: which those are, as long as somebody wants it. Keys go from one of them to the next."""

from __future__ import annotations

from collections.abc import Callable, Collection, Mapping

from PyQt6.QtCore import QObject, pyqtSignal

from zweistimme.project.model import Project
from zweistimme.project.sieve import ALL, Sieve, kept_by

Kinds = Mapping[str, Collection[str]]


class Sifting(QObject):
    """*kept* has the segments that are looked at; None: all of them."""

    changed = pyqtSignal()

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.sieve = ALL
        self.kept: frozenset[str] | None = None
        self.noticed: Callable[[], Kinds] = dict
        """What checks notice, by segment."""

    def look(self, project: Project, tag: str, sieve: Sieve | None = None) -> None:
        """Look again, through another *sieve* if one is given."""
        if sieve is not None:
            self.sieve = sieve
        elif self.sieve == ALL:
            return
        noticed = self.noticed() if self.sieve.remark else {}
        kept = kept_by(self.sieve, project, tag, noticed)
        if kept != self.kept:
            self.kept = kept
            self.changed.emit()

    def keeps(self, segment_id: str) -> bool:
        """Whether a line is looked at."""
        return self.kept is None or segment_id in self.kept
