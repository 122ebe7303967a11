"""Peaks of the programme and of takes, loaded on a thread of its own; painting takes what is there."""

from __future__ import annotations

import queue
import threading
from collections.abc import Callable
from pathlib import Path

import numpy as np
import numpy.typing as npt
from PyQt6.QtCore import QObject, pyqtSignal

from zweistimme.project.errors import ZweistimmeError
from zweistimme.project.model import SoundTrack, Take
from zweistimme.store.clips import ClipStore

Peaks = npt.NDArray[np.int8]


class PeakStore(QObject):
    """Ask for peaks; None means they are on their way and ``arrived`` will be told."""

    arrived = pyqtSignal()

    def __init__(self, clips: ClipStore, cache: Path, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._clips, self._cache = clips, cache
        self._known: dict[str, Peaks] = {}
        self._asked: set[str] = set()
        self._wanted: queue.SimpleQueue[tuple[str, Callable[[], Peaks]] | None] = queue.SimpleQueue()
        self._thread = threading.Thread(target=self._load, name="peaks", daemon=True)
        self._thread.start()

    def programme(self, track: SoundTrack) -> Peaks | None:
        """Peaks of a whole track, 100 a second."""
        from zweistimme.stages.bring_in import peaks

        return self._ask(track.checksum, lambda: peaks(self._cache, track, lambda _share: None))

    def take(self, take: Take) -> Peaks | None:
        """Peaks of a take's speech, outer silence trimmed, 100 a second."""

        def load() -> Peaks:
            from zweistimme.media.peaks import peaks_of
            from zweistimme.stages.fit.render import trimmed

            return peaks_of(trimmed(take, self._clips))

        return self._ask(take.id, load)

    def close(self) -> None:
        """Let the thread end."""
        self._wanted.put(None)
        self._thread.join(5.0)

    def _ask(self, key: str, load: Callable[[], Peaks]) -> Peaks | None:
        known = self._known.get(key)
        if known is None and key not in self._asked:
            self._asked.add(key)
            self._wanted.put((key, load))
        return known

    def _load(self) -> None:
        while (wanted := self._wanted.get()) is not None:
            key, load = wanted
            try:
                self._known[key] = load()
            except ZweistimmeError:
                self._known[key] = np.zeros((1, 2), dtype=np.int8)  # the clip is gone; its line says so
            if self._wanted.empty():
                self.arrived.emit()
