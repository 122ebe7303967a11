"""Numbers, terms and placeholders: what has to be in the wording as it is in the original."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterator
from decimal import Decimal
from typing import Final

from zweistimme.project.access import find_version
from zweistimme.project.regions import usages
from zweistimme.project.term_book import term_book
from zweistimme.project.writing.number_reading import NumberRead, read_numbers
from zweistimme.project.writing.numbers import said_number
from zweistimme.stages.check.noticed import Looked, Noticed

_PLACEHOLDER: Final = re.compile(r"\{\w*\}|%\d*\$?[sdif]\b|</?[A-Za-z][^<>]*>|\$\{\w+\}")


def numbers(looked: Looked) -> Iterator[Noticed]:
    """Numbers of the original that the wording has neither in digits nor in words, and the other way round. They are
    compared by what they mean, each in its language: how it groups digits, what it puts before fractions or minutes,
    twelve hours or twenty-four, and a date in figures or with the name of its month, make no difference."""
    source = list(read_numbers(looked.source, looked.project.source_tag))
    target = list(read_numbers(looked.text, looked.tag))
    for one in list(source):
        alike = (two for two in target if one.meanings & two.meanings or (one.parts and one.parts == two.parts))
        same = next(alike, None)
        if same is not None:
            source.remove(one)
            target.remove(same)
    _take_dates(source, target)
    _take_dates(target, source)
    for one in source:
        if not _in_words(one, looked.text, looked.tag):
            yield looked.noticed("number-missing", number=one.text)
    for one in target:
        if not _in_words(one, looked.source, looked.project.source_tag):
            yield looked.noticed("number-added", one.start, one.end, number=one.text)


def _take_dates(numbers: list[NumberRead], others: list[NumberRead]) -> None:
    """Take away numbers of several parts whose parts stand by themselves on the other side, all but one: the month,
    which has a name there. Whether it is the same day is told by the dates."""
    for one in [number for number in numbers if len(number.parts) > 1]:
        found: list[NumberRead] = []
        for part in one.parts:
            there = (two for two in others if Decimal(part) in two.meanings and two not in found)
            found += [*there][:1]
        if found and len(found) >= len(one.parts) - 1:
            numbers.remove(one)
            for two in found:
                others.remove(two)


def _in_words(number: NumberRead, text: str, tag: str) -> bool:
    """Whether a number stands in words in the other text; of a time of day its hour is enough."""
    letters = "".join(filter(str.isalpha, text.casefold()))
    for meaning in number.meanings:
        value = Decimal(meaning[0]) if isinstance(meaning, tuple) else meaning
        plain = str(int(value)) if value == value.to_integral_value() else str(value.normalize())
        words = "".join(filter(str.isalpha, said_number(plain, tag).casefold()))
        if words and words in letters:
            return True
    return False


def terms(looked: Looked) -> Iterator[Noticed]:
    """Names and terms of the original whose rendering is not in the wording."""
    for said in term_book(looked.project, looked.tag).missing(looked.source, looked.text):
        yield looked.noticed("term-missing", term=said.term.source, wanted=said.rendering.text)


def forbidden(looked: Looked) -> Iterator[Noticed]:
    """Words that are not to be used; mended where they stand as they are listed, since other forms need other forms."""
    text = looked.text
    for one in term_book(looked.project, looked.tag).unwanted(text):
        as_listed = text[one.start : one.end].casefold() == one.word.casefold()
        mended = text[: one.start] + one.instead + text[one.end :] if one.instead and as_listed else None
        code, more = ("word-instead", {"instead": one.instead}) if one.instead else ("word-forbidden", {})
        yield looked.noticed(code, one.start, one.end, mended, word=text[one.start : one.end], **more)


def regional(looked: Looked) -> Iterator[Noticed]:
    """Words that people have put otherwise in this region of the language before."""
    version = find_version(looked.project, looked.tag)
    if not version.basis:
        return
    text = looked.text
    for one in usages(looked.project, version).within(text):
        mended = text[: one.start] + one.here + text[one.end :]
        yield looked.noticed(
            "word-regional", one.start, one.end, mended, word=one.there, instead=one.here, times=one.times
        )


def placeholders(looked: Looked) -> Iterator[Noticed]:
    """Placeholders and mark-up that are lost or added."""
    source = Counter(_PLACEHOLDER.findall(looked.source))
    target = Counter(_PLACEHOLDER.findall(looked.text))
    for one in (source - target).elements():
        yield looked.noticed("placeholder-missing", placeholder=one)
    for one in (target - source).elements():
        start = looked.text.find(one)
        yield looked.noticed("placeholder-added", start, start + len(one), placeholder=one)
