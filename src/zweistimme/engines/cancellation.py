"""Whether the run that a question belongs to was stopped, for whatever waits deep inside it."""

from __future__ import annotations

import threading
from contextvars import ContextVar
from typing import Final

from zweistimme.project.errors import Cancelled

_stop: Final[ContextVar[threading.Event | None]] = ContextVar("stop", default=None)


def belongs_to(stop: threading.Event) -> None:
    """Everything this thread does from now on belongs to the run that *stop* stops."""
    _stop.set(stop)


def check_stopped() -> None:
    """Cancelled if the run was stopped."""
    stop = _stop.get()
    if stop is not None and stop.is_set():
        raise Cancelled
