"""Lines from captions in the target language."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from functools import partial
from pathlib import Path

from zweistimme.formats.cue import Cue, Reading
from zweistimme.formats.transcripts import said_of
from zweistimme.project.access import find_version
from zweistimme.project.facts import spoken_segments
from zweistimme.project.findings import Finding
from zweistimme.project.intervals import Intervals
from zweistimme.project.line_edits import keeps_words, put_translations
from zweistimme.project.model import Segment
from zweistimme.project.times import clock
from zweistimme.project.writing import joined, one_line
from zweistimme.stages.files import moved_cues, own_offset_us
from zweistimme.stages.work import Work


def translation_from_file(work: Work, tag: str, given: Reading, source: Path, offset_us: int | None = None) -> None:
    """Give each segment the captions that it shares most time with; those that match no segment are said. Times are
    moved by *offset_us*, or (None) by what the programme's timecode says."""
    for finding in said_of(source.name, given.repairs):
        work.say(finding)
    if offset_us is None:
        offset_us = own_offset_us(work.project, (cue.start_us for cue in given.cues))
    segments = spoken_segments(work.project)
    texts: dict[str, list[str]] = {}
    for cue, place in zip(moved_cues(given.cues, offset_us), _matches(segments, given.cues, offset_us), strict=True):
        if place is None:
            work.say(Finding("no-segment", {"file": source.name, "at_us": cue.start_us, "text": cue.text[:50]}))
        else:
            texts.setdefault(segments[place].id, []).append(one_line(cue.text))
    without = [s for s in segments if s.id not in texts]
    if without:
        places = ", ".join(clock(s.start_us) for s in without[:5]) + (" …" if len(without) > 5 else "")
        work.say(Finding("segments-without-caption", {"file": source.name, "segments": len(without), "places": places}))
    lines = {segment_id: joined(parts) for segment_id, parts in texts.items()}
    there = find_version(work.project, tag).lines
    kept = sum(key in there and keeps_words(there[key]) and there[key].text != text for key, text in lines.items())
    if kept:
        work.say(Finding("words-kept", {"lines": kept, "file": source.name}))
    work.deliver(f"Translation from {source.name}", partial(put_translations, tag=tag, texts=lines, file=source.name))


def _matches(segments: Sequence[Segment], cues: Sequence[Cue], offset_us: int) -> Iterator[int | None]:
    """The number of the segment each caption shares most time with; segments are sorted by start."""
    spans = Intervals((segment.start_us, segment.end_us) for segment in segments)
    for cue in cues:
        yield spans.most_shared(cue.start_us + offset_us, cue.end_us + offset_us)
