"""The Score and what stands around it: overview, drawer, close-up, picture and line panel."""

from __future__ import annotations

from typing import Final

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QTextCursor
from PyQt6.QtWidgets import (
    QApplication,
    QFrame,
    QHBoxLayout,
    QPlainTextEdit,
    QSplitter,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from zweistimme.messages import tr
from zweistimme.window.auditions import NAME as AUDITIONS
from zweistimme.window.auditions import AuditionPanel
from zweistimme.window.before_after import NAME as BEFORE_AFTER
from zweistimme.window.before_after import BeforeAfterPanel
from zweistimme.window.bridge import Desk
from zweistimme.window.brief_panel import NAME as BRIEF
from zweistimme.window.brief_panel import BriefPanel
from zweistimme.window.choosing import NAME as CHOOSING
from zweistimme.window.choosing import ChoosingPanel
from zweistimme.window.clock import Player
from zweistimme.window.closeup import CloseUp
from zweistimme.window.comparing import NAME as COMPARED
from zweistimme.window.comparing import ComparingPanel
from zweistimme.window.directing import NAME as DIRECTING
from zweistimme.window.directing import DirectingPanel
from zweistimme.window.layouts import scrolled
from zweistimme.window.listening import NAME as LISTENING
from zweistimme.window.listening import ListeningPanel
from zweistimme.window.memory_panel import NAME as MEMORY
from zweistimme.window.memory_panel import MemoryPanel
from zweistimme.window.microphones import microphones
from zweistimme.window.page import Page
from zweistimme.window.panel.line import LinePanel
from zweistimme.window.panel.picture import PictureView
from zweistimme.window.panel.terms_here import with_spaces
from zweistimme.window.peaks import PeakStore
from zweistimme.window.pronouncing import NAME as PRONOUNCING
from zweistimme.window.pronouncing import PronouncingPanel
from zweistimme.window.regions import SpeechRegions
from zweistimme.window.saying_back import NAME as SAID_BACK
from zweistimme.window.saying_back import SayingBackPanel
from zweistimme.window.score.by_text import LinesView
from zweistimme.window.score.overview import Overview
from zweistimme.window.score.sieve_bar import SieveBar
from zweistimme.window.score.view import ScoreView
from zweistimme.window.shown_line import locked_words
from zweistimme.window.taking_back import NAME as TAKING_BACK
from zweistimme.window.taking_back import TakingBackPanel
from zweistimme.window.terms_panel import NAME as TERMS
from zweistimme.window.terms_panel import TermsPanel
from zweistimme.window.theme import px, tint
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

PANEL_WIDTH: Final = 345
CLOSEUP_HEIGHT: Final = 158


def _fold(splitter: QSplitter, usual: int) -> None:
    """Fold the second part of a splitter away, or bring it back at its usual size."""
    first, second = splitter.sizes()
    wanted = 0 if second else px(usual)
    splitter.setSizes([first + second - wanted, wanted])


def rule(*, upright: bool = False) -> QFrame:
    """A quiet line between two parts."""
    line = QFrame()
    line.setFrameShape(QFrame.Shape.VLine if upright else QFrame.Shape.HLine)
    line.setFrameShadow(QFrame.Shadow.Plain)
    tint(line, "rule")
    return line


class ScorePage(Page):
    """The main page."""

    def __init__(self, desk: Desk, player: Player, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.peaks = PeakStore(desk.document.clips, desk.document.cache, self)
        self.regions = SpeechRegions(self)
        self.score, self.overview = ScoreView(desk, self.peaks, self.regions), Overview(desk)
        self._desk = desk
        self.lines, self.scales = LinesView(desk), QStackedWidget()
        for view in (self.score, self.lines):
            self.scales.addWidget(view)
        self.closeup = CloseUp(desk, self.peaks)
        self.picture, self.line = PictureView(), LinePanel(desk)
        self.sieve = SieveBar(desk, self.line.noticing)
        self.sieve.beside_wanted.connect(self.lines.put_beside)
        self.sieve.beside.hide()  # there is no room for it by time
        self.drawer = Drawer()
        self.search, self.recut, self.report = FindPanel(desk), RecutPanel(desk), ReportPanel()
        self.record, self.recognise = RecordPanel(desk, player, microphones), RecognisePanel(desk)
        self.memory = MemoryPanel(desk, self.line.recollection)
        panels: dict[str, QWidget] = {
            FIND: self.search,
            RECUT: self.recut,
            REPORT: self.report,
            RECORD: self.record,
            MEMORY: self.memory,
        }
        self.taking_back, self.choosing = TakingBackPanel(desk), ChoosingPanel(desk)
        self.saying_back = SayingBackPanel(desk)
        panels |= {RECOGNISE: self.recognise, TAKING_BACK: self.taking_back, CHOOSING: self.choosing}
        self.terms = TermsPanel(desk)
        self.brief = BriefPanel(desk)
        panels |= {SAID_BACK: self.saying_back, TERMS: self.terms, BRIEF: self.brief}
        self.comparing = ComparingPanel(desk)
        self.listening = ListeningPanel(desk)
        self.pronouncing = PronouncingPanel(desk)
        self.directing = DirectingPanel(desk)
        panels |= {COMPARED: self.comparing, LISTENING: self.listening, PRONOUNCING: self.pronouncing}
        self.auditions = AuditionPanel(desk)
        self.before_after = BeforeAfterPanel(desk)
        panels |= {DIRECTING: self.directing, AUDITIONS: self.auditions, BEFORE_AFTER: self.before_after}
        for name, panel in panels.items():
            self.drawer.add(name, panel)
        self.drawer.shut_by_hand.connect(self.take_keyboard)
        self.recognise.begun.connect(self.drawer.shut)
        self.line.terms.wanted.connect(self.insert_term)
        self.split, self.left = QSplitter(Qt.Orientation.Horizontal), QSplitter(Qt.Orientation.Vertical)
        self._panel = self._made_panel()
        self._lay_out()

    def _lay_out(self) -> None:
        self.left.addWidget(self._upper())
        self.left.addWidget(self.closeup)
        self.split.addWidget(self.left)
        self.split.addWidget(self._panel)
        for splitter, sizes in ((self.left, (500, CLOSEUP_HEIGHT)), (self.split, (860, PANEL_WIDTH))):
            splitter.setChildrenCollapsible(True)
            splitter.setCollapsible(0, False)
            splitter.setStretchFactor(0, 1)
            splitter.setStretchFactor(1, 0)
            splitter.setHandleWidth(5)
            splitter.setSizes(list(map(px, sizes)))
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.addWidget(self.split)

    def _upper(self) -> QWidget:
        """Overview and Score, and the drawer below them."""
        upper = QWidget()
        column = QVBoxLayout(upper)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.sieve)
        top = QHBoxLayout()
        top.setSpacing(0)
        top.addWidget(self.overview)
        top.addWidget(self.scales, 1)
        column.addLayout(top, 1)
        column.addWidget(rule())
        column.addWidget(self.drawer)
        return upper

    def _made_panel(self) -> QWidget:
        panel = QWidget()
        column = QVBoxLayout(panel)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        scroll = scrolled(self.line)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        column.addWidget(self.picture)
        column.addWidget(scroll, 1)
        bar = scroll.verticalScrollBar()
        assert bar is not None
        panel.setMinimumWidth(self.line.minimumSizeHint().width() + bar.sizeHint().width())
        return panel

    def fold_panel(self) -> None:
        """Fold the panel at the right away, or bring it back."""
        _fold(self.split, PANEL_WIDTH)

    def fold_closeup(self) -> None:
        """Fold the close-up away, or bring it back."""
        _fold(self.left, CLOSEUP_HEIGHT)

    def show_segment(self, segment_id: str) -> None:
        """Scroll to a segment."""
        self.score.show_segment(segment_id)
        self.lines.show_segment(segment_id)

    @property
    def by_text(self) -> bool:
        """Whether the Score is read by text, not by time."""
        return self.scales.currentWidget() is self.lines

    def flip_sieve(self) -> None:
        """Look at some lines alone, or at all of them again."""
        if not self.sieve.flip():
            self.take_keyboard()

    def flip_scale(self) -> None:
        """By text, or by time again; the same line stays in sight. Without a transcript the Score stays by time, where
        the ways to one are offered."""
        if not self.by_text and not self._desk.project.segments:
            return
        self.scales.setCurrentWidget(self.score if self.by_text else self.lines)
        self.sieve.beside.setVisible(self.by_text)
        self.take_keyboard()

    def take_keyboard(self) -> None:
        """Give the keyboard to the Score, whichever way it is read."""
        (self.lines if self.by_text else self.score).setFocus()

    def edit(self, side: str) -> None:
        """Write the selected line in place; *side* is "original" or "dub"."""
        if self.by_text:
            self.lines.edit_side(side)
        else:
            self.score.edit(side)

    def insert_term(self, number: int) -> None:
        """Put a term of the selected line, by its number from 0, where the caret is, or at the end of the line."""
        said = self.line.terms.said
        if number >= len(said) or not said[number].rendering.text:
            self._desk.notice("note", tr("There is no term {number} in this line.", number=number + 1))
            return
        focus = QApplication.focusWidget()
        if not isinstance(focus, QPlainTextEdit) or focus is self.line.source:
            self.edit("dub")
            focus = QApplication.focusWidget()
            if not isinstance(focus, QPlainTextEdit):
                return
            focus.moveCursor(QTextCursor.MoveOperation.End)
        if focus.isReadOnly():
            self._desk.notice("note", locked_words())
            return
        cursor, text = focus.textCursor(), focus.toPlainText()
        before, after = text[: cursor.selectionStart()], text[cursor.selectionEnd() :]
        cursor.insertText(with_spaces(before, said[number].rendering.text, after))

    def centre_on(self, time_us: float) -> None:
        """Bring a time into the middle."""
        (self.lines if self.by_text else self.score).centre_on(time_us)

    def show_playhead(self, time_us: float, *, follow: bool) -> None:
        """Move the playhead everywhere; *follow* turns the Score's page when it leaves."""
        self.score.show_playhead(time_us, follow=follow and not self.by_text)
        self.lines.show_playhead(time_us, follow=follow and self.by_text)
        self.overview.show_playhead(time_us)
        self.closeup.show_playhead(time_us)
        self.picture.show_time(time_us)

    def close_parts(self) -> None:
        """End every thread."""
        self.picture.close_source()
        self.regions.close()
        self.record.close_parts()
        self.auditions.close_parts()
        self.recut.close_parts()
        self.closeup.close_parts()
        self.memory.close_parts()
        self.choosing.close_parts()
        self.overview.tightness.close()
        self.terms.close_parts()
        self.line.close_parts()
        self.peaks.close()
