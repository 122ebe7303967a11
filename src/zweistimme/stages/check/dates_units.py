"""Dates and units: whether the same day is said in the wording, and the same unit behind the same number.

How a language orders a date, what it calls its months and its units comes from CLDR (Unicode TR 35). Only what is there
on both sides is compared: what is missing altogether, the numbers tell.
"""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from functools import lru_cache
from typing import Final

from zweistimme.project.writing.number_reading import locale_of, value_of
from zweistimme.stages.check.noticed import Looked, Noticed

_UNITS: Final = (
    "length-kilometer", "length-meter", "length-centimeter", "length-millimeter", "length-mile", "length-yard",
    "length-foot", "length-inch", "length-nautical-mile", "mass-kilogram", "mass-gram", "mass-pound", "mass-ounce",
    "mass-tonne", "volume-liter", "volume-milliliter", "volume-gallon", "temperature-celsius",
    "temperature-fahrenheit", "speed-kilometer-per-hour", "speed-mile-per-hour", "speed-knot", "duration-year",
    "duration-month", "duration-week", "duration-day", "duration-hour", "duration-minute", "duration-second",
    "power-watt", "power-kilowatt", "area-hectare", "area-acre", "concentr-percent",
)  # fmt: skip
_NUMERIC: Final = re.compile(r"(?<![\d.,/\-])(\d{1,4})([./\-])\s?(\d{1,2})\2\s?(\d{1,4})(?![\d/\-])")
_NUMBER: Final = re.compile(r"\d+(?:[.,]\d+)*")
_NEAR: Final = 6
"""A day stands at most so many letters from its month: “the 3rd of May”."""


@dataclass(frozen=True, slots=True)
class _Found:
    """Something said, as it is compared (*meaning*) and as it stands, letters ``[start, end)``."""

    meaning: tuple[object, ...]
    words: str
    start: int
    end: int


def dates(looked: Looked) -> Iterator[Noticed]:
    """Another day than the original names."""
    if not any(map(str.isdigit, looked.source)) or not any(map(str.isdigit, looked.text)):
        return
    wanted, there = _dates(looked.source, looked.project.source_tag), _dates(looked.text, looked.tag)
    meant = {one.meaning for one in wanted}
    for one in there if wanted else ():
        if one.meaning not in meant:
            yield looked.noticed("date-other", one.start, one.end, date=one.words, wanted=wanted[0].words)


def _dates(text: str, tag: str) -> list[_Found]:
    """Days of months in a text, written in numbers or with the month's name; dates that cannot be are left out."""
    locale = locale_of(tag)
    if locale is None:
        return []
    found = []
    order = list(dict.fromkeys(re.findall("[dMy]", locale.date_formats["short"].pattern)))
    for match in _NUMERIC.finditer(text):
        figures = [int(match.group(group)) for group in (1, 3, 4)]
        if figures[0] > 31:  # year, month, day, as ISO 8601 has them
            day, month = figures[2], figures[1]
        else:
            by_letter = dict(zip(order, figures, strict=True))
            day, month = by_letter["d"], by_letter["M"]
        if 1 <= day <= 31 and 1 <= month <= 12:
            found.append(_Found((day, month), match.group(), *match.span()))
    return found + _with_names(text, tag)


@lru_cache(maxsize=64)
def _months(tag: str) -> tuple[re.Pattern[str], Mapping[str, int]] | None:
    locale = locale_of(tag)
    if locale is None:
        return None
    names: dict[str, int] = {}
    for kind in ("format", "stand-alone"):
        for width in ("wide", "abbreviated"):
            for number, name in locale.months[kind][width].items():
                if len(name) >= 3 and not name[0].isdigit():
                    names.setdefault(name.casefold().rstrip("."), number)
    if not names:
        return None
    longest_first = "|".join(re.escape(name) for name in sorted(names, key=len, reverse=True))
    return re.compile(rf"(?<!\w)({longest_first})\.?(?!\w)", re.IGNORECASE), names


def _with_names(text: str, tag: str) -> list[_Found]:
    known = _months(tag)
    if known is None:
        return []
    pattern, names = known
    found = []
    days = [(int(m.group()), *m.span()) for m in re.finditer(r"(?<![\d.,])\d{1,2}(?!\d)", text)]
    for match in pattern.finditer(text):
        near = [
            (min(abs(match.start() - end), abs(start - match.end())), day, start, end)
            for day, start, end in days
            if 1 <= day <= 31 and min(abs(match.start() - end), abs(start - match.end())) <= _NEAR
        ]
        if near:
            _, day, start, end = min(near)
            first, last = min(start, match.start()), max(end, match.end())
            words = text[first:last].rstrip(".")  # which may end the sentence, too
            found.append(_Found((day, names[match.group(1).casefold()]), words, first, first + len(words)))
    return found


def units(looked: Looked) -> Iterator[Noticed]:
    """Another unit than in the original behind the very same number."""
    if not any(map(str.isdigit, looked.source)):
        return
    wanted = {one.meaning[0]: one for one in _units(looked.source, looked.project.source_tag)}
    if not wanted:
        return
    for one in _units(looked.text, looked.tag):
        number, unit = one.meaning
        there = wanted.get(number)
        if there is not None and there.meaning[1] != unit:
            yield looked.noticed("unit-other", one.start, one.end, measure=one.words, wanted=there.words)


@lru_cache(maxsize=64)
def _names_of_units(tag: str) -> tuple[re.Pattern[str], Mapping[str, str]] | None:
    locale = locale_of(tag)
    if locale is None:
        return None
    names: dict[str, str] = {}
    for unit in _UNITS:
        for width in ("long", "short"):
            patterns = locale._data["unit_patterns"].get(unit, {}).get(width, {})
            forms = [form for form in patterns.values() if isinstance(form, str) and form.startswith("{0}")]
            for form in forms:
                name = form.removeprefix("{0}").strip().casefold()
                if name and names.setdefault(name, unit) != unit:
                    names[name] = ""  # “m” of minutes and of metres tells nothing
    known = {name: unit for name, unit in names.items() if unit}
    if not known:
        return None
    longest_first = "|".join(re.escape(name) for name in sorted(known, key=len, reverse=True))
    return re.compile(rf"({_NUMBER.pattern})[\s\u00a0\u202f]?({longest_first})(?!\w)", re.IGNORECASE), known


def _units(text: str, tag: str) -> Iterator[_Found]:
    known = _names_of_units(tag)
    for match in known[0].finditer(text) if known else ():
        value = value_of(match.group(1), tag)
        unit = known[1].get(match.group(2).casefold()) if known else None
        if unit and value is not None:
            yield _Found((value, unit), match.group(), *match.span())
