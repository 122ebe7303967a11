"""The desk fits any screen, and is found as it was left."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import pytest
from PyQt6.QtCore import QPoint, QSize, Qt
from PyQt6.QtGui import QFont, QFontDatabase, QKeySequence
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QWidget
from pytestqt.qtbot import QtBot

from driving import opened, view_of
from zweistimme.project.edits import add_version
from zweistimme.project.model import Project
from zweistimme.window import theme
from zweistimme.window.main_window import MainWindow
from zweistimme.window.pages import PAGES
from zweistimme.window.remembered import Remembered, _file, read_remembered, write_remembered
from zweistimme.window.sheet import ShortcutSheet
from zweistimme.window.theme import DAY, NIGHT, apply_theme

NINE = ("fr-FR", "it-IT", "pt-PT", "nl-NL", "pl-PL", "sv-SE", "ja-JP", "ar-SA", "cs-CZ")


def with_versions(project: Project) -> Project:
    for tag in NINE:
        project = add_version(project, tag)
    return project


@pytest.fixture
def eleven(window: MainWindow) -> MainWindow:
    view_of(window).desk.apply("Add versions", with_versions)
    return window


@pytest.mark.parametrize("size", [QSize(1024, 700), QSize(1280, 800), QSize(1920, 1080), QSize(2560, 1440)])
def test_every_page_fits_with_eleven_versions(eleven: MainWindow, qtbot: QtBot, size: QSize) -> None:
    view = view_of(eleven)
    for spec in PAGES:
        view.navigation.show_page(spec.id)
        eleven.resize(size)
        qtbot.wait(20)
        assert eleven.size() == size, spec.id
        assert not _beyond(eleven, view.strip)
        assert not _beyond(eleven, view.transport)


def _beyond(window: MainWindow, part: QWidget) -> list[str]:
    """What of a part of the window is not in the window."""
    outer = window.rect()
    return [
        child.accessibleName() or type(child).__name__
        for child in part.findChildren(QWidget)
        if child.isVisible() and not outer.contains(child.mapTo(window, QPoint(child.width() - 1, child.height() - 1)))
    ]


def test_the_shortcuts_fit_into_a_small_window(window: MainWindow) -> None:
    window.resize(1024, 700)
    sheet = ShortcutSheet(window)
    assert sheet.width() <= 1024
    assert sheet.height() <= 700


def test_versions_are_a_list_when_they_are_many(eleven: MainWindow, qtbot: QtBot) -> None:
    view = view_of(eleven)
    choice = view.strip.versions
    eleven.resize(1024, 700)
    qtbot.waitUntil(choice.list.isVisible)
    assert not any(button.isVisible() for button in choice.buttons.values())
    assert choice.list.text() == "Deutsch\n18 of 18"
    choice._menu.aboutToShow.emit()
    names = [action.text() for action in choice._menu.actions()]
    assert names[0] == "Deutsch (Deutschland)\t18 of 18"
    assert len(names) == 11
    choice._menu.actions()[2].trigger()
    assert view.desk.tag == "fr-FR"
    assert choice.list.text() == "Français\n0 of 18"
    eleven.resize(2560, 1440)
    qtbot.waitUntil(lambda: all(button.isVisible() for button in choice.buttons.values()))
    assert not choice.list.isVisible()


def test_panels_fold_and_come_back(window: MainWindow, qtbot: QtBot) -> None:
    page = view_of(window).page
    width = page.score.width()
    for keys, hidden in (("F8", page.line), ("F7", page.closeup)):
        QTest.keySequence(window, QKeySequence(keys))
        qtbot.wait(20)
        assert hidden.visibleRegion().isEmpty()
    assert page.score.width() > width + 300
    for keys in ("F8", "F7"):
        QTest.keySequence(window, QKeySequence(keys))
    qtbot.waitUntil(lambda: not page.closeup.visibleRegion().isEmpty())
    assert not page.line.visibleRegion().isEmpty()


def test_a_higher_closeup_has_higher_waves_to_take_hold_of(window: MainWindow, qtbot: QtBot) -> None:
    view = view_of(window)
    page = view.page
    page.left.setSizes([300, 300])
    qtbot.wait(30)
    assert page.closeup.height() > 250
    segment = view.desk.segment()
    assert segment is not None
    page.closeup.grab()
    edge = QPoint(round(page.closeup.x_of(segment.end_us)), 100)
    QTest.mousePress(page.closeup, Qt.MouseButton.LeftButton, pos=edge)
    QTest.mouseMove(page.closeup, edge + QPoint(30, 0))
    QTest.mouseRelease(page.closeup, Qt.MouseButton.LeftButton, pos=edge + QPoint(30, 0))
    now = view.desk.segment()
    assert now is not None
    assert now.end_us > segment.end_us


def test_the_desk_is_found_as_it_was_left(window: MainWindow, qtbot: QtBot, demo_folder: Path) -> None:
    view = view_of(window)
    view.page.split.setSizes([700, 500])
    view.page.score.zoom(2.0)
    view.transport.lanes["Bed"][1].setValue(40)
    view.playback.player.set_speed(0.7)
    QTest.keySequence(window, QKeySequence("F"))
    QTest.keySequence(window, QKeySequence("F6"))
    view.desk.show_version("es-ES")
    view.navigation.show_page("Cast")
    wanted = (view.page.split.sizes(), view.page.score.scale.pixels_per_second)
    window.close()
    again = opened(qtbot, demo_folder)
    there = view_of(again)
    assert read_remembered().geometry, "which Qt brings onto the screen there is"
    assert there.pages.current == "Cast"
    assert there.desk.tag == "es-ES"
    assert there.page.by_text
    there.navigation.show_page("Score")
    qtbot.wait(20)
    assert there.page.score.scale.pixels_per_second == wanted[1]
    assert there.page.split.sizes()[1] == pytest.approx(wanted[0][1], abs=10)
    assert there.playback.mixer.line_up.states["Bed"].level == 0.4
    assert there.playback.player.speed == 0.7
    assert there.transport.speed.currentText() == "×0.7"
    assert not there.transport.follow.isChecked()
    again.close()


@pytest.mark.parametrize(
    "left",
    [
        b"", b"{", b'{"splits": 3}', b"[]",
        b'{"splits": {"score": [0, -5]}, "page": "Nowhere", "speed": 77, "geometry": "?"}',
        b'{"versions": {"x": "xx-XX"}, "pixels_per_second": 1e9, "levels": {"Dub": -3, "Bed": 1e300}}',
        b'{"splits": {"score": [99999999999999, 1], "closeup": [3, 4, 5]}, "pixels_per_second": 1e-300}',
    ],
)  # fmt: skip
def test_what_cannot_be_brought_back_is_let_be(qtbot: QtBot, demo_folder: Path, left: bytes) -> None:
    write_remembered(Remembered())
    _file().write_bytes(left)
    window = opened(qtbot, demo_folder)
    assert view_of(window).pages.current == "Score"
    assert 2.0 <= view_of(window).page.score.scale.pixels_per_second <= 400.0
    window.close()


def test_only_so_many_projects_are_remembered() -> None:
    write_remembered(Remembered(versions={f"project {number}": "de-DE" for number in range(300)}))
    kept = read_remembered().versions
    assert len(kept) == 200
    assert "project 299" in kept


@pytest.fixture
def large_type(monkeypatch: pytest.MonkeyPatch) -> Iterator[None]:
    """A system whose type is half as large again."""
    app = QApplication.instance()
    assert isinstance(app, QApplication)
    large = QFont("DejaVu Sans", 0)
    large.setPointSizeF(13.5)
    monkeypatch.setattr(QFontDatabase, "systemFont", lambda _kind: QFont(large))
    apply_theme(app, DAY)
    yield
    monkeypatch.undo()
    apply_theme(app, NIGHT)
    apply_theme(app, DAY)


@pytest.mark.usefixtures("large_type")
def test_type_is_as_large_as_the_system_says(qtbot: QtBot, demo_folder: Path) -> None:
    assert theme.font(8.0).pointSizeF() == pytest.approx(12.0)
    assert theme.px(40) == 60
    window = opened(qtbot, demo_folder)
    window.resize(1600, 1000)
    view = view_of(window)
    assert view.rail.buttons["Score"].height() == 84
    assert view.page.closeup.minimumHeight() == 189
    assert not _beyond(window, view.strip)
    window.close()
