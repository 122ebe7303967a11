"""Texts longer than an engine takes, cut where speech pauses; the limit holds for what is sent, mark-up included."""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import Final

from zweistimme.project.errors import EngineError

_CUTS: Final = (r"(?<=[.!?…])\s+", r"(?<=[,;:–—])\s+", r"\s+")


def pieces(text: str, fits: Callable[[str], bool]) -> list[str]:
    """*text* cut at sentence ends, else at clauses, else between words, so that each piece fits. Joined by spaces
    they are the text again. EngineError if one word alone does not fit.

    >>> pieces("It turns. At last, it turns.", lambda piece: len(piece) < 16)
    ['It turns.', 'At last,', 'it turns.']
    """
    if fits(text):
        return [text]
    for cut in _CUTS:
        parts = re.split(cut, text)
        if len(parts) > 1:
            return _gathered([piece for part in parts for piece in pieces(part, fits)], fits)
    raise EngineError(f"“{text[:40]}” alone is longer than this engine takes.")


def _gathered(parts: list[str], fits: Callable[[str], bool]) -> list[str]:
    """Neighbours joined as long as they fit together."""
    whole = parts[:1]
    for part in parts[1:]:
        joined = f"{whole[-1]} {part}"
        if fits(joined):
            whole[-1] = joined
        else:
            whole.append(part)
    return whole
