"""Where one is on the desk: pages, panels, and the next place that needs a person."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtWidgets import QApplication, QLineEdit, QPlainTextEdit

from zweistimme.messages import tr
from zweistimme.project.placed_time import does_not_fit
from zweistimme.project.progress import Step, progress
from zweistimme.window.auditions import NAME as AUDITIONS
from zweistimme.window.bridge import Desk
from zweistimme.window.memory_panel import NAME as MEMORY_PANEL
from zweistimme.window.pages import SCORE, PageStack, page_of_step
from zweistimme.window.rail import Rail
from zweistimme.window.score_page import ScorePage
from zweistimme.window.taking_back import NAME as TAKING_BACK
from zweistimme.window.transcribing.record import NAME as RECORD


def _marked_text() -> str:
    """What is marked in the text that has the keyboard; empty where nothing is."""
    focus = QApplication.focusWidget()
    if isinstance(focus, QLineEdit):
        return focus.selectedText()
    return focus.textCursor().selectedText() if isinstance(focus, QPlainTextEdit) else ""


class Navigation:
    """Goes to pages, panels and lines."""

    def __init__(self, desk: Desk, pages: PageStack, rail: Rail) -> None:
        self._desk, self._pages, self._rail = desk, pages, rail
        rail.chosen.connect(self.show_page)
        desk.selected.connect(pages.show_segment)

    @property
    def _score(self) -> ScorePage:
        return self._pages.of(SCORE, ScorePage)

    def show_page(self, page_id: str) -> None:
        """Show a page of the rail."""
        self._desk.writing.keep()
        self._rail.show_page(page_id)
        self._pages.show_page(page_id)
        focus = QApplication.focusWidget()
        if page_id == SCORE and (focus is None or not self._score.isAncestorOf(focus)):
            self._score.take_keyboard()

    def go_to_segment(self, segment_id: str) -> None:
        """Show a line on the Score."""
        self.show_page(SCORE)
        self._desk.select(segment_id)

    def go_to_step(self, step: Step) -> None:
        """Go to the first place of a step that needs a person."""
        self.show_page(page_of_step(step))
        version = self._desk.version
        first = progress(self._desk.project, version)[step].first_open if version else None
        if first is not None:
            self._desk.select(first)
            self._pages.show_segment(first)

    def next_open(self) -> None:
        """Select the next line that needs something in any step, is too long or clashes."""
        desk, version = self._desk, self._desk.version
        if version is None:
            return
        ids = [segment.id for segment in desk.project.segments]
        open_ids = {state.first_open for state in progress(desk.project, version).values()} - {None}
        open_ids |= {p.segment_id for p in version.placements.values() if does_not_fit(p)}
        failed = (segment for segment in desk.project.segments if segment.id in version.failures)
        open_ids |= {segment.id for segment in failed if desk.failure(segment)}
        here = ids.index(desk.segment_id) if desk.segment_id in ids else -1
        for segment_id in ids[here + 1 :] + ids[: here + 1]:
            if segment_id in open_ids:
                self.go_to_segment(segment_id)
                return
        desk.notice("done", tr("Nothing in this version needs you."))

    def next_version(self) -> None:
        """Put the next version on the desk."""
        desk, tags = self._desk, self._desk.shown_versions()
        if tags:
            desk.show_version(tags[(tags.index(desk.tag) + 1) % len(tags) if desk.tag in tags else 0])

    # the panels at the foot of the Score

    def open_panel(self, name: str) -> None:
        """Open a panel at the foot of the Score."""
        self.show_page(SCORE)
        self._score.drawer.open(name)

    def audition(self, speaker: str) -> None:
        """Hear a person's lines in several voices."""
        self.open_panel(AUDITIONS)
        if speaker:
            self._score.auditions.show_person(speaker)

    def search_memory(self) -> None:
        """Open the memory's panel, with what is marked in a text."""
        self._score.memory.look_for(_marked_text())
        self.open_panel(MEMORY_PANEL)

    def take_back(self, file: Path | None) -> None:
        """Show what a file that came back would change."""
        if file is not None and self._score.taking_back.show_file(file):
            self.open_panel(TAKING_BACK)

    def record(self) -> None:
        """Open the recording panel; record, or stop, where it is open."""
        if self._score.drawer.shown == RECORD:
            self._score.record.toggle()
        else:
            self.open_panel(RECORD)

    def close_or_stop(self) -> None:
        """Close the panel that is open; else stop the running job."""
        if self._score.drawer.isVisible():
            self._score.drawer.shut()
        else:
            self._desk.jobs.stop()
