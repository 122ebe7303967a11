"""Changes of a text with marks that need no colour: what is gone struck through, what is new underlined."""

from __future__ import annotations

from collections.abc import Iterable
from html import escape
from typing import Final

from zweistimme.project.text_changes import Kept, Stretch
from zweistimme.window.theme import colour

_MARKS: Final = {Kept.SAME: ("", ""), Kept.GONE: ("<s>", "</s>"), Kept.NEW: ("<u>", "</u>")}
_ROLES: Final = {Kept.SAME: "faded", Kept.GONE: "hard", Kept.NEW: "calm"}


def marked_changes(parts: Iterable[Stretch]) -> str:
    """Stretches as rich text."""
    marked = ""
    for part in parts:
        before, behind = _MARKS[part.kept]
        words, tint = part.text.rstrip(), colour(_ROLES[part.kept]).name()
        marked += f'<span style="color:{tint}">{before}{escape(words)}{behind}</span>{part.text[len(words) :]}'
    return marked
