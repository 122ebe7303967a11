"""A voice from samples at the desk: found, recorded, from files; made with consent, shown, removed."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QFileDialog, QMessageBox
from pytestqt.qtbot import QtBot

from driving import cast_of, view_of
from helpers import speechlike, write_sound
from zweistimme.formats.ssml import Span
from zweistimme.stages.samples import consents
from zweistimme.standin.voice import speak_spans, voice_by_id
from zweistimme.window.casting.choices import voice_choices
from zweistimme.window.desk_view import DeskView
from zweistimme.window.main_window import MainWindow
from zweistimme.window.sampling import SamplingPanel


@pytest.fixture
def view(window: MainWindow) -> DeskView:
    made = view_of(window)
    made.show_sampling()
    return made


@pytest.fixture
def panel(view: DeskView) -> SamplingPanel:
    return cast_of(view).sampling


def done(view: DeskView, qtbot: QtBot) -> None:
    qtbot.waitUntil(lambda: not view.desk.jobs.runs, timeout=60_000)


def fill_in(panel: SamplingPanel) -> None:
    for field, words in (
        (panel.form.person, "Ida Vess"),
        (panel.form.words, "Yes."),
        (panel.form.purpose, "this film"),
    ):
        field.setFocus()
        QTest.keyClicks(field, words)


def test_a_voice_is_made_of_clean_stretches_and_removed(
    panel: SamplingPanel, view: DeskView, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    asked: list[str] = []

    def yes(_parent: object, _title: str, words: str, _buttons: object) -> QMessageBox.StandardButton:
        asked.append(words)
        return QMessageBox.StandardButton.Yes

    monkeypatch.setattr(QMessageBox, "question", yes)
    assert panel.person.currentText() == "Mira"
    panel.stretches.click()
    done(view, qtbot)
    assert panel.table.table.rowCount() >= 4
    assert not panel.make.isEnabled(), "nobody has allowed it yet"
    assert "who allowed it" in panel.about.text()
    panel.stretches.click()
    done(view, qtbot)
    assert len({one.source for one in panel.table.samples}) == len(panel.table.samples), "none is there twice"
    fill_in(panel)
    panel.make.click()
    done(view, qtbot)
    qtbot.waitUntil(lambda: bool(asked), timeout=5_000)
    assert asked == ["The voice made-mira is made. Give it to Mira?"]
    assert view.desk.version.cast["p1"] == "made-mira"  # type: ignore[union-attr]
    words = dict(voice_choices(view.desk, view.desk.tag))["made-mira"]
    assert "of Ida Vess, who allowed it on" in words
    assert words.endswith("for: this film")
    assert panel.voices.currentText() == "Mira"
    panel.remove.click()
    done(view, qtbot)
    assert consents() == {}
    assert not panel.remove.isEnabled()
    assert "made-mira" not in {ref for ref, _ in view.desk.book.voices()}


def test_samples_come_from_files_and_are_looked_at(
    panel: SamplingPanel, view: DeskView, qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    file = write_sound(tmp_path / "ida.wav", 3.0)
    monkeypatch.setattr(QFileDialog, "getOpenFileNames", lambda *_: ([str(file)], ""))
    panel.files.click()
    done(view, qtbot)
    (one,) = panel.table.samples
    assert one.source == "ida.wav"
    assert "make a guess of a voice" in panel.about.text()
    item = panel.table.table.item(0, 4)
    assert item is not None
    item.setText("The boats come in.")
    assert panel.table.samples[0].text == "The boats come in."
    first = panel.table.table.item(0, 0)
    assert first is not None
    first.setCheckState(Qt.CheckState.Unchecked)
    assert panel.table.wanted() == []
    assert "under the voice" in panel.about.text()
    heard: list[np.ndarray] = []
    panel.heard.connect(heard.append)
    panel.table.table.cellActivated.emit(0, 0)
    assert len(heard) == 1
    panel.listen.setEnabled(True)
    panel.listen.click()
    done(view, qtbot)


def test_what_is_recorded_is_a_sample(panel: SamplingPanel, view: DeskView) -> None:
    panel.record.click()
    assert view.page.drawer.shown == "Record"
    record = view.page.record
    assert record.use.currentText() == "a sample of a voice"
    record.recording = speechlike(2.0)
    record._show()
    record.keep.click()
    assert view.pages.current == "Cast"
    assert [one.source for one in panel.table.samples] == ["recorded"]
    assert record.recording is None


def test_a_day_that_is_none_allows_nothing(panel: SamplingPanel) -> None:
    voice = voice_by_id("gunda")
    assert voice is not None
    panel.take_recording(speak_spans([Span("The boats come in at six.")], "en-GB", voice).samples)
    fill_in(panel)
    assert panel.make.isEnabled()
    panel.form.given_on.setText("soon")
    assert not panel.make.isEnabled()


def test_the_map_comes_back(view: DeskView) -> None:
    page = cast_of(view)
    assert page.under.currentWidget() is page.sampling
    page.acts.sample.click()
    assert page.under.currentWidget() is page.map
