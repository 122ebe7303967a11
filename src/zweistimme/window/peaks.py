"""Peaks of the programme and of takes, loaded on a thread of its own; painting takes what is there."""

from __future__ import annotations

import queue
import threading
from collections.abc import Callable, Iterable
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np
import numpy.typing as npt
from PyQt6.QtCore import QObject, pyqtSignal

from zweistimme.project.errors import ZweistimmeError
from zweistimme.project.model import Take
from zweistimme.project.picks import sound_key
from zweistimme.project.programme import SoundTrack
from zweistimme.project.times import SECOND_US
from zweistimme.store.clips import ClipStore
from zweistimme.window.background import CLOSING_S
from zweistimme.window.mishaps import tell_defect

if TYPE_CHECKING:
    from zweistimme.window.notice import SoundRead

Peaks = npt.NDArray[np.int8]
_PER_SECOND = 100


class PeakStore(QObject):
    """Ask for peaks; None means they are on their way and ``arrived`` will be told."""

    arrived = pyqtSignal()

    def __init__(self, clips: ClipStore, cache: Path, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._clips, self._cache = clips, cache
        self._known: dict[str, Peaks] = {}
        self._asked: set[str] = set()
        self._closed = False
        self._wanted: queue.SimpleQueue[tuple[str, Callable[[], Peaks]] | None] = queue.SimpleQueue()
        self._thread = threading.Thread(target=self._load, name="peaks", daemon=True)
        self._thread.start()

    def programme(self, track: SoundTrack) -> Peaks | None:
        """Peaks of a whole track, 100 a second."""
        from zweistimme.stages.bring_in import peaks

        return self._ask(sound_key(track), lambda: peaks(self._cache, track, lambda _share: None))

    def coming(self, read: Iterable[SoundRead]) -> None:
        """Take over peaks of sound that is being read; the rest of the track is flat until it comes."""
        for one in read:
            key, part = sound_key(one.track), np.asarray(one.peaks, dtype=np.int8)
            start = one.second * _PER_SECOND
            known = self._known.get(key)
            if known is None or len(known) < start + len(part):
                whole = max(start + len(part), 1 + one.track.duration_us * _PER_SECOND // SECOND_US)
                grown = np.zeros((whole, 2), dtype=np.int8)
                grown[: len(known) if known is not None else 0] = known if known is not None else 0
                self._known[key] = known = grown
                self._asked.add(key)
            known[start : start + len(part)] = part
        self.arrived.emit()

    def take(self, take: Take) -> Peaks | None:
        """Peaks of a take's speech, outer silence trimmed, 100 a second."""

        def load() -> Peaks:
            from zweistimme.media.peaks import peaks_of
            from zweistimme.stages.fit.render import trimmed

            return peaks_of(trimmed(take, self._clips))

        return self._ask(take.id, load)

    def close(self) -> None:
        """Let the thread end."""
        self._closed = True
        self._wanted.put(None)
        self._thread.join(CLOSING_S)

    def _ask(self, key: str, load: Callable[[], Peaks]) -> Peaks | None:
        known = self._known.get(key)
        if known is None and key not in self._asked:
            self._asked.add(key)
            self._wanted.put((key, load))
        return known

    def _load(self) -> None:
        while (wanted := self._wanted.get()) is not None and not self._closed:
            key, load = wanted
            try:
                self._known[key] = load()
            except ZweistimmeError:
                # the clip is gone, and its line says so; or the programme is being read, and its peaks come otherwise
                self._known.setdefault(key, np.zeros((1, 2), dtype=np.int8))
            except Exception:
                self._known.setdefault(key, np.zeros((1, 2), dtype=np.int8))
                if not self._closed:
                    tell_defect()
            if self._wanted.empty() and not self._closed:
                self.arrived.emit()
