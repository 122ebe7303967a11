"""The bridge between the Document and the widgets: one path by which state changes, one place that says so.

Widgets read ``desk.project`` and listen to the signals; to change something they call ``desk.apply``. What takes long
is started on the job board, ``desk.jobs``.
"""

from __future__ import annotations

from collections.abc import Iterable
from contextlib import suppress
from itertools import count
from time import monotonic
from typing import TYPE_CHECKING, Final
from uuid import uuid4

from PyQt6.QtCore import QObject, pyqtSignal

from zweistimme.messages import tr, tr_act
from zweistimme.project.access import ids_of
from zweistimme.project.errors import EditError, ZweistimmeError
from zweistimme.project.facts import failure_of
from zweistimme.project.findings import Finding
from zweistimme.project.line_edits import note_of
from zweistimme.project.model import Line, Placement, Project, Segment, Take, Version
from zweistimme.sentences import sentence_of
from zweistimme.store.document import Change, Document, Edit
from zweistimme.store.unkept import read_unkept, write_unkept
from zweistimme.window.engine_book import EngineBook
from zweistimme.window.job_board import JobBoard
from zweistimme.window.notice import Notice
from zweistimme.window.sifting import Sifting
from zweistimme.window.writing import Kind, Place, Writing, note_author, written

if TYPE_CHECKING:
    from zweistimme.stages.voice.heard_back import TakeHeard

_ROW_S: Final = 1.5
"""So soon after the last time, the same is one gesture."""


class Desk(QObject):
    """The open project as the window sees it: its document, the version on the desk, the selected line, the jobs."""

    previewed = pyqtSignal()
    """What is shown of the version is another, without an edit: a hand holds something."""
    changed = pyqtSignal(object)
    """A Change."""
    version_changed = pyqtSignal(str)
    selected = pyqtSignal(str)
    """A segment's id, or empty."""
    chosen_changed = pyqtSignal()
    """More, fewer or other lines are chosen."""
    word_changed = pyqtSignal(int)
    """The word under the cursor, by its number in the selected segment."""
    noticed = pyqtSignal(object)
    """A Notice."""
    heard_changed = pyqtSignal()
    """More takes were heard back."""
    hidden_changed = pyqtSignal()
    """Other versions are hidden than before."""

    def __init__(self, document: Document, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.document = document
        self.tag = next(iter(document.project.versions), "")
        self.segment_id = document.project.segments[0].id if document.project.segments else ""
        self.chosen: frozenset[str] = frozenset({self.segment_id} - {""})
        """Lines that are chosen together; the selected one is among them."""
        self.word = 0
        self.hidden: frozenset[str] = frozenset()
        """Versions that are not shown among the others."""
        self.book = EngineBook(self)
        self.writing = Writing(document.folder, self)
        self.heard: dict[str, TakeHeard] = {}
        """By its id, what was heard in a take; for the close-up, as long as the desk is open."""
        self.sifting = Sifting(self)
        self.sifting.changed.connect(lambda: self.choose(self.chosen))
        self.jobs = JobBoard(document, self.writing.keep, self)
        self.jobs.noticed.connect(self.noticed)
        self._preview: Version | None = None
        self._row = ("", "", 0.0)
        self._places: tuple[object, dict[str, int]] = (None, {})
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

    def show_heard(self, found: TakeHeard) -> None:
        """Let what was heard in a take be seen."""
        self.heard[found.take_id] = found
        self.heard_changed.emit()

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
        brief = self.project.brief
        about = {Kind.SUBJECT: brief.subject, Kind.AUDIENCE: brief.audience, Kind.NOTES: brief.notes}
        if place.kind in about:
            return about[place.kind]
        version = self.project.versions.get(place.tag)
        line = version.lines.get(place.key) if version else None
        if line is None or place.kind is Kind.NOTE:
            return note_of(line, note_author())
        return line.text if place.kind is Kind.WORDING else line.direction

    def failure(self, segment: Segment) -> str:
        """Why the line or take of a segment could not be made, in a sentence; empty if nothing failed."""
        failure = failure_of(self.project, self.version, segment) if self.version else None
        return sentence_of(failure.why) if failure else ""

    @property
    def shown_version(self) -> Version | None:
        """The version on the desk, or as it would be while a hand holds something of it."""
        return self._preview if self._preview is not None and self._preview.tag == self.tag else self.version

    def put_preview(self, version: Version | None) -> None:
        """Show a version as it would be, or as it is again (None)."""
        if version is not self._preview:
            self._preview = version
            self.previewed.emit()

    def placed(self, segment_id: str | None = None) -> tuple[Placement, Take] | None:
        """The placement of a segment's line and its take, if there is one, as it is shown."""
        version = self.shown_version
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
        """Choose several lines; none that is not looked at, but the one somebody is at."""
        chosen = frozenset(one for one in segment_ids if one == self.segment_id or self.sifting.keeps(one)) - {""}
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
        """Select a later or earlier one of the lines that are looked at."""
        segments, here, step = self.project.segments, self.place(self.segment_id), 1 if by > 0 else -1
        wanted = 0 if here is None else here + by
        while 0 <= wanted < len(segments) and not self.sifting.keeps(segments[wanted].id):
            wanted += step
        if segments and (0 <= wanted < len(segments) or self.sifting.kept is None):
            self.select(segments[max(0, min(wanted, len(segments) - 1))].id)

    def shown_versions(self) -> list[str]:
        """The tags of the versions that are not hidden."""
        return [tag for tag in self.project.versions if tag not in self.hidden]

    def hide_version(self, tag: str) -> None:
        """Show a version no more among the others, and put the next one on the desk; the last one stays."""
        others = [one for one in self.shown_versions() if one != tag]
        if others:
            self.hide_versions({*self.hidden, tag})
            if self.tag == tag:
                self.show_version(others[0])

    def hide_versions(self, tags: Iterable[str]) -> None:
        """Hide these versions and no others."""
        hidden = frozenset(tags) & set(self.project.versions)
        if hidden != self.hidden:
            self.hidden = hidden
            self.hidden_changed.emit()

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
                self.notice("note", tr("Kept from the last time, when it was being written: “{text}”", text=one.text))
            except EditError as error:
                self.notice(
                    "error", tr("{error} From the last time, and not kept: “{text}”", error=error, text=one.text)
                )
            except ZweistimmeError as error:  # it stays beside the project until it can be stored
                self.notice(
                    "error", tr("{error} From the last time, and not stored yet: “{text}”", error=error, text=one.text)
                )
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
        self.notice("note", tr("Undone: {label}.", label=tr_act(label)) if label else tr("There is nothing to undo."))

    def redo(self) -> None:
        self.writing.keep()
        label = self.document.redo()
        self.notice(
            "note", tr("Done again: {label}.", label=tr_act(label)) if label else tr("There is nothing to do again.")
        )

    def go_in_history(self, by: int) -> None:
        """Undo *by* steps if it is negative, else do so many again."""
        self.writing.keep()
        label = self.document.go_in_history(by)
        if label:
            self.notice(
                "note",
                tr("Done again, up to: {label}.", label=tr_act(label))
                if by > 0
                else tr("Undone, back to before: {label}.", label=tr_act(label)),
            )

    def notice_findings(self, found: Iterable[Finding], kind: str = "note") -> None:
        """Show what has been found, a notice each."""
        for one in found:
            self.notice(kind, sentence_of(one))

    def notice(self, kind: str, text: str) -> None:
        self.noticed.emit(Notice(kind, text))

    def close(self) -> None:
        """Stop what runs, keep what it gave, let go of the project."""
        self.jobs.close()
        self.book.close()
        self.document.close()

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
