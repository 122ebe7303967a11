"""Settings in the window: made from their declarations, found by typing, and holding at once."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtGui import QAccessibilityHints, QKeySequence, QStyleHints
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QComboBox, QFileDialog, QLineEdit, QPushButton
from pytestqt.qtbot import QtBot

from driving import Held, notices_of, view_of
from zweistimme.messages import language
from zweistimme.stages.work import Work
from zweistimme.store.cleaning import cache_of
from zweistimme.store.settings import (
    LANGUAGE,
    PROJECTS,
    PROXY,
    SETTINGS,
    THEME,
    Settings,
    read_settings,
    write_settings,
)
from zweistimme.window.actions import ACTIONS, BY_ID, give_keys, holder_of, tip
from zweistimme.window.app import make_app
from zweistimme.window.caches import Caches
from zweistimme.window.main_window import MainWindow
from zweistimme.window.recent import free_folder
from zweistimme.window.settings_dialog import SettingsDialog
from zweistimme.window.speech import speak
from zweistimme.window.theme import CONTRAST, DAY, NIGHT, Theme, apply_theme, theme, theme_for


@pytest.fixture(autouse=True)
def _as_before() -> Iterator[None]:
    yield
    give_keys({})
    speak(make_app(), "en")
    apply_theme(make_app(), DAY)


@pytest.fixture
def held() -> Iterator[Held]:
    made = Held()
    yield made
    made.go.set()


@pytest.fixture
def dressed() -> list[Theme]:
    return []


@pytest.fixture
def dialog(qtbot: QtBot, dressed: list[Theme]) -> SettingsDialog:
    make_app()
    made = SettingsDialog(dressed.append, Caches(None, lambda: ""))
    qtbot.addWidget(made)
    made.show()
    return made


def test_every_setting_has_a_field_with_its_words(dialog: SettingsDialog) -> None:
    assert set(dialog.fields) == {one.id for one in SETTINGS}
    assert all(field.accessibleName() and field.toolTip() for field in dialog.fields.values())


def test_what_is_typed_finds_a_setting_a_choice_and_a_key(dialog: SettingsDialog) -> None:
    dialog.search.setText("through addre")
    assert dialog.fields["proxy"].isVisible()
    assert not dialog.fields["theme"].isVisible()
    dialog.search.setText("contrast")
    assert dialog.fields["theme"].isVisible()
    dialog.search.setText("split before")
    shown = [row for row in range(len(ACTIONS)) if not dialog.keys.table.isRowHidden(row)]
    assert [ACTIONS[row].id for row in shown] == ["split"]
    dialog.search.setText("")
    assert all(field.isVisible() for field in dialog.fields.values())


def test_a_setting_holds_at_once_and_is_kept(dialog: SettingsDialog, dressed: list[Theme]) -> None:
    box = dialog.fields["theme"]
    assert isinstance(box, QComboBox)
    box.setCurrentIndex(box.findData("contrast"))
    box.activated.emit(box.currentIndex())
    assert dressed == [CONTRAST]
    assert read_settings().text(THEME) == "contrast"
    assert not dialog.makes_anew


def test_what_cannot_be_kept_is_said_where_one_looks(dialog: SettingsDialog, monkeypatch: pytest.MonkeyPatch) -> None:
    line = dialog.fields["proxy"]
    assert isinstance(line, QLineEdit)
    line.setText("quay:3128")
    line.editingFinished.emit()
    assert dialog.said.text() == "“quay:3128” is no address of a proxy, such as http://proxy:3128."
    assert read_settings().text(PROXY) == ""
    monkeypatch.setenv("XDG_CONFIG_HOME", "/proc/nowhere")
    line.setText("http://quay:3128")
    line.editingFinished.emit()
    assert "settings.json cannot be written" in dialog.said.text()


def test_new_projects_go_where_it_is_set(dialog: SettingsDialog, tmp_path: Path) -> None:
    dialog.set(PROJECTS, str(tmp_path / "films"))
    assert free_folder("Harbour") == tmp_path / "films" / "Harbour"


def test_a_key_that_is_taken_is_told_and_not_given_twice(dialog: SettingsDialog) -> None:
    keys = dialog.keys
    keys.table.setCurrentCell([spec.id for spec in ACTIONS].index("split"), 0)
    keys.assign("Ctrl+Z")
    assert keys.said.text() == "Ctrl+Z already does: Undo. Give that other keys first."
    assert BY_ID["split"].key == "S"
    keys.assign("Ctrl+Alt+S")
    assert (BY_ID["split"].key, tip("split")) == ("Ctrl+Alt+S", "Split before the word under the cursor (Ctrl+Alt+S)")
    assert read_settings().keys == {"split": "Ctrl+Alt+S"}
    keys.table.setCurrentCell([spec.id for spec in ACTIONS].index("snap"), 0)
    keys.assign("S")
    keys.table.setCurrentCell([spec.id for spec in ACTIONS].index("split"), 0)
    keys.usual.click()
    assert "already does: Put the edges where the speech is" in keys.said.text()
    keys.none.click()
    assert read_settings().keys == {"split": "", "snap": "S"}
    assert dialog.makes_anew


def test_keys_of_a_newer_desk_never_do_two_things() -> None:
    give_keys({"split": "M", "nothing": "Q"})
    assert BY_ID["merge"].key == ""
    assert holder_of("M") == BY_ID["split"]
    given = [spec.key for spec in ACTIONS if spec.key]
    assert len(given) == len(set(given))


def test_other_keys_work_as_soon_as_the_dialog_is_closed(window: MainWindow, monkeypatch: pytest.MonkeyPatch) -> None:
    def assign(dialog: SettingsDialog) -> int:
        dialog.keys.table.setCurrentCell([spec.id for spec in ACTIONS].index("pin"), 0)
        dialog.keys.assign("Ctrl+Alt+P")
        return 0

    monkeypatch.setattr(SettingsDialog, "exec", assign)
    window.actions_by_id["settings"].trigger()
    assert window.actions_by_id["pin"].shortcut() == QKeySequence("Ctrl+Alt+P")


def test_what_was_set_waits_for_a_run_that_writes(window: MainWindow, qtbot: QtBot) -> None:
    view = view_of(window)
    notices = notices_of(view.desk)

    def goes_on(work: Work) -> None:
        while True:
            work.report(0.5)

    view.desk.jobs.start("Voice de-DE", goes_on)
    window.outfit.choose_language("de")
    assert language() == "en"
    assert notices == ["What was set holds as soon as nothing runs any more."]
    assert read_settings().text(LANGUAGE) == "de"
    view.desk.jobs.stop()
    qtbot.waitUntil(lambda: language() == "de", timeout=5_000)
    assert window.actions_by_id["play"].text() == "Abspielen oder Pause"


def test_a_cache_that_is_emptied_is_made_again(window: MainWindow, qtbot: QtBot, demo_folder: Path) -> None:
    needed = ["Something is running."]
    caches = Caches(demo_folder, lambda: needed[0])
    qtbot.addWidget(caches)
    before = cache_of(demo_folder).size_bytes
    assert before > 1_000_000
    caches.buttons["cache"].click()
    assert cache_of(demo_folder).size_bytes == before
    assert caches.said.text() == "Something is running."
    needed[0] = ""
    caches.buttons["cache"].click()
    assert caches.emptied
    assert not cache_of(demo_folder).files
    window.outfit.make_anew()
    qtbot.waitUntil(lambda: bool(cache_of(demo_folder).files) and not view_of(window).desk.jobs.busy, timeout=30_000)


def test_day_and_night_are_kept(window: MainWindow) -> None:
    write_settings(Settings())
    window.actions_by_id["theme"].trigger()
    assert (theme().name, read_settings().text(THEME)) == ("night", "night")
    window.actions_by_id["theme"].trigger()
    assert (theme().name, read_settings().text(THEME)) == ("day", "day")


def test_the_window_follows_when_the_system_asks_for_other_colours(
    window: MainWindow, monkeypatch: pytest.MonkeyPatch
) -> None:
    write_settings(Settings())
    hints = make_app().styleHints()
    assert hints is not None
    monkeypatch.setattr(QStyleHints, "colorScheme", lambda _hints: Qt.ColorScheme.Dark)
    hints.colorSchemeChanged.emit(Qt.ColorScheme.Dark)
    assert theme() is NIGHT
    write_settings(Settings().having(THEME, "day"))
    window.outfit.dress_in(DAY)
    hints.colorSchemeChanged.emit(Qt.ColorScheme.Dark)
    assert theme() is DAY, "what was chosen holds"


def test_colours_are_what_the_system_asks_for_until_some_are_chosen(monkeypatch: pytest.MonkeyPatch) -> None:
    app = make_app()
    assert theme_for(app, "") is DAY
    assert theme_for(app, "night") is NIGHT
    monkeypatch.setattr(QStyleHints, "colorScheme", lambda _hints: Qt.ColorScheme.Dark)
    assert theme_for(app, "") is NIGHT
    assert theme_for(app, "day") is DAY
    monkeypatch.setattr(QAccessibilityHints, "contrastPreference", lambda _hints: Qt.ContrastPreference.HighContrast)
    assert theme_for(app, "") is CONTRAST


def test_return_in_the_search_presses_no_button(dialog: SettingsDialog, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(QFileDialog, "getExistingDirectory", lambda *_args: pytest.fail("a folder was asked for"))
    before = {kind: button.isEnabled() for kind, button in dialog.caches.buttons.items()}
    dialog.search.setFocus()
    QTest.keyClick(dialog.search, Qt.Key.Key_Return)
    assert dialog.isVisible()
    assert {kind: button.isEnabled() for kind, button in dialog.caches.buttons.items()} == before
    assert not any(button.isDefault() or button.autoDefault() for button in dialog.findChildren(QPushButton))


def test_a_setting_that_cannot_be_kept_is_said_and_nothing_is_torn_down(
    window: MainWindow, monkeypatch: pytest.MonkeyPatch
) -> None:
    view = view_of(window)
    notices = notices_of(view.desk)
    monkeypatch.setenv("XDG_CONFIG_HOME", "/proc/nowhere")
    window.outfit.choose_language("de")
    assert view_of(window) is view
    assert language() == "en"
    window.outfit.flip_theme()
    assert all("settings.json cannot be written" in words for words in notices)
    assert len(notices) == 2


def test_errors_and_the_open_panel_are_there_after_the_window_was_made_anew(window: MainWindow) -> None:
    view = view_of(window)
    view.desk.notice("error", "The engine quay does not answer.")
    view.navigation.open_panel("Find and replace")
    window.outfit.choose_language("de")
    view = view_of(window)
    assert view.foot.errors == ["The engine quay does not answer."]
    assert view.page.drawer.shown == "Find and replace"


def test_the_window_is_not_made_anew_under_a_hand_that_writes(window: MainWindow, qtbot: QtBot, held: Held) -> None:
    view = view_of(window)
    view.desk.jobs.start("Voice de-DE", held)
    window.outfit.choose_language("de")
    view.page.edit("dub")
    editor = QApplication.focusWidget()
    assert editor is not None
    QTest.keyClicks(editor, "Und")
    held.go.set()
    qtbot.waitUntil(lambda: not view.desk.jobs.busy, timeout=5_000)
    qtbot.wait(700)
    assert view_of(window) is view
    assert QApplication.focusWidget() is editor
    QTest.keyClicks(editor, " nun?")
    QTest.keyClick(editor, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: language() == "de", timeout=5_000)
    line = view_of(window).desk.line()
    assert line is not None
    assert "Und nun?" in line.text


def test_a_cache_is_not_emptied_where_it_could_not_be_made_again(
    window: MainWindow, demo_folder: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    view = view_of(window)
    programme = view.desk.project.programme
    assert programme is not None
    away = replace(programme, sound=replace(programme.sound, path="/nowhere/tide.mp4"))
    view.desk.apply("Move", lambda project: replace(project, programme=away))

    def empty(dialog: SettingsDialog) -> int:
        dialog.caches.empty("cache")
        assert dialog.caches.said.text().startswith("/nowhere/tide.mp4 is not where it was")
        return 0

    monkeypatch.setattr(SettingsDialog, "exec", empty)
    before = cache_of(demo_folder).size_bytes
    window.outfit.show_settings()
    assert cache_of(demo_folder).size_bytes == before
