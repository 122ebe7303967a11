"""What a stage is given, and how it gives back: a snapshot to work from, results as edits the moment they are there.

A stage runs on any thread. ``deliver`` hands an edit to the document's owner; ``report`` tells how far it is and
raises Cancelled once a person has stopped it.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path

from zweistimme.media.decode import SoundReader, working_copy
from zweistimme.project.errors import StoreError
from zweistimme.project.model import Project, SoundTrack
from zweistimme.store.answers import AnswerStore
from zweistimme.store.clips import ClipStore
from zweistimme.store.document import NOT_UNDONE, Edit

Report = Callable[[float], None]
Deliver = Callable[[str, Edit], None]
Say = Callable[[str], None]
Fail = Callable[[str, str], None]


@dataclass(frozen=True, slots=True)
class Work:
    """One run of one stage."""

    project: Project
    clips: ClipStore
    answers: AnswerStore
    cache: Path
    deliver: Deliver
    report: Report
    say: Say = field(default=lambda _text: None)
    """Tell the person something worth knowing that is no error."""
    fail: Fail = field(default=lambda _segment_id, _sentence: None)
    """Tell the person why one line could not be made: its segment, and a sentence."""

    def note(self, edit: Edit) -> None:
        """Deliver a fact that is nobody's to undo."""
        self.deliver(NOT_UNDONE, edit)

    def part(self, start: float, end: float) -> Report:
        """A report for a part of the work, from *start* to *end* of the whole."""
        return lambda share: self.report(start + (end - start) * share)


def working_file(cache: Path, track: SoundTrack) -> Path:
    """Where the working copy of a sound track lies."""
    return cache / f"sound-{track.checksum}.flac"


def open_sound(work: Work, track: SoundTrack) -> SoundReader:
    """The working copy of a track, made anew if the cache was emptied."""
    file = working_file(work.cache, track)
    if not file.is_file():
        source = Path(track.path)
        if not source.is_file():
            raise StoreError(f"{source} is not there any more. Put it back, or bring the programme in again.")
        working_copy(source, file, work.report)
    return SoundReader(file)
