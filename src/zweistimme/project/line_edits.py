"""Edits of what lines say and how far they are. What a person wrote or let stand, no machine replaces; what is final or
locked, no file either."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import replace
from typing import Any, Final

from zweistimme.project.access import find_line, find_segment, find_version, ids_of, put_line, put_version
from zweistimme.project.errors import EditError
from zweistimme.project.facts import source_fingerprint
from zweistimme.project.model import Line, Maker, Project, Segment
from zweistimme.project.row_changes import with_rows
from zweistimme.project.wordings import LineNote, LineState, Offer, Origin, OriginKind
from zweistimme.project.writing import one_line

_LONGEST_NOTE: Final = 5_000
_MOST_OFFERS: Final = 20


def is_settled(line: Line) -> bool:
    """Whether no machine may put other words in its place."""
    return line.locked or line.state.settled


def keeps_words(line: Line) -> bool:
    """Whether a file may not put other words in its place either."""
    return line.locked or line.state is LineState.FINAL


def put_translation(
    project: Project,
    tag: str,
    segment_id: str,
    wordings: Sequence[str],
    *,
    source: Segment,
    instead_of: Line | None,
    maker: Maker | None = None,
    origin: Origin | None = None,
) -> Project:
    """Store what a machine said *source*, a segment as it was when it was asked, is in this version; direction, takes
    and pin are kept. A settled wording stays, and so does one that is not what it was when it was asked (*instead_of*);
    the answer is on offer then. A segment that is gone has no use for it."""
    before = find_version(project, tag).lines.get(segment_id)
    if segment_id not in ids_of(project.segments):
        return project
    origin = origin or (Origin(OriginKind.ENGINE, maker.engine) if maker else None)
    offers = [Offer(one_line(text), origin) for text in wordings]
    if before is not None and (is_settled(before) or _wording(before) != _wording(instead_of)):
        return put_line(project, tag, with_offers(before, offers))
    line = replace(
        _about(before or Line(segment_id, "", ""), source),
        text=offers[0].text,
        offers=tuple(offers[1:]),
        state=LineState.INITIAL,
        origin=origin,
        maker=maker,
    )
    return put_line(project, tag, line)


def with_offers(line: Line, offers: Iterable[Offer]) -> Line:
    """A line with more wordings on offer, each once; those that came first stay first."""
    every: dict[str, Offer] = {}
    for offer in (*line.offers, *offers):
        if offer.text.strip() and offer.text != line.text:
            every.setdefault(offer.text, offer)
    return replace(line, offers=tuple(every.values())[:_MOST_OFFERS])


def _about(line: Line, segment: Segment) -> Line:
    """A line as one of the original as it stands in *segment*."""
    return replace(line, made_from=source_fingerprint(segment), original=segment.text.strip())


def _wording(line: Line | None) -> tuple[str, str, LineState] | None:
    return (line.text, line.made_from, line.state) if line else None


def put_line_as(project: Project, tag: str, segment_id: str, **fields: Any) -> Project:
    """A line with other values in some of its fields."""
    return put_line(project, tag, replace(find_line(project, tag, segment_id), **fields))


def put_translations(project: Project, tag: str, texts: Mapping[str, str], file: str = "") -> Project:
    """Store what a file says many segments are in this version, by their ids, in one go: a person's words, as far as
    anybody knows. Segments that are gone meanwhile, and lines that keep their words, are passed over."""
    segments = {segment.id: segment for segment in project.segments if segment.id in texts}
    version = find_version(project, tag)
    lines = dict(version.lines)
    for segment_id, segment in segments.items():
        before = lines.get(segment_id) or Line(segment_id, "", "")
        text = one_line(texts[segment_id])
        if not keeps_words(before):
            lines[segment_id] = replace(
                _about(before, segment), text=text, offers=(), maker=None, origin=Origin(OriginKind.IMPORT, file),
                state=LineState.TRANSLATED if text else LineState.INITIAL,
            )  # fmt: skip
    return put_version(project, replace(version, lines=lines))


def set_line_text(project: Project, tag: str, segment_id: str, text: str) -> Project:
    """Write a line by hand. It counts as made from the source as it stands now."""
    segment = find_segment(project, segment_id)
    before = find_version(project, tag).lines.get(segment_id) or Line(segment_id, "", "")
    line = written_line(segment, before, text)
    return project if line is before else put_line(project, tag, line)


def written_line(segment: Segment, before: Line, text: str, origin: Origin | None = None) -> Line:
    """A line as a hand has written it, or chosen it from *origin*; an emptied one is to be translated again. An
    EditError where it is locked."""
    text = one_line(text)
    line = _about(before, segment)
    if text == before.text and line.made_from == before.made_from:
        return before
    _unlocked(before)
    if text == before.text:
        return replace(line, state=max(before.state, LineState.TRANSLATED, key=_RANK.__getitem__))
    origin, state = (origin or Origin(OriginKind.PERSON), LineState.TRANSLATED) if text else (None, LineState.INITIAL)
    return replace(line, text=text, state=state, origin=origin, maker=None)


_RANK: Final = {state: place for place, state in enumerate(LineState)}


def _unlocked(line: Line) -> None:
    if line.locked:
        raise EditError("This line is locked, so its words stay. Unlock it to change them.")


def take_offer(project: Project, tag: str, segment_id: str, text: str, origin: Origin | None = None) -> Project:
    """Use one of the wordings on offer, or one that is on offer elsewhere and comes from *origin*; the one there was is
    on offer then."""
    segment = find_segment(project, segment_id)
    line = find_version(project, tag).lines.get(segment_id) or Line(segment_id, "", "")
    return put_line(project, tag, taken_line(segment, line, text, origin))


def taken_line(segment: Segment, line: Line, text: str, origin: Origin | None = None) -> Line:
    """A line with a wording that is on offer, or that is on offer elsewhere and comes from *origin*; the one there was
    is on offer then."""
    offer = next((one for one in line.offers if one.text == text), None)
    if offer is None and origin is None:
        raise EditError("“{text}” is not on offer for this line any more.", text=text[:40])
    was = Offer(line.text, line.origin)
    taken = written_line(segment, line, text, origin or (offer.origin if offer else None))
    offers = tuple(was if one.text == text else one for one in line.offers)
    left = replace(taken, offers=tuple(one for one in offers if one.text))
    return left if offer else with_offers(left, [was])


def set_states(project: Project, tag: str, segment_ids: Iterable[str], state: LineState) -> Project:
    """Say how far lines are. Who lets a line stand does so as a line of the original as it is now. Lines without words
    stay initial; an EditError where none has any."""
    version = find_version(project, tag)
    segments = {segment.id: segment for segment in project.segments}
    wanted = [key for key in segment_ids if key in segments]
    worded = [key for key in wanted if (line := version.lines.get(key)) is not None and line.text.strip()]
    if not worded:
        raise EditError("There are no words yet that could be settled. Write the line, or have it translated.")

    def moved(line: Line) -> Line:
        return replace(_about(line, segments[line.segment_id]) if state.settled else line, state=state)

    return _changed(project, tag, worded, moved)


def copy_original(project: Project, tag: str, segment_ids: Iterable[str]) -> Project:
    """Have lines say what the original says, to be worded from there: initial, and what they said is on offer. Locked
    ones stay."""
    version, wanted = find_version(project, tag), set(segment_ids)
    lines = dict(version.lines)
    for segment in project.segments:
        before = lines.get(segment.id) or Line(segment.id, "", "")
        if segment.id in wanted and segment.text.strip() and not before.locked and before.text != segment.text.strip():
            line = written_line(segment, before, segment.text)
            lines[segment.id] = with_offers(replace(line, state=LineState.INITIAL), [Offer(before.text, before.origin)])
    return put_version(project, replace(version, lines=lines)) if lines != version.lines else project


def fill_alike(project: Project, tag: str, segment_ids: Iterable[str]) -> Project:
    """Where the same is said again and nobody has settled it yet, have the words of these settled lines."""
    version = find_version(project, tag)
    wanted = set(segment_ids)
    settled: dict[str, Line] = {}
    for segment in project.segments:
        line = version.lines.get(segment.id) if segment.id in wanted else None
        if line is not None and line.state.settled and line.text.strip():
            settled.setdefault(segment.text.strip(), line)
    lines = dict(version.lines)
    for segment in project.segments:
        said, before = settled.get(segment.text.strip()), lines.get(segment.id) or Line(segment.id, "", "")
        if said is not None and not is_settled(before) and said.text != before.text and segment.text.strip():
            origin = Origin(OriginKind.MEMORY, project.title, 100)
            was = Offer(before.text, before.origin)
            filled = replace(_about(before, segment), text=said.text, origin=origin, maker=None)
            lines[segment.id] = with_offers(filled, [was])
    return put_version(project, replace(version, lines=lines)) if lines != version.lines else project


def settle(project: Project, tag: str, segment_ids: Iterable[str], state: LineState) -> Project:
    """Say how far lines are, and have others that say the same, and that nobody has settled, say it as they do."""
    ids = list(segment_ids)
    project = set_states(project, tag, ids, state)
    return fill_alike(project, tag, ids) if state.settled else project


def mend(project: Project, tag: str, segment_id: str, text: str) -> Project:
    """Put marks and the like right without anybody looking: how far a line is, and where it is from, stays. What is
    final or locked stays as it is."""
    line = find_line(project, tag, segment_id)
    if keeps_words(line) or one_line(text) == line.text:
        return project
    return put_line(project, tag, replace(line, text=one_line(text)))


def set_locked(project: Project, tag: str, segment_ids: Iterable[str], locked: bool) -> Project:
    """Have lines keep their words whoever would change them, or no more; those without words have none to keep."""
    there = find_version(project, tag).lines
    worded = [key for key in segment_ids if key in there and there[key].text.strip()]
    return _changed(project, tag, worded, lambda line: replace(line, locked=locked))


def set_note(project: Project, tag: str, segment_id: str, author: str, text: str, written: str) -> Project:
    """What somebody notes about a line, in place of what the same person noted there last; nothing takes it away.
    *written* is now, as of ISO 8601 in UTC."""
    text = text.strip()
    if len(text) > _LONGEST_NOTE:
        raise EditError(
            "A note has {most:,} letters at most; this one has {count:,}.", most=_LONGEST_NOTE, count=len(text)
        )
    line = find_version(project, tag).lines.get(segment_id) or Line(find_segment(project, segment_id).id, "", "")
    number = next((n for n in reversed(range(len(line.notes))) if line.notes[n].author == author), len(line.notes))
    if text == note_of(line, author):
        return project
    mine = (LineNote(text, author, written),) if text else ()
    return put_line(project, tag, replace(line, notes=line.notes[:number] + mine + line.notes[number + 1 :]))


def note_of(line: Line | None, author: str) -> str:
    """What somebody noted about a line last."""
    mine = [note.text for note in line.notes if note.author == author] if line else []
    return mine[-1] if mine else ""


def remove_note(project: Project, tag: str, segment_id: str, number: int) -> Project:
    """Take a note away, by its number from 0."""
    line = find_line(project, tag, segment_id)
    if not 0 <= number < len(line.notes):
        raise EditError("This line has no note {number}.", number=number + 1)
    return put_line(project, tag, replace(line, notes=line.notes[:number] + line.notes[number + 1 :]))


def _changed(project: Project, tag: str, keys: Iterable[str], change: Callable[[Line], Line]) -> Project:
    version = find_version(project, tag)
    after = {key: change(version.lines[key]) for key in keys}
    differ = {key: line for key, line in after.items() if line != version.lines[key]}
    return put_version(project, replace(version, lines=with_rows(version.lines, differ))) if differ else project
