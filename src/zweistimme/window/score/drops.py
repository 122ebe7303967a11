"""Sound files dropped on a line become takes of it."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Final

from PyQt6.QtCore import QEvent, QObject, QPoint, pyqtSignal
from PyQt6.QtGui import QDragEnterEvent, QDragMoveEvent, QDropEvent
from PyQt6.QtWidgets import QWidget

_SOUNDS: Final = {".wav", ".flac", ".ogg", ".opus", ".mp3", ".m4a", ".aac", ".aif", ".aiff"}


class ClipDrops(QObject):
    """Watches a canvas. *segment_at* says which line lies at a place of it; empty where none does."""

    dropped = pyqtSignal(str, list)
    """A segment's id, and the files."""

    def __init__(self, canvas: QWidget, segment_at: Callable[[QPoint], str]) -> None:
        super().__init__(canvas)
        self._segment_at = segment_at
        canvas.setAcceptDrops(True)
        canvas.installEventFilter(self)

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if isinstance(event, QDropEvent | QDragMoveEvent | QDragEnterEvent):
            files, segment_id = _files_of(event), self._segment_at(event.position().toPoint())
            if not files or (not segment_id and not isinstance(event, QDragEnterEvent)):
                event.ignore()
                return True
            event.acceptProposedAction()
            if event.type() == QEvent.Type.Drop:
                self.dropped.emit(segment_id, files)
            return True
        return super().eventFilter(watched, event)


def _files_of(event: QDropEvent) -> list[Path]:
    data = event.mimeData()
    files = [Path(url.toLocalFile()) for url in data.urls()] if data is not None else []
    return [file for file in files if file.suffix.lower() in _SOUNDS]
