"""A version written by keyboard alone, looked over in Word, and taken back."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import pytest
from docx import Document as WordDocument
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QFileDialog, QLabel
from pytestqt.qtbot import QtBot

from driving import notices_of, opened, view_of
from zweistimme.project.edits import add_version
from zweistimme.project.line_edits import set_line_text
from zweistimme.project.model import Project
from zweistimme.project.wordings import LineState
from zweistimme.store.document import Document
from zweistimme.window.desk_view import DeskView
from zweistimme.window.main_window import MainWindow

CTRL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier


def key(window: MainWindow, which: Qt.Key, held: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier) -> None:
    QTest.keyClick(QApplication.focusWidget() or window, which, held)


def wordings(view: DeskView) -> list[str]:
    version = view.desk.version
    assert version is not None
    return [version.lines[s.id].text if s.id in version.lines else "" for s in view.desk.project.segments]


@pytest.fixture
def fresh(demo_folder: Path, qtbot: QtBot) -> MainWindow:
    """The window with a version nobody has worded yet."""

    def bare(project: Project) -> Project:
        return add_version(replace(project, versions={}), "de-AT")

    with Document.open(demo_folder) as document:
        document.apply("Begin", bare)
    return opened(qtbot, demo_folder)


def test_written_by_keyboard_reviewed_in_word_taken_back(
    fresh: MainWindow, qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    window, view = fresh, view_of(fresh)
    desk, count = view.desk, len(view.desk.project.segments)
    view.page.take_keyboard()
    for number in range(1, count + 1):
        key(window, Qt.Key.Key_N, SHIFT)  # the next that nobody has settled
        key(window, Qt.Key.Key_Return)
        QTest.keyClicks(QApplication.focusWidget(), f"Zeile Nummer {number}.")
        view.page.take_keyboard()
    assert sorted(wordings(view)) == sorted(f"Zeile Nummer {number}." for number in range(1, count + 1))
    file = tmp_path / "looked-over.docx"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(file), "Word (*.docx)"))
    said = notices_of(desk)
    key(window, Qt.Key.Key_E, CTRL | SHIFT)
    assert "looked-over.docx is written" in said[-1]

    document = WordDocument(str(file))
    rows = document.tables[0].rows
    for number in (2, 4, 6, 8, 10):
        rows[number].cells[4].text = f"Durchgesehen {number}."
    rows[4].cells[6].text = "Better so."
    document.save(str(file))
    clash = desk.project.segments[5].id
    desk.apply("Write", lambda p: set_line_text(p, "de-AT", clash, "Anders hier."))

    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: (str(file), ""))
    key(window, Qt.Key.Key_T, CTRL | SHIFT)
    panel = view.page.taking_back
    assert view.page.drawer.shown == "Take back a version"
    assert [change.number for change in panel.changes] == [2, 4, 6, 8, 10]
    assert panel.list.table.item(2, 1).text() == "changed here, too"  # type: ignore[union-attr]
    marked = panel.list.table.cellWidget(0, 2)
    assert isinstance(marked, QLabel)
    assert "<s>Zeile Nummer</s>" in marked.text() or "<s>" in marked.text()
    assert [change.number for change in panel.wanted()] == [2, 4, 8, 10]
    panel.list.table.item(4, 0).setCheckState(Qt.CheckState.Unchecked)  # type: ignore[union-attr]
    panel.take.click()
    assert [wordings(view)[number - 1] for number in (2, 4, 8)] == [f"Durchgesehen {number}." for number in (2, 4, 8)]
    assert wordings(view)[5] == "Anders hier."
    assert wordings(view)[9].startswith("Zeile Nummer")
    fourth = desk.line(desk.project.segments[3].id)
    assert fourth is not None
    assert (fourth.state, [note.text for note in fourth.notes]) == (LineState.REVIEWED, ["Better so."])
    assert [change.number for change in panel.changes] == [6, 10], "what is left is still there"
    desk.undo()
    assert wordings(view)[1].startswith("Zeile Nummer")
    window.close_project()


def test_what_changed_while_one_looked_is_not_taken(window: MainWindow, tmp_path: Path) -> None:
    from zweistimme.stages.translate.exchange import written_exchange

    view = view_of(window)
    desk, panel = view.desk, view.page.taking_back
    file = tmp_path / "back.csv"
    data = written_exchange(desk.project, desk.tag, ".csv").decode("utf-8-sig")
    file.write_text(data.replace("Ich hab's gehört.", "Ich habe es gehört."), encoding="utf-8", newline="")
    assert panel.show_file(file)
    (change,) = panel.changes
    desk.apply("Write", lambda p: set_line_text(p, desk.tag, change.segment_id, "Ich hab es auch gehört."))
    said = notices_of(desk)
    panel.take.click()
    assert desk.project.versions[desk.tag].lines[change.segment_id].text == "Ich hab es auch gehört."
    assert said[-1] == "1 line has changed meanwhile; look again."
    assert panel.changes[0].clash
    (tmp_path / "no.xlf").write_text("<x/>", encoding="utf-8")
    assert not panel.show_file(tmp_path / "no.xlf")
    assert "XLIFF with <xliff>" in said[-1]
