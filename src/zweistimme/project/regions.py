"""Regions of one language: a version that has its words from another (``es-MX`` from ``es-ES``), but where they differ.

What differs is learned from what people have put otherwise in one of them, word for word, and from terms that are not
the same in both. Nothing is guessed about regions.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace
from itertools import pairwise
from typing import Final

from zweistimme.project.access import find_version, put_version
from zweistimme.project.errors import EditError
from zweistimme.project.facts import line_is_stale
from zweistimme.project.kept_values import KeptValues
from zweistimme.project.languages import same_language
from zweistimme.project.line_edits import is_settled
from zweistimme.project.model import Line, Project, Segment, Version
from zweistimme.project.term_finding import Sought, TermFinder
from zweistimme.project.terms import rendering_in
from zweistimme.project.text_changes import Kept, changes
from zweistimme.project.wordings import LineState, Origin, OriginKind

_MARKS: Final = '.,;:!?…“”„«»‹›’"()[]¿¡。、！？'
_LONGEST: Final = 3
"""Words that are put otherwise together; what is longer is another sentence, not another word."""
_kept: KeptValues[Usages] = KeptValues()


@dataclass(frozen=True, slots=True)
class Usage:
    """A word of one region, what is said for it in another, and how often it was put so; letters ``[start, end)``."""

    there: str
    here: str
    times: int
    start: int = -1
    end: int = -1


class Usages:
    """What one region says otherwise than another."""

    def __init__(self, pairs: Mapping[str, tuple[str, int]], tag: str) -> None:
        self._pairs = pairs
        self._finder = TermFinder([Sought(word, word, exactly=True) for word in pairs], tag) if pairs else None

    def within(self, text: str) -> Iterator[Usage]:
        """Words of a text that are said otherwise here."""
        for one in self._finder.found(text) if self._finder else ():
            here, times = self._pairs[one.key]
            written = text[one.start : one.end]
            if here.casefold() not in text.casefold():
                yield Usage(written, _cased(here, written), times, one.start, one.end)


def _cased(word: str, like: str) -> str:
    return word[:1].upper() + word[1:] if like[:1].isupper() else word


def set_basis(project: Project, tag: str, basis: str) -> Project:
    """Have a version take its words from another of the same language, or (empty) from the original again."""
    version = find_version(project, tag)
    if basis:
        find_version(project, basis)
        if basis == tag or not same_language(basis, tag):
            raise EditError(
                "{tag} takes words from another version of the same language, not from {basis}.", tag=tag, basis=basis
            )
        seen, at = {tag}, basis
        while at:
            if at in seen:
                raise EditError("{tag} and {basis} would take their words from each other.", tag=tag, basis=basis)
            seen.add(at)
            at = project.versions[at].basis if at in project.versions else ""
    return project if version.basis == basis else put_version(project, replace(version, basis=basis))


def basis_of(project: Project, version: Version) -> Version | None:
    """The version this one has its words from, if there is one."""
    return project.versions.get(version.basis) if version.basis else None


def is_behind(version: Version, segment: Segment, line: Line | None, there: Line | None) -> bool:
    """Whether a line should get the words of its basis now: they are there, of the original as it stands, nobody has
    settled the line, and it is empty, of another original, or was taken over before there were other words."""
    if there is None or not there.text.strip() or line_is_stale(segment, there):
        return False
    if line is None or (not line.text.strip() and not is_settled(line)):
        return True
    ours = line.origin == Origin(OriginKind.VERSION, version.basis)
    return not is_settled(line) and (line.made_from != there.made_from or (ours and line.text != there.text))


def carried(project: Project, tag: str) -> Project:
    """A version with the words of its basis where it is behind them."""
    version = find_version(project, tag)
    basis = basis_of(project, version)
    if basis is None:
        return project
    lines = dict(version.lines)
    for segment in project.segments:
        there, line = basis.lines.get(segment.id), lines.get(segment.id)
        if there is not None and is_behind(version, segment, line, there):
            before = line or Line(segment.id, "", "")
            lines[segment.id] = replace(
                before, text=there.text, made_from=there.made_from, original=there.original, maker=None,
                origin=Origin(OriginKind.VERSION, version.basis), state=LineState.INITIAL,
                direction=before.direction or there.direction,
            )  # fmt: skip
    return project if lines == version.lines else put_version(project, replace(version, lines=lines))


def usages(project: Project, version: Version) -> Usages:
    """What is said otherwise in a version than in its basis, as far as that can be known."""
    basis = basis_of(project, version)
    if basis is None:
        return Usages({}, version.tag)
    origin = basis.lines, version.lines, project.terms
    return _kept.get((basis.tag, version.tag), origin, lambda: _learned(project, basis, version))


def _learned(project: Project, basis: Version, version: Version) -> Usages:
    count: Counter[tuple[str, str]] = Counter()
    for key, line in version.lines.items():
        there = basis.lines.get(key)
        if there is not None and is_settled(line) and line.made_from == there.made_from and line.text != there.text:
            count.update(_replaced(there.text, line.text, version.tag))
    for term in project.terms.values():
        old, new = rendering_in(term, basis.tag).text, rendering_in(term, version.tag).text
        if old and new and old.casefold() != new.casefold():
            count[old.casefold(), new] += 1
    pairs: dict[str, tuple[str, int]] = {}
    for (old, new), times in count.most_common():
        pairs.setdefault(old, (new, times))
    return Usages(pairs, version.tag)


def _replaced(before: str, after: str, tag: str) -> Iterator[tuple[str, str]]:
    """Words that stand for others, by themselves."""
    for gone, new in pairwise(changes(before, after, tag)):
        if gone.kept is Kept.GONE and new.kept is Kept.NEW:
            old, put = (one.text.strip().strip(_MARKS).strip() for one in (gone, new))
            if old and put and max(len(old.split()), len(put.split())) <= _LONGEST and old.casefold() != put.casefold():
                yield old.casefold(), put
