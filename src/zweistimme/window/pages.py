"""The pages of the desk, as data: what stands on the rail, for which steps, and how each is made when it is first
shown."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import Final, TypeVar

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QPainter
from PyQt6.QtWidgets import QStackedWidget, QWidget

from zweistimme.project.progress import Step
from zweistimme.sound.arrays import Mono
from zweistimme.window import page_icons
from zweistimme.window.bridge import Desk
from zweistimme.window.clock import Player
from zweistimme.window.layouts import scrolled
from zweistimme.window.page import Page
from zweistimme.window.playback import Playback


@dataclass(frozen=True, slots=True)
class Around:
    """What pages are made with: the desk, the player, and what they ask for of what lies outside them."""

    desk: Desk
    player: Player
    hear: Callable[[Mono, bool], None]
    go_to_segment: Callable[[str], None]
    hand_over: Callable[[Path], None]
    playback: Playback
    flip_lane: Callable[[str, bool], None]
    audition: Callable[[str], None]
    record_sample: Callable[[], None]


@dataclass(frozen=True, slots=True)
class PageSpec:
    """A page: a name for the code (the action that shows it, with its key, is ``page_`` and this), a title, its
    drawing, how it is made, and the steps of the work it is for."""

    id: str
    title: str
    draw: Callable[[QPainter], None]
    make: Callable[[Around], Page]
    steps: tuple[Step, ...] = ()


def _score(around: Around) -> Page:
    from zweistimme.window.score_page import ScorePage

    page = ScorePage(around.desk, around.player)
    page.record.heard.connect(around.hear)
    page.pronouncing.heard.connect(around.hear)
    return page


def _speakers(around: Around) -> Page:
    from zweistimme.window.speakers_page import SpeakersPage

    page = SpeakersPage(around.desk)
    page.went.connect(around.go_to_segment)
    return page


def _cast(around: Around) -> Page:
    from zweistimme.window.casting.page import CastPage

    page = CastPage(around.desk)
    page.heard.connect(around.hear)
    page.audition_wanted.connect(around.audition)
    page.sampling.heard.connect(lambda samples: around.hear(samples, True))
    page.sampling.record_wanted.connect(around.record_sample)
    return page


def _fit(around: Around) -> Page:
    from zweistimme.window.fitting.page import FitPage

    page = FitPage(around.desk)
    page.went.connect(around.go_to_segment)
    return page


def _mix(around: Around) -> Page:
    from zweistimme.window.mix.page import MixPage

    page = MixPage(around.desk, around.playback)
    page.lane_flipped.connect(around.flip_lane)
    return page


def _handover(around: Around) -> Page:
    from zweistimme.window.handover_page import HandoverPage

    page = HandoverPage(around.desk)
    page.wanted.connect(around.hand_over)
    return page


def _engines(around: Around) -> Page:
    from zweistimme.window.engines import EnginesPage

    return EnginesPage(around.desk)


SCORE: Final = "Score"
CAST: Final = "Cast"
HANDOVER: Final = "Hand-over"
PAGES: Final = (
    PageSpec(
        SCORE, "Score", page_icons.draw_score, _score,
        (Step.TRANSCRIPT, Step.TRANSLATION, Step.TAKES, Step.FIT),
    ),
    PageSpec("Speakers", "Speakers", page_icons.draw_speakers, _speakers),
    PageSpec(CAST, "Cast", page_icons.draw_cast, _cast, (Step.CAST,)),
    PageSpec("Fit", "Fit", page_icons.draw_fit, _fit),
    PageSpec("Mix", "Mix", page_icons.draw_mix, _mix),
    PageSpec(HANDOVER, "Hand-over", page_icons.draw_handover, _handover, (Step.HANDOVER,)),
    PageSpec("Engines", "Engines", page_icons.draw_engines, _engines),
)  # fmt: skip
_BY_ID: Final = {spec.id: spec for spec in PAGES}
PageKind = TypeVar("PageKind", bound=Page)


def page_of_step(step: Step) -> str:
    """The page on which a step of the work is done."""
    return next((spec.id for spec in PAGES if step in spec.steps), SCORE)


class PageStack(QStackedWidget):
    """The pages that were shown so far, one of them in sight."""

    shown = pyqtSignal(str)

    def __init__(self, around: Around, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._around = around
        self._made: dict[str, Page] = {}
        self._frames: dict[str, QWidget] = {}
        self.current = ""

    def page(self, page_id: str) -> Page:
        """A page, made now if nobody asked for it before."""
        if page_id not in self._made:
            made = self._made[page_id] = _BY_ID[page_id].make(self._around)
            self._frames[page_id] = made if page_id == SCORE else scrolled(made)
            if page_id != SCORE:
                made.setFocusPolicy(Qt.FocusPolicy.ClickFocus)
            self.addWidget(self._frames[page_id])
        return self._made[page_id]

    def of(self, page_id: str, kind: type[PageKind]) -> PageKind:
        """A page as what it is."""
        page = self.page(page_id)
        assert isinstance(page, kind)
        return page

    def show_page(self, page_id: str) -> None:
        """Put a page in sight."""
        self.current = page_id
        self.page(page_id)
        self.setCurrentWidget(self._frames[page_id])
        if page_id != SCORE:  # a field that had the keyboard by itself would take keys that are meant for the desk
            self.page(page_id).setFocus()
        self.shown.emit(page_id)

    def show_segment(self, segment_id: str) -> None:
        """Have every page bring a segment into sight."""
        for page in self._made.values():
            page.show_segment(segment_id)

    def close_parts(self) -> None:
        """End every thread of every page."""
        for page in self._made.values():
            page.close_parts()
