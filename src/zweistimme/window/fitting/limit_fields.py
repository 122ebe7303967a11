"""Every limit of the plan, adjustable; what a change would do is shown before it is used."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any, Final

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QDoubleSpinBox, QGridLayout, QLabel, QWidget

from zweistimme.messages import msg, tr
from zweistimme.project.fit_limits import MOST_PRICE, Limits
from zweistimme.window.theme import SMALL_PT, font, px


@dataclass(frozen=True, slots=True)
class _Row:
    """A limit: its field, words, unit, the largest value of each of its numbers, and what these are for."""

    name: str
    title: str
    about: str
    unit: str
    most: float
    step: float
    heads: tuple[str, ...] = ()


_SEEN: Final = (msg("on screen"), msg("off screen"))
_ENDS: Final = (msg("slowest"), msg("fastest"))
_TEMPOS: Final = (msg("comfortable"), msg("soft"), msg("hard"))
_ROWS: Final = (
    _Row(
        "start_tolerance",
        msg("Start off by"),
        msg("So much a start may be off without anybody minding"),
        " s",
        5,
        0.02,
        _SEEN,
    ),
    _Row(
        "end_tolerance",
        msg("End off by"),
        msg("So much an end may be off without anybody minding"),
        " s",
        5,
        0.05,
        _SEEN,
    ),
    _Row("lag_cap", msg("Start off at most"), msg("No start is further off than this"), " s", 10, 0.1, _SEEN),
    _Row(
        "near_price",
        msg("Near start costs"),
        msg("What a second within that costs at a start"),
        "",
        MOST_PRICE,
        0.1,
        _SEEN,
    ),
    _Row(
        "start_price", msg("Start costs"), msg("What a second beyond that costs at a start"), "", MOST_PRICE, 1, _SEEN
    ),
    _Row("end_price", msg("End costs"), msg("What a second beyond that costs at an end"), "", MOST_PRICE, 0.5, _SEEN),
    _Row("comfort", msg("Comfortable tempo"), msg("Tempos that nobody notices: slowest, fastest"), "", 3, 0.01, _ENDS),
    _Row("soft", msg("Soft tempo"), msg("Tempos that are heard and pass"), "", 3, 0.01, _ENDS),
    _Row("hard", msg("Hard tempo"), msg("No line is spoken slower or faster by the plan"), "", 3, 0.01, _ENDS),
    _Row(
        "tempo_price", msg("Tempo costs"), msg("What tempo costs within each of the three"), "", MOST_PRICE, 1, _TEMPOS
    ),
    _Row("least_gap", msg("Least gap"), msg("So far apart two takes are at least"), " s", 2, 0.01),
    _Row("start_shift", msg("Starts later by"), msg("So much after the original a line starts"), " s", 5, 0.05),
    _Row("end_shift", msg("Ends earlier by"), msg("So much before the original's end a line ends"), " s", 5, 0.05),
)
_LEAST_TEMPO: Final = 0.3


class LimitFields(QWidget):
    """What the numbers of a row are for stands over them, wherever it is something else than in the row above."""

    changed = pyqtSignal()

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.boxes: dict[str, list[QDoubleSpinBox]] = {}
        self._limits = Limits()
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setVerticalSpacing(px(2))
        heads: tuple[str, ...] = ()
        for one in _ROWS:
            if one.heads != heads:
                heads, row = one.heads, grid.rowCount()
                for place, words in enumerate(heads or ("",)):
                    grid.addWidget(_head(tr(words) if words else " "), row, 1 + place)
            row = grid.rowCount()
            label = QLabel(tr(one.title))
            label.setFont(font(SMALL_PT + 0.5))
            label.setToolTip(tr(one.about))
            grid.addWidget(label, row, 0)
            self.boxes[one.name] = [self._box(one, words) for words in one.heads or ("",)]
            for place, box in enumerate(self.boxes[one.name]):
                grid.addWidget(box, row, 1 + place)

    def _box(self, row: _Row, head: str) -> QDoubleSpinBox:
        box = QDoubleSpinBox()
        is_tempo = row.name in ("comfort", "soft", "hard")
        box.setRange(_LEAST_TEMPO if is_tempo else 0.0, row.most)
        box.setDecimals(2)
        box.setSingleStep(row.step)
        box.setSuffix(row.unit)
        box.setKeyboardTracking(False)
        box.setButtonSymbols(QDoubleSpinBox.ButtonSymbols.NoButtons)
        box.setMinimumWidth(px(58))
        box.setToolTip(tr(row.about))
        box.setAccessibleName(f"{tr(row.title)}, {tr(head)}" if head else tr(row.title))
        box.valueChanged.connect(lambda _value: self.changed.emit())
        return box

    def show_limits(self, limits: Limits) -> None:
        """Show limits."""
        self._limits = limits
        for name, boxes in self.boxes.items():
            value = getattr(limits, name)
            for box, one in zip(boxes, value if isinstance(value, tuple) else (value,), strict=True):
                box.blockSignals(True)
                box.setValue(one)
                box.blockSignals(False)

    def shown(self) -> Limits:
        """What the fields say; what is only shown rounded is as it was."""
        said: dict[str, Any] = {}
        for name, boxes in self.boxes.items():
            value = getattr(self._limits, name)
            before = value if isinstance(value, tuple) else (value,)
            now = tuple(
                old if abs(box.value() - old) < 0.006 else round(box.value(), 4)
                for box, old in zip(boxes, before, strict=True)
            )
            said[name] = now if isinstance(value, tuple) else now[0]
        return replace(self._limits, **said)


def _head(words: str) -> QLabel:
    label = QLabel(words)
    label.setFont(font(SMALL_PT))
    label.setProperty("faded", True)
    return label
