"""Words of a version that are said otherwise than a voice would read them, from the project's dictionary and terms."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Final

from zweistimme.project.kept_values import KeptValues
from zweistimme.project.model import Project
from zweistimme.project.sayings import sayings_in
from zweistimme.project.term_finding import Sought, TermFinder
from zweistimme.project.terms import rendering_in

Place = tuple[int, int, str]
"""Letters ``[start, end)`` of a text, and how they are said: in IPA, or behind ``LIKE`` spelled otherwise."""


class Pronunciations:
    """How words are said, exactly as they are written: another form of a word has other sounds."""

    def __init__(self, words: Iterable[tuple[str, str]], tag: str) -> None:
        entries = [Sought(word, ipa, exactly=True) for word, ipa in words]
        self._finder = TermFinder(entries, tag) if entries else None

    def places(self, text: str) -> tuple[Place, ...]:
        """Where in a text something is said so, in order; of two pronunciations of one word the first."""
        found = self._finder.found(text) if self._finder else ()
        by_place = {(one.start, one.end): one.key for one in reversed(found)}
        return tuple((start, end, ipa) for (start, end), ipa in sorted(by_place.items()))

    def of(self, text: str) -> tuple[tuple[str, str], ...]:
        """What of a text is said so, each once: part of what its take is made from."""
        if self._finder is None:
            return ()
        return tuple(sorted({(text[start:end], ipa) for start, end, ipa in self.places(text)}))


AS_WRITTEN: Final = Pronunciations((), "")
_kept: KeptValues[Pronunciations] = KeptValues()
"""Every take is asked whether it is stale."""


def pronunciations_of(project: Project, tag: str) -> Pronunciations:
    """How words of a version are said."""
    terms, sayings = project.terms, project.sayings
    if not terms and not sayings:
        return AS_WRITTEN

    def made() -> Pronunciations:
        renderings = (rendering_in(term, tag) for term in terms.values())
        words = [(one.word, one.how) for one in sayings_in(sayings, tag)]
        words += [(one.text, one.pronunciation) for one in renderings if one.text and one.pronunciation]
        return Pronunciations(words, tag) if words else AS_WRITTEN

    return _kept.get(tag, (terms, sayings), made)
