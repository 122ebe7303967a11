"""What differs between two wordings, word by word as their writing system has them."""

from __future__ import annotations

from dataclasses import dataclass
from difflib import SequenceMatcher
from enum import Enum
from functools import lru_cache

from zweistimme.project.writing import word_spans


class Kept(Enum):
    """What became of a stretch of text."""

    SAME = "same"
    GONE = "gone"
    NEW = "new"


@dataclass(frozen=True, slots=True)
class Stretch:
    """Some of a text, with the spaces behind it, and what became of it."""

    text: str
    kept: Kept


@lru_cache(maxsize=2_000)
def changes(before: str, after: str, tag: str = "") -> tuple[Stretch, ...]:
    """The way from one text to another: what both have, what is gone, what is new, in reading order.

    >>> [(part.text, part.kept.value) for part in changes("Bring two heavy ropes.", "Bring three ropes.")]
    [('Bring ', 'same'), ('two heavy ', 'gone'), ('three ', 'new'), ('ropes.', 'same')]
    >>> [(part.text, part.kept.value) for part in changes("潮が来る。", "海が来る。", "ja-JP")]
    [('潮が', 'gone'), ('海が', 'new'), ('来る。', 'same')]
    """
    old, new = _pieces(before, tag), _pieces(after, tag)
    matcher = SequenceMatcher(None, [one.rstrip() for one in old], [one.rstrip() for one in new], autojunk=False)
    found: list[Stretch] = []
    for kind, a, b, c, d in matcher.get_opcodes():
        if kind == "equal":
            found.append(Stretch("".join(new[c:d]), Kept.SAME))
            continue
        if b > a:
            found.append(Stretch("".join(old[a:b]), Kept.GONE))
        if d > c:
            found.append(Stretch("".join(new[c:d]), Kept.NEW))
    return tuple(found)


def _pieces(text: str, tag: str) -> list[str]:
    """Words, each with what stands behind it until the next."""
    starts = [start for start, _ in word_spans(text, tag)]
    if not starts:
        return [text] if text else []
    return [text[a:b] for a, b in zip(starts, [*starts[1:], len(text)], strict=True)]
