"""Bringing in as a person does: what a file holds, what is proposed, and changing it later."""

from __future__ import annotations

import time
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
import soundfile
from PyQt6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from driving import view_of
from helpers import speechlike, work_on, write_sound
from media.made_media import Made
from moving_pictures import CUTS_US, film, shots
from zweistimme.media.probe import probe
from zweistimme.project.edits import add_version
from zweistimme.project.errors import Cancelled
from zweistimme.project.facts import cuts_of
from zweistimme.project.model import Project, Style
from zweistimme.project.picks import pick_text
from zweistimme.project.programme import SoundPick, SoundTrack
from zweistimme.project.times import RATE
from zweistimme.stages.bring_in import bring_in
from zweistimme.stages.intake import Intake, propose
from zweistimme.stages.work import Work
from zweistimme.store.document import Document
from zweistimme.window.app import make_app
from zweistimme.window.desk_view import DeskView
from zweistimme.window.intake import IntakeForm, ProgrammeDialog
from zweistimme.window.intake.files import FIND_CUTS
from zweistimme.window.main_window import MainWindow
from zweistimme.window.new_project import NewProject
from zweistimme.window.steps import LISTEN


@pytest.fixture
def surround(tmp_path: Path) -> Path:
    """Six channels: music-like tones all round, speech in the centre."""
    times = np.arange(12 * RATE) / RATE
    sound = np.zeros((len(times), 6), np.float32)
    for channel, tone in enumerate((220, 277, 0, 55, 330, 370)):
        sound[:, channel] = 0.2 * np.sin(2 * np.pi * tone * times) * (1 + 0.3 * np.sin(2 * np.pi * 0.4 * times))
    sound[:, 2] = speechlike(12.0)
    soundfile.write(tmp_path / "surround.wav", sound, RATE, "PCM_24")
    return tmp_path / "surround.wav"


def test_speech_is_found_in_the_centre_of_five_channels(surround: Path) -> None:
    proposal = propose(surround)
    assert pick_text(proposal.intake.sound) == "1:FC"
    assert proposal.info.sounds[0].channels == ("FL", "FR", "FC", "LFE", "BL", "BR")


def test_the_form_shows_the_proposal_and_keeps_a_choice(qtbot: QtBot, surround: Path) -> None:
    make_app()
    form = IntakeForm(surround)
    qtbot.addWidget(form)
    form.show()
    assert form.table is not None
    assert "1 sound track" in form.facts.text()
    qtbot.waitUntil(lambda: form.intake().sound == SoundPick((1,), "FC"), timeout=20_000)
    form.table.choose(SoundPick((1,), "FC"), SoundPick((1,), "-FC"))
    assert form.intake() == Intake(surround, SoundPick((1,), "FC"), surround, SoundPick((1,), "-FC"))
    form.table.choose(SoundPick(), SoundPick())
    assert "cannot be the dialogue and the bed" in form.problem()
    form.close_parts()


def test_a_track_is_chosen_and_another_later(qtbot: QtBot, tmp_path: Path) -> None:
    make_app()
    source = Made(".mkv", tracks=2, sound="flac", track_metadata=({"language": "fre"}, {"language": "eng"})).write(
        tmp_path
    )
    window = MainWindow()
    qtbot.addWidget(window)
    window.show()
    intake = Intake(source, propose(source, "en-GB").intake.sound)
    assert intake.sound == SoundPick((2,))
    window.make_project(NewProject(tmp_path / "p", "en-GB", ("fr-FR",), Style.PHRASE_SYNC, intake))
    view = view_of(window)
    # the programme stands there at once: its length is known before its sound is read
    qtbot.waitUntil(lambda: view.desk.project.programme is not None, timeout=5_000)
    qtbot.waitUntil(lambda: not view.desk.jobs.busy and not view.desk.jobs.running(LISTEN), timeout=30_000)
    programme = view.desk.project.programme
    assert programme is not None
    assert programme.sound.pick == SoundPick((2,))
    assert len(programme.sound.checksum) == 64
    peaks = view.page.peaks.programme(programme.sound)
    qtbot.waitUntil(lambda: view.page.peaks.programme(programme.sound) is not None, timeout=5_000)
    peaks = view.page.peaks.programme(programme.sound)
    assert peaks is not None
    assert peaks.max() > 50
    dialog = ProgrammeDialog(programme, "en-GB", window)
    assert dialog.form.intake().sound == SoundPick((2,))
    assert dialog.form.table is not None
    dialog.form.table.choose(SoundPick((1,)), None)
    dialog._check()
    assert dialog.answer is not None
    view.programme.bring_in(dialog.answer)
    qtbot.waitUntil(lambda: not view.desk.jobs.busy and not view.desk.jobs.running(LISTEN), timeout=30_000)
    assert view.desk.project.programme is not None
    assert view.desk.project.programme.sound.pick == SoundPick((1,))
    view.desk.undo()
    assert _sound(view) == programme.sound
    window.close_project()


def test_another_file_that_cannot_be_read_is_said(qtbot: QtBot, tmp_path: Path) -> None:
    make_app()
    with Document.create(tmp_path / "p", add_version(Project("x", "en-GB"), "de-DE")) as document:
        bring_in(work_on(document), Intake(write_sound(tmp_path / "a.wav", 2.0)))
        programme = document.project.programme
    assert programme is not None
    dialog = ProgrammeDialog(programme, "en-GB")
    qtbot.addWidget(dialog)
    dialog.use_file(tmp_path / "nowhere.wav")
    assert "There is no file" in dialog.words.text()
    dialog.use_file(write_sound(tmp_path / "b.wav", 2.0))
    assert dialog.words.text() == ""
    assert dialog.form.intake().media == tmp_path / "b.wav"
    dialog.form.close_parts()
    QApplication.processEvents()


def test_times_are_shown_as_timecode(qtbot: QtBot, tmp_path: Path) -> None:
    make_app()
    source = Made(".mov", sound="pcm_s16le", metadata={"timecode": "10:00:00:00"}).write(tmp_path)
    assert probe(source).timecode == "10:00:00:00"
    window = MainWindow()
    qtbot.addWidget(window)
    window.make_project(NewProject(tmp_path / "p", "en-GB", ("fr-FR",), Style.PHRASE_SYNC, Intake(source)))
    view = view_of(window)
    qtbot.waitUntil(lambda: not view.desk.jobs.busy, timeout=30_000)
    view.flip_timecode()
    view.transport._show_time(1_480_000)
    assert view.transport.time.text() == "10:00:01:12"
    view.flip_timecode()
    assert view.transport.time.text() == "0:01.480"
    window.close_project()


def test_a_programme_read_by_half_is_read_on_when_it_is_opened(qtbot: QtBot, tmp_path: Path) -> None:
    make_app()
    media = write_sound(tmp_path / "a.wav", 3.0)

    def stop(share: float) -> None:
        if share > 0.2:
            raise Cancelled

    with (
        Document.create(tmp_path / "p", add_version(Project("x", "en-GB"), "de-DE")) as document,
        pytest.raises(Cancelled),
    ):
        bring_in(replace(work_on(document), report=stop), Intake(media))
    window = MainWindow()
    qtbot.addWidget(window)
    window.open_project(tmp_path / "p")
    view = view_of(window)
    qtbot.waitUntil(lambda: len(_sound(view).checksum) == 64, timeout=20_000)
    qtbot.waitUntil(lambda: not view.desk.jobs.busy and not view.desk.jobs.running(LISTEN), timeout=20_000)
    window.close_project()


def test_cuts_of_the_picture_are_found_beside_whatever_else_is_done(qtbot: QtBot, tmp_path: Path) -> None:
    make_app()
    media = film(tmp_path / "film.mkv", shots(), sound=True)
    window = MainWindow()
    qtbot.addWidget(window)
    window.make_project(NewProject(tmp_path / "p", "en-GB", ("fr-FR",), Style.PHRASE_SYNC, Intake(media)))
    view = view_of(window)
    qtbot.waitUntil(lambda: len(cuts_of(view.desk.project)) == len(CUTS_US), timeout=30_000)
    view.desk.undo()
    assert view.desk.project.programme is None, "what nobody did takes no step of taking back"
    view.desk.redo()
    window.close_project()
    with Document.open(tmp_path / "p") as document:
        if document.project.programme is not None:
            document.apply("Unknown", lambda p: replace(p, programme=replace(p.programme, cuts_us=None)))
    window.open_project(tmp_path / "p")
    view = view_of(window)
    qtbot.waitUntil(lambda: len(cuts_of(view.desk.project)) == len(CUTS_US), timeout=30_000)
    window.close_project()


def test_a_search_for_cuts_that_somebody_stopped_is_not_begun_again(
    qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    make_app()
    begun: list[Work] = []

    def waits(work: Work) -> None:
        begun.append(work)
        while True:
            work.report(0.1)
            time.sleep(0.01)

    monkeypatch.setattr("zweistimme.stages.cuts.find_cuts", waits)
    media = film(tmp_path / "film.mkv", shots((30, 30)), sound=True)
    window = MainWindow()
    qtbot.addWidget(window)
    window.make_project(NewProject(tmp_path / "p", "en-GB", ("fr-FR",), Style.PHRASE_SYNC, Intake(media)))
    jobs = view_of(window).desk.jobs
    qtbot.waitUntil(lambda: jobs.running(FIND_CUTS) and not jobs.busy, timeout=30_000)
    jobs.stop(next(run for run in jobs.runs if run.name == FIND_CUTS))
    qtbot.waitUntil(lambda: not jobs.running(FIND_CUTS), timeout=5_000)
    ended: list[str] = []
    jobs.ended.connect(lambda run: ended.append(run.name))
    jobs.read("Look something up", lambda _work: None)
    qtbot.waitUntil(lambda: "Look something up" in ended, timeout=5_000)
    assert len(begun) == 1
    window.close_project()


def _sound(view: DeskView) -> SoundTrack:
    programme = view.desk.project.programme
    assert programme is not None
    return programme.sound
