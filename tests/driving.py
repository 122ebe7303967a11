"""The real window in the hands of a test."""

from __future__ import annotations

import threading
from pathlib import Path

from PyQt6.QtCore import QPoint
from PyQt6.QtWidgets import QWidget
from pytestqt.qtbot import QtBot

from zweistimme.stages.work import Work
from zweistimme.window.app import make_app
from zweistimme.window.bridge import Desk, Notice
from zweistimme.window.casting.page import CastPage
from zweistimme.window.desk_view import DeskView
from zweistimme.window.engines import EnginesPage
from zweistimme.window.handover_page import HandoverPage
from zweistimme.window.main_window import MainWindow
from zweistimme.window.score.painting import card_rect
from zweistimme.window.speakers_page import SpeakersPage


def opened(qtbot: QtBot, folder: Path) -> MainWindow:
    """The window with a project on the desk."""
    make_app()
    made = MainWindow()
    qtbot.addWidget(made)
    made.show()
    made.open_project(folder)
    made.activateWindow()
    qtbot.waitUntil(made.isActiveWindow)
    return made


def view_of(window: MainWindow) -> DeskView:
    """The project on the desk."""
    assert window.view is not None
    return window.view


def notices_of(desk: Desk) -> list[str]:
    """All that is said from now on."""
    said: list[str] = []

    def keep(notice: Notice) -> None:
        said.append(notice.text)

    desk.noticed.connect(keep)
    return said


def canvas_of(view: DeskView) -> QWidget:
    canvas = view.page.score.viewport()
    assert canvas is not None
    return canvas


def middle_of(view: DeskView, segment_id: str, column: str) -> QPoint:
    """The middle of a card on the Score's canvas."""
    scene = view.page.score.scene()
    index = view.page.score.dubs if column.startswith("dub") else view.page.score.originals
    rect = card_rect(scene, index.find(segment_id), getattr(scene.columns, column))
    return rect.center().toPoint()


def cast_of(view: DeskView) -> CastPage:
    """The page with the cast."""
    return view.pages.of("Cast", CastPage)


def speakers_of(view: DeskView) -> SpeakersPage:
    """The page with the speakers."""
    return view.pages.of("Speakers", SpeakersPage)


def engines_of(view: DeskView) -> EnginesPage:
    """The page with the engines."""
    return view.pages.of("Engines", EnginesPage)


def handover_of(view: DeskView) -> HandoverPage:
    """The page of the hand-over."""
    return view.pages.of("Hand-over", HandoverPage)


class Held:
    """A stage that goes on until it is let go or stopped."""

    def __init__(self) -> None:
        self.go = threading.Event()
        self.began = threading.Event()

    def __call__(self, work: Work) -> None:
        self.began.set()
        while not self.go.wait(0.005):
            work.report(0.25)
