"""Garbage is collected on the GUI thread alone.

Python collects cycles on whatever thread happens to allocate. A closed page is such a cycle, and its collection
destroys widgets: on a worker's thread that is a crash sooner or later. So the automatic collector is switched off
and a timer of the GUI thread does its work, by the collector's own thresholds.
"""

from __future__ import annotations

import gc
from typing import Final

from PyQt6.QtCore import QObject, QTimer

_EVERY_MS: Final = 500


class GuiCollector(QObject):
    """Collects garbage as long as it lives."""

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self._timer = QTimer(self)
        self._timer.timeout.connect(self._look)
        self._timer.start(_EVERY_MS)

    def _look(self) -> None:
        counts, thresholds = gc.get_count(), gc.get_threshold()
        due = [generation for generation in range(3) if counts[generation] > thresholds[generation]]
        if due:
            gc.collect(max(due))


def collect_on_this_thread(app: QObject) -> None:
    """Let nobody but the thread of *app* collect; calling it again changes nothing."""
    gc.disable()
    if app.findChild(GuiCollector) is None:
        GuiCollector(app)
