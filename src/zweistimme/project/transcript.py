"""Edits of what was said and when, segment by segment. What a segment has in the versions goes where it goes."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from dataclasses import replace

from zweistimme.project.access import (
    find_segment,
    find_segments,
    find_speaker,
    in_order,
    new_segment_id,
    people_made,
    person_number,
    put_segment,
    put_segments,
    segment_number,
    segments_made,
    without_keys,
)
from zweistimme.project.auditions import auditions_of
from zweistimme.project.conversation import addressed_among
from zweistimme.project.errors import EditError
from zweistimme.project.mix_settings import Place
from zweistimme.project.model import Project, Segment, Speaker, Version, Word
from zweistimme.project.segment_takes import takes_of
from zweistimme.project.words import LEAST_WORD_US, SHORTEST_SEGMENT_US, retimed, says, spoken_words, squeezed, text_of
from zweistimme.project.writing import one_line, words_in


def set_transcript(project: Project, speakers: Iterable[Speaker], segments: Iterable[Segment]) -> Project:
    """Replace the transcript. Lines of segments that are gone go with them."""
    by_id = {speaker.id: speaker for speaker in speakers}
    ordered = in_order(segments)
    ids = {segment.id for segment in ordered}
    if len(ids) != len(ordered):
        raise EditError("Two segments of this transcript have the same id.")
    for segment in ordered:
        if segment.speaker_id not in by_id:
            raise EditError("Segment {id} names a speaker who is not in the transcript.", id=segment.id)
        if segment.end_us <= segment.start_us:
            raise EditError("Segment {id} ends before it starts.", id=segment.id)
    versions = {
        tag: replace(
            _kept(version, ids),
            cast={key: voice for key, voice in version.cast.items() if key in by_id},
            manners={key: manner for key, manner in version.manners.items() if key in by_id},
            cast_chosen=tuple(key for key in version.cast_chosen if key in by_id),
        )
        for tag, version in project.versions.items()
    }
    made = max((segments_made(project), *map(segment_number, ids)))
    people = max((people_made(project), *map(person_number, by_id)))
    brief = addressed_among(project.brief, by_id)
    kept = replace(project, versions=versions, brief=brief, segments_made=made, people_made=people)
    return replace(kept, speakers=by_id, segments=ordered)


def _kept(version: Version, ids: set[str]) -> Version:
    """A version with what belongs to these segments alone."""
    return replace(
        version,
        lines={key: line for key, line in version.lines.items() if key in ids},
        takes={key: take for key, take in version.takes.items() if take.segment_id in ids},
        placements={key: placed for key, placed in version.placements.items() if key in ids},
        auditions={key: one for key, one in version.auditions.items() if one.segment_id in ids},
    )


def set_segment_text(project: Project, segment_id: str, text: str) -> Project:
    """Change what was said. Words that are still there keep their times; lines of the segment become stale."""
    segment = find_segment(project, segment_id)
    text = one_line(text)
    if text == segment.text:
        return project
    return put_segment(project, replace(segment, text=text, words=retimed(segment, words_in(text))))


def _checked_times(project: Project, start_us: int, end_us: int) -> None:
    if start_us < 0 or end_us - start_us < SHORTEST_SEGMENT_US:
        raise EditError("A segment lasts at least 0.1 seconds and starts no earlier than the programme.")
    if project.programme and end_us > project.programme.sound.duration_us:
        raise EditError("A segment cannot end after the programme.")


def retimed_segment(project: Project, segment: Segment, start_us: int, end_us: int) -> Segment:
    """A segment with other edges. Words that stay inside keep their times, the others are brought in."""
    _checked_times(project, start_us, end_us)
    if (start_us, end_us) == (segment.start_us, segment.end_us):
        return segment
    return replace(segment, start_us=start_us, end_us=end_us, words=squeezed(segment.words, start_us, end_us))


def retime_segment(project: Project, segment_id: str, start_us: int, end_us: int) -> Project:
    """Move a segment's edges."""
    segment = find_segment(project, segment_id)
    changed = retimed_segment(project, segment, start_us, end_us)
    return project if changed is segment else put_segment(project, changed)


def retime_segments(project: Project, edges: Mapping[str, tuple[int, int]]) -> Project:
    """Move the edges of several segments, given by id."""
    segments = find_segments(project, edges)
    changed = [retimed_segment(project, segment, *edges[segment.id]) for segment in segments]
    moved = [now for was, now in zip(segments, changed, strict=True) if now is not was]
    return put_segments(project, moved) if moved else project


def nudge(project: Project, segment_ids: Iterable[str], *, start_us: int = 0, end_us: int = 0) -> Project:
    """Move the starts and the ends of segments by so much."""
    segments = find_segments(project, segment_ids)
    return retime_segments(project, {s.id: (s.start_us + start_us, s.end_us + end_us) for s in segments})


def move_word_edge(project: Project, segment_id: str, place: int, at_us: int) -> Project:
    """Move the edge before word *place*: the word begins there, and the one before ends there if it touched it or
    would reach beyond. The edges of the first and last word are the segment's own business."""
    segment = find_segment(project, segment_id)
    words = list(spoken_words(segment))
    if not 0 < place < len(words):
        raise EditError("Only an edge between two words can be moved; the outer ones are the segment's.")
    before, after = words[place - 1], words[place]
    low, high = before.start_us + LEAST_WORD_US, after.end_us - LEAST_WORD_US
    at_us = max(low, min(at_us, high))
    touching = before.end_us >= after.start_us
    words[place] = replace(after, start_us=at_us)
    words[place - 1] = replace(before, end_us=at_us if touching else min(before.end_us, at_us))
    return put_segment(project, replace(segment, words=tuple(words)))


def set_words(project: Project, segment_id: str, words: Iterable[Word]) -> Project:
    """Give a segment's words their times; the words themselves stay as they are."""
    segment = find_segment(project, segment_id)
    timed = tuple(words)
    if not says(segment.text, timed):
        raise EditError("These words are not the segment's own.")
    return put_segment(project, replace(segment, words=squeezed(timed, segment.start_us, segment.end_us)))


def set_on_screen(project: Project, segment_ids: Iterable[str], on_screen: bool) -> Project:
    """Say whether the speaker is seen while saying this."""
    changed = [s for s in find_segments(project, segment_ids) if s.on_screen != on_screen]
    return put_segments(project, [replace(s, on_screen=on_screen) for s in changed]) if changed else project


def set_place(project: Project, segment_ids: Iterable[str], place: Place) -> Project:
    """Say in which place these lines are spoken, as it is heard."""
    changed = [s for s in find_segments(project, segment_ids) if s.place is not place]
    return put_segments(project, [replace(s, place=place) for s in changed]) if changed else project


def insert_segment(project: Project, start_us: int, end_us: int, speaker_id: str, text: str = "") -> Project:
    """One more segment. Its id is the next that is free."""
    _checked_times(project, start_us, end_us)
    find_speaker(project, speaker_id)
    seen = project.programme is not None and project.programme.picture is not None
    segment = Segment(new_segment_id(project), speaker_id, start_us, end_us, "", on_screen=seen)
    return set_segment_text(put_segment(project, segment), segment.id, text)


def delete_segments(project: Project, segment_ids: Iterable[str]) -> Project:
    """Take segments away, with their lines, takes and placements in every version."""
    gone = {segment.id for segment in find_segments(project, segment_ids)}
    versions = {tag: _without(version, gone) for tag, version in project.versions.items()}
    return replace(put_segments(project, (), gone), versions=versions)


def _without(version: Version, gone: set[str]) -> Version:
    """A version without what belongs to these segments."""
    return replace(
        version,
        lines=without_keys(version.lines, gone),
        takes=without_keys(version.takes, [take.id for take in takes_of(version, gone)]),
        placements=without_keys(version.placements, gone),
        auditions=without_keys(version.auditions, [one.id for one in auditions_of(version.auditions, gone)]),
    )


def accept_words(project: Project, segment_ids: Iterable[str]) -> Project:
    """Take all words of segments as certain."""
    changed = []
    for segment in find_segments(project, segment_ids):
        if any(word.confidence < 1.0 for word in segment.words):
            changed.append(replace(segment, words=tuple(replace(w, confidence=1.0) for w in segment.words)))
    return put_segments(project, changed) if changed else project


def accept_word(project: Project, segment_id: str, place: int) -> Project:
    """Take one word as certain."""
    segment = find_segment(project, segment_id)
    if not 0 <= place < len(segment.words) or segment.words[place].confidence == 1.0:
        return project
    words = tuple(replace(w, confidence=1.0) if k == place else w for k, w in enumerate(segment.words))
    return put_segment(project, replace(segment, words=words))


def set_fillers_aside(
    project: Project, segment_ids: Iterable[str], is_filler: Callable[[Word], bool] = lambda word: word.filler
) -> Project:
    """Leave sounds of hesitation out of the text of segments, keeping them aside with their times."""
    changed = []
    for segment in find_segments(project, segment_ids):
        kept = tuple(word for word in segment.words if not is_filler(word))
        aside = tuple(replace(word, filler=True) for word in segment.words if is_filler(word))
        if aside:
            fillers = tuple(sorted((*segment.fillers, *aside), key=lambda w: w.start_us))
            changed.append(replace(segment, text=text_of(kept), words=kept, fillers=fillers))
    return put_segments(project, changed) if changed else project


def restore_fillers(project: Project, segment_ids: Iterable[str]) -> Project:
    """Put the sounds of hesitation that were kept aside back into the text, at their times."""
    changed = []
    for segment in find_segments(project, segment_ids):
        if segment.fillers:
            back = (replace(word, filler=True) for word in segment.fillers)
            words = tuple(sorted((*spoken_words(segment), *back), key=lambda w: (w.start_us, not w.filler)))
            start, end = min(segment.start_us, words[0].start_us), max(segment.end_us, words[-1].end_us)
            changed.append(replace(segment, text=text_of(words), words=words, fillers=(), start_us=start, end_us=end))
    return put_segments(project, changed) if changed else project
