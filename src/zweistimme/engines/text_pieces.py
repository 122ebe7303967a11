"""Texts longer than an engine takes, cut where speech pauses; the limit holds for what is sent, mark-up included."""

from __future__ import annotations

from collections.abc import Callable
from itertools import pairwise

from zweistimme.project.errors import EngineError
from zweistimme.project.writing import ends_clause, joined, sentences, words_in


def pieces(text: str, fits: Callable[[str], bool]) -> list[str]:
    """*text* cut at sentence ends, else at clauses, else between words, so that each piece fits. Put together
    they are the text again. EngineError if one word alone does not fit.

    >>> pieces("It turns. At last, it turns.", lambda piece: len(piece) < 16)
    ['It turns.', 'At last,', 'it turns.']
    """
    if fits(text):
        return [text]
    for cut in (sentences, _clauses, words_in):
        parts = cut(text)
        if len(parts) > 1:
            return _gathered([piece for part in parts for piece in pieces(part, fits)], fits)
    raise EngineError("“{text}” alone is longer than this engine takes.", text=text[:40])


def _clauses(text: str) -> list[str]:
    words = words_in(text)
    edges = [0, *(k for k in range(1, len(words)) if ends_clause(words[k - 1])), len(words)]
    return [joined(words[a:b]) for a, b in pairwise(edges)]


def _gathered(parts: list[str], fits: Callable[[str], bool]) -> list[str]:
    """Neighbours joined as long as they fit together."""
    whole = parts[:1]
    for part in parts[1:]:
        both = joined((whole[-1], part))
        if fits(both):
            whole[-1] = both
        else:
            whole.append(part)
    return whole
