"""The terms of a project as one version needs them: what is said in the original, and what is to be said for it."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass
from typing import Final

from zweistimme.project.kept_values import KeptValues
from zweistimme.project.model import Project
from zweistimme.project.term_finding import Found, Sought, TermFinder
from zweistimme.project.terms import Rendering, Term, rendering_in

_FORBIDDEN: Final = "forbidden "
_books: KeptValues[TermBook] = KeptValues()


@dataclass(frozen=True, slots=True)
class Said:
    """A term in the original, letters ``[start, end)``, and what it is in the version."""

    key: str
    term: Term
    rendering: Rendering
    start: int
    end: int


@dataclass(frozen=True, slots=True)
class Unwanted:
    """A word in a wording, letters ``[start, end)``, that is not to be used, and what is to be said instead of it."""

    word: str
    instead: str
    start: int
    end: int


class TermBook:
    """Finds in both languages."""

    def __init__(self, terms: Mapping[str, Term], source_tag: str, tag: str) -> None:
        self._terms = terms
        self._renderings = {key: rendering_in(term, tag) for key, term in terms.items()}
        sources = (Sought(term.source, key, is_name=term.is_name) for key, term in terms.items())
        self._in_source = TermFinder(sources, source_tag)
        self._in_target = TermFinder(self._of_target(), tag)
        self.forbids = any(one.forbidden for one in self._renderings.values())

    def _of_target(self) -> Iterable[Sought]:
        for key, rendering in self._renderings.items():
            for text in filter(None, (rendering.text, *rendering.also)):
                yield Sought(text, key)
            for number, word in enumerate(rendering.forbidden):
                yield Sought(word, f"{_FORBIDDEN}{number} {key}")

    def said(self, source: str) -> tuple[Said, ...]:
        """Terms in an original, each once, in order."""
        first: dict[str, Found] = {}
        for one in self._in_source.found(source):
            first.setdefault(one.key, one)
        return tuple(
            Said(one.key, self._terms[one.key], self._renderings[one.key], one.start, one.end) for one in first.values()
        )

    def missing(self, source: str, wording: str) -> Iterator[Said]:
        """Terms of an original whose rendering is not in the wording, in any form, nor in a longer word; but not where
        there is a word that is not to be used for it, which ``unwanted`` says."""
        said = [one for one in self.said(source) if one.rendering.text]
        if not said:
            return
        there = {one.key.rpartition(" ")[2] for one in self._in_target.found(wording)}
        folded = wording.casefold()
        done = {one.rendering.text.casefold() for one in said if one.key in there}  # of homonyms, either will do
        for one in said:
            words = [word.casefold() for word in (one.rendering.text, *one.rendering.also)]
            if words[0] not in done and not any(word in folded for word in words):
                yield one

    def unwanted(self, wording: str) -> Iterator[Unwanted]:
        """Words of a wording that are not to be used."""
        if not self.forbids:
            return
        for one in self._in_target.found(wording):
            if one.key.startswith(_FORBIDDEN):
                _, number, key = one.key.split(" ", 2)
                rendering = self._renderings[key]
                yield Unwanted(rendering.forbidden[int(number)], rendering.text, one.start, one.end)


def term_book(project: Project, tag: str) -> TermBook:
    """The terms of a version, kept while they are the same."""
    terms, source = project.terms, project.source_tag
    return _books.get((source, tag), (terms,), lambda: TermBook(terms, source, tag))
