"""The Score and what stands around it: overview, drawer, close-up, picture and line panel."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QScrollArea, QVBoxLayout, QWidget

from zweistimme.window.bridge import Desk
from zweistimme.window.clock import Player
from zweistimme.window.closeup import CloseUp
from zweistimme.window.microphones import microphones
from zweistimme.window.page import Page
from zweistimme.window.panel.line import LinePanel
from zweistimme.window.panel.picture import PictureView
from zweistimme.window.peaks import PeakStore
from zweistimme.window.regions import SpeechRegions
from zweistimme.window.score.overview import Overview
from zweistimme.window.score.view import ScoreView
from zweistimme.window.transcribing import Drawer
from zweistimme.window.transcribing.find import NAME as FIND
from zweistimme.window.transcribing.find import FindPanel
from zweistimme.window.transcribing.recognise import NAME as RECOGNISE
from zweistimme.window.transcribing.recognise import RecognisePanel
from zweistimme.window.transcribing.record import NAME as RECORD
from zweistimme.window.transcribing.record import RecordPanel
from zweistimme.window.transcribing.recut import NAME as RECUT
from zweistimme.window.transcribing.recut import RecutPanel
from zweistimme.window.transcribing.report import NAME as REPORT
from zweistimme.window.transcribing.report import ReportPanel

PANEL_WIDTH = 345


def rule(*, upright: bool = False) -> QFrame:
    """A quiet line between two parts."""
    line = QFrame()
    line.setFrameShape(QFrame.Shape.VLine if upright else QFrame.Shape.HLine)
    line.setFrameShadow(QFrame.Shadow.Plain)
    line.setStyleSheet("color: palette(mid)")
    return line


class ScorePage(Page):
    """The main page."""

    def __init__(self, desk: Desk, player: Player, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.peaks = PeakStore(desk.document.clips, desk.document.cache, self)
        self.regions = SpeechRegions(self)
        self.score, self.overview = ScoreView(desk, self.peaks, self.regions), Overview(desk)
        self.closeup = CloseUp(desk, self.peaks)
        self.picture, self.line = PictureView(), LinePanel(desk)
        self.drawer = Drawer()
        self.search, self.recut, self.report = FindPanel(desk), RecutPanel(desk), ReportPanel()
        self.record, self.recognise = RecordPanel(desk, player, microphones), RecognisePanel(desk)
        panels = {FIND: self.search, RECUT: self.recut, REPORT: self.report, RECORD: self.record}
        for name, panel in {**panels, RECOGNISE: self.recognise}.items():
            self.drawer.add(name, panel)
        self.drawer.shut_by_hand.connect(self.score.setFocus)
        self.recognise.begun.connect(self.drawer.shut)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        row.addLayout(self._left(), 1)
        row.addWidget(rule(upright=True))
        row.addWidget(self._panel())

    def _left(self) -> QVBoxLayout:
        left = QVBoxLayout()
        left.setSpacing(0)
        top = QHBoxLayout()
        top.setSpacing(0)
        top.addWidget(self.overview)
        top.addWidget(self.score, 1)
        left.addLayout(top, 1)
        left.addWidget(rule())
        left.addWidget(self.drawer)
        left.addWidget(rule())
        left.addWidget(self.closeup)
        return left

    def _panel(self) -> QWidget:
        panel = QWidget()
        panel.setFixedWidth(PANEL_WIDTH)
        column = QVBoxLayout(panel)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setFrameShape(QFrame.Shape.NoFrame)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        scroll.setWidget(self.line)
        column.addWidget(self.picture)
        column.addWidget(scroll, 1)
        return panel

    def show_segment(self, segment_id: str) -> None:
        """Scroll to a segment."""
        self.score.show_segment(segment_id)

    def show_playhead(self, time_us: float, *, follow: bool) -> None:
        """Move the playhead everywhere; *follow* turns the Score's page when it leaves."""
        self.score.show_playhead(time_us, follow=follow)
        self.overview.show_playhead(time_us)
        self.closeup.show_playhead(time_us)
        self.picture.show_time(time_us)

    def close_parts(self) -> None:
        """End every thread."""
        self.picture.close_source()
        self.regions.close()
        self.record.close_parts()
        self.recut.close_parts()
        self.closeup.close_parts()
        self.peaks.close()
