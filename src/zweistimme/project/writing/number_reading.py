"""Numbers in a text, by what they mean in its language: “1.500” is a thousand and a half in German and one and a half
in English.

What a language groups digits by, and what it puts before fractions, comes from CLDR (Unicode TR 35, part 3).
"""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from decimal import Decimal
from functools import lru_cache
from typing import TYPE_CHECKING, Final

from zweistimme.project.languages import spoken_tag

if TYPE_CHECKING:
    from babel import Locale

_FIGURE: Final = re.compile(r"\d{1,40}(?:[.,:/٫٬'’\u00a0\u202f]\d{1,40})*")
_HALF_DAY: Final = re.compile(r"[\s\u00a0\u202f]{0,2}([ap])\.?\s?m\b", re.IGNORECASE)
_GROUPS: Final = "'’\u00a0\u202f٬"
"""What groups digits wherever it stands between three of them."""
_DECIMALS: Final = ".,٫"
_HOURS, _MINUTES = 24, 60
Meaning = Decimal | tuple[int, int]
"""A value, or hours and minutes of the clock."""


@dataclass(frozen=True, slots=True)
class NumberRead:
    """A number as it stands, letters ``[start, end)``. *meanings* are all it may mean; *parts* are those of one that is
    no single value, as a date in figures has."""

    text: str
    start: int
    end: int
    meanings: frozenset[Meaning]
    parts: tuple[int, ...] = ()


def read_numbers(text: str, tag: str) -> Iterator[NumberRead]:
    """The numbers of a text in its language, in their order.

    >>> [sorted(map(str, one.meanings)) for one in read_numbers("1.500,25 m um 21.30 Uhr", "de-DE")]
    [['1500.25'], ['(21, 30)', '21.30']]
    >>> [one.parts for one in read_numbers("Am 12.5.1999", "de-DE")], value_of("1,500", "en-GB"), value_of("٣٫٥", "ar")
    ([(12, 5, 1999)], Decimal('1500'), Decimal('3.5'))
    """
    for match in _FIGURE.finditer(text):
        parts = [_plain(part) for part in re.split(r"\D", match.group())]
        signs = re.findall(r"\D", match.group())
        value = _value(parts, signs, tag)
        meanings: set[Meaning] = set() if value is None else {value}
        clock = _clock(parts, signs)
        half = _HALF_DAY.match(text, match.end())
        hours = clock or ((int(parts[0]), 0) if half and len(parts) == 1 and int(parts[0]) <= _HOURS else None)
        if hours:
            meanings.add(hours)
        if hours and half and half.group(1).lower() == "p" and hours[0] < _HOURS // 2:
            later = (hours[0] + _HOURS // 2, hours[1])
            meanings |= {later, *([Decimal(later[0])] if len(parts) == 1 else [])}
        single = () if meanings else tuple(int(part) for part in parts)
        yield NumberRead(match.group(), *match.span(), frozenset(meanings), single)


def value_of(number: str, tag: str) -> Decimal | None:
    """The value of a number as it is written in a language; None where it is no single value."""
    parts, signs = [_plain(part) for part in re.split(r"\D", number)], re.findall(r"\D", number)
    return _value(parts, signs, tag)


def _value(parts: Sequence[str], signs: Sequence[str], tag: str) -> Decimal | None:
    if not signs:
        return Decimal(parts[0])
    decimal, group = _separators(tag)
    kinds = set(signs)
    if not kinds <= set(_GROUPS + _DECIMALS + decimal + group):
        return None
    whole, last = "".join(parts[:-1]), parts[-1]
    if len(kinds) == 1 and _grouped(parts) and (signs[0] == group or (signs[0] in _GROUPS and signs[0] != decimal)):
        return Decimal(whole + last)
    if len(signs) == 1:
        return Decimal(f"{whole}.{last}")
    if signs[-1] not in signs[:-1] and len(set(signs[:-1])) == 1 and _grouped(parts[:-1]):
        return Decimal(f"{whole}.{last}")
    return Decimal(whole + last) if len(kinds) == 1 and _grouped(parts) else None


def _grouped(parts: Sequence[str]) -> bool:
    """Whether digits are grouped by thousands, or, as in India, by hundreds above a thousand."""
    first, *middle, last = parts if len(parts) > 1 else (*parts, "000")
    return len(first) <= 3 and len(last) == 3 and {len(part) for part in middle} in (set(), {2}, {3})


def _clock(parts: Sequence[str], signs: Sequence[str]) -> tuple[int, int] | None:
    if not signs or signs[0] not in ":." or len(set(signs)) > 1 or len(parts) > 3 or len(parts[1]) != 2:
        return None
    if signs[0] == "." and len(parts) > 2:
        return None
    hours, minutes = int(parts[0]), int(parts[1])
    return (hours, minutes) if hours <= _HOURS and minutes < _MINUTES else None


def _plain(digits: str) -> str:
    """Digits of whatever script as those of ASCII."""
    return digits if digits.isascii() else "".join(str(unicodedata.digit(digit)) for digit in digits)


@lru_cache(maxsize=64)
def _separators(tag: str) -> tuple[str, str]:
    """What stands before a fraction, and between thousands."""
    locale = locale_of(tag)
    if locale is None:
        return ".", ","
    from babel.numbers import get_decimal_symbol, get_group_symbol

    return get_decimal_symbol(locale), get_group_symbol(locale)


@lru_cache(maxsize=64)
def locale_of(tag: str) -> Locale | None:
    """What CLDR knows of a language; None where it does not know it."""
    from babel import Locale, UnknownLocaleError

    try:
        return Locale.parse(spoken_tag(tag), sep="-")
    except (UnknownLocaleError, ValueError):
        return None
