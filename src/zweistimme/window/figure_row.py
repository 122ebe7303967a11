"""A row of figures, each under its name."""

from __future__ import annotations

from typing import Final

from PyQt6.QtWidgets import QDoubleSpinBox, QGridLayout, QLabel, QWidget

from zweistimme.window.theme import SMALL_PT, font, px

_FIELD: Final = 28


class FigureRow(QWidget):
    """Fields for figures, and what belongs beside them, from left to right."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._grid = QGridLayout(self)
        self._grid.setContentsMargins(0, 0, 0, 0)
        self._grid.setHorizontalSpacing(10)
        self._grid.setVerticalSpacing(2)
        self._columns = 0

    def add(self, widget: QWidget, title: str, about: str) -> None:
        """Another widget, named and described."""
        widget.setAccessibleName(title)
        widget.setToolTip(about)
        label = QLabel(title)
        label.setBuddy(widget)
        label.setFont(font(SMALL_PT))
        label.setProperty("faded", True)
        self._grid.addWidget(label, 0, self._columns)
        self._grid.addWidget(widget, 1, self._columns)
        self._columns += 1

    def add_figure(self, title: str, about: str, low: float, high: float, decimals: int = 1) -> QDoubleSpinBox:
        """A field for a figure."""
        box = QDoubleSpinBox()
        box.setDecimals(decimals)
        box.setRange(low, high)
        box.setMinimumHeight(px(_FIELD))
        self.add(box, title, about)
        return box

    def end(self) -> None:
        """What is left of the width stays empty."""
        self._grid.setColumnStretch(self._columns, 1)
