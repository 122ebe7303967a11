"""The corner of the menu bar: undo, redo, and finding a command."""

from __future__ import annotations

from collections.abc import Mapping

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QAction
from PyQt6.QtWidgets import QHBoxLayout, QToolButton, QWidget

from zweistimme.messages import msg, tr
from zweistimme.window.actions import BY_ID, key_words
from zweistimme.window.theme import SMALL_PT, font

_SHOWN = (("undo", msg("undo")), ("redo", msg("do again")), ("finder", msg("find a command")))


class Corner(QWidget):
    """Buttons with words of their own; what they would do just now is in their tooltips."""

    def __init__(self, actions: Mapping[str, QAction], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 10, 0)
        row.setSpacing(2)
        for action_id, words in _SHOWN:
            button, action = QToolButton(), actions[action_id]
            button.setText(f"{tr(words)}  {key_words(BY_ID[action_id].key)}" if action_id == "finder" else tr(words))
            button.setFont(font(SMALL_PT + 0.5))
            button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
            button.clicked.connect(action.trigger)
            action.changed.connect(lambda button=button, action=action: _follow(button, action))
            _follow(button, action)
            row.addWidget(button)


def _follow(button: QToolButton, action: QAction) -> None:
    button.setEnabled(action.isEnabled())
    button.setToolTip(action.toolTip())
