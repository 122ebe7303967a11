"""All checks over a line, and over a version: what each line says, and what lines say beside each other."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Iterator
from typing import Final

from zweistimme.project.access import find_version
from zweistimme.project.brief import Address
from zweistimme.project.checks import is_let_be
from zweistimme.project.conversation import address_at
from zweistimme.project.model import Line, Project, Segment, Version
from zweistimme.stages.check import address, dates_units, figures, marks, spelling, words
from zweistimme.stages.check.noticed import Check, Looked, Noticed
from zweistimme.stages.fit.slot import voice_pace

_CHECKS: Final[tuple[Check, ...]] = (
    words.not_translated, words.language, figures.numbers, dates_units.dates, dates_units.units, figures.terms,
    figures.forbidden, figures.placeholders, words.doubled, words.sentence_counts, address.agreed_address,
    spelling.misspelt, marks.ends, marks.quotes, marks.brackets, marks.spaces,
)  # fmt: skip
"""Of a line's words alone. What depends on the time there is, comes behind them."""
_Known = tuple[Segment, Line, object, Address, tuple[Noticed, ...]]
_AT_ONCE: Final = 8
"""So many lines are looked through between two reports."""
ByLine = dict[str, tuple[Noticed, ...]]


class Checker:
    """Checks versions; what it found of a line's words is kept as long as segment, line, terms and form of address
    are the same."""

    def __init__(self) -> None:
        self._known: dict[tuple[str, str], _Known] = {}
        self._lengths: dict[tuple[str, str], tuple[tuple[object, ...], tuple[Noticed, ...]]] = {}

    def line(self, project: Project, tag: str, segment: Segment) -> tuple[Noticed, ...]:
        """What is noticed of one line by itself, but what somebody has let be."""
        version = find_version(project, tag)
        line = version.lines.get(segment.id)
        if line is None or not line.text.strip() or not segment.text.strip():
            return ()
        looked = Looked(project, tag, segment, line)
        found = (*self._of_words(looked), *figures.regional(looked), *words.lengths(looked))
        return _noticed_still(found, version)

    def _of_words(self, looked: Looked) -> tuple[Noticed, ...]:
        key, terms = (looked.tag, looked.segment.id), looked.project.terms
        how = address_at(looked.project, looked.segment)
        known = self._known.get(key)
        if known and known[0] is looked.segment and known[1] is looked.line and known[2] is terms and known[3] is how:
            return known[4]
        found = tuple(one for check in _CHECKS for one in check(looked))
        self._known[key] = (looked.segment, looked.line, terms, how, found)
        return found

    def version(self, project: Project, tag: str, report: Callable[[float], None] = lambda _share: None) -> ByLine:
        """Every line of a version of which something is noticed, in order of time."""
        version = find_version(project, tag)
        beside: dict[str, list[Noticed]] = defaultdict(list)
        for one in _beside_each_other(project, version):
            beside[one.segment_id].append(one)
        result: ByLine = {}
        for place, segment in enumerate(project.segments):
            if place % _AT_ONCE == 0:
                report(place / len(project.segments))
            line = version.lines.get(segment.id)
            if line is None or not line.text.strip() or not segment.text.strip():
                continue
            looked = Looked(project, tag, segment, line)
            found = (
                *self._of_words(looked), *figures.regional(looked), *self._of_length(looked, version, place),
                *beside.get(segment.id, ()),
            )  # fmt: skip
            still = _noticed_still(found, version) if found else ()
            if still:
                result[segment.id] = still
        return result

    def _of_length(self, looked: Looked, version: Version, place: int) -> tuple[Noticed, ...]:
        """What depends on the time there is: counted again where the line, its neighbours or its voice's pace are
        others."""
        segments, key = looked.project.segments, (looked.tag, looked.segment.id)
        before = segments[place - 1] if place else None
        after = segments[place + 1] if place + 1 < len(segments) else None
        pace = voice_pace(looked.project, version, looked.segment)
        parts = (looked.segment, looked.line, before, after, version.style, version.preference, pace)
        known = self._lengths.get(key)
        if known is not None and _same(known[0], parts):
            return known[1]
        found = tuple(words.lengths(looked))
        self._lengths[key] = (parts, found)
        return found


def _same(before: tuple[object, ...], now: tuple[object, ...]) -> bool:
    """Whether the first four are the same objects, and the others equal."""
    return all(a is b for a, b in zip(before[:4], now[:4], strict=True)) and before[4:] == now[4:]


def _noticed_still(found: tuple[Noticed, ...], version: Version) -> tuple[Noticed, ...]:
    """Without what somebody has let be."""
    if not version.let_be:
        return found
    return tuple(one for one in found if not is_let_be(version, one.segment_id, one.code))


def _beside_each_other(project: Project, version: Version) -> Iterator[Noticed]:
    """Several ways to address somebody, the same original in several wordings, several originals in the same."""
    by_source: dict[str, dict[str, list[Looked]]] = defaultdict(lambda: defaultdict(list))
    by_target: dict[str, dict[str, list[Looked]]] = defaultdict(lambda: defaultdict(list))
    lines: list[Looked] = []
    for segment in project.segments:
        line = version.lines.get(segment.id)
        source, target = segment.text.strip(), line.text.strip() if line else ""
        if line is not None and source and target:
            looked = Looked(project, version.tag, segment, line)
            lines.append(looked)
            by_source[source.casefold()][target.casefold()].append(looked)
            by_target[target.casefold()][source.casefold()].append(looked)
    yield from address.mixed_address(lines)
    yield from _several(by_source, "wordings-differ")
    yield from _several(by_target, "originals-differ")


def _several(groups: dict[str, dict[str, list[Looked]]], code: str) -> Iterator[Noticed]:
    for ways in groups.values():
        if len(ways) < 2:
            continue
        usual = max(ways.values(), key=len)[0]
        for way in ways.values():
            for looked in way:
                if code == "wordings-differ":
                    mended = usual.text if looked.text.casefold() != usual.text.casefold() else None
                    yield looked.noticed(code, mended=mended, ways=len(ways), text=looked.source[:60])
                elif len(looked.source.split()) > 2 or len(looked.source) > 12:
                    yield looked.noticed(code, ways=len(ways), text=looked.text[:60])
