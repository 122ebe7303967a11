"""Takes heard as they are made, one after the other, while the rest is made."""

from __future__ import annotations

from collections import deque
from collections.abc import Callable
from typing import Final

from PyQt6.QtCore import QObject, QTimer

from zweistimme.messages import tr
from zweistimme.project.model import TakeKind
from zweistimme.project.row_changes import changed_keys
from zweistimme.project.times import RATE
from zweistimme.store.document import Change
from zweistimme.window.bridge import Desk

_BETWEEN_MS: Final = 400
_MOST: Final = 200
"""Who hears a long run hears it behind its making; more than so many do not wait."""


class HearAlong(QObject):
    """On or off; *hear* plays a take by its id."""

    def __init__(self, desk: Desk, hear: Callable[[str], object], parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._desk, self._hear = desk, hear
        self.on = False
        self._coming: deque[str] = deque(maxlen=_MOST)
        self._next = QTimer(self)
        self._next.setSingleShot(True)
        self._next.timeout.connect(self._play)
        desk.changed.connect(self._look)

    def flip(self) -> None:
        """Hear takes as they are made, or no more."""
        self.on = not self.on
        self._coming.clear()
        self._next.stop()
        words = tr("Takes are heard as they are made.") if self.on else tr("Takes are made in silence.")
        self._desk.notice("note", words)

    def _look(self, change: Change) -> None:
        before, after = (one.versions.get(self._desk.tag) for one in (change.before, change.after))
        if not self.on or before is None or after is None or before.takes is after.takes:
            return
        keys = changed_keys(before.takes, after.takes)
        new = after.takes.keys() - before.takes.keys() if keys is None else [k for k in keys if k not in before.takes]
        self._coming += [key for key in new if after.takes[key].kind is TakeKind.SYNTHESIZED]
        if self._coming and not self._next.isActive():
            self._play()

    def _play(self) -> None:
        version = self._desk.version
        while self._coming and version is not None:
            take = version.takes.get(self._coming.popleft())
            if take is not None:
                self._hear(take.id)
                self._next.start(round(1000 * take.length_samples / RATE) + _BETWEEN_MS)
                return
