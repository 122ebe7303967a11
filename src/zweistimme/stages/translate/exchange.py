"""Versions sent to people who have no desk, and taken back: by identity, and nothing that either side did meanwhile is
lost."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Final

from zweistimme.formats.exchange_row import Exchange, ExchangeRow, mark_of
from zweistimme.formats.review_sheet import read_sheet, write_sheet
from zweistimme.formats.review_table import read_csv, read_word, write_csv, write_word
from zweistimme.formats.text import read_bytes
from zweistimme.formats.xliff import read_xliff, write_xliff
from zweistimme.messages import tr
from zweistimme.project.access import find_version, put_version
from zweistimme.project.errors import FormatError
from zweistimme.project.facts import spoken_segments
from zweistimme.project.findings import Finding
from zweistimme.project.languages import same_language, spoken_tag
from zweistimme.project.line_edits import with_offers, written_line
from zweistimme.project.model import Line, Project, Segment, Version
from zweistimme.project.times import SECOND_US
from zweistimme.project.wordings import LineNote, LineState, Offer, Origin, OriginKind
from zweistimme.project.writing import letters, one_line
from zweistimme.stages.fit.slot import measured_length
from zweistimme.stages.translate.line_pictures import line_pictures

WRITERS: Final[Mapping[str, Callable[[Exchange], bytes]]] = {
    ".xlf": write_xliff, ".xliff": write_xliff, ".docx": write_word, ".xlsx": write_sheet,
    ".csv": write_csv,
}  # fmt: skip
READERS: Final[Mapping[str, Callable[[bytes, str], Exchange]]] = {
    ".xlf": read_xliff, ".xliff": read_xliff, ".docx": read_word, ".xlsx": read_sheet,
    ".csv": read_csv,
}  # fmt: skip
PICTURED: Final = (".docx", ".xlsx")
"""Kinds that may have pictures."""
Pictures = Callable[[Segment], bytes]
Report = Callable[[float], None]
_LETTERS_A_SYLLABLE: Final = 3
"""Where neither wording nor original says how many letters its syllables have."""


def _no_picture(_segment: Segment) -> bytes:
    return b""


@dataclass(frozen=True, slots=True)
class Change:
    """What taking back a file would do to a line. *clash* says that the wording was changed here, too, since it was
    sent, *moved* that the original was; *emptied*, *locked* and *final* lines are not changed unless somebody wants
    that."""

    segment_id: str
    number: int
    before: str
    after: str
    state: LineState
    notes: tuple[LineNote, ...] = ()
    clash: bool = False
    moved: bool = False
    locked: bool = False
    final: bool = False

    @property
    def emptied(self) -> bool:
        return bool(self.before) and not self.after

    @property
    def sure(self) -> bool:
        """Whether it can be taken without a person looking at it."""
        return not (self.clash or self.locked or self.final or self.emptied)


def doubts(change: Change) -> list[str]:
    """Why a person should look at a change, each in a few words."""
    said = (
        (change.clash, tr("changed here, too")),
        (change.moved, tr("the original has changed")),
        (change.locked, tr("locked")),
        (change.final, tr("final")),
        (change.emptied, tr("emptied")),
    )
    return [words for there, words in said if there]


def exchange_of(project: Project, tag: str, pictures: Pictures = _no_picture) -> Exchange:
    """A version as it is sent, with the pictures there are at its lines."""
    version = find_version(project, tag)
    rows = [
        replace(_row(project, version, number, one), picture=pictures(one))
        for number, one in enumerate(spoken_segments(project), 1)
    ]
    return Exchange(project.title, project.source_tag, spoken_tag(tag), tuple(rows))


def _row(project: Project, version: Version, number: int, segment: Segment) -> ExchangeRow:
    line = version.lines.get(segment.id) or Line(segment.id, "", "")
    text = line.text or segment.text
    length = measured_length(project, version, segment, text)
    share = letters(text) / max(1, length.syllables) or _LETTERS_A_SYLLABLE
    source, target = segment.text.strip(), line.text.strip()
    return ExchangeRow(
        segment.id, source, target, number, project.speakers[segment.speaker_id].name, segment.start_us,
        segment.end_us, length.slot_us / SECOND_US, round(share * length.room), line.locked, line.state, line.notes,
        mark_of(source), mark_of(target), line.state.value,
    )  # fmt: skip


def written_exchange(
    project: Project,
    tag: str,
    kind: str,
    *,
    with_pictures: bool = False,
    file: Path | None = None,
    report: Report = lambda _share: None,
) -> bytes:
    """A version as a file of a kind, such as ``.xlf``; tables may have the programme's picture at each line, and
    *report* is told how far that is; *file* is where the programme lies, if not where it was brought in from.
    FormatError for a kind that is not written."""
    if kind.lower() not in WRITERS:
        raise FormatError("“{kind}” is not written. There is {kinds}.", kind=kind, kinds=", ".join(WRITERS))
    if not with_pictures:
        return WRITERS[kind.lower()](exchange_of(project, tag))
    if kind.lower() not in PICTURED:
        raise FormatError("Pictures go into {kinds}, not into “{kind}”.", kind=kind, kinds=", ".join(PICTURED))
    last_us = max((segment.end_us for segment in project.segments), default=1)
    with line_pictures(project, file) as picture_at:

        def picture(segment: Segment) -> bytes:
            report(segment.start_us / last_us)
            return picture_at(segment)

        return WRITERS[kind.lower()](exchange_of(project, tag, picture))


def read_exchange(path: Path) -> Exchange:
    """A file that came back."""
    if path.suffix.lower() not in READERS:
        raise FormatError("“{kind}” is not read. There is {kinds}.", kind=path.suffix, kinds=", ".join(READERS))
    return READERS[path.suffix.lower()](read_bytes(path), path.name)


def proposed(project: Project, tag: str, exchange: Exchange) -> tuple[list[Change], list[Finding]]:
    """What taking a file back would change, line by line, and what of it belongs to no line any more. FormatError where
    it is of other languages."""
    _same_languages(project, tag, exchange)
    version, spoken = find_version(project, tag), spoken_segments(project)
    by_id = {segment.id: segment for segment in spoken}
    numbers = {segment.id: number for number, segment in enumerate(spoken, 1)}
    by_mark: dict[str, list[Segment]] = {}
    for segment in spoken:
        by_mark.setdefault(mark_of(segment.text), []).append(segment)
    changes, lost = [], 0
    for row in exchange.rows:
        found = by_id.get(row.segment_id) or _numbered(row, spoken, by_mark)
        if found is None:
            lost += 1
            continue
        change = _change(row, found, numbers[found.id], version.lines.get(found.id) or Line(found.id, "", ""))
        if change is not None:
            changes.append(change)
    said = [*exchange.said, *([Finding("lines-gone", {"lines": lost})] if lost else [])]
    return sorted(changes, key=lambda change: change.number), said


def _same_languages(project: Project, tag: str, exchange: Exchange) -> None:
    for ours, theirs in ((project.source_tag, exchange.source_tag), (tag, exchange.target_tag)):
        if theirs and not same_language(ours, theirs):
            raise FormatError("This file has {theirs} where {ours} is wanted.", theirs=theirs, ours=spoken_tag(ours))


def _numbered(row: ExchangeRow, spoken: list[Segment], by_mark: Mapping[str, list[Segment]]) -> Segment | None:
    """A line that is known by its number and the mark of its original; one that was moved, by the mark alone where no
    other has it."""
    there = spoken[row.number - 1] if 0 < row.number <= len(spoken) else None
    if not row.source_sent or (there is not None and mark_of(there.text) == row.source_sent):
        return there
    alike = by_mark.get(row.source_sent, [])
    return alike[0] if len(alike) == 1 else None


def _change(row: ExchangeRow, segment: Segment, number: int, line: Line) -> Change | None:
    theirs, ours = one_line(row.target), line.text
    touched = mark_of(theirs) != row.target_sent if row.target_sent else theirs != ours
    clash = bool(row.target_sent) and mark_of(ours) != row.target_sent
    after = theirs if touched and mark_of(theirs) != mark_of(ours) else ours
    state = _state(row, line, changed=after != ours)
    known = {(note.author, note.text) for note in line.notes}
    notes = tuple(note for note in row.notes or () if (note.author, note.text.strip()) not in known)
    if after == ours and state is line.state and not notes:
        return None
    moved = bool(row.source_sent) and mark_of(segment.text) != row.source_sent
    return Change(
        segment.id, number, ours, after, state if after else LineState.INITIAL, notes,
        clash=clash and after != ours, moved=moved, locked=line.locked and after != ours,
        final=line.state is LineState.FINAL and (after != ours or state is not LineState.FINAL),
    )  # fmt: skip


def _state(row: ExchangeRow, line: Line, *, changed: bool) -> LineState:
    """How far a line is then: what somebody changed in a table was reviewed; a state that a file has is taken where it
    was changed there, or, where it does not say so, where it is further."""
    if row.state is None:
        return LineState.REVIEWED if changed else line.state
    order = list(LineState)
    taken = row.state.value != row.state_sent if row.state_sent else order.index(row.state) > order.index(line.state)
    state = row.state if taken else line.state
    return LineState.TRANSLATED if changed and not state.settled else state


def take_back(project: Project, tag: str, changes: Iterable[Change], file: str) -> Project:
    """Make changes of a file, in one go. A wording that was here is on offer then; lines of an original that has
    changed since stay stale; locked ones stay locked, though whoever gives them here has them changed."""
    version, segments = find_version(project, tag), {segment.id: segment for segment in project.segments}
    lines = dict(version.lines)
    for change in changes:
        segment = segments.get(change.segment_id)
        if segment is not None:
            before = lines.get(segment.id) or Line(segment.id, "", "")
            lines[segment.id] = _taken(segment, before, change, Origin(OriginKind.IMPORT, file))
    return put_version(project, replace(version, lines=lines))


def _taken(segment: Segment, before: Line, change: Change, origin: Origin) -> Line:
    line = before
    if change.after != before.text:
        line = written_line(segment, replace(before, locked=False), change.after, origin)
        line = with_offers(replace(line, locked=before.locked and bool(line.text)), [Offer(before.text, before.origin)])
        if change.moved:
            line = replace(line, made_from=before.made_from, original=before.original)
    return replace(line, state=change.state, notes=(*line.notes, *change.notes))
