"""Where terms stand in a text, in whatever form: by stems between spaces, by their letters where there are none.

What is looked for is gathered by the first stem (or the first two signs) of each entry, so that finding takes as long
as the text is, however many terms there are.
"""

from __future__ import annotations

import unicodedata
from collections import defaultdict
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, replace
from typing import Final

from zweistimme.project.writing import is_unspaced
from zweistimme.project.writing.stems import are_alike, bare_words, is_form_of, keys_of, stem

_SHORTEST_FORM: Final = 3
"""Entries with fewer letters are found as they are written alone, in scripts whose letters are single sounds."""
_FIRST_OTHER: Final = "\u0590"


@dataclass(frozen=True, slots=True)
class Sought:
    """What is looked for, and the key of what it stands for; *exactly* in these letters and no other form, and a *name*
    with its capitals."""

    text: str
    key: str
    is_name: bool = False
    exactly: bool = False


@dataclass(frozen=True, slots=True)
class Found:
    """Where an entry stands: letters ``[start, end)`` of the text."""

    key: str
    start: int
    end: int


@dataclass(frozen=True, slots=True)
class _Pattern:
    sought: Sought
    words: tuple[str, ...]
    stems: tuple[str, ...]


class TermFinder:
    """Looks for entries of one language."""

    def __init__(self, entries: Iterable[Sought], tag: str) -> None:
        self._tag = tag
        self._by_stem: dict[str, list[_Pattern]] = defaultdict(list)
        self._by_sign: dict[str, list[Sought]] = defaultdict(list)
        for entry in entries:
            text = unicodedata.normalize("NFC", entry.text).strip()
            if is_unspaced(text):
                self._by_sign[text[:1]].append(replace(entry, text=text))
                continue
            words = tuple(word for word, _, _ in bare_words(text))
            if words:
                stems = tuple(stem(word, tag) for word in words)
                for key in keys_of(stems[0]):
                    self._by_stem[key].append(
                        _Pattern(Sought(text, entry.key, entry.is_name, entry.exactly), words, stems)
                    )
        for longest in self._by_sign.values():
            longest.sort(key=lambda entry: -len(entry.text))
        for patterns in self._by_stem.values():
            patterns.sort(key=lambda pattern: -len(pattern.words))

    def found(self, text: str) -> tuple[Found, ...]:
        """Every place of every entry, the longest of those that overlap alone; of several entries that are the same
        words, all."""
        places = [*self._between_spaces(text), *self._without_spaces(text)]
        places.sort(key=lambda one: (one.start, -one.end))
        kept: list[Found] = []
        for one in places:
            if not kept or one.start >= kept[-1].end or (one.start, one.end) == (kept[-1].start, kept[-1].end):
                kept.append(one)
        return tuple(dict.fromkeys(kept))

    def _between_spaces(self, text: str) -> Iterator[Found]:
        if not self._by_stem:
            return
        words = bare_words(text)
        stems = [stem(word, self._tag) for word, _, _ in words]
        for place, first in enumerate(stems):
            for pattern in self._beginning(first):
                end = place + len(pattern.words)
                there = stems[place:end]
                alike = len(there) == len(pattern.stems) and all(map(are_alike, there, pattern.stems))
                if alike and self._is_it(pattern, text, words[place:end]):
                    yield Found(pattern.sought.key, words[place][1], words[end - 1][2])

    def _beginning(self, first: str) -> Iterator[_Pattern]:
        for key in keys_of(first):
            yield from self._by_stem.get(key, ())

    def _is_it(self, pattern: _Pattern, text: str, words: list[tuple[str, int, int]]) -> bool:
        entry = pattern.sought
        written = text[words[0][1] : words[-1][2]]
        short = entry.text[0] < _FIRST_OTHER and sum(map(len, pattern.words)) < _SHORTEST_FORM
        exactly = entry.exactly or short
        if exactly and tuple(word for word, _, _ in words) != pattern.words:
            return False
        if not all(
            is_form_of(word, wanted, self._tag) for (word, _, _), wanted in zip(words, pattern.words, strict=True)
        ):
            return False
        if entry.text.isupper() and len(entry.text) > 1:
            return written[:1].isupper() and written[1:2].isupper()
        return not (entry.is_name and entry.text[:1].isupper() and written[:1].islower())

    def _without_spaces(self, text: str) -> Iterator[Found]:
        if not self._by_sign:
            return
        for place, sign in enumerate(text):
            for entry in self._by_sign.get(sign, ()):
                if text.startswith(entry.text, place):
                    yield Found(entry.key, place, place + len(entry.text))
