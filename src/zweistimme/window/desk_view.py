"""The open project on the desk: strip, rail, pages, transport. Puts them together, no more."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import QPoint, pyqtSignal
from PyQt6.QtGui import QAction
from PyQt6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from zweistimme.project.timecode import shown_timecode
from zweistimme.project.times import clock
from zweistimme.sound.arrays import Mono
from zweistimme.stages.work import Work, working_file
from zweistimme.window.asking_again import AskAgain
from zweistimme.window.bridge import Desk
from zweistimme.window.folds import HISTORY, JOBS, Folds
from zweistimme.window.following import Following
from zweistimme.window.foot import Foot
from zweistimme.window.hear_along import HearAlong
from zweistimme.window.history_panel import HistoryPanel
from zweistimme.window.intake.files import ProgrammeFiles
from zweistimme.window.jobs_panel import JobsPanel
from zweistimme.window.navigation import Navigation
from zweistimme.window.new_people import NewPeople
from zweistimme.window.pages import CAST, SCORE, Around, PageStack
from zweistimme.window.playback import Playback
from zweistimme.window.rail import Rail
from zweistimme.window.score_page import ScorePage, rule
from zweistimme.window.settling import Settling
from zweistimme.window.steps import Steps
from zweistimme.window.strip import TopStrip
from zweistimme.window.transcribing import Transcribing, TranscriptFiles
from zweistimme.window.transcribing.begin import Beginnings
from zweistimme.window.transcribing.record import NAME as RECORD
from zweistimme.window.transport import Transport
from zweistimme.window.version_menu import VersionMenu

if TYPE_CHECKING:
    from zweistimme.window.casting.page import CastPage


class DeskView(QWidget):
    """A project at work."""

    menu_wanted = pyqtSignal(str, QPoint)
    """What lies under the pointer, as in ``menus.CONTEXT``, and where on the screen."""

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.desk = desk
        self.playback = Playback(desk, self)
        player = self.playback.player
        around = Around(
            desk, player, self.playback.hear, self._go_to_segment, self._hand_over, self.playback, self._flip_lane,
            self._audition, self._record_sample,
        )  # fmt: skip
        self.strip, self.rail = TopStrip(desk), Rail()
        self.foot, self.jobs, self.history = Foot(desk), JobsPanel(desk), HistoryPanel(desk)
        self.folds = Folds({JOBS: self.jobs, HISTORY: self.history})
        self.pages, self.transport = PageStack(around), Transport(player, self.playback.mixer.line_up)
        self.page = self.pages.of(SCORE, ScorePage)
        self.navigation = Navigation(desk, self.pages, self.rail)
        self.steps, self.settling = Steps(desk, self.pages, self.navigation), Settling(desk, self.navigation)
        self.transcribing = Transcribing(desk, player, self.page.regions)
        self.files, self.programme = TranscriptFiles(desk, self), ProgrammeFiles(desk, self)
        self.versions, self.again = VersionMenu(desk, self), AskAgain(desk, self)
        self.following, self.new_people = Following(desk, self), NewPeople(desk)
        self.hear_along = HearAlong(desk, self.playback.hear_take, self)
        self._timecode = False
        self._shown_picture: tuple[Path | None, int] = (None, 0)
        self._lay_out()
        self._connect()
        self.pages.show_page(SCORE)
        self.playback.load()

    def _lay_out(self) -> None:
        middle = QVBoxLayout()
        middle.setSpacing(0)
        middle.addWidget(self.pages, 1)
        for widget in (rule(), self.folds, self.foot, rule(), self.transport):
            middle.addWidget(widget)
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

    def welcome_to(self, actions: Mapping[str, QAction]) -> None:
        """Offer the ways to a transcript while there is none."""
        self.beginnings = Beginnings(self.desk, lambda action_id: actions[action_id].trigger(), self.page.score)

    def _connect(self) -> None:
        self._connect_score()
        desk, playback = self.desk, self.playback
        self.strip.continue_wanted.connect(self.steps.go_on)
        self.strip.step_pressed.connect(self.navigation.go_to_step)
        self.strip.versions.more.setMenu(self.versions)
        self.transport.loop_wanted.connect(playback.repeat)
        playback.player.moved.connect(self._show_playhead)
        playback.captions.ready.connect(self.page.picture.set_captions)
        playback.loaded.connect(self._loaded)
        desk.changed.connect(lambda _change: self._look())
        desk.jobs.sound_read.connect(self.page.peaks.coming)
        self.foot.board.clicked.connect(lambda: self.folds.flip(JOBS))
        self.folds.turned.connect(lambda name: self.foot.board.setChecked(name == JOBS))

    def _connect_score(self) -> None:
        score, line = self.page.score, self.page.line
        self.page.overview.moved.connect(self.page.centre_on)
        for part in (score, self.page.lines, self.page.overview, self.page.closeup):
            part.menu_wanted.connect(self.menu_wanted)
        for view in (score, self.page.lines):
            view.looked.connect(self.page.overview.show_visible)
            view.typed.connect(line.measure)
            view.split_wanted.connect(self.transcribing.split_at)
            view.drops.dropped.connect(self.files.take_clips)
        score.playhead_wanted.connect(self.playback.player.seek)
        score.writing_wanted.connect(self.transcribing.write_down)
        line.left.connect(self.page.take_keyboard)
        line.takes.heard.connect(self.playback.hear_take)
        line.takes.another_wanted.connect(self.again.takes)
        self.page.listening.heard.connect(self.playback.hear_take)
        self.page.before_after.heard.connect(self.playback.hear_take)
        self.page.auditions.heard.connect(self.playback.hear_along)
        self.page.closeup.ways.heard.connect(self.playback.hear_along)
        self.page.record.sampled.connect(self._take_sample)
        self.page.listening.again_wanted.connect(self.again.takes)
        self.page.listening.note_wanted.connect(line.standing.begin_note)
        line.other_wordings.clicked.connect(self.again.wordings)
        line.standing.state_wanted.connect(self.settling.give)
        line.standing.lock_wanted.connect(self.settling.flip_lock)

    def _show_playhead(self, time_us: float) -> None:
        playing = self.playback.player.playing
        self.page.show_playhead(time_us, follow=playing and self.transport.follow.isChecked())
        if playing and self.transport.along.isChecked() and not self.desk.writing.going_on:
            self.playback.select_heard(time_us)

    def _go_to_segment(self, segment_id: str) -> None:
        self.navigation.go_to_segment(segment_id)

    def _flip_lane(self, name: str, alone: bool) -> None:
        (self.transport.flip_alone if alone else self.transport.flip_lane)(name)

    def _hand_over(self, folder: Path) -> None:
        self.steps.hand_over(folder)

    def _audition(self, speaker: str) -> None:
        self.navigation.audition(speaker)

    def show_sampling(self) -> None:
        """Show what makes a voice from samples."""
        self.navigation.show_page(CAST)
        self._cast_page().show_sampling(True)

    def _cast_page(self) -> CastPage:
        from zweistimme.window.casting.page import CastPage

        return self.pages.of(CAST, CastPage)

    def _record_sample(self) -> None:
        self.navigation.open_panel(RECORD)
        self.page.record.want_sample()

    def _take_sample(self, samples: Mono) -> None:
        self.navigation.show_page(CAST)
        self._cast_page().sampling.take_recording(samples)

    def _loaded(self) -> None:
        """Show what belongs to the sound that is there now."""
        self._look()
        self.transport.show_lanes(self.playback.lanes)
        programme = self.desk.project.programme
        path = Path(programme.sound.path) if programme and programme.picture else None
        length_us = programme.sound.duration_us if programme else 0
        if self._shown_picture != (path, length_us):
            self._shown_picture = path, length_us
            self.page.picture.open(path, length_us)

    def _look(self) -> None:
        """Find where somebody speaks, once there is sound to look at."""
        project, programme = self.desk.project, self.desk.project.programme
        if programme is not None and working_file(self.desk.document.cache, programme.sound).is_file():
            self.page.regions.look(project, self._quiet_work)

    def _quiet_work(self) -> Work:
        """A run nobody is told of."""
        return Work.on(self.desk.document, lambda _label, _edit: None)

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

    def close_parts(self) -> None:
        """Keep what is being written, end every thread, then let go of the project."""
        self.desk.writing.keep()
        self.desk.jobs.close()  # what it gave until now changes the project, which all parts below still hear of
        self.following.close()
        self.programme.close()
        self.pages.close_parts()
        self.playback.close()
        self.desk.close()
