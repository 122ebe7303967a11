"""Cutting what is chosen into segments anew, with other limits."""

from __future__ import annotations

from PyQt6.QtWidgets import QDoubleSpinBox, QGridLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from zweistimme.project.cutting import CutLimits
from zweistimme.project.errors import EditError
from zweistimme.project.reshape import recut
from zweistimme.window.bridge import Desk

NAME = "Cut anew"
_FIELDS = (
    ("pause_us", "A pause of", "always ends a segment", 0.05, 10.0),
    ("shortest_us", "Nothing under", "if it can be helped", 0.1, 10.0),
    ("longest_us", "Nothing over", "if it can be helped", 0.5, 60.0),
)


class RecutPanel(QWidget):
    """Says what would become of it before it is done."""

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._desk = desk
        self.boxes: dict[str, QDoubleSpinBox] = {}
        grid = QGridLayout()
        grid.setHorizontalSpacing(10)
        for row, (name, before, after, low, high) in enumerate(_FIELDS):
            box = QDoubleSpinBox()
            box.setRange(low, high)
            box.setSingleStep(0.1)
            box.setDecimals(2)
            box.setSuffix(" s")
            box.setValue(getattr(CutLimits(), name) / 1e6)
            box.setAccessibleName(before)
            box.valueChanged.connect(lambda _value: self.preview())
            self.boxes[name] = box
            grid.addWidget(QLabel(before), row, 0)
            grid.addWidget(box, row, 1)
            grid.addWidget(QLabel(after), row, 2)
        grid.setColumnStretch(3, 1)
        self.words = QLabel()
        self.words.setWordWrap(True)
        self.go = QPushButton("Cut anew")
        self.go.clicked.connect(self.cut)
        grid.addWidget(self.go, 0, 4)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 4, 0, 0)
        column.addLayout(grid)
        column.addWidget(self.words)
        column.addStretch(1)
        self.setFocusProxy(self.boxes["longest_us"])
        desk.chosen_changed.connect(lambda: self.preview() if self.isVisible() else None)
        desk.changed.connect(lambda _change: self.preview() if self.isVisible() else None)

    def limits(self) -> CutLimits:
        """What the fields say."""
        return CutLimits(**{name: round(box.value() * 1e6) for name, box in self.boxes.items()})

    def showEvent(self, event: object) -> None:
        self.preview()

    def preview(self) -> None:
        """How many segments there would be."""
        ids, project = self._desk.chosen_ids(), self._desk.project
        try:
            after = recut(project, ids, self.limits())
        except EditError as error:
            self.words.setText(str(error))
            self.go.setEnabled(False)
            return
        change = len(after.segments) - len(project.segments)
        self.go.setEnabled(after is not project)
        whole = "Shift and ↓ choose more, Ctrl+A all." if len(ids) < 2 else ""
        if after is project:
            self.words.setText(f"The {len(ids)} chosen would stay as they are. {whole}")
        else:
            self.words.setText(f"{len(ids)} chosen would become {len(ids) + change}; lines and takes go along. {whole}")

    def cut(self) -> None:
        """Do it, as one edit."""
        ids, limits = self._desk.chosen_ids(), self.limits()
        self._desk.apply("Cut anew", lambda project: recut(project, ids, limits))
