"""What the desk keeps only to be faster: where, how much, and away with it."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import platformdirs
from PyQt6.QtWidgets import QGridLayout, QLabel, QPushButton, QWidget

from zweistimme.messages import tr
from zweistimme.store.cleaning import Removable, cache_of, removed


def of_the_desk() -> Removable:
    """What was made for all projects."""
    folder = Path(platformdirs.user_cache_dir("zweistimme"))
    return Removable("desk", tuple(path for path in sorted(folder.rglob("*")) if path.is_file()))


class Caches(QWidget):
    """A row for the desk's own, and one for the project that is open; *needed* says why what is
    the project's cannot go just now, if so."""

    def __init__(self, project: Path | None, needed: Callable[[], str], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._project, self._needed = project, needed
        self.emptied = False
        """Whether the project has to be opened anew, to make again what it needs."""
        self._grid = QGridLayout(self)
        self._grid.setContentsMargins(0, 0, 0, 0)
        self._grid.setColumnStretch(0, 1)
        self.buttons: dict[str, QPushButton] = {}
        self._sizes: dict[str, QLabel] = {}
        self.said = QLabel()
        self.said.setWordWrap(True)
        self._texts = {
            "desk": tr("What voices and recogniser made once for all projects"),
            "cache": tr("This project's working sounds and measurements, made again when they are needed"),
        }
        for row, some in enumerate(self._there()):
            self._add(row, some)
        self._grid.addWidget(self.said, self._grid.rowCount(), 0, 1, 3)

    @property
    def words(self) -> str:
        """All that stands here, to be searched."""
        return " ".join(self._texts.values())

    def _there(self) -> list[Removable]:
        return [of_the_desk(), *([cache_of(self._project)] if self._project is not None else [])]

    def _add(self, row: int, some: Removable) -> None:
        size, button = QLabel(), QPushButton(tr("Remove"))
        button.setAccessibleName(tr("Remove: {what}", what=self._texts[some.kind]))
        button.clicked.connect(lambda: self.empty(some.kind))
        for column, widget in enumerate((QLabel(self._texts[some.kind]), size, button)):
            self._grid.addWidget(widget, row, column)
        self.buttons[some.kind], self._sizes[some.kind] = button, size
        self._show(some)

    def _show(self, some: Removable) -> None:
        self._sizes[some.kind].setText(tr("{size:,.1f} MB", size=some.size_bytes / 1e6))
        self.buttons[some.kind].setEnabled(bool(some.files))

    def empty(self, kind: str) -> None:
        """Remove what is of a kind, unless it is needed."""
        why = self._needed()
        if why:
            self.said.setText(why)
            return
        for some in self._there():
            if some.kind == kind:
                freed = removed(some)
                self.emptied = self.emptied or kind == "cache"
                self.said.setText(tr("{size:,.1f} MB are free again.", size=freed / 1e6))
        for some in self._there():
            self._show(some)
