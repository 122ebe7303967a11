"""Keys that belong to the widget that has the keyboard, before they are shortcuts: Space presses a button, arrows move
in a list and letters find in it, Return ends a line of text. What is typed, text fields see to themselves."""

from __future__ import annotations

from typing import Final

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import (
    QAbstractButton,
    QAbstractItemView,
    QAbstractSlider,
    QAbstractSpinBox,
    QComboBox,
    QLineEdit,
    QWidget,
)

_KEY = Qt.Key
_ARROWS = {_KEY.Key_Up, _KEY.Key_Down, _KEY.Key_Left, _KEY.Key_Right, _KEY.Key_Home, _KEY.Key_End}
_PLAIN = (Qt.KeyboardModifier.NoModifier, Qt.KeyboardModifier.KeypadModifier)
_OWN: Final = (
    (QAbstractButton, {_KEY.Key_Space}),
    (QComboBox, {_KEY.Key_Space, *_ARROWS}),
    (QAbstractItemView, {_KEY.Key_Space, _KEY.Key_Return, *_ARROWS}),
    (QAbstractSlider, _ARROWS),
    (QAbstractSpinBox, {_KEY.Key_Return, _KEY.Key_Enter, *_ARROWS}),
    (QLineEdit, {_KEY.Key_Return, _KEY.Key_Enter}),
)
_BY_NAME: Final = {
    "none": set[_KEY](),
    "listening": {_KEY.Key_Return, _KEY.Key_G, _KEY.Key_A, _KEY.Key_E, _KEY.Key_N, *_ARROWS},
    "auditions": {
        _KEY.Key_Return,
        _KEY.Key_T,
        _KEY.Key_P,
        _KEY.Key_G,
        _KEY.Key_Delete,
        *map(_KEY, range(_KEY.Key_0, _KEY.Key_6)),
        *_ARROWS,
    },
    "map": {
        _KEY.Key_PageUp,
        _KEY.Key_PageDown,
        _KEY.Key_Return,
        _KEY.Key_Enter,
        _KEY.Key_Plus,
        _KEY.Key_Minus,
        *_ARROWS,
    },
}
"""What a widget says of itself in the property ``ownKeys``."""


def is_its_own(widget: QWidget | None, event: QKeyEvent) -> bool:
    """Whether a key is the business of the widget that has the keyboard."""
    said = widget.property("ownKeys") if widget is not None else None
    if said is not None:
        return event.key() in _BY_NAME[said] and event.modifiers() in _PLAIN
    if isinstance(widget, QComboBox) and widget.isEditable():
        widget = widget.lineEdit()
    keys = next((keys for kind, keys in _OWN if isinstance(widget, kind)), ())
    if event.key() in keys:
        return event.modifiers() in _PLAIN
    letter = event.text().strip()
    unmodified = event.modifiers() in (*_PLAIN, Qt.KeyboardModifier.ShiftModifier)
    return isinstance(widget, QComboBox | QAbstractItemView) and unmodified and letter.isprintable() and letter != ""
