"""In the window: other takes and wordings are asked for, with their cost; budgets; versions go; packages open."""

from __future__ import annotations

import shutil
from pathlib import Path

import pytest
from PyQt6.QtWidgets import QMessageBox
from pytestqt.qtbot import QtBot

from driving import engines_of, view_of
from zweistimme.engines.connections import Connection, Kind, connect
from zweistimme.engines.ledger import Ledger
from zweistimme.engines.offers import Limits, Price
from zweistimme.project.cast_edits import cast_voice
from zweistimme.project.line_edits import set_line_text
from zweistimme.project.segment_takes import takes_of
from zweistimme.server import Serving, Terms, running
from zweistimme.store.names import DATABASE
from zweistimme.store.packing import pack
from zweistimme.window.main_window import MainWindow
from zweistimme.window.package_dialogs import PackageProgress, PackingDialog, UnpackingDialog

Yes, No = QMessageBox.StandardButton.Yes, QMessageBox.StandardButton.No


def answering(monkeypatch: pytest.MonkeyPatch, *answers: QMessageBox.StandardButton) -> list[str]:
    """Answer the next questions; what was asked."""
    asked: list[str] = []
    left = list(answers)

    def question(_parent: object, _title: str, words: str, *_: object) -> QMessageBox.StandardButton:
        asked.append(words)
        return left.pop(0)

    monkeypatch.setattr(QMessageBox, "question", question)
    return asked


def test_other_takes_and_wordings(window: MainWindow, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch) -> None:
    view, asked = view_of(window), answering(monkeypatch, No, Yes, Yes)
    desk = view.desk
    terms = Terms(price=Price(0.001, 0.0, "EUR"), limits=Limits(at_once=2))
    with running(Serving(terms=terms)) as address:
        connect(Connection("quay", Kind.SERVICE, address))
        desk.book.refresh()
        qtbot.waitUntil(lambda: desk.book.info("quay") is not None, timeout=30_000)
        desk.apply("Cast", lambda p: cast_voice(p, desk.tag, "p1", "quay/edda"))
        segment = next(one for one in desk.project.segments if one.speaker_id == "p1")
        desk.select(segment.id)
        version = desk.version
        assert version is not None
        before = takes_of(version, (segment.id,))
        view.again.takes()
        assert not desk.jobs.busy
        assert takes_of(desk.version, (segment.id,)) == before  # type: ignore[arg-type]
        window.actions_by_id["another_take"].trigger()
        qtbot.waitUntil(lambda: not desk.jobs.busy, timeout=30_000)
        assert len(takes_of(desk.version, (segment.id,))) == len(before) + 1  # type: ignore[arg-type]
        assert all("costs about" in words and "EUR" in words for words in asked)
        view.navigation.show_page("Engines")
        engines_of(view).cards["quay"].click()
        assert f"{Ledger().spent('quay', 'ever', 'EUR'):,.2f} EUR today" in engines_of(view).spending.spent.text()  # type: ignore[arg-type]
        engines_of(view).spending.amount.setValue(0.01)
        engines_of(view).spending.keep.click()
        assert "may spend 0.01 EUR a month" in view.foot.words.text()
        view.again.takes()
        qtbot.waitUntil(lambda: not desk.jobs.busy, timeout=30_000)
        assert "budget of quay is reached" in view.foot.words.text()
        engines_of(view).spending.amount.setValue(0.0)
        engines_of(view).spending.keep.click()
        assert Ledger().budget("quay") is None
    desk.apply("Write", lambda p: set_line_text(p, desk.tag, segment.id, "Von Hand."))
    view.page.line.other_wordings.click()
    qtbot.waitUntil(lambda: not desk.jobs.busy, timeout=30_000)
    line = desk.line()
    assert line is not None
    assert line.text == "Von Hand."
    assert line.offers  # on offer beside what a hand has written


def test_a_version_goes_and_comes_back(window: MainWindow, monkeypatch: pytest.MonkeyPatch) -> None:
    view, asked = view_of(window), answering(monkeypatch, No, Yes)
    tag = view.desk.tag
    view.versions.ask_to_remove()
    assert tag in view.desk.project.versions
    view.versions.ask_to_remove()
    assert tag not in view.desk.project.versions
    assert view.desk.tag != tag
    assert "18 lines" in asked[0]
    view.desk.undo()
    assert len(view.desk.project.versions[tag].takes) >= 18


def test_a_packed_project_opens(window: MainWindow, demo_folder: Path, tmp_path: Path) -> None:
    window.close_project()
    package = tmp_path / "moved" / "tide.zweistimme"
    package.parent.mkdir()
    pack(demo_folder, package, media=False)
    window.open_path(package)
    assert view_of(window).desk.document.folder == tmp_path / "moved" / "tide"
    window.close_project()
    window.open_path(package)  # it is unpacked already
    window.close_project()
    shutil.rmtree(tmp_path / "moved" / "tide")
    package.write_bytes(package.read_bytes()[:2000])
    window.open_path(package)
    assert "no packed project, or a damaged one" in window.welcome.words.text()
    assert not (UnpackingDialog(package).folder / DATABASE).exists()


def test_a_project_is_packed_while_it_is_open(
    window: MainWindow, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    view = view_of(window)
    package = tmp_path / "sent" / "tide"
    package.parent.mkdir()

    def filled_in(dialog: PackingDialog) -> int:
        dialog.place.setText(str(package))
        dialog.media.setChecked(True)
        dialog._write()
        return dialog.result()

    monkeypatch.setattr(PackingDialog, "exec", filled_in)
    monkeypatch.setattr(PackageProgress, "exec", lambda progress: progress._job.wait(30.0))
    window.actions_by_id["pack"].trigger()
    written = package.with_suffix(".zweistimme")
    assert written.is_file()
    assert f"{written} has" in view.foot.words.text()
    known = view.desk.project
    window.close_project()
    window.open_path(written)
    assert view_of(window).desk.project.segments == known.segments
    window.close_project()
    monkeypatch.setattr(PackingDialog, "target", package.parent / "nowhere" / "a.zweistimme")
    window.open_project(written.with_suffix(""))
    window.actions_by_id["pack"].trigger()
    assert "nowhere" in view_of(window).foot.words.text()
