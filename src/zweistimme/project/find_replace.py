"""Find and replace in the original and in the versions, seen before it is done."""

from __future__ import annotations

import re
from collections.abc import Collection, Iterable, Iterator
from dataclasses import dataclass, replace
from typing import Final

from zweistimme.project.access import find_line, find_segment, find_version, put_segments, put_version
from zweistimme.project.errors import EditError
from zweistimme.project.line_edits import written_line
from zweistimme.project.model import Line, Project
from zweistimme.project.row_changes import with_rows
from zweistimme.project.words import retimed
from zweistimme.project.writing import is_unspaced, one_line, words_in

ORIGINAL: Final = ""
"""Stands for the original where a version's tag may stand."""


@dataclass(frozen=True, slots=True)
class Search:
    """What to look for, and in which texts: ORIGINAL or tags of versions."""

    find: str
    replacement: str = ""
    same_case: bool = False
    whole_words: bool = False
    places: tuple[str, ...] = (ORIGINAL,)

    def pattern(self) -> re.Pattern[str]:
        """The search as a pattern; spaces in it match any."""
        words = r"\s+".join(re.escape(part) for part in self.find.split())
        if self.whole_words and not is_unspaced(self.find):  # there, no space says where a word begins
            words = rf"(?<!\w){words}(?!\w)"
        return re.compile(words, 0 if self.same_case else re.IGNORECASE)


@dataclass(frozen=True, slots=True)
class Hit:
    """One text in which something was found: where, the text, the text as it would be, and the places found."""

    tag: str
    segment_id: str
    before: str
    after: str
    spans: tuple[tuple[int, int], ...]


def found(project: Project, search: Search) -> list[Hit]:
    """Every text that holds what is looked for, in order of time, the original before the versions."""
    if not search.find.strip():
        return []
    pattern = search.pattern()
    hits = []
    for tag, segment_id, text in _texts(project, search.places):
        spans = tuple(match.span() for match in pattern.finditer(text))
        if spans:
            after = one_line(pattern.sub(lambda _match: search.replacement, text))
            hits.append(Hit(tag, segment_id, text, after, spans))
    return hits


def _texts(project: Project, places: Collection[str]) -> Iterator[tuple[str, str, str]]:
    versions = [version for tag, version in project.versions.items() if tag in places]
    for segment in project.segments:
        if ORIGINAL in places:
            yield ORIGINAL, segment.id, segment.text
        for version in versions:
            line = version.lines.get(segment.id)
            if line is not None:
                yield version.tag, segment.id, line.text


def replace_found(project: Project, hits: Iterable[Hit]) -> Project:
    """Put the texts of *hits* in place. A text that has changed since it was found is an EditError."""
    segments = {segment.id: segment for segment in project.segments}
    changed = []
    lines: dict[str, dict[str, Line]] = {}
    for hit in hits:
        segment = segments.get(hit.segment_id) or find_segment(project, hit.segment_id)
        if hit.tag == ORIGINAL:
            _unchanged(hit, segment.text)
            changed.append(replace(segment, text=hit.after, words=retimed(segment, words_in(hit.after))))
        else:
            line = find_line(project, hit.tag, hit.segment_id)
            _unchanged(hit, line.text)
            lines.setdefault(hit.tag, {})[segment.id] = written_line(segment, line, hit.after)
    for tag, written in lines.items():
        version = find_version(project, tag)
        project = put_version(project, replace(version, lines=with_rows(version.lines, written)))
    return put_segments(project, changed) if changed else project


def _unchanged(hit: Hit, text: str) -> None:
    if text != hit.before:
        raise EditError(
            "“{before}” has been changed since it was found. Look again, then replace.", before=hit.before[:40]
        )
