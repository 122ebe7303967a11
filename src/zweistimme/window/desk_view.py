"""The open project on the desk: strip, rail, pages, panel, close-up, transport. Puts them together, no more."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path

import numpy as np
from PyQt6.QtCore import QTimer, pyqtSignal
from PyQt6.QtGui import QAction, QResizeEvent
from PyQt6.QtWidgets import QApplication, QHBoxLayout, QStackedWidget, QVBoxLayout, QWidget

from zweistimme.project.facts import spoken_segments
from zweistimme.project.progress import Step, progress
from zweistimme.project.timecode import shown_timecode
from zweistimme.project.times import clock
from zweistimme.stages.pipeline import VERBS, next_step, run_step
from zweistimme.stages.work import Work, working_file
from zweistimme.window.asking_again import AskAgain
from zweistimme.window.bridge import Desk
from zweistimme.window.cast_page import CastPage
from zweistimme.window.clock import Player
from zweistimme.window.engines import EnginesPage
from zweistimme.window.handover_page import HandoverPage
from zweistimme.window.intake.files import BRING_IN, ProgrammeFiles
from zweistimme.window.lanes import LaneMixer
from zweistimme.window.listener import Listener
from zweistimme.window.near_captions import NearCaptions
from zweistimme.window.notices import NoticeBar
from zweistimme.window.rail import Rail
from zweistimme.window.score_page import PANEL_WIDTH, ScorePage, rule
from zweistimme.window.speakers_page import SpeakersPage
from zweistimme.window.strip import TopStrip
from zweistimme.window.transcribing import Transcribing, TranscriptFiles
from zweistimme.window.transcribing.begin import Beginnings
from zweistimme.window.transcribing.record import NAME as RECORD
from zweistimme.window.transcribing.report import NAME as REPORT
from zweistimme.window.transport import Transport
from zweistimme.window.version_menu import VersionMenu

_SETTLE_MS = 250
_TALKATIVE = ("Transcript from", "Align", BRING_IN)
"""Jobs whose every sentence is worth reading."""
_PRE_ROLL_US, _POST_ROLL_US = 600_000, 300_000


class DeskView(QWidget):
    """A project at work."""

    page_shown = pyqtSignal(str)

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.desk = desk
        self.mixer = LaneMixer(desk.document.clips, desk.document.cache)
        self.player = Player(self.mixer, self)
        self.captions = NearCaptions(desk, self)
        self.strip, self.rail = TopStrip(desk), Rail()
        self.page = ScorePage(desk, self.player)
        self.score, self.overview, self.closeup = self.page.score, self.page.overview, self.page.closeup
        self.picture, self.line, self.regions = self.page.picture, self.page.line, self.page.regions
        self.speakers, self.cast = SpeakersPage(desk), CastPage(desk)
        self.handover, self.engines = HandoverPage(desk), EnginesPage(desk)
        self.transport, self.notices = Transport(self.player, self.mixer), NoticeBar(desk)
        self.transcribing = Transcribing(desk, self.player, self.regions)
        self.files, self.programme = TranscriptFiles(desk, self), ProgrammeFiles(desk, self)
        self.listener = Listener(desk, self)
        self.versions, self.again = VersionMenu(desk, self), AskAgain(desk, self)
        self._timecode = False
        self._shown_picture: tuple[Path | None, int] = (None, 0)
        self._settle = QTimer(self)
        self._settle.setSingleShot(True)
        self._settle.setInterval(_SETTLE_MS)
        self._settle.timeout.connect(self._load_sound)
        self._lay_out()
        self._connect()
        self._load_sound()

    def _lay_out(self) -> None:
        self.pages = QStackedWidget()
        for page in (self.page, self.speakers, self.cast, self.handover, self.engines):
            self.pages.addWidget(page)
        middle = QVBoxLayout()
        middle.setSpacing(0)
        middle.addWidget(self.pages, 1)
        for widget in (rule(), self.transport):
            middle.addWidget(widget)
        self.notices.setParent(self.pages)
        body = QHBoxLayout()
        body.setSpacing(0)
        body.addWidget(self.rail)
        body.addWidget(rule(upright=True))
        body.addLayout(middle, 1)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.strip)
        column.addWidget(rule())
        column.addLayout(body, 1)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._place_notices()

    def welcome_to(self, actions: Mapping[str, QAction]) -> None:
        """Offer the ways to a transcript while there is none."""
        self.beginnings = Beginnings(self.desk, lambda action_id: actions[action_id].trigger(), self.score)

    def _place_notices(self) -> None:
        """Over the foot of the page, beside the panel."""
        width = self.pages.width() - (PANEL_WIDTH if self.pages.currentIndex() == 0 else 0)
        height = max(38, self.notices.heightForWidth(width))
        self.notices.setGeometry(0, self.pages.height() - height, width, height)
        self.notices.raise_()

    def _connect(self) -> None:
        desk, player = self.desk, self.player
        self.rail.chosen.connect(self.show_page)
        self.strip.continue_wanted.connect(self.go_on)
        self.strip.step_pressed.connect(self.go_to_step)
        self.strip.more.setMenu(self.versions)
        self.overview.moved.connect(self.score.centre_on)
        self.speakers.went.connect(self._go_to_segment)
        self.score.looked.connect(self.overview.show_visible)
        self.score.playhead_wanted.connect(player.seek)
        self.score.typed.connect(self.line.measure)
        self.line.left.connect(self.score.setFocus)
        self.score.writing_wanted.connect(self.transcribing.write_down)
        self.score.split_wanted.connect(self.transcribing.split_at)
        self.line.takes.heard.connect(self.hear_take)
        self.line.takes.another_wanted.connect(self.again.takes)
        self.line.other_wordings.clicked.connect(self.again.wordings)
        self.cast.heard.connect(self.hear)
        self.page.record.heard.connect(self.hear)
        self.handover.wanted.connect(self.hand_over)
        self.transport.loop_wanted.connect(self._loop)
        player.moved.connect(self._show_playhead)
        player.silent.connect(lambda words: desk.notice("note", words))
        desk.selected.connect(self._selected)
        desk.changed.connect(self._changed)
        desk.version_changed.connect(lambda _tag: self._load_sound())
        desk.finished.connect(self._finished)
        desk.sound_read.connect(self.page.peaks.coming)
        self.listener.heard.connect(lambda said: desk.notice("note", " ".join(said)))
        self.notices.changed.connect(self._place_notices)
        self.captions.ready.connect(self.picture.set_captions)

    # listening

    def _changed(self, _change: object) -> None:
        self.regions.look(self.desk.project, self._quiet_work)
        self._settle.start()

    def _quiet_work(self) -> Work:
        """A run nobody is told of."""
        return Work.on(self.desk.document, lambda _label, _edit: None)

    def _load_sound(self) -> None:
        """Take over sound, picture and captions of the version on the desk."""
        project, tag = self.desk.project, self.desk.tag
        programme = project.programme
        version, original = project.versions.get(tag), self.mixer.states["Original"]
        if not original.by_hand:  # while nothing is dubbed, the original is what there is to hear
            original.mute = bool(version and version.placements)
        self.mixer.load(project, tag)
        if programme is not None and working_file(self.desk.document.cache, programme.sound).is_file():
            self.regions.look(project, self._quiet_work)
        self.transport.show_lanes()
        self.player.end_us = float(programme.sound.duration_us) if programme else 0.0
        path = Path(programme.sound.path) if programme and programme.picture else None
        length_us = programme.sound.duration_us if programme else 0
        if self._shown_picture != (path, length_us):
            self._shown_picture = path, length_us
            self.picture.open(path, length_us)
        if tag in project.versions:
            self.captions.near(self.player.position_us)

    def _show_playhead(self, time_us: float) -> None:
        self.score.show_playhead(time_us, follow=self.player.playing)
        self.overview.show_playhead(time_us)
        self.closeup.show_playhead(time_us)
        self.picture.show_time(time_us)
        self.captions.near(time_us)

    def _selected(self, segment_id: str) -> None:
        self.score.show_segment(segment_id)
        segment = self.desk.segment(segment_id)
        words = segment.words if segment else ()
        if segment is not None and not self.player.playing:
            self.player.seek(words[self.desk.word].start_us if self.desk.word < len(words) else segment.start_us)
        self._loop(self.transport.loop.isChecked())

    def _loop(self, on: bool) -> None:
        segment, placed = self.desk.segment(), self.desk.placed()
        if not on or segment is None:
            self.player.loop = None
            return
        ends = [segment.end_us] + ([placed[0].start_us + placed[0].length_us] if placed else [])
        starts = [segment.start_us] + ([placed[0].start_us] if placed else [])
        self.player.loop = (max(0, min(starts) - _PRE_ROLL_US), max(ends) + _POST_ROLL_US)

    def hear_take(self, take_id: str | None = None) -> None:
        """Play a take alone; by default the selected line's."""
        version, line = self.desk.version, self.desk.line()
        wanted = take_id or (line.take_id if line else None)
        take = version.takes.get(wanted) if version and wanted else None
        if take is None:
            self.desk.notice("note", "This line has no take yet.")
            return
        self.hear(self.desk.document.clips.get(take.clip))

    def hear(self, samples: np.ndarray[tuple[int], np.dtype[np.float32]], last: bool = True) -> None:
        """Play a clip on its own, or a piece of one; the *last* piece ends it."""
        if not self.player.play_alone(samples, last=last):
            self.desk.notice("note", "There is no sound device here, so the clip cannot be heard.")

    def _go_to_segment(self, segment_id: str) -> None:
        self.show_page("Score")
        self.desk.select(segment_id)

    # the transcript's panels

    def open_panel(self, name: str) -> None:
        """Open a panel at the foot of the Score."""
        self.show_page("Score")
        self.page.drawer.open(name)

    def record(self) -> None:
        """Open the recording panel; record, or stop, where it is open."""
        if self.page.drawer.shown == RECORD:
            self.page.record.toggle()
        else:
            self.open_panel(RECORD)

    def close_or_stop(self) -> None:
        """Close the panel that is open; else stop the running job."""
        if self.page.drawer.isVisible():
            self.page.drawer.shut()
        else:
            self.desk.stop_job()

    # the work

    def show_page(self, name: str) -> None:
        """Show a page of the rail."""
        self.desk.writing.keep()
        self.rail.show_page(name)
        self.pages.setCurrentIndex(list(self.rail.buttons).index(name))
        self._place_notices()
        if name == "Score" and not self.page.isAncestorOf(QApplication.focusWidget()):
            self.score.setFocus()
        self.page_shown.emit(name)

    def go_on(self) -> None:
        """Do the next thing that is missing."""
        if self.desk.version is None:
            return
        step = next_step(self.desk.project, self.desk.tag)
        if step is None and not spoken_segments(self.desk.project):
            self.go_to_step(Step.TRANSCRIPT)
        elif step is Step.HANDOVER:
            self.show_page("Hand-over")
            self.hand_over(Path(self.handover.folder.text()).expanduser())
        elif step is not None:
            tag = self.desk.tag
            self.desk.start(
                f"{VERBS[step]} {'' if step is Step.TRANSCRIPT else tag}".strip(),
                lambda work: run_step(work, step, tag),
            )

    def flip_timecode(self) -> None:
        """Count times from the beginning, or as timecode from that of the first picture."""
        programme = self.desk.project.programme
        if programme is None:
            return
        self._timecode = not self._timecode
        self.transport.count_as(
            (lambda time_us: shown_timecode(time_us, programme))
            if self._timecode
            else (lambda time_us: clock(time_us, 3))
        )

    def hand_over(self, folder: Path) -> None:
        """Write all files into a folder."""
        tag = self.desk.tag

        def stage(work: Work) -> None:
            run_step(work, Step.HANDOVER, tag, folder)

        self.desk.start("Hand over", stage)

    def go_to_step(self, step: Step) -> None:
        """Go to the first place of a step that needs a person."""
        page = {Step.CAST: "Cast", Step.HANDOVER: "Hand-over"}.get(step, "Score")
        self.show_page(page)
        version = self.desk.version
        first = progress(self.desk.project, version)[step].first_open if version else None
        if first is not None:
            self.desk.select(first)
            self.score.show_segment(first)

    def next_open(self) -> None:
        """Select the next line that needs something in any step, is too long or clashes."""
        version = self.desk.version
        if version is None:
            return
        ids = [segment.id for segment in self.desk.project.segments]
        open_ids = {state.first_open for state in progress(self.desk.project, version).values()} - {None}
        open_ids |= {p.segment_id for p in version.placements.values() if p.overflow_us or p.clash_us}
        here = ids.index(self.desk.segment_id) if self.desk.segment_id in ids else -1
        for segment_id in ids[here + 1 :] + ids[: here + 1]:
            if segment_id in open_ids:
                self.desk.select(segment_id)
                return
        self.desk.notice("done", "Nothing in this version needs you.")

    def _finished(self, name: str, done: bool) -> None:
        if done and self.desk.said and name.startswith(_TALKATIVE):
            self.page.report.show_said(name, self.desk.said)
            self.open_panel(REPORT)
        if done and self.notices.kind in ("", "done"):
            self.desk.notice("done", f"{name}: done.")
        self._load_sound()
        if done and name == BRING_IN:
            self.listener.listen()

    def close_parts(self) -> None:
        """Keep what is being written, end every thread, then let go of the project."""
        self.desk.writing.keep()
        self.player.pause()
        self._settle.stop()
        self.programme.close()
        self.captions.close()
        self.listener.close()
        self.page.close_parts()
        self.mixer.close()
        self.desk.close()
