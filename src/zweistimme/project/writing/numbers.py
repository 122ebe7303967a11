"""Numbers as they are read, for languages whose number words are known. What the library of number words cannot do,
or not in time, is caught here and nowhere else."""

from __future__ import annotations

from functools import lru_cache
from typing import Final

from zweistimme.project.languages import language_of

_NAMES: Final = {"pt": "pt", "no": "no", "nb": "no", "nn": "no", "zh": "zh", "cmn": "zh", "fil": "tl"}
_MOST_DIGITS: Final = 15
_BY_THOUSANDS: Final = {"am": ((10**12, "ትሪሊዮን"), (10**9, "ቢሊዮን"), (10**6, "ሚሊዮን"), (1_000, "ሺ"))}
"""Where the library knows no number from a thousand on, or never ends: a count of each, and what is left."""
_YEARS: Final = range(1100, 2000)
"""A number alone in this range is most often a year, which some languages read otherwise."""


@lru_cache(maxsize=10_000)
def said_number(digits: str, tag: str) -> str:
    """A number in words, or as it stands where nobody knows how it is read.

    >>> said_number("21", "de"), said_number("1,5", "de"), said_number("7", "xx"), said_number("1998", "vi")
    ('einundzwanzig', 'eins fünf', '7', 'một nghìn chín trăm chín mươi tám')
    >>> said_number("1998", "am"), said_number("1" * 16, "de")
    ('አንድ ሺ ዘጠኝ መቶ ዘጠና ስምንት', '1111111111111111')
    """
    language = language_of(tag)
    parts = []
    for part in digits.replace(",", ".").split("."):
        if not part.isdecimal() or len(part) > _MOST_DIGITS:
            parts.append(part)
            continue
        number = int(part)
        forms = ("year", "cardinal") if number in _YEARS and part == digits else ("cardinal",)
        parts.append(next(filter(None, (_in_words(number, language, form) for form in forms)), part))
    return " ".join(parts)


def _in_words(number: int, language: str, form: str) -> str:
    """A number by the library; empty where that fails, in whatever way: it has languages of many hands."""
    from num2words import num2words  # slow to import, and most texts have no numbers

    for unit, name in _BY_THOUSANDS.get(language, ()):
        if number >= unit:
            rest = _in_words(number % unit, language, form) if number % unit else ""
            return f"{_in_words(number // unit, language, form)} {name} {rest}".strip()
    try:
        return str(num2words(number, lang=_NAMES.get(language, language), to=form))
    except Exception:
        return ""
