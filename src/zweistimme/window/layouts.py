"""What several pages do to their layouts."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QGridLayout, QLabel, QLayout, QScrollArea, QWidget

from zweistimme.messages import tr
from zweistimme.window.theme import SMALL_PT, font


def empty(layout: QLayout) -> None:
    """Take every widget away."""
    while (item := layout.takeAt(0)) is not None:
        widget = item.widget()
        if widget is not None:
            widget.hide()
            widget.deleteLater()


def scrolled(content: QWidget) -> QScrollArea:
    """What may need more room than there is forces no window to be larger."""
    area = QScrollArea()
    area.setWidgetResizable(True)
    area.setFrameShape(QScrollArea.Shape.NoFrame)
    area.setFocusPolicy(Qt.FocusPolicy.NoFocus)  # it follows what has the keyboard in it
    area.setWidget(content)
    return area


def put_heads(grid: QGridLayout, heads: Sequence[str]) -> None:
    """Name the columns of a grid in its first row."""
    for place, words in enumerate(heads):
        label = QLabel(tr(words))
        label.setFont(font(SMALL_PT))
        label.setProperty("faded", True)
        grid.addWidget(label, 0, place)
