"""Edits that change what is one segment and what is two: split, merge, and cut a stretch anew."""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Iterable, Sequence
from dataclasses import replace
from itertools import accumulate, pairwise

from zweistimme.project.access import find_segment, find_segments, new_segment_id, put_segments
from zweistimme.project.carry_over import merge_version, split_version
from zweistimme.project.errors import EditError
from zweistimme.project.findings import Figure, Finding
from zweistimme.project.intervals import Intervals
from zweistimme.project.model import Line, Project, Segment, Word
from zweistimme.project.row_changes import changed_keys
from zweistimme.project.segmentation import CutLimits, cut_places
from zweistimme.project.words import (
    SHORTEST_SEGMENT_US,
    in_sequence,
    place_to_split,
    spoken_words,
    squeezed,
    text_of,
    text_spans,
)
from zweistimme.project.writing import directed_parts, joined


def split_segment(project: Project, segment_id: str, at_us: int) -> Project:
    """Split a segment between the two words whose gap lies nearest to a time; one without words at that time."""
    segment = find_segment(project, segment_id)
    words = spoken_words(segment)
    if len(words) == 1:
        raise EditError("“{text}” is one word, and a segment is never split inside a word.", text=words[0].text)
    if words:
        return split_before(project, segment_id, place_to_split(words, at_us))
    _check_halves(segment, (at_us, at_us))
    return _split(project, segment, (at_us, at_us), (), ())


def split_before(project: Project, segment_id: str, place: int) -> Project:
    """Split a segment before its word number *place*, counted from 0."""
    segment = find_segment(project, segment_id)
    words = spoken_words(segment)
    if not 0 < place < len(words):
        raise EditError("A segment can be split before any of its words but the first.")
    _check_halves(segment, _edges(words, place))
    return _cut_before(project, segment_id, place)


def _cut_before(project: Project, segment_id: str, place: int) -> Project:
    """Split a segment however short a half gets, as one that is joined with its neighbour at once may."""
    segment = find_segment(project, segment_id)
    words = spoken_words(segment)
    end, start = _edges(words, place)
    # of a stretch that was joined, words may be heard at once: each half still gets a moment for each of its words
    low, high = segment.start_us + place, segment.end_us - (len(words) - place)
    if low > high:
        raise EditError("One half would last less than 0.1 seconds. Split at another word.")
    end = min(max(end, low), high)
    return _split(project, segment, (end, min(max(start, end), high)), words[:place], words[place:])


def _check_halves(whole: Segment, edges: tuple[int, int]) -> None:
    end, start = edges
    if end - whole.start_us < SHORTEST_SEGMENT_US or whole.end_us - start < SHORTEST_SEGMENT_US:
        raise EditError("One half would last less than 0.1 seconds. Split at another word.")


def _edges(words: Sequence[Word], place: int) -> tuple[int, int]:
    """Where the first half ends and the second starts: at their words, which may overlap a little when heard so."""
    end, start = words[place - 1].end_us, words[place].start_us
    return (end, start) if end <= start else ((end + start) // 2, (end + start) // 2)


def _split(
    project: Project, whole: Segment, edges: tuple[int, int], before: Sequence[Word], after: Sequence[Word]
) -> Project:
    end, start = edges
    cut = text_spans(whole.text, [*before, *after])[len(before)][0] if before else 0
    left = replace(
        whole,
        end_us=end,
        text=whole.text[:cut].rstrip(),
        words=squeezed(before, whole.start_us, end),
        fillers=tuple(w for w in whole.fillers if w.start_us < start),
    )
    right = replace(
        whole,
        id=new_segment_id(project),
        start_us=start,
        text=whole.text[cut:],
        words=squeezed(after, start, whole.end_us),
        fillers=tuple(w for w in whole.fillers if w.start_us >= start),
    )
    versions = {tag: split_version(project, version, whole, (left, right)) for tag, version in project.versions.items()}
    return replace(put_segments(project, (left, right)), versions=versions)


def merge_segments(project: Project, segment_ids: Iterable[str]) -> Project:
    """Make one segment out of several. It has the id and the speaker of the first."""
    parts = find_segments(project, segment_ids)
    if len(parts) < 2:
        raise EditError("It takes two segments to merge. Select the one that comes first, or several.")
    timed = any(segment.words for segment in parts)
    words = in_sequence(w for s in parts for w in spoken_words(s)) if timed else ()
    together = any(after.start_us < before.end_us for before, after in pairwise(parts))
    merged = replace(
        parts[0],
        end_us=max(segment.end_us for segment in parts),
        text=text_of(words) if timed and together else joined([s.text for s in parts]),
        words=words,
        fillers=tuple(sorted((w for s in parts for w in s.fillers), key=lambda w: w.start_us)),
        on_screen=any(segment.on_screen for segment in parts),
    )
    versions = {tag: merge_version(project, version, parts, merged) for tag, version in project.versions.items()}
    gone = [segment.id for segment in parts[1:]]
    return replace(put_segments(project, [merged], gone), versions=versions)


def next_of_speaker(project: Project, segment_id: str) -> Segment:
    """The segment that follows, or an EditError if it is somebody else's."""
    here = find_segment(project, segment_id)
    place = project.segments.index(here)
    if place + 1 == len(project.segments):
        raise EditError("This is the last segment; nothing follows that it could be merged with.")
    return project.segments[place + 1]


def recut_count(project: Project, segment_ids: Iterable[str], limits: CutLimits) -> tuple[int, int]:
    """How many segments a stretch would be cut into, and how many edges between segments would move."""
    count = moved = 0
    for run in speech_runs(find_segments(project, segment_ids)):
        there, wanted = _edges_of(run, limits)
        count += len(wanted) + 1
        moved += len(there ^ wanted)
    return count + sum(not s.text for s in find_segments(project, segment_ids)), moved


def _edges_of(run: Sequence[Segment], limits: CutLimits) -> tuple[set[int], set[int]]:
    """Edges within a run, counted in words from its start: those there are, and those wanted."""
    counts = [len(spoken_words(segment)) for segment in run]
    there = set(accumulate(counts[:-1]))
    return there, set(cut_places([word for segment in run for word in spoken_words(segment)], limits))


def recut(project: Project, segment_ids: Iterable[str], limits: CutLimits) -> Project:
    """Cut a stretch anew with other limits. Only edges that move are touched: segments that stay as they were keep
    all they have, the others carry their lines and takes along."""
    for run in speech_runs(find_segments(project, segment_ids)):
        project = _with_edges(project, run, _edges_of(run, limits)[1])
    return project


def speech_runs(segments: Sequence[Segment]) -> list[list[Segment]]:
    """Stretches of one speaker with words, nothing of it overlapping."""
    runs: list[list[Segment]] = []
    for segment in segments:
        if not segment.text:
            continue
        last = runs[-1][-1] if runs else None
        if last is not None and last.speaker_id == segment.speaker_id and last.end_us <= segment.start_us:
            runs[-1].append(segment)
        else:
            runs.append([segment])
    return runs


def _with_edges(project: Project, run: Sequence[Segment], wanted: set[int]) -> Project:
    """Edges are counted in words from the start of the run. Segments are cut first and pieces joined then: so every
    edit is about a few words, however long somebody speaks without an edge that stays."""
    starts = [0, *accumulate(len(spoken_words(segment)) for segment in run)]
    pieces: dict[int, str] = {}
    for segment, low, high in zip(run, starts, starts[1:], strict=False):
        pieces[low] = segment.id
        for place in sorted((p for p in range(low + 1, high) if p in wanted), reverse=True):
            pieces[place] = new_segment_id(project)
            project = _cut_before(project, segment.id, place - low)
    order = sorted(pieces)
    for low, high in pairwise([0, *sorted(wanted), starts[-1]]):
        group = [pieces[place] for place in order[bisect_left(order, low) : bisect_left(order, high)]]
        if len(group) > 1:
            project = merge_segments(project, group)
    return project


def let_go_by_merging(before: Project, after: Project) -> list[Finding]:
    """What lines lost because they were joined with others: voices of their own, and directions, which nothing has any
    more that is said there."""
    lost: list[Finding] = []
    spans = Intervals((segment.start_us, segment.end_us) for segment in after.segments)
    for tag, version in before.versions.items():
        lines = after.versions[tag].lines
        changed = changed_keys(version.lines, lines)
        keys = version.lines if changed is None else changed
        known = ((key, version.lines[key]) for key in keys if key in version.lines)
        own = {key for key, line in known if line.voice or line.direction}
        for number, segment in enumerate(before.segments, 1) if own else ():
            if segment.id not in own:
                continue
            line = version.lines[segment.id]
            figures: dict[str, Figure] = {"line": number, "version": tag}
            there = (after.segments[place].id for place, _ in spans.shared(segment.start_us, segment.start_us + 1))
            now = [lines[key] for key in there if key in lines]
            if line.voice and all(one.voice != line.voice for one in now):
                lost.append(Finding("merged-voice", {**figures, "voice": line.voice}))
            if line.direction and not any(_has_direction(one, line.direction) for one in now):
                lost.append(Finding("merged-direction", {**figures, "direction": line.direction}))
    return lost


def _has_direction(line: Line, direction: str) -> bool:
    return direction in (told for _, told in directed_parts(line.text, line.direction))
