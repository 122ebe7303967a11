"""What several pages do to their layouts."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QGridLayout,
    QHeaderView,
    QLabel,
    QLayout,
    QMenu,
    QPushButton,
    QScrollArea,
    QTableWidget,
    QWidget,
)

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


def checkable_menu(
    parent: QWidget, names: Sequence[str], checked: Sequence[str], changed: Callable[[], object]
) -> QMenu:
    """A menu of things of which any may be ticked."""
    menu = QMenu(parent)
    for name in names:
        action = menu.addAction(name)
        assert action is not None
        action.setCheckable(True)
        action.setChecked(name in checked)
        action.toggled.connect(lambda _on: changed())
    return menu


def push_button(words: str, act: Callable[[], object]) -> QPushButton:
    """A button that does something."""
    button = QPushButton(words)
    button.clicked.connect(lambda _checked=False: act())
    return button


def list_table(heads: Sequence[str], name: str, stretched: Sequence[int]) -> QTableWidget:
    """A table to choose a row of and read: its columns as wide as their words, but for those that take what is left."""
    table = QTableWidget(0, len(heads))
    table.setHorizontalHeaderLabels(heads)
    table.setAccessibleName(name)
    table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
    table.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
    table.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
    table.setTabKeyNavigation(False)
    table.setShowGrid(False)
    across, upright = table.horizontalHeader(), table.verticalHeader()
    assert across is not None
    assert upright is not None
    across.setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
    for column in stretched:
        across.setSectionResizeMode(column, QHeaderView.ResizeMode.Stretch)
    across.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
    upright.hide()
    return table


def put_heads(grid: QGridLayout, heads: Sequence[str]) -> None:
    """Name the columns of a grid in its first row."""
    for place, words in enumerate(heads):
        label = QLabel(tr(words))
        label.setFont(font(SMALL_PT))
        label.setProperty("faded", True)
        grid.addWidget(label, 0, place)
