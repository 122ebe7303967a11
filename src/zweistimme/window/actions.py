"""Actions are data: the menu, the tooltips and the shortcut sheet are made from one list."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Final

from PyQt6.QtGui import QAction, QKeySequence
from PyQt6.QtWidgets import QWidget


@dataclass(frozen=True, slots=True)
class ActionSpec:
    """What a person can do: a name for the code, words for the person, keys, and the part of the work it is for."""

    id: str
    text: str
    keys: str
    group: str


ACTIONS: Final = (
    ActionSpec("play", "Play or pause", "Space", "Listening"),
    ActionSpec("loop", "Repeat the selected line", "R", "Listening"),
    ActionSpec("play_take", "Hear the line's take alone", "Shift+Space", "Listening"),
    ActionSpec("to_selection", "Move the playhead to the selected line", "Home", "Listening"),
    ActionSpec("next_line", "Next line", "Down", "Moving"),
    ActionSpec("previous_line", "Previous line", "Up", "Moving"),
    ActionSpec("next_open", "Next line that needs something", "N", "Moving"),
    ActionSpec("closer", "Show more detail", "Ctrl++", "Moving"),
    ActionSpec("wider", "Show more of the programme", "Ctrl+-", "Moving"),
    ActionSpec("next_version", "Next version", "Ctrl+Tab", "Moving"),
    ActionSpec("edit_line", "Write the line", "Return", "Writing"),
    ActionSpec("edit_source", "Correct the original", "Shift+Return", "Writing"),
    ActionSpec("shorter", "Take the next shorter wording", "K", "Writing"),
    ActionSpec("pin", "Pin the take where it stands, or unpin it", "P", "Writing"),
    ActionSpec("screen", "On screen or off screen", "O", "Writing"),
    ActionSpec("continue", "Continue with what is missing", "Ctrl+Return", "Working"),
    ActionSpec("stop", "Stop the running job", "Escape", "Working"),
    ActionSpec("undo", "Undo", "Ctrl+Z", "Working"),
    ActionSpec("redo", "Do again", "Ctrl+Shift+Z", "Working"),
    ActionSpec("theme", "Day or night", "Ctrl+D", "Working"),
    ActionSpec("sheet", "All shortcuts", "F1", "Working"),
    ActionSpec("close", "Close the project", "Ctrl+W", "Working"),
)
BY_ID: Final = {spec.id: spec for spec in ACTIONS}


def tip(action_id: str) -> str:
    """A tooltip that names the shortcut.

    >>> tip("pin")
    'Pin the take where it stands, or unpin it (P)'
    """
    spec = BY_ID[action_id]
    return f"{spec.text} ({spec.keys})"


def bind(owner: QWidget, handlers: dict[str, Callable[[], None]]) -> dict[str, QAction]:
    """Make the actions of *owner*; every action must have a handler and the other way round."""
    if set(handlers) != set(BY_ID):
        raise KeyError(f"actions and handlers differ: {set(handlers) ^ set(BY_ID)}")
    made = {}
    for spec in ACTIONS:
        action = QAction(spec.text, owner)
        action.setShortcut(QKeySequence(spec.keys))
        action.setToolTip(tip(spec.id))
        handler = handlers[spec.id]
        action.triggered.connect(lambda _checked=False, handler=handler: handler())
        owner.addAction(action)
        made[spec.id] = action
    return made
