"""Cutting what is chosen into segments anew, with other limits."""

from __future__ import annotations

from PyQt6.QtWidgets import QDoubleSpinBox, QGridLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from zweistimme.messages import msg, tr
from zweistimme.project.reshape import let_go_by_merging, recut, recut_count
from zweistimme.project.segmentation import CutLimits
from zweistimme.stages.transcribe import recut_stretch
from zweistimme.window.background import Latest
from zweistimme.window.bridge import Desk

NAME = msg("Cut anew")
_MANY = 100
"""More than so many are cut as a job."""
_FIELDS = (
    ("pause_us", msg("A pause of"), msg("always ends a segment"), 0.05, 10.0),
    ("shortest_us", msg("Nothing under"), msg("if it can be helped"), 0.1, 10.0),
    ("longest_us", msg("Nothing over"), msg("if it can be helped"), 0.5, 60.0),
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
            box.setAccessibleName(tr(before))
            box.valueChanged.connect(lambda _value: self.preview())
            self.boxes[name] = box
            grid.addWidget(QLabel(tr(before)), row, 0)
            grid.addWidget(box, row, 1)
            grid.addWidget(QLabel(tr(after)), row, 2)
        grid.setColumnStretch(3, 1)
        self.words = QLabel()
        self.words.setWordWrap(True)
        self.go = QPushButton(tr("Cut anew"))
        self.go.clicked.connect(self.cut)
        grid.addWidget(self.go, 0, 4)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 4, 0, 0)
        column.addLayout(grid)
        column.addWidget(self.words)
        column.addStretch(1)
        self._counter = Latest("counting cuts", self)
        self._counter.ready.connect(self._show)
        self.setFocusProxy(self.boxes["longest_us"])
        desk.chosen_changed.connect(lambda: self.preview() if self.isVisible() else None)
        desk.changed.connect(lambda _change: self.preview() if self.isVisible() else None)

    def limits(self) -> CutLimits:
        """What the fields say."""
        return CutLimits(**{name: round(box.value() * 1e6) for name, box in self.boxes.items()})

    def showEvent(self, event: object) -> None:
        self.preview()

    def preview(self) -> None:
        """Ask how many segments there would be; off the GUI thread, since it may be the whole programme."""
        ids, project, limits = self._desk.chosen_ids(), self._desk.project, self.limits()
        self._counter.want(lambda: (len(ids), *recut_count(project, ids, limits)))

    def _show(self, counted: object) -> None:
        assert isinstance(counted, tuple)
        chosen, count, moved = counted
        self.go.setEnabled(bool(moved))
        hint = tr("Shift and ↓ choose more, Ctrl+A all.") if chosen < 2 else ""
        if moved:
            self.words.setText(
                tr(
                    "{chosen} chosen would become {count}; lines and takes go along. {hint}",
                    chosen=chosen,
                    count=count,
                    hint=hint,
                )
            )
        else:
            self.words.setText(tr("The {chosen} chosen would stay as they are. {hint}", chosen=chosen, hint=hint))

    def cut(self) -> None:
        """Do it; undone in one step."""
        ids, limits = self._desk.chosen_ids(), self.limits()
        if len(ids) > _MANY:
            self._desk.jobs.start("Cut anew", lambda work: recut_stretch(work, ids, limits))
        else:
            before = self._desk.project
            if self._desk.apply("Cut anew", lambda project: recut(project, ids, limits)):
                self._desk.notice_findings(let_go_by_merging(before, self._desk.project))

    def close_parts(self) -> None:
        """End the thread that counts."""
        self._counter.close()
