"""Letters to sounds: a small lexicon first, then rules tried in order at each place of a word."""

from __future__ import annotations

import re
from collections.abc import Callable
from functools import lru_cache
from importlib import import_module
from importlib.resources import files
from typing import Final

from zweistimme.standin.phones import is_vowel

Rule = tuple[re.Pattern[str], str]
_LANGUAGES: Final = {"en": "letters_en", "de": "letters_de", "es": "letters_es"}


def rules(table: str) -> tuple[Rule, ...]:
    """Rules from lines of ``pattern = sounds``; a pattern is a regular expression matched at the current letter."""
    made = []
    for line in table.strip().splitlines():
        pattern, _, sounds = line.partition(" = ")
        made.append((re.compile(pattern.strip()), sounds.strip()))
    return tuple(made)


@lru_cache(maxsize=8)
def _lexicon(language: str) -> dict[str, str]:
    table = files("zweistimme.standin") / "data" / f"lexicon-{language}.txt"
    if not table.is_file():
        return {}
    rows = (line.partition("=") for line in table.read_text(encoding="utf-8").splitlines() if "=" in line)
    return {word.strip(): sounds.strip() for word, _, sounds in rows}


@lru_cache(maxsize=20_000)
def transcribed(word: str, language: str) -> str:
    """The sounds of one word, with its stressed vowel marked.

    >>> transcribed("uhr", "de")
    'u1 6'
    """
    known = _lexicon(language).get(word)
    if known:
        return known
    module = import_module(f"zweistimme.standin.{_LANGUAGES.get(language, 'letters_en')}")
    sounds = _by_rules(word, module.RULES)
    stressed: Callable[[str, list[str]], int] = module.stressed_syllable
    return _with_stress(sounds, stressed(word, sounds))


def _by_rules(word: str, table: tuple[Rule, ...]) -> list[str]:
    place, sounds = 0, list[str]()
    while place < len(word):
        for pattern, made in table:
            match = pattern.match(word, place)
            if match and match.end() > place:
                sounds += made.split()
                place = match.end()
                break
        else:
            place += 1
    return sounds


def _with_stress(sounds: list[str], syllable: int) -> str:
    """Mark the vowel of the given syllable (negative: from the end)."""
    vowels = [place for place, sound in enumerate(sounds) if is_vowel(sound)]
    if vowels:
        place = vowels[max(-len(vowels), min(syllable, len(vowels) - 1))]
        sounds = [*sounds[:place], sounds[place] + "1", *sounds[place + 1 :]]
    return " ".join(sounds)
