"""The window in other languages: switched as it stands, with nothing hard-coded, cut or left unturned."""

from __future__ import annotations

import re
from collections.abc import Iterator
from functools import partial
from pathlib import Path

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtGui import QAction, QFontMetrics
from PyQt6.QtWidgets import (
    QAbstractButton,
    QApplication,
    QComboBox,
    QDialogButtonBox,
    QFileDialog,
    QLabel,
    QLineEdit,
    QPushButton,
    QTableWidget,
    QWidget,
)
from pytestqt.qtbot import QtBot

import messages as gathering
from driving import notices_of, opened, view_of
from pseudo import DIRECTION_OF, OPEN, Pseudo
from zweistimme.messages import language, use
from zweistimme.project.speaker_edits import rename_speaker
from zweistimme.store.settings import LANGUAGE, THEME, Settings, read_settings, write_settings
from zweistimme.window.app import make_app
from zweistimme.window.main_window import MainWindow
from zweistimme.window.mix.page import MixPage
from zweistimme.window.pages import PAGES
from zweistimme.window.speech import speak, suit

PANELS = ("Cut anew", "Find and replace", "Have the speech recognised", "Record", "What was said")
OF_THE_PROJECT = re.compile(
    r"The Tide Clock of Varnholm|Mira|Tobin|Juna|Alva|Brandt|Cosma|Dario|Edda|Fenn|Gunda|Hale|bundled|Zweistimme"
    r"|Deutsch(?: \(Deutschland\))?|Español(?: \(España\))?|English \(United Kingdom\)|German \(Germany\)"
    r"|Spanish \(Spain\)"
    r"|WAV|Broadcast Wave|FLAC|Opus|AAC|MP3|5\.1|\d+ Hz|ebu-r128(?:-5\.1)?|atsc-a85|streaming|podcast-mono|archive"
    r"|.{1,8} (?:LUFS|dBTP)|whispering|lively|calm|angry|sad|laughing|shouting|softly|hurried|slow|[-+×\d.:/, s]+"
)
"""What is data: names of people, voices and engines, languages by their own names, what voices can be told."""
NOT_YET_WHOLE = re.compile(r"⟦|\b[a-z]{3,}")


@pytest.fixture(autouse=True)
def _as_before() -> Iterator[None]:
    yield
    speak(make_app(), "en")


@pytest.fixture(scope="module")
def known() -> frozenset[tuple[str, str | None]]:
    return frozenset((one.text, one.context) for one in gathering.all_messages())


@pytest.fixture
def elsewhere(qtbot: QtBot, demo_folder: Path, known: frozenset[tuple[str, str | None]]) -> Iterator[MainWindow]:
    """The window with the demo, in the language for tests."""
    app = make_app()
    use("en", Pseudo(known))
    suit(app, DIRECTION_OF)
    window = opened(qtbot, demo_folder)
    window.resize(1280, 800)
    yield window
    window.close_project()


def walk(window: MainWindow, qtbot: QtBot) -> Iterator[str]:
    """Every page and panel, one after the other; the name of what is in sight."""
    view = view_of(window)
    for page in PAGES:
        view.navigation.show_page(page.id)
        qtbot.wait(50)
        yield page.id
    view.navigation.show_page("Score")
    for panel in PANELS:
        view.navigation.open_panel(panel)
        qtbot.wait(30)
        yield panel
    for action_id in ("jobs", "history", "by_text"):
        window.actions_by_id[action_id].trigger()
        qtbot.wait(50)
        yield action_id


def words_of(widget: QWidget) -> Iterator[str]:
    """Everything that a widget says."""
    for name in ("text", "toolTip", "accessibleName", "placeholderText", "windowTitle", "specialValueText", "title"):
        says = getattr(widget, name, None)
        if callable(says) and not (name == "text" and isinstance(widget, QLineEdit)):
            yield says()
    if isinstance(widget, QComboBox):
        yield from (widget.itemText(place) for place in range(widget.count()))
    if isinstance(widget, QTableWidget):
        heads = (widget.horizontalHeaderItem(column) for column in range(widget.columnCount()))
        yield from (head.text() for head in heads if head is not None)


def test_nothing_is_hard_coded(elsewhere: MainWindow, qtbot: QtBot) -> None:
    bare: dict[str, str] = {}
    for place in walk(elsewhere, qtbot):
        for widget in (elsewhere, *elsewhere.findChildren(QWidget)):
            for words in words_of(widget):
                for line in words.splitlines():
                    line = re.sub(r" – Zweistimme$", "", line)
                    if re.search(r"[A-Za-z]{3}", line) and OPEN not in line and not shown_data(line):
                        bare.setdefault(line, place)
    for action in elsewhere.findChildren(QAction):
        if OPEN not in action.text() and action.text() and not shown_data(action.text()):
            bare.setdefault(action.text(), "menus")
    assert not bare


def shown_data(line: str) -> bool:
    """Whether a line holds nothing but what belongs to the project or its engines."""
    return all(
        OF_THE_PROJECT.fullmatch(part.strip()) for part in re.split(r"[·;,]|\b\d+\.\d+\.\d+", line) if part.strip()
    )


def test_nothing_that_is_pressed_is_cut(elsewhere: MainWindow, qtbot: QtBot) -> None:
    cut: dict[str, str] = {}
    for place in walk(elsewhere, qtbot):
        for button in elsewhere.findChildren(QAbstractButton):
            if not button.isVisible() or not button.text():
                continue
            widest = max(QFontMetrics(button.font()).horizontalAdvance(line) for line in button.text().splitlines())
            if isinstance(button, QPushButton) and widest > button.width() - 6:
                cut[button.text()] = place
        for label in elsewhere.findChildren(QLabel):
            plain = type(label) is QLabel and not label.wordWrap() and label.isVisible() and label.text()
            if plain and label.sizeHint().width() > label.width() + 1:
                cut[label.text()] = place
    assert not cut


def test_the_window_is_read_the_other_way_round(elsewhere: MainWindow) -> None:
    view = view_of(elsewhere)
    assert QApplication.layoutDirection() == Qt.LayoutDirection.RightToLeft
    assert view.rail.mapTo(elsewhere, view.rail.rect().center()).x() > elsewhere.width() / 2
    assert view.transport.button.x() > view.transport.width() / 2
    # sound goes on from left to right wherever it is read, and so do the columns of the Score
    assert view.page.closeup.layoutDirection() == Qt.LayoutDirection.LeftToRight
    assert view.page.score.layoutDirection() == Qt.LayoutDirection.LeftToRight


def test_the_language_is_switched_as_everything_stands(window: MainWindow, qtbot: QtBot) -> None:
    desk = view_of(window).desk
    desk.select("s0007")
    speaker = next(iter(desk.project.speakers))
    desk.apply("Rename a speaker", partial(rename_speaker, speaker_id=speaker, name="Ilse"))
    view_of(window).navigation.show_page("Cast")
    window.outfit.choose_language("de")
    view = view_of(window)
    assert language() == "de"
    assert view.pages.current == "Cast"
    assert view.desk.segment_id == "s0007"
    assert window.actions_by_id["play"].text() == "Abspielen oder Pause"
    bar = window.menuBar()
    assert bar is not None
    assert next(iter(bar.actions())).text() == "&Projekt"
    assert read_settings().text(LANGUAGE) == "de"
    view.navigation.show_page("Mix")
    mix = view.pages.page("Mix")
    assert isinstance(mix, MixPage)
    assert mix.controls.boxes["loudness_lufs"].text() == "-23,0 LUFS"
    notices = notices_of(view.desk)
    window.actions_by_id["undo"].trigger()
    assert notices == ["Rückgängig: Einen Sprecher umbenennen."]
    window.outfit.choose_language("en")
    assert window.actions_by_id["play"].text() == "Play or pause"
    qtbot.wait(400)  # nothing of what was there before speaks up


def test_dialogs_of_qt_speak_the_language(qtbot: QtBot) -> None:
    speak(make_app(), "de")
    buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Cancel)
    qtbot.addWidget(buttons)
    assert [button.text() for button in buttons.buttons()] == ["Abbrechen"]
    dialog = QFileDialog()
    qtbot.addWidget(dialog)
    dialog.setOption(QFileDialog.Option.DontUseNativeDialog)
    assert "Dateiname" in "".join(label.text() for label in dialog.findChildren(QLabel)).replace("&", "")


def test_the_desk_fits_in_german(window: MainWindow, qtbot: QtBot) -> None:
    window.resize(1024, 700)
    window.outfit.choose_language("de")
    for _place in walk(window, qtbot):
        assert window.width() <= 1024, _place


def test_what_was_set_is_there_when_the_desk_is_opened(qtbot: QtBot) -> None:
    write_settings(Settings().having(THEME, "contrast").having(LANGUAGE, "de"))
    speak(make_app(), read_settings().text(LANGUAGE))
    window = MainWindow()
    qtbot.addWidget(window)
    assert window.welcome.demo.text() == "Die Demo öffnen"
