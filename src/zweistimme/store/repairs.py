"""What can be made of a row that breaks a rule: what is wrong is left out, or put right where that loses nothing.

What the row was stays in the database beside it (table ``aside``), so nothing is thrown away.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import replace
from typing import Any, Final

from zweistimme.project.hand_fit import AS_PLANNED
from zweistimme.project.model import AS_USUAL, Line, Segment
from zweistimme.project.words import SHORTEST_SEGMENT_US, squeezed
from zweistimme.store.bounds import LONGEST_US, problem_of

_OF_HEADS: Final = ("manners", "caption_limits", "mix", "presets", "limits", "programme")
"""Settings of a project or a version that may break a rule; each can be set again."""


def repaired(type_: type, fields: Mapping[str, Any]) -> Any:
    """An object of a type from those of its *fields* that could be read; None where one it needs is missing."""
    try:
        value = type_(**fields)
    except TypeError:
        return None
    if not problem_of(type_)(value):
        return value
    mend = _MENDS.get(type_)
    return mend(value) if mend else _without_what_breaks(type_, fields)


def _without_what_breaks(type_: type, fields: Mapping[str, Any]) -> Any:
    """The object without the first of its settings whose absence makes it whole, or without all of them."""
    for names in (*((name,) for name in _OF_HEADS), _OF_HEADS):
        rest = {name: value for name, value in fields.items() if name not in names}
        value = type_(**rest)
        if not problem_of(type_)(value):
            return value
    return None


def _segment(segment: Segment) -> Segment:
    """Its times in order and in bounds, its words within them."""
    first, last = sorted((segment.start_us, segment.end_us))
    start = min(max(0, first), LONGEST_US - SHORTEST_SEGMENT_US)
    end = min(max(last, start + SHORTEST_SEGMENT_US), LONGEST_US)
    return replace(segment, start_us=start, end_us=end, words=squeezed(segment.words, start, end))


def _line(line: Line) -> Line:
    """Without the hand, the pins or the manner that nobody could have meant; its words stay."""
    kept = line
    for part in ({"hand": AS_PLANNED}, {"word_pins": ()}, {"pin": None}, {"manner": AS_USUAL}):
        if not problem_of(Line)(kept):
            break
        kept = replace(kept, **part)
    return kept


_MENDS: Final[dict[type, Callable[[Any], Any]]] = {Segment: _segment, Line: _line}
