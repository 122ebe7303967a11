"""The bridge between the Document and the widgets: one path by which state changes, one place that says so.

Widgets read ``desk.project`` and listen to the signals; to change something they call ``desk.apply``. Jobs run on
threads of their own; what they give becomes edits here, on the GUI thread.
"""

from __future__ import annotations

import logging
from collections.abc import Callable, Iterable
from contextlib import suppress
from dataclasses import dataclass, replace
from itertools import count
from time import monotonic
from typing import Final
from uuid import uuid4

from PyQt6.QtCore import QObject, pyqtSignal

from zweistimme.engines.jobs import Job, JobState
from zweistimme.project.access import ids_of
from zweistimme.project.errors import EditError, ZweistimmeError
from zweistimme.project.facts import failure_of
from zweistimme.project.model import Line, Placement, Project, Segment, SoundTrack, Take, Version
from zweistimme.sentences import sentence_of
from zweistimme.stages.work import Work
from zweistimme.store.document import Change, Document, Edit
from zweistimme.store.unkept import read_unkept, write_unkept
from zweistimme.window.engine_book import EngineBook
from zweistimme.window.writing import Kind, Place, Writing, written

_ROW_S: Final = 1.5
"""So soon after the last time, the same is one gesture."""


@dataclass(frozen=True, slots=True)
class Notice:
    """Something to be said in place: kind is "note", "done" or "error"."""

    kind: str
    text: str


@dataclass(frozen=True, slots=True)
class _Given:
    """An edit from a worker."""

    label: str
    edit: Edit
    gesture: str


@dataclass(frozen=True, slots=True)
class SoundRead:
    """A second of sound that a job has just read: of which track, the how-manieth, and its peaks."""

    track: SoundTrack
    second: int
    peaks: object


class Desk(QObject):
    """The open project as the window sees it: its document, the version on the desk, the selected line, the job."""

    changed = pyqtSignal(object)
    """A Change."""
    version_changed = pyqtSignal(str)
    selected = pyqtSignal(str)
    """A segment's id, or empty."""
    chosen_changed = pyqtSignal()
    """More, fewer or other lines are chosen."""
    word_changed = pyqtSignal(int)
    """The word under the cursor, by its number in the selected segment."""
    job_changed = pyqtSignal()
    noticed = pyqtSignal(object)
    """A Notice."""
    finished = pyqtSignal(str, bool)
    """A job's name, and whether it was done."""
    sound_read = pyqtSignal(list)
    """What has been read since the last time, as SoundRead."""
    _woken = pyqtSignal()

    def __init__(self, document: Document, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.document = document
        self.tag = next(iter(document.project.versions), "")
        self.segment_id = document.project.segments[0].id if document.project.segments else ""
        self.chosen: frozenset[str] = frozenset({self.segment_id} - {""})
        """Lines that are chosen together; the selected one is among them."""
        self.word = 0
        self.said: list[str] = []
        """What the latest job had to say."""
        self.job: Job | None = None
        self.book = EngineBook(self)
        self.writing = Writing(document.folder, self)
        self._row = ("", "", 0.0)
        self._places: tuple[object, dict[str, int]] = (None, {})
        self._woken.connect(self._drain)
        document.listen(self._announce)

    @property
    def project(self) -> Project:
        return self.document.project

    @property
    def version(self) -> Version | None:
        return self.project.versions.get(self.tag)

    def segment(self, segment_id: str | None = None) -> Segment | None:
        """The segment with this id, by default the selected one."""
        place = self.place(segment_id or self.segment_id)
        return None if place is None else self.project.segments[place]

    def place(self, segment_id: str) -> int | None:
        """Where a segment stands among all, counted from 0."""
        segments = self.project.segments
        known, places = self._places
        if known is not segments:
            # an edit moves segments by few places: look there before all are counted anew
            was = places.get(segment_id)
            near = range(max(0, was - 2), min(len(segments), was + 3)) if was is not None else ()
            there = next((k for k in near if segments[k].id == segment_id), None)
            if there is not None:
                return there
            self._places = (segments, dict(zip(ids_of(segments), count(), strict=False)))
        return self._places[1].get(segment_id)

    def line(self, segment_id: str | None = None) -> Line | None:
        version = self.version
        return version.lines.get(segment_id or self.segment_id) if version else None

    def text_at(self, place: Place) -> str:
        """The text of a place as the project has it; empty where there is none."""
        if place.kind is Kind.NAME:
            speaker = self.project.speakers.get(place.key)
            return speaker.name if speaker else ""
        if place.kind is Kind.ORIGINAL:
            segment = self.segment(place.key)
            return segment.text if segment else ""
        version = self.project.versions.get(place.tag)
        line = version.lines.get(place.key) if version else None
        return "" if line is None else line.text if place.kind is Kind.WORDING else line.direction

    def failure(self, segment: Segment) -> str:
        """Why the line or take of a segment could not be made, in a sentence; empty if nothing failed."""
        failure = failure_of(self.project, self.version, segment) if self.version else None
        return sentence_of(failure.why) if failure else ""

    def placed(self, segment_id: str | None = None) -> tuple[Placement, Take] | None:
        """The placement of a segment's line and its take, if there is one."""
        version = self.version
        placement = version.placements.get(segment_id or self.segment_id) if version else None
        take = version.takes.get(placement.take_id) if version and placement else None
        return (placement, take) if placement and take else None

    def select(self, segment_id: str, word: int = 0) -> None:
        """Select one line, and put the cursor on one of its words."""
        changed = segment_id != self.segment_id
        if changed:
            self.writing.keep()
        self.segment_id, self.word = segment_id, word
        self.choose({segment_id})
        if changed:
            self.selected.emit(segment_id)
        self.word_changed.emit(word)

    def choose(self, segment_ids: Iterable[str]) -> None:
        """Choose several lines."""
        chosen = frozenset(segment_ids) - {""}
        if chosen != self.chosen:
            self.chosen = chosen
            self.chosen_changed.emit()

    def chosen_ids(self) -> list[str]:
        """The chosen lines in order of time."""
        return list(filter(self.chosen.__contains__, ids_of(self.project.segments)))

    def extend_choice(self, to_id: str) -> None:
        """Choose everything from the selected line to another."""
        here, there = self.place(self.segment_id), self.place(to_id)
        if here is not None and there is not None:
            first, last = sorted((here, there))
            self.choose(segment.id for segment in self.project.segments[first : last + 1])

    def put_cursor(self, word: int) -> None:
        """Put the cursor on a word of the selected line."""
        self.word = word
        self.word_changed.emit(word)

    def step_selection(self, by: int) -> None:
        """Select a later or earlier line."""
        segments, here = self.project.segments, self.place(self.segment_id)
        if segments:
            wanted = 0 if here is None else here + by
            self.select(segments[max(0, min(wanted, len(segments) - 1))].id)

    def show_version(self, tag: str) -> None:
        """Put another version on the desk."""
        if tag != self.tag and tag in self.project.versions:
            self.writing.keep()
            self.tag = tag
            self.version_changed.emit(tag)

    def apply(self, label: str, edit: Edit, gesture: str = "") -> bool:
        """Apply an edit by hand, after what is being written. What cannot be done is said; False then."""
        self.writing.keep()
        try:
            self.document.apply(label, edit, gesture)
        except ZweistimmeError as error:
            self.notice("error", str(error))
            return False
        return True

    def store(self, label: str, edit: Edit) -> None:
        """Apply an edit beside what is being written, as it is; ZweistimmeError if it cannot be."""
        self.document.apply(label, edit)

    def recover_writing(self) -> None:
        """Keep what was being written when the process before this one ended without a word."""
        for one in read_unkept(self.document.folder):
            try:
                if one.kind not in Kind.__members__:
                    raise EditError("There is no place for it any more.")
                place = Place(Kind[one.kind], one.key, one.tag)
                self.store(place.kind.value, written(place, one.text))
                self.notice("note", f"Kept from the last time, when it was being written: “{one.text}”")
            except EditError as error:
                self.notice("error", f"{error} From the last time, and not kept: “{one.text}”")
            except ZweistimmeError as error:  # it stays beside the project until it can be stored
                self.notice("error", f"{error} From the last time, and not stored yet: “{one.text}”")
                return
        with suppress(OSError):
            write_unkept(self.document.folder, ())

    def in_a_row(self, what: str) -> str:
        """The name of a gesture that goes on for as long as the same is done again within a moment."""
        now = monotonic()
        before, gesture, last = self._row
        if what != before or now - last > _ROW_S:
            gesture = uuid4().hex
        self._row = (what, gesture, now)
        return gesture

    def undo(self) -> None:
        self.writing.keep()
        label = self.document.undo()
        self.notice("note", f"Undone: {label}." if label else "There is nothing to undo.")

    def redo(self) -> None:
        self.writing.keep()
        label = self.document.redo()
        self.notice("note", f"Done again: {label}." if label else "There is nothing to do again.")

    def notice(self, kind: str, text: str) -> None:
        self.noticed.emit(Notice(kind, text))

    def start(self, name: str, stage: Callable[[Work], object]) -> bool:
        """Run a stage as a job; False, with a notice, while another one runs."""
        if self.job is not None and not self.job.finished:
            self.notice("note", f"“{self.job.name}” is still running. Wait for it, or stop it.")
            return False
        self.writing.keep()
        wake = self._woken.emit
        run = Work.on(self.document, lambda _label, _edit: None)
        gesture = f"{name} {uuid4().hex}"
        self.said = []

        def work(job: Job) -> None:
            stage(
                replace(
                    run,
                    deliver=lambda label, edit: job.give(_Given(label, edit, gesture)),
                    report=job.report,
                    say=lambda finding: job.give(Notice("note", sentence_of(finding))),
                    show=lambda track, second, peaks: job.give(SoundRead(track, second, peaks)),
                )
            )

        self.job = Job(name, work, wake)
        self.job.start()
        self.job_changed.emit()
        return True

    def stop_job(self) -> None:
        """Ask the running job to stop."""
        if self.job is not None and not self.job.finished:
            self.job.cancel()

    def close(self) -> None:
        """Stop what runs, keep what it gave, let go of the project."""
        if self.job is not None and not self.job.finished:
            self.job.cancel()
            self.job.wait(10.0)
            self._drain()
        self.book.close()
        self.document.close()

    def _drain(self) -> None:
        job = self.job
        if job is None:
            return
        done = job.finished
        read: list[SoundRead] = []
        for result in job.take():
            if isinstance(result, SoundRead):
                read.append(result)
            elif isinstance(result, Notice):
                self.said.append(result.text)
                self.noticed.emit(result)
            elif isinstance(result, _Given):
                self._take_over(job, result)
        if read:
            self.sound_read.emit(read)
        self.job_changed.emit()
        if done:
            self.job = None
            self.job_changed.emit()
            self._say_end(job)

    def _take_over(self, job: Job, given: _Given) -> None:
        try:
            self.document.apply(given.label, given.edit, gesture=given.gesture)
        except EditError as error:  # the project has moved on while the job ran
            self.notice("note", f"One result of “{job.name}” no longer fits: {error}")

    def _say_end(self, job: Job) -> None:
        if job.state is JobState.FAILED:
            self.notice("error", job.message)
            if job.details:
                logging.getLogger("zweistimme").error("%s", job.details)
        elif job.state is JobState.STOPPED:
            self.notice("note", job.message)
        self.finished.emit(job.name, job.state is JobState.DONE)

    def _nearest(self, change: Change) -> str:
        """The segment that stands where the selected one, which is gone, stood."""
        was = next((s for s in change.before.segments if s.id == self.segment_id), None)
        start = was.start_us if was else 0
        return min(change.after.segments, key=lambda s: abs(s.start_us - start)).id if change.after.segments else ""

    def _announce(self, change: Change) -> None:
        if not all(self.place(chosen) is not None for chosen in self.chosen):
            self.choose(chosen for chosen in self.chosen if self.place(chosen) is not None)
        if self.place(self.segment_id) is None and (self.segment_id or change.after.segments):
            self.select(self._nearest(change))
        if self.tag not in change.after.versions:
            self.tag = next(iter(change.after.versions), "")
            self.version_changed.emit(self.tag)
        self.changed.emit(change)
