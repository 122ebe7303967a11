"""Numbers as they are read, for languages whose number words are known."""

from __future__ import annotations

from functools import lru_cache
from typing import Final

from zweistimme.project.languages import language_of

_NAMES: Final = {"pt": "pt", "no": "no", "nb": "no", "nn": "no", "zh": "zh", "cmn": "zh", "fil": "tl"}
_MOST_DIGITS: Final = 15
_YEARS: Final = range(1100, 2000)
"""A number alone in this range is most often a year, which some languages read otherwise."""


@lru_cache(maxsize=10_000)
def said_number(digits: str, tag: str) -> str:
    """A number in words, or as it stands where nobody knows how it is read.

    >>> said_number("21", "de"), said_number("1,5", "de"), said_number("7", "xx")
    ('einundzwanzig', 'eins fünf', '7')
    """
    from num2words import num2words  # slow to import, and most texts have no numbers

    language = language_of(tag)
    parts = []
    for part in digits.replace(",", ".").split("."):
        try:
            number = int(part[:_MOST_DIGITS])
            form = "year" if number in _YEARS and part == digits else "cardinal"
            parts.append(str(num2words(number, lang=_NAMES.get(language, language), to=form)))
        except (NotImplementedError, ValueError, OverflowError, KeyError, IndexError, TypeError):
            parts.append(part)
    return " ".join(parts)
