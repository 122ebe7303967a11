"""What a stage is given, and how it gives back: a snapshot to work from, results as edits the moment they are there.

A stage runs on any thread. ``deliver`` hands an edit to the document's owner; ``report`` tells how far it is and
raises Cancelled once a person has stopped it.
"""

from __future__ import annotations

import os
import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from functools import partial
from itertools import islice
from pathlib import Path
from typing import TYPE_CHECKING, Any

from zweistimme.engines.ledger import Ledger
from zweistimme.media.probe import probe, same_file
from zweistimme.media.sound_reader import SoundReader
from zweistimme.media.working_copy import Watch, working_copy
from zweistimme.project.edits import move_media, put_failure
from zweistimme.project.errors import StoreError
from zweistimme.project.findings import Finding
from zweistimme.project.model import Failure, Project
from zweistimme.project.picks import sound_key
from zweistimme.project.programme import SoundTrack
from zweistimme.store.answers import AnswerStore
from zweistimme.store.clips import ClipStore
from zweistimme.store.document import NOT_UNDONE, Document, Edit

if TYPE_CHECKING:
    from zweistimme.media.peaks import Peaks

Report = Callable[[float], None]
Deliver = Callable[[str, Edit], None]
Say = Callable[[Finding], None]
Fail = Callable[[str, Failure], None]
Show = Callable[[SoundTrack, int, "Peaks"], None]


@dataclass(frozen=True, slots=True)
class Work:
    """One run of one stage."""

    project: Project
    clips: ClipStore
    answers: AnswerStore
    cache: Path
    deliver: Deliver
    report: Report
    say: Say = field(default=lambda _finding: None)
    """Tell the person something worth knowing that is no error."""
    fail: Fail = field(default=lambda _tag, _failure: None)
    """Tell the person of which version a line could not be made, and why."""

    show: Show = field(default=lambda _track, _second, _peaks: None)
    """Let the person see a second of sound that has just been read."""
    ledger: Ledger = field(default_factory=Ledger)
    """Where it is written down what engines charge."""
    anew: bool = False
    """Ask engines anew for what they have answered before."""
    attempts: dict[str, int] = field(default_factory=dict)
    """Which attempt each question of this run is at, by its key."""

    @classmethod
    def on(cls, document: Document, deliver: Deliver, report: Report = lambda _share: None, **more: Any) -> Work:
        """A run on an open project as it stands now; *more* are further fields."""
        ledger = Ledger(document.id, document.project.title)
        kept = document.clips, document.answers, document.cache
        return cls(document.project, *kept, deliver, report, ledger=ledger, **more)

    def note(self, edit: Edit) -> None:
        """Deliver a fact that is nobody's to undo."""
        self.deliver(NOT_UNDONE, edit)

    def failed(self, tag: str, failure: Failure) -> None:
        """Tell why a line could not be made, and keep it with the project."""
        self.fail(tag, failure)
        self.note(partial(put_failure, tag=tag, failure=failure))

    def part(self, start: float, end: float) -> Report:
        """A report for a part of the work, from *start* to *end* of the whole."""
        return lambda share: self.report(start + (end - start) * share)


class SharedReport:
    """How far several parts of one work are that go on at once. Once one of them has failed or somebody has stopped it,
    the others stop where they next tell how far they are."""

    def __init__(self, report: Report, parts: int) -> None:
        self._report, self._shares = report, [0.0] * parts
        self._turn = threading.Lock()
        self._failed: BaseException | None = None

    def part(self, number: int) -> Report:
        """What part *number* reports to."""

        def report(share: float) -> None:
            with self._turn:
                if self._failed:
                    raise self._failed
                self._shares[number] = share
                self._report(sum(self._shares) / len(self._shares))

        return report

    @contextmanager
    def stopping(self) -> Iterator[None]:
        """Around the work of a part: if it fails, so do the others."""
        try:
            yield
        except BaseException as error:
            self._failed = self._failed or error
            raise


def working_file(cache: Path, track: SoundTrack) -> Path:
    """Where the working copy of a sound track lies."""
    return cache / f"sound-{sound_key(track)}.wav"


def peaks_file(cache: Path, track: SoundTrack) -> Path:
    """Where the peaks of a sound track lie."""
    return cache / f"peaks-{sound_key(track)}.npy"


def open_sound(work: Work, track: SoundTrack, watch: Watch = lambda _block: None) -> SoundReader:
    """The working copy of a track, made anew if the cache was emptied; *watch* is then given its blocks."""
    file = working_file(work.cache, track)
    if not file.is_file():
        source = source_of(work, track)
        if not same_file(source, track.size_bytes, track.checksum):
            raise StoreError(
                "{source} is another file than the one that was brought in. Bring it in again to work "
                "with it, or put the old one back.",
                source=source,
            )
        working_copy(probe(source), track.pick, file, work.report, watch)
    return SoundReader(file)


def source_of(work: Work, track: SoundTrack) -> Path:
    """The file a track is from. One that was moved is looked for beside the project and beside where it was; it is
    known by its checksum, and its new place is kept."""
    source = Path(track.path)
    if source.is_file():
        return source
    for path in _moved_to(work.cache, track):
        if same_file(path, track.size_bytes, track.checksum):
            work.say(Finding("file-found-again", {"file": source.name, "path": str(path)}))
            work.note(partial(move_media, old_path=track.path, new_path=str(path)))
            return path
    raise StoreError(
        "{source} is not there any more, nor near the project. Put it back, or bring it in again from where it is now.",
        source=source,
    )


def within_reach(cache: Path, track: SoundTrack) -> bool:
    """Whether the file a track is from seems to be there, or near; by its size alone, so that it costs next to
    nothing."""
    return Path(track.path).is_file() or any(True for _ in _moved_to(cache, track))


def _moved_to(cache: Path, track: SoundTrack) -> Iterator[Path]:
    """Files of a track's size beside the project, and beside where the track was."""
    for folder in dict.fromkeys((cache.parent, cache.parent.parent, *Path(track.path).parents[:2])):
        yield from _of_size(folder, track.size_bytes)


def _of_size(folder: Path, size_bytes: int) -> Iterator[Path]:
    """Files right in a folder that have this size, the most at 1,000 entries looked at."""
    try:
        with os.scandir(folder) as entries:
            found = [
                Path(entry.path)
                for entry in islice(entries, 1_000)
                if entry.is_file(follow_symlinks=False) and entry.stat().st_size == size_bytes
            ]
    except OSError:
        return
    yield from found
