"""What lines, takes, pins and placements become when their segment is split, or joined with others.

A line is split where its own sentences end, if it has as many as the original; both halves then still say what their
halves say. Elsewhere the place is a guess, and both halves are stale. A take is split between two of its words, in
the same clip, so that no sound is made anew.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from zweistimme.project.access import with_key, without_keys
from zweistimme.project.auditions import auditions_of
from zweistimme.project.facts import (
    chosen_take,
    line_is_stale,
    said_in,
    source_fingerprint,
    take_fingerprint,
    wanted_voice,
)
from zweistimme.project.hand_parts import joined_hands, split_hands
from zweistimme.project.model import AS_USUAL, Line, Pin, Placement, Project, Segment, Take, Version, Word
from zweistimme.project.row_changes import with_rows
from zweistimme.project.segment_takes import takes_of
from zweistimme.project.times import us_to_samples
from zweistimme.project.wordings import LineState
from zweistimme.project.words import text_spans
from zweistimme.project.writing import (
    ends_clause,
    ends_sentence,
    head_direction,
    joined,
    sentence_places,
    stands_between_words,
    word_spans,
    words_in,
)

_TAIL_US = 40_000
"""How far a half of a take may reach beyond its words into the gap."""
_PAUSE_SAMPLES = 4_320


def split_version(project: Project, version: Version, whole: Segment, halves: tuple[Segment, Segment]) -> Version:
    """*version* after segment *whole* became *halves*; the first keeps its id."""
    line = version.lines.get(whole.id)
    if line is None:
        return version
    left, right = halves
    spans = word_spans(line.text)
    place, sure = _place_in_line(line, halves)
    cut = spans[place][0] if place < len(spans) else len(line.text)
    fresh = sure and not line_is_stale(whole, line)
    chosen = chosen_take(version, line)
    held = split_hands(line, chosen, (_word_behind(chosen, line.text, place) if chosen else 0) or place)
    first = replace(
        held[0],
        text=line.text[:cut].rstrip(),
        offers=(),
        state=line.state if fresh else _at_most_translated(line.state),
        made_from=source_fingerprint(left) if fresh else line.made_from,
        original=left.text.strip() if fresh else line.original,
        locked=line.locked and bool(line.text[:cut].strip()),
        pin=Pin(line.pin.start_us) if line.pin else None,
    )
    second = replace(
        first,
        segment_id=right.id,
        direction=line.direction or head_direction(line.text)[0],
        text=line.text[cut:],
        hand=held[1].hand,
        word_pins=held[1].word_pins,
        made_from=source_fingerprint(right) if fresh else line.made_from,
        original=right.text.strip() if fresh else line.original,
        locked=line.locked and bool(line.text[cut:]),
        pin=None,
        take_id=None,
        notes=(),
    )
    takes, pairs = _split_takes(project, version, whole, line, (first, second), place)
    placements = version.placements
    placed = placements.get(whole.id)
    pair = pairs.get(placed.take_id) if placed else None
    if placed and pair:
        ends = _split_placement(placed, takes[pair[0]], takes[pair[1]], right.id)
        placements = with_rows(placements, {left.id: ends[0], right.id: ends[1]})
        second = replace(second, pin=Pin(ends[1].start_us) if line.pin else None)
    if line.take_id in pairs:
        second = replace(second, take_id=pairs[line.take_id][1])
    lines = {left.id: first}
    chosen_by_hand = second.voice or second.direction or second.manner != AS_USUAL
    if second.text or second.take_id or chosen_by_hand:
        lines[right.id] = second
    return replace(version, lines=with_rows(version.lines, lines), takes=takes, placements=placements)


def _place_in_line(line: Line, halves: tuple[Segment, Segment]) -> tuple[int, bool]:
    """After how many of its words a line is to be split, and whether that is sure to be the same place."""
    tokens = words_in(line.text)
    if len(tokens) < 2:
        return len(tokens), False
    left, right = (words_in(half.text) for half in halves)
    ends, source_ends = sentence_places(tokens), sentence_places([*left, *right])
    if len(left) in source_ends and len(ends) == len(source_ends):
        return ends[source_ends.index(len(left))], True
    share = len(halves[0].text) / max(1, len(halves[0].text) + len(halves[1].text))
    wanted = share * len(line.text)

    def price(place: int) -> float:
        word = tokens[place - 1]
        bonus = 12 if ends_sentence(word, tokens[place]) else 8 if ends_clause(word) else 0
        return abs(len(joined(tokens[:place])) - wanted) - bonus

    return min(range(1, len(tokens)), key=price), False


def _split_takes(
    project: Project, version: Version, whole: Segment, line: Line, halves: tuple[Line, Line], place: int
) -> tuple[Mapping[str, Take], dict[str, tuple[str, str]]]:
    """All takes of the version, those of *line* split where that can be done; and which became which."""
    takes: dict[str, Take] = {}
    pairs: dict[str, tuple[str, str]] = {}
    for take in takes_of(version, (whole.id,)):
        at = _word_behind(take, line.text, place)
        if not 0 < at < len(take.words):
            continue
        other = f"{take.id}.2"
        while other in version.takes or other in takes:
            other += "2"
        voice = wanted_voice(project, version, whole, take)
        fresh = voice is not None and take.made_from == take_fingerprint(line, voice, said_in(project, version, line))
        marks = [
            take_fingerprint(half, voice, said_in(project, version, half)) if fresh and voice else take.made_from
            for half in halves
        ]
        first, second = _split_take(take, at)
        takes[take.id] = replace(first, made_from=marks[0])
        takes[other] = replace(second, id=other, segment_id=halves[1].segment_id, made_from=marks[1])
        pairs[take.id] = (take.id, other)
    return with_rows(version.takes, takes) if takes else version.takes, pairs


def _word_behind(take: Take, text: str, place: int) -> int:
    """Which of a take's words, as its engine cut them, is the first behind a place in the line; 0 if unknown."""
    spans, own = word_spans(text), text_spans(text, take.words)
    if len(own) != len(take.words) or not 0 < place < len(spans):
        return 0
    return next((k for k, (start, _) in enumerate(own) if start >= spans[place][0]), 0)


def _split_take(take: Take, place: int) -> tuple[Take, Take]:
    before, after = take.words[place - 1], take.words[place]
    middle = (before.end_us + after.start_us) // 2
    end = us_to_samples(max(before.end_us, min(middle, before.end_us + _TAIL_US)))
    start = us_to_samples(min(after.start_us, max(middle, after.start_us - _TAIL_US)))
    end = max(take.speech_start_samples + 1, min(end, take.speech_end_samples - 1))
    start = max(end, min(start, take.speech_end_samples - 1))
    first = replace(
        take,
        speech_end_samples=end,
        words=take.words[:place],
        pauses_samples=tuple(p for p in take.pauses_samples if p[1] < end),
    )
    second = replace(
        take,
        speech_start_samples=start,
        words=take.words[place:],
        pauses_samples=tuple(p for p in take.pauses_samples if p[0] > start),
    )
    return first, second


def _split_placement(placed: Placement, left: Take, right: Take, right_id: str) -> tuple[Placement, Placement]:
    """Both halves where they were heard before; the plan will look at them again."""
    origin, total = left.speech_start_samples, max(1, right.speech_end_samples - left.speech_start_samples)

    def at(sample: int) -> int:
        return placed.start_us + placed.length_us * (sample - origin) // total

    end, start = at(left.speech_end_samples), at(right.speech_start_samples)
    rest = placed.start_us + placed.length_us - start
    first = replace(placed, length_us=end - placed.start_us, made_from="", overflow_us=0, clash_us=0, phrases=())
    second = replace(first, segment_id=right_id, take_id=right.id, start_us=start, length_us=rest)
    return first, second


def _at_most_translated(state: LineState) -> LineState:
    """How far a line is that somebody has to look at again."""
    return LineState.TRANSLATED if state.settled else state


def _of_all(states: Sequence[LineState], *, sure: bool) -> LineState:
    """How far a line is that was several: as they were, or else looked at again; a person's words stay a person's."""
    if sure and len(set(states)) == 1:
        return states[0]
    return _at_most_translated(max(states, key=lambda state: state.settled))


def _directed(lines: Sequence[Line]) -> tuple[list[str], str]:
    """The wordings of lines that become one, and the direction of all of it: one that not all have stands before the
    words it is for, in square brackets, if it can; a head in parentheses counts for a whole line, so none stays."""
    told = [(line.direction or head, rest) for line in lines for head, rest in [head_direction(line.text)]]
    directions = {direction for direction, rest in told if rest}
    if len(directions) < 2:
        return [lines[0].text, *(rest for _, rest in told[1:])], lines[0].direction or (directions or {""}).pop()
    texts, now = [], ""
    for direction, rest in told:
        wanted = direction if stands_between_words(direction) else ""
        texts.append(f"[{wanted or '/'}] {rest}" if rest and wanted != now else rest)
        now = wanted if rest else now
    return texts, ""


@dataclass(frozen=True, slots=True)
class _Joined:
    """One take out of two neighbours of the same clip."""

    take: Take
    gone: str


def merge_version(project: Project, version: Version, parts: Sequence[Segment], merged: Segment) -> Version:
    """*version* after *parts* became *merged*, which has the id of the first."""
    ids = {segment.id for segment in parts}
    others = without_keys(version.auditions, [one.id for one in auditions_of(version.auditions, ids - {merged.id})])
    version = replace(version, auditions=others) if len(others) < len(version.auditions) else version
    lines = [version.lines[s.id] for s in parts if s.id in version.lines]
    moved = {take.id: replace(take, segment_id=merged.id) for take in takes_of(version, ids)}
    takes = with_rows(version.takes, moved)
    placed = [version.placements[s.id] for s in parts if s.id in version.placements]
    placements, rest = without_keys(version.placements, ids), without_keys(version.lines, ids)
    if not lines:
        return replace(version, takes=takes, lines=rest, placements=placements)
    complete = len(lines) == len(parts)
    fresh = complete and not any(line_is_stale(s, version.lines[s.id]) for s in parts)
    texts, direction = _directed(lines)
    counts = [len(take.words) if take else 0 for take in (chosen_take(version, one) for one in lines)]
    line = replace(
        joined_hands(lines, counts),
        segment_id=merged.id,
        text=joined(texts),
        made_from=source_fingerprint(merged) if fresh else "",
        direction=direction,
        manner=next((one.manner for one in lines if one.manner != AS_USUAL), AS_USUAL),
        voice=lines[0].voice if len({one.voice for one in lines}) == 1 else "",
        maker=lines[0].maker if len({one.maker for one in lines}) == 1 else None,
        origin=lines[0].origin if len({one.origin for one in lines}) == 1 else None,
        offers=(),
        state=_of_all([one.state for one in lines], sure=fresh),
        original=joined([one.original for one in lines]),
        notes=tuple(note for one in lines for note in one.notes),
        locked=any(one.locked for one in lines),
        take_id=next((one.take_id for one in lines if one.take_id), None),
        pin=next((Pin(one.pin.start_us) for one in lines[:1] if one.pin), None),
    )
    one = _joined_takes(project, version, parts, lines, line) if complete else None
    if one is not None:
        takes = with_rows(takes, {one.take.id: replace(one.take, segment_id=merged.id)}, one.gone.split())
        line = replace(line, take_id=one.take.id)
    if placed and placed[0].take_id in takes:
        last = placed[-1] if one else placed[0]
        length = last.start_us + last.length_us - placed[0].start_us
        whole = replace(placed[0], segment_id=merged.id, length_us=max(1, length), made_from="", phrases=())
        placements = with_key(placements, merged.id, whole)
    return replace(version, lines=with_key(rest, merged.id, line), takes=takes, placements=placements)


def _joined_takes(
    project: Project, version: Version, parts: Sequence[Segment], lines: Sequence[Line], whole: Line
) -> _Joined | None:
    """The chosen takes of all parts as one, where each is fresh and they follow each other in one clip."""
    takes = [version.takes.get(line.take_id or "") for line in lines]
    first = takes[0]
    if first is None:
        return None
    voice = wanted_voice(project, version, parts[0], first)
    end = first.speech_start_samples
    words: list[Word] = []
    pauses: list[tuple[int, int]] = []
    for place, (take, line) in enumerate(zip(takes, lines, strict=True)):
        fits = take is not None and take.clip == first.clip and take.speech_start_samples >= end and voice is not None
        if take is None or voice is None or not fits:
            return None
        if take.made_from != take_fingerprint(line, voice, said_in(project, version, line)):
            return None
        if (line.manner, line.voice) != (whole.manner, whole.voice):  # one of them would speak as the other does
            return None
        if place and take.speech_start_samples - end >= _PAUSE_SAMPLES:
            pauses.append((end, take.speech_start_samples))
        words += take.words
        pauses += take.pauses_samples
        end = take.speech_end_samples
    assert voice is not None
    whole_take = replace(
        first,
        speech_end_samples=end,
        words=tuple(words),
        pauses_samples=tuple(pauses),
        made_from=take_fingerprint(whole, voice, said_in(project, version, whole)),
    )
    return _Joined(whole_take, " ".join(take.id for take in takes[1:] if take is not None))
