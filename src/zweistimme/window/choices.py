"""Boxes to choose from, made anew only where their choices are others."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QComboBox

Choice = tuple[str, object, str]
"""What it says, what it stands for, and what more there is to say of it."""


def fill(box: QComboBox, choices: Sequence[Choice], chosen: object) -> None:
    """Offer *choices* and show the one that stands for *chosen*. An open list stays open, a text stays written."""
    have = [
        (box.itemText(k), box.itemData(k), box.itemData(k, Qt.ItemDataRole.ToolTipRole) or "")
        for k in range(box.count())
    ]
    if have != list(choices):
        written = box.currentText() if box.isEditable() else ""
        box.clear()
        for text, data, about in choices:
            box.addItem(text, data)
            box.setItemData(box.count() - 1, about, Qt.ItemDataRole.ToolTipRole)
        if box.isEditable():
            box.setEditText(written)
    if not box.isEditable():
        box.setCurrentIndex(max(0, box.findData(chosen)))
