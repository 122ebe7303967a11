"""A match whose numbers or names alone are others, with those of the new text in their place."""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Collection
from typing import Final

from rapidfuzz.distance import Levenshtein

from zweistimme.project.writing import ends_sentence

_TOKEN: Final = re.compile(r"\d+(?:[.,:]\d+)*|[^\W\d_]+(?:['’-][^\W\d_]+)*|\S")
_NUMBER: Final = re.compile(r"\d+(?:[.,:]\d+)*")


def exchanged(source: str, target: str, text: str, names: Collection[str] = ()) -> str | None:
    """The *target* of a *source* as that of *text*, where these differ in numbers and names alone and what is to be
    exchanged stands in the target once for each time; else None. Names are those given, and words with a capital that
    begin no sentence.

    >>> exchanged("Bring 2 ropes to Varnholm.", "Bring 2 Seile nach Varnholm.", "Bring 36 ropes to Ostholm.")
    'Bring 36 Seile nach Ostholm.'
    >>> exchanged("Bring two ropes.", "Bring zwei Seile.", "Bring six ropes.")
    """
    old, new = _TOKEN.findall(source), _TOKEN.findall(text)
    if len(old) != len(new):
        return None
    pairs = [(k, a, b) for k, (a, b) in enumerate(zip(old, new, strict=True)) if a != b]
    if not pairs or Levenshtein.distance(old, new) != len(pairs):
        return None
    wanted: dict[str, str] = {}
    for place, was, now in pairs:
        alike = (_is_number(was) and _is_number(now)) or (_is_name(old, place, names) and _is_name(new, place, names))
        if not alike or wanted.setdefault(was, now) != now:
            return None
    return _put(target, old, wanted)


def _put(target: str, old: list[str], wanted: dict[str, str]) -> str | None:
    """All at once, so that nothing that was put in is exchanged again."""
    counts = {was: old.count(was) for was in wanted}
    found: dict[str, int] = dict.fromkeys(wanted, 0)

    def put(match: re.Match[str]) -> str:
        was = match.group()
        found[was] += 1
        return wanted[was]

    ordered = sorted(wanted, key=len, reverse=True)
    pattern = "|".join(rf"(?<![\w.,:]){re.escape(was)}(?![\w]|[.,:]\d)" for was in ordered)
    result = re.sub(pattern, put, target)
    return result if found == counts else None


def _is_number(token: str) -> bool:
    return _NUMBER.fullmatch(token) is not None


def _is_name(tokens: list[str], place: int, names: Collection[str]) -> bool:
    token = tokens[place]
    if token in names:
        return True
    begins = place == 0 or ends_sentence(tokens[place - 1])
    return not begins and unicodedata.category(token[0]) == "Lu" and len(token) > 1
