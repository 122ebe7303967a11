"""Versions in the window: found by name, named, hidden, and brought in from files."""

from __future__ import annotations

from functools import partial
from pathlib import Path

import pytest
import soundfile
from PyQt6.QtGui import QFontDatabase
from PyQt6.QtWidgets import QFileDialog, QInputDialog
from pytestqt.qtbot import QtBot

from driving import handover_of, notices_of, opened, view_of
from zweistimme.engines.offers import VoiceInfo
from zweistimme.project.delivery_edits import leave_out
from zweistimme.project.edits import add_version, rename_version
from zweistimme.project.errors import EditError, TagError
from zweistimme.project.language_list import found_languages, listed_languages
from zweistimme.project.languages import own_name, spoken_tag
from zweistimme.project.line_edits import set_line_text
from zweistimme.project.model import CaptionLimits, Style, TakeKind
from zweistimme.project.progress import Step
from zweistimme.sound.arrays import Mono
from zweistimme.stages.pipeline import handed_over, next_step
from zweistimme.store.document import Document
from zweistimme.window.adding_version import AddVersionDialog, voices_in_words
from zweistimme.window.fonts import missing_font
from zweistimme.window.handover_page import HandoverPage
from zweistimme.window.main_window import MainWindow
from zweistimme.window.pages import HANDOVER


@pytest.fixture
def dialog(window: MainWindow, qtbot: QtBot) -> AddVersionDialog:
    made = AddVersionDialog(view_of(window).desk)
    qtbot.addWidget(made)
    made.show()
    return made


def shown(dialog: AddVersionDialog) -> list[tuple[str, ...]]:
    rows = []
    for row in range(dialog.list.rowCount()):
        cells = (dialog.list.item(row, column) for column in range(3))
        rows.append(tuple(cell.text() for cell in cells if cell is not None))
    return rows


def test_a_language_is_found_by_its_name_its_own_name_its_country_and_its_tag(dialog: AddVersionDialog) -> None:
    for words in ("german aust", "deutsch ö" if "Österreich" in str(listed_languages()) else "de-at", "de-AT"):
        dialog.search.setText(words)
        assert dialog.tag == "de-AT", words
    dialog.search.setText("mexico")
    assert ("Spanish (Mexico) · Español", "8 voices", "es-MX") in shown(dialog)
    dialog.search.setText("eo")
    dialog.search.setText("eo-001")
    assert dialog.tag == "eo-001"
    dialog.search.setText("no such tongue")
    assert dialog.tag == ""
    assert not dialog.add.isEnabled()


def test_the_source_language_and_what_is_there_are_not_added(dialog: AddVersionDialog) -> None:
    dialog.search.setText("english united kingdom")
    assert dialog.tag != "en-GB"
    dialog.search.setText("de-DE")
    assert dialog.words.text() == "Deutsch (Deutschland) is there already. Give this one a name of its own."
    assert not dialog.add.isEnabled()
    dialog.name.setText("For Kids")
    dialog.style_box.setCurrentText("lip-sync")
    dialog.engine.setCurrentText("bundled")
    dialog.add.click()
    answer = dialog.answer
    assert answer is not None
    assert (answer.tag, answer.style, answer.engine) == ("de-DE-x-for-kids", Style.LIP_SYNC, "bundled")


def test_a_name_that_no_tag_can_have_is_told(dialog: AddVersionDialog) -> None:
    dialog.search.setText("de-DE")
    dialog.name.setText("für Kinder")
    assert "is no name for a version" in dialog.words.text()
    assert not dialog.add.isEnabled()


def test_it_says_what_voices_there_are() -> None:
    voices = [VoiceInfo("a", "A", "woman", ("de-DE",)), VoiceInfo("b", "B", "man", ("es-ES", "de-DE"))]
    assert voices_in_words(voices, "de-AT", ()) == "2 voices"
    assert voices_in_words(voices, "gl-ES", ("pt", "es")) == "related: Spanish"
    assert voices_in_words(voices, "gl-ES", ()) == "related: Spanish (refused)"
    assert voices_in_words(voices, "ja-JP", ()) == "no voice"


def test_a_script_without_a_font_is_told_with_its_package(
    dialog: AddVersionDialog, monkeypatch: pytest.MonkeyPatch
) -> None:
    there = QFontDatabase.families
    system = QFontDatabase.WritingSystem
    monkeypatch.setattr(
        QFontDatabase, "families", lambda wanted=system.Any: [] if wanted == system.Japanese else there(wanted)
    )
    assert "fonts-noto-cjk" in missing_font("ja-JP")
    assert missing_font("de-DE") == missing_font("sr-Cyrl-RS") == ""
    dialog.search.setText("japanese")
    assert "This system has no font for Japanese (Japan)" in dialog.words.text()
    assert shown(dialog)[0][0] == "Japanese (Japan)"


def test_every_listed_language_has_a_tag_that_is_one() -> None:
    languages = listed_languages()
    assert len(languages) > 500
    assert len({one.tag for one in languages}) == len(languages)
    assert [one.tag for one in languages[:3]] == ["en-GB", "en-US", "de-DE"]
    assert [one.tag for one in found_languages("中文 taiwan")] == ["zh-Hant-TW"]


def test_the_same_language_is_there_twice_and_is_spoken_as_one(window: MainWindow, qtbot: QtBot) -> None:
    view = view_of(window)
    view.versions.add("de-DE-x-kids", Style.LIP_SYNC)
    assert view.desk.tag == "de-DE-x-kids"
    assert own_name(view.desk.tag) == "Deutsch (Deutschland) · kids"
    for _ in range(4):  # translate, cast, voice, fit
        view.steps.go_on()
        qtbot.waitUntil(lambda: not view.desk.jobs.busy, timeout=60_000)
    version = view.desk.version
    assert version is not None
    assert len(version.placements) == 18
    assert {line.text for line in version.lines.values()} == {
        line.text for line in view.desk.project.versions["de-DE"].lines.values()
    } - {""}
    assert spoken_tag(version.tag) == "de-DE"


def test_a_version_is_named_and_undone(window: MainWindow, monkeypatch: pytest.MonkeyPatch) -> None:
    view, desk = view_of(window), view_of(window).desk
    before = desk.project.versions["de-DE"]
    monkeypatch.setattr(QInputDialog, "getText", lambda *_args: ("Kids", True))
    view.versions.ask_name()
    assert desk.tag == "de-DE-x-kids"
    assert list(desk.project.versions) == ["es-ES", "de-DE-x-kids"]
    assert desk.project.versions["de-DE-x-kids"].takes == before.takes
    desk.undo()
    assert set(desk.project.versions) == {"de-DE", "es-ES"}
    notices = notices_of(desk)
    view.versions.name_it("es-ES", "niños")
    assert "is no name for a version" in notices[0]


def test_a_named_version_is_the_same_when_it_is_opened_again(demo_folder: Path) -> None:
    with Document.open(demo_folder) as document:
        document.apply("Name", lambda project: rename_version(project, "de-DE", "Kids"))
        kept = document.project
    with Document.open(demo_folder) as document:
        assert document.project == kept
        assert list(document.project.versions) == list(kept.versions)
    with pytest.raises(EditError, match="already has a version"):
        rename_version(add_version(kept, "de-DE"), "de-DE", "kids")
    with pytest.raises(TagError):
        rename_version(kept, "es-ES", "a/b")


def test_hidden_versions_stay_hidden_and_come_back(window: MainWindow, qtbot: QtBot, demo_folder: Path) -> None:
    view = view_of(window)
    view.versions.aboutToShow.emit()
    view.versions.hide_one.trigger()
    assert list(view.strip.versions.buttons) == ["es-ES"]
    assert view.desk.tag == "es-ES"
    view.versions.aboutToShow.emit()
    assert not view.versions.hide_one.isEnabled(), "one stays"
    view.navigation.next_version()
    assert view.desk.tag == "es-ES"
    window.close()
    again = opened(qtbot, demo_folder)
    view = view_of(again)
    assert list(view.strip.versions.buttons) == ["es-ES"]
    view.versions.aboutToShow.emit()
    assert view.versions.show_all.text() == "Show 1 hidden version again"
    view.versions.show_all.trigger()
    assert list(view.strip.versions.buttons) == ["de-DE", "es-ES"]
    again.close_project()


def test_a_translation_and_takes_come_from_files(
    window: MainWindow, qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    desk = view_of(window).desk
    first = desk.project.segments[0]
    start, end = (f"00:00:{time / 1e6:06.3f}".replace(".", ",") for time in (first.start_us, first.end_us))
    captions, clips = tmp_path / "de.srt", tmp_path / "clips"
    captions.write_text(f"1\n{start} --> {end}\nZweimal täglich kommt das Meer.\n", encoding="utf-8")
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_args: (str(captions), ""))
    window.actions_by_id["bring_translation"].trigger()
    qtbot.waitUntil(lambda: not desk.jobs.busy, timeout=20_000)
    line = desk.line(first.id)
    assert line is not None
    assert line.text == "Zweimal täglich kommt das Meer."
    clips.mkdir()
    take = next(iter(desk.project.versions["de-DE"].takes.values()))
    sound: Mono = desk.document.clips.get(take.clip)
    soundfile.write(clips / "001.wav", sound, 48_000)
    monkeypatch.setattr(QFileDialog, "getExistingDirectory", lambda *_args: str(clips))
    window.actions_by_id["import_takes"].trigger()
    qtbot.waitUntil(lambda: not desk.jobs.busy, timeout=20_000)
    kinds = [one.kind for one in desk.project.versions["de-DE"].takes.values() if one.segment_id == first.id]
    assert TakeKind.IMPORTED in kinds


def test_words_with_times_get_their_speakers_from_the_file_beside_them(
    window: MainWindow, qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    view = view_of(window)
    words, turns = tmp_path / "a.ctm", tmp_path / "a.rttm"
    words.write_text("a 1 1.0 0.4 Tide 0.9\na 1 1.5 0.4 comes 0.9\na 1 4.0 0.5 Where 0.9\n")
    turns.write_text("SPEAKER a 1 0.9 1.2 <NA> <NA> Ilse <NA> <NA>\nSPEAKER a 1 3.9 0.8 <NA> <NA> Bo <NA> <NA>\n")
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_args: (str(words), ""))
    window.actions_by_id["bring_transcript"].trigger()
    qtbot.waitUntil(lambda: not view.desk.jobs.busy, timeout=20_000)
    assert [view.desk.project.speakers[s.speaker_id].name for s in view.desk.project.segments] == ["Ilse", "Bo"]
    turns.unlink()
    asked = iter([(str(words), ""), ("", "")])
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_args: next(asked))
    window.actions_by_id["bring_transcript"].trigger()
    qtbot.waitUntil(lambda: not view.desk.jobs.busy, timeout=20_000)
    assert next(asked, None) is None, "without one beside it, it is asked for"


def test_captions_are_held_to_limits_of_ones_own(window: MainWindow) -> None:
    view = view_of(window)
    view.navigation.show_page("Hand-over")
    row, tag = handover_of(view).captions, view.desk.tag
    assert row.language.currentData() == tag
    usual = {name: box.value() for name, box in row.boxes.items()}
    assert (usual["line_letters"], usual["shortest_us"], usual["longest_us"]) == (42, 0.83, 7)
    assert not row.usual.isEnabled()
    for name, value in (("lines", 1), ("gap_us", 0.12)):
        row.boxes[name].setValue(value)
        row.boxes[name].editingFinished.emit()
    assert view.desk.project.caption_limits == {tag: CaptionLimits(lines=1, gap_us=120_000)}
    row.boxes["shortest_us"].editingFinished.emit()
    assert view.desk.project.caption_limits[tag].shortest_us is None, "what is shown rounded is not set by passing"
    view.desk.undo()
    assert view.desk.project.caption_limits == {tag: CaptionLimits(lines=1)}
    assert row.boxes["gap_us"].value() == usual["gap_us"]
    row.usual.click()
    assert view.desk.project.caption_limits == {}
    box, other = row.boxes["most_speed"], next(one for one in view.desk.project.versions if one != tag)
    box.setFocus()
    box.lineEdit().setText("15.0")
    view.desk.show_version(other)
    assert view.desk.project.caption_limits == {tag: CaptionLimits(most_speed=15)}, "it was begun for the one before"
    assert (row.language.currentData(), box.value()) == (other, 20)
    view.desk.undo()
    row.language.setCurrentIndex(row.language.count() - 1)
    row.language.activated.emit(row.language.currentIndex())
    row.boxes["line_letters"].setValue(37)
    row.boxes["line_letters"].editingFinished.emit()
    assert view.desk.project.caption_limits == {"en-GB": CaptionLimits(line_letters=37)}


def test_a_version_that_is_left_out_is_not_handed_over(window: MainWindow, qtbot: QtBot, tmp_path: Path) -> None:
    view = view_of(window)
    view.navigation.show_page("Hand-over")
    choice, tag = handover_of(view).versions, view.desk.tag
    assert choice.text().startswith("All")
    menu = choice.menu()
    assert menu is not None
    menu.aboutToShow.emit()
    action = next(one for one in menu.actions() if one.text() == own_name(tag))
    action.trigger()
    assert view.desk.project.versions[tag].left_out
    assert tag not in handed_over(view.desk.project)
    assert next_step(view.desk.project, tag) is not Step.HANDOVER
    for other in view.desk.project.versions:
        view.desk.apply("Leave out", partial(leave_out, tag=other, left_out=True))
    said = notices_of(view.desk)
    handover_of(view).wanted.emit(tmp_path / "out")
    qtbot.waitUntil(lambda: not view.desk.jobs.busy, timeout=5_000)
    assert any("No version is left to hand over" in words for words in said)
    assert not (tmp_path / "out").exists()
    for _ in view.desk.project.versions:
        view.desk.undo()
    view.desk.undo()
    assert not view.desk.project.versions[tag].left_out


def test_the_hand_over_page_says_what_is_not_good_yet(window: MainWindow, qtbot: QtBot) -> None:
    view = view_of(window)
    page = view.pages.of(HANDOVER, HandoverPage)
    view.pages.show_page(HANDOVER)
    segment = view.desk.project.segments[0].id
    view.desk.apply("x", lambda p: set_line_text(p, view.desk.tag, segment, "Zweimal ⟦daily⟧."))
    qtbot.waitUntil(lambda: "words that were not translated" in page.points.text(), timeout=5_000)
    assert page.points.isVisible()
    assert "heard as they were before" in page.points.text()
