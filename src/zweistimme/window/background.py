"""Work for the eyes, off the GUI thread: the newest request wins, older ones that have not begun are dropped."""

from __future__ import annotations

import threading
from collections.abc import Callable

from PyQt6.QtCore import QObject, pyqtSignal

from zweistimme.project.errors import ZweistimmeError


class Latest(QObject):
    """Hand it work; ``ready`` brings the result to the thread that made this object."""

    ready = pyqtSignal(object)

    def __init__(self, name: str, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._wanted: Callable[[], object] | None = None
        self._closed = False
        self._lock = threading.Condition()
        self._thread = threading.Thread(target=self._run, name=name, daemon=True)
        self._thread.start()

    def want(self, work: Callable[[], object]) -> None:
        """Do this next, instead of what has not begun yet."""
        with self._lock:
            self._wanted = work
            self._lock.notify()

    def close(self) -> None:
        """Let the thread end."""
        with self._lock:
            self._closed = True
            self._lock.notify()
        self._thread.join(5.0)

    def _run(self) -> None:
        while True:
            with self._lock:
                while not self._closed and self._wanted is None:
                    self._lock.wait()
                if self._closed:
                    return
                work, self._wanted = self._wanted, None
            assert work is not None
            try:
                self.ready.emit(work())
            except ZweistimmeError:
                continue  # a clip is missing: its line says so
