"""Numbers, terms and placeholders: what has to be in the wording as it is in the original."""

from __future__ import annotations

import re
import unicodedata
from collections import Counter
from collections.abc import Iterator
from typing import Final

from zweistimme.project.access import find_version
from zweistimme.project.regions import usages
from zweistimme.project.term_book import term_book
from zweistimme.project.writing.numbers import said_number
from zweistimme.stages.check.noticed import Looked, Noticed

_NUMBER: Final = re.compile(r"\d+(?:[.,:٫٬'’\u00a0\u202f]\d+)*")
_PLACEHOLDER: Final = re.compile(r"\{\w*\}|%\d*\$?[sdif]\b|</?[A-Za-z][^<>]*>|\$\{\w+\}")


def numbers(looked: Looked) -> Iterator[Noticed]:
    """Numbers of the original that the wording has neither in digits nor in words, and the other way round. How a
    language groups digits, and what it puts before fractions or minutes, makes no difference."""
    source, target = _numbers(looked.source), _numbers(looked.text)
    there, wanted = Counter(map(_digits, target)), Counter(map(_digits, source))
    for number in source:
        if there[_digits(number)]:
            there[_digits(number)] -= 1
        elif not _in_words(number, looked.text, looked.tag):
            yield looked.noticed("number-missing", number=number)
    for match in _NUMBER.finditer(looked.text):
        number = match.group()
        if wanted[_digits(number)]:
            wanted[_digits(number)] -= 1
        elif not _in_words(number, looked.source, looked.project.source_tag):
            yield looked.noticed("number-added", *match.span(), number=number)


def _numbers(text: str) -> list[str]:
    return [match.group() for match in _NUMBER.finditer(text)]


def _digits(number: str) -> str:
    """The digits alone, of whatever script.

    >>> _digits("1,500.25"), _digits("١٠:٣٠")
    ('150025', '1030')
    """
    return "".join(str(unicodedata.digit(sign)) for sign in number if sign.isdigit() and sign.isdecimal())


def _in_words(number: str, text: str, tag: str) -> bool:
    words = said_number(_digits(number), tag)
    letters = "".join(filter(str.isalpha, words.casefold()))
    return bool(letters) and letters in "".join(filter(str.isalpha, text.casefold()))


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
