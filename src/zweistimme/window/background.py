"""Work for the eyes, off the GUI thread: the newest request wins, older ones that have not begun are dropped."""

from __future__ import annotations

import threading
from collections.abc import Callable
from typing import Final

from PyQt6.QtCore import QObject, pyqtSignal

from zweistimme.project.errors import ZweistimmeError
from zweistimme.window.mishaps import tell_defect

CLOSING_S: Final = 0.1
"""So long a loop that ends is waited for: what it is in the middle of is of no use to anybody any more."""


class Superseded(Exception):
    """Nobody waits any more for what is being worked on."""


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

    def go_on(self) -> None:
        """Asked now and then by work that takes long: Superseded once something newer is wanted, or nothing more."""
        if self._closed or self._wanted is not None:
            raise Superseded

    def close(self) -> None:
        """Let the thread end."""
        with self._lock:
            self._closed = True
            self._lock.notify()
        self._thread.join(CLOSING_S)

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
                done = work()
                if not self._closed:
                    self.ready.emit(done)
            except Superseded:
                continue
            except ZweistimmeError:
                continue  # a clip is missing: its line says so
            except Exception:
                if not self._closed:
                    tell_defect()
