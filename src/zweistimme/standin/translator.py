"""The bundled translator: whole phrases from a table, else word by word. Unknown words are marked, never dropped."""

from __future__ import annotations

import re
from collections.abc import Sequence
from functools import lru_cache
from importlib.resources import files
from typing import Final

from zweistimme.engines.protocol import TranslationItem, Wordings
from zweistimme.project.errors import EngineError
from zweistimme.standin.text import language_of

COLUMNS: Final = ("en", "de", "es")
PAIRS: Final = tuple((a, b) for a in COLUMNS for b in COLUMNS if a != b)
UNKNOWN_OPEN, UNKNOWN_CLOSE = "⟦", "⟧"
_SENTENCE = re.compile(r"[^.!?…]+[.!?…]*\s*")
_WORD = re.compile(r"[^\W\d_]+(?:['’\-][^\W\d_]+)*")


def translate(items: Sequence[TranslationItem], source: str, target: str) -> list[Wordings]:
    """Wordings of each item, the fullest first."""
    pair = (language_of(source), language_of(target))
    if pair not in PAIRS:
        known = ", ".join(f"{a} to {b}" for a, b in PAIRS)
        raise EngineError(f"The bundled translator does not know {source} to {target}. It knows {known}.")
    return [Wordings(item.id, _wordings(item.text, *pair)) for item in items]


@lru_cache(maxsize=8)
def _rows(name: str) -> tuple[tuple[tuple[str, ...], ...], ...]:
    """Rows of a data file: one cell a language, each with its wordings."""
    text = (files("zweistimme.standin") / "data" / name).read_text(encoding="utf-8")
    lines = (line for line in text.splitlines() if line.strip() and not line.startswith("#"))
    return tuple(
        tuple(tuple(wording.strip() for wording in cell.split(" / ")) for cell in line.split("|")) for line in lines
    )


def _key(text: str) -> str:
    """A text without what does not change its meaning here: case, quotes, marks, double spaces."""
    return " ".join(re.sub(r"[^\w\s']", " ", text.replace("’", "'")).lower().split())


@lru_cache(maxsize=8)
def _table(name: str, source: str, target: str) -> dict[str, tuple[str, ...]]:
    a, b = COLUMNS.index(source), COLUMNS.index(target)
    table: dict[str, tuple[str, ...]] = {}
    for row in _rows(name):
        for wording in row[a]:
            table.setdefault(_key(wording), row[b])
    return table


def _wordings(text: str, source: str, target: str) -> tuple[str, ...]:
    table = _table("phrasetable.txt", source, target)
    whole = table.get(_key(text))
    if whole:
        return whole
    parts = [
        table.get(_key(sentence)) or (_word_by_word(sentence, source, target),)
        for sentence in (match.group().strip() for match in _SENTENCE.finditer(text))
        if sentence
    ]
    full = " ".join(part[0] for part in parts)
    short = " ".join(part[-1] for part in parts)
    return (full,) if short == full else (full, short)


def _word_by_word(sentence: str, source: str, target: str) -> str:
    """Each word on its own. Numbers and names (capitals inside a sentence) are kept as they are."""
    words = _table("dictionary.txt", source, target)
    at_start = True

    def said(match: re.Match[str]) -> str:
        nonlocal at_start
        word, first = match.group(), at_start
        at_start = False
        known = words.get(_key(word))
        if known:
            return known[0].capitalize() if first else known[0]
        if word[0].isupper() and not first and source != "de":
            return word
        return f"{UNKNOWN_OPEN}{word}{UNKNOWN_CLOSE}"

    return _WORD.sub(said, sentence)
