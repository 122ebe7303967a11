"""Who speaks, where a line begins with a name and a colon."""

from __future__ import annotations

import re
from typing import Final

_MARKS: Final = r"\u0300-\u036f\u0591-\u05c7\u064b-\u0652\u0900-\u0dff\u0e31-\u0e4e"
"""Signs that belong to letters and are none themselves."""
_NAME: Final = re.compile(rf"^([^\W\d_][\w .'’\-{_MARKS}]{{0,30}}?)(?::\s+|：\s*)(?=\S)")


def name_and_words(text: str, people: frozenset[str] | None = None) -> tuple[str, str]:
    """The speaker, or an empty name, and the rest. A name has few words, none beginning small; where *people* are
    known, it is one of theirs, and everything else before a colon is words like others.

    >>> name_and_words("Mira: Hello."), name_and_words("Time is 4: o'clock")
    (('Mira', 'Hello.'), ('', "Time is 4: o'clock"))
    """
    match = _NAME.match(text)
    if match and (_is_name(match.group(1)) if people is None else match.group(1).strip().casefold() in people):
        return match.group(1).strip(), text[match.end() :]
    return "", text


def _is_name(text: str) -> bool:
    words = text.split()
    return len(words) <= 3 and all(not word[0].islower() for word in words)
