"""Words that a translator left as they were: between ⟦ and ⟧ in a wording, until somebody translates them.

The marks are part of the wording, so that they go wherever it goes: into offers, files for translators and back.
They are never spoken and never shown as captions.
"""

from __future__ import annotations

import re
from collections.abc import Iterable
from typing import Final

_OPEN: Final = "⟦"
_CLOSE: Final = "⟧"
_MARKED: Final = re.compile(r"⟦([^⟦⟧]*)⟧")


def untranslated_spans(text: str) -> list[tuple[int, int]]:
    """Where words stand that were not translated, with their marks.

    >>> untranslated_spans("Das ⟦weather⟧ kommt.")
    [(4, 13)]
    """
    return [match.span() for match in _MARKED.finditer(text)] if _OPEN in text else []


def mark_untranslated(text: str, spans: Iterable[tuple[int, int]]) -> str:
    """A text with marks around spans of it; what is no span of it, or within another, is left out.

    >>> mark_untranslated("Das weather kommt.", [(4, 11), (5, 9), (90, 95)])
    'Das ⟦weather⟧ kommt.'
    """
    parts, done = [], 0
    for start, end in sorted(spans):
        if done <= start < end <= len(text):
            parts += [text[done:start], _OPEN, text[start:end], _CLOSE]
            done = end
    return "".join((*parts, text[done:]))


def without_marks(text: str) -> str:
    """A text as it is said: the words that were not translated without their marks.

    >>> without_marks("Das ⟦weather⟧ kommt.")
    'Das weather kommt.'
    """
    return text.replace(_OPEN, "").replace(_CLOSE, "") if _OPEN in text or _CLOSE in text else text
