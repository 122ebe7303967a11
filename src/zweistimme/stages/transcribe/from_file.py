"""A transcript from a file: captions, words with times, a table, our own."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

from zweistimme.formats.transcripts import Transcript, said_of
from zweistimme.project.errors import FormatError, MediaError
from zweistimme.project.findings import Finding
from zweistimme.project.languages import language_of
from zweistimme.project.model import Project, Segment
from zweistimme.project.new_transcript import replace_transcript
from zweistimme.project.times import clock
from zweistimme.project.words import SHORTEST_SEGMENT_US, squeezed
from zweistimme.stages.files import moved_segments, own_offset_us
from zweistimme.stages.work import Work


def transcript_from_file(work: Work, given: Transcript, source: Path, offset_us: int | None = None) -> None:
    """Replace the transcript by what a file gave; what had to be put right is said. Times are moved by *offset_us*, or
    (None) brought from the programme's timecode to its beginning if that is how they are counted."""
    if offset_us is None:
        offset_us = own_offset_us(work.project, (segment.start_us for segment in given.segments))
        if offset_us and work.project.programme:
            work.say(Finding("own-timecode", {"file": source.name, "timecode": work.project.programme.timecode}))
    if offset_us:
        given = replace(given, segments=tuple(_from_the_start(work, moved_segments(given.segments, offset_us), source)))
    segments, lost = fitted(work.project, given, source)
    for finding in (*said_of(source.name, given.repairs, most=200), *lost):
        work.say(finding)
    if given.language and language_of(given.language) != language_of(work.project.source_tag):
        work.say(
            Finding(
                "file-in-other-language",
                {"file": source.name, "says": given.language, "programme": work.project.source_tag},
            )
        )
    work.deliver(
        f"Transcript from {source.name}", lambda project: replace_transcript(project, given.speakers, segments)
    )


def _from_the_start(work: Work, segments: list[Segment], source: Path) -> list[Segment]:
    inside = [segment for segment in segments if segment.start_us >= 0]
    if len(inside) < len(segments):
        work.say(Finding("before-the-beginning", {"segments": len(segments) - len(inside), "file": source.name}))
    if not inside:
        raise FormatError(
            "With this offset all of {source} lies before the programme begins. Give another.", source=source
        )
    return inside


def fitted(project: Project, given: Transcript, source: Path) -> tuple[list[Segment], list[Finding]]:
    """The segments of a file within the programme, and what did not fit in it."""
    programme = project.programme
    if programme is None:
        raise MediaError("There is no programme yet. Bring one in before its transcript.")
    length = programme.sound.duration_us
    inside = [segment for segment in given.segments if segment.start_us < length - SHORTEST_SEGMENT_US]
    if not inside:
        raise FormatError(
            "All of {source} starts after the programme ends ({length}). Is it the right file?",
            source=source,
            length=clock(length),
        )
    said = []
    late, cut = len(given.segments) - len(inside), sum(segment.end_us > length for segment in inside)
    if late:
        said.append(Finding("behind-the-end", {"segments": late}, source.name))
    if cut:
        said.append(Finding("cut-at-the-end", {"segments": cut}, source.name))
    seen = programme.picture is not None
    return [_within(segment, length, on_screen=segment.on_screen and seen) for segment in inside], said


def _within(segment: Segment, length_us: int, *, on_screen: bool) -> Segment:
    """A segment that ends with the programme at the latest, and lasts as long as a segment must."""
    end = min(max(segment.end_us, segment.start_us + SHORTEST_SEGMENT_US), length_us)
    words = squeezed(segment.words, segment.start_us, end)
    return replace(segment, end_us=end, words=words, on_screen=on_screen)
