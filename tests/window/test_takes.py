"""What one thinks of takes, which are used, files dropped on a line, and takes before and after."""

from __future__ import annotations

from pathlib import Path

import pytest
from PyQt6.QtCore import QMimeData, QPoint, QPointF, Qt, QUrl
from PyQt6.QtGui import QDragEnterEvent, QDropEvent, QKeySequence
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QInputDialog, QMessageBox, QWidget
from pytestqt.qtbot import QtBot

from driving import canvas_of, middle_of, notices_of, view_of
from helpers import write_sound
from zweistimme.project.facts import chosen_take
from zweistimme.project.model import Take, TakeKind
from zweistimme.project.segment_takes import takes_of
from zweistimme.window.desk_view import DeskView
from zweistimme.window.main_window import MainWindow


@pytest.fixture
def view(window: MainWindow) -> DeskView:
    return view_of(window)


def done(view: DeskView, qtbot: QtBot) -> None:
    qtbot.waitUntil(lambda: not view.desk.jobs.runs, timeout=30_000)


def taken(view: DeskView, segment_id: str) -> Take:
    version, line = view.desk.version, view.desk.line(segment_id)
    assert version is not None
    assert line is not None
    take = chosen_take(version, line)
    assert take is not None
    return take


def another(view: DeskView, qtbot: QtBot, *ids: str) -> None:
    view.desk.select(ids[0])
    view.desk.choose(ids)
    view.again.takes()
    done(view, qtbot)


def test_takes_are_scored_by_key_and_the_best_are_used(view: DeskView, window: MainWindow, qtbot: QtBot) -> None:
    desk, said = view.desk, notices_of(view.desk)
    first = taken(view, "s0002")
    desk.select("s0002")
    QTest.keySequence(window, QKeySequence("Ctrl+F8"))
    assert taken(view, "s0002").score == 4
    another(view, qtbot, "s0002", "s0003")
    later = taken(view, "s0002")
    assert later.id != first.id
    QTest.keySequence(window, QKeySequence("Ctrl+F6"))
    assert taken(view, "s0002").score == 2
    assert [button.text()[-3:] for button in view.page.line.takes.buttons] == ["4/5", "2/5"]
    desk.choose(["s0002", "s0003"])
    QTest.keySequence(window, QKeySequence("Shift+B"))
    assert taken(view, "s0002").id == first.id
    QTest.keySequence(window, QKeySequence("Shift+B"))
    assert "No take of what is chosen is scored better" in said[-1]
    QTest.keySequence(window, QKeySequence("Ctrl+F8"))
    assert taken(view, "s0002").score == 0, "the same once more takes it back"


def test_a_take_has_a_note(view: DeskView, monkeypatch: pytest.MonkeyPatch) -> None:
    view.desk.select("s0002")
    view.page.line.takes.refresh()
    button = view.page.line.takes.buttons[0]
    actions = {action.text(): action for action in button.actions()}
    monkeypatch.setattr(QInputDialog, "getText", lambda *_args, **_kwargs: ("nearly", True))
    actions["Note about the take …"].trigger()
    assert taken(view, "s0002").note == "nearly"
    actions = {action.text(): action for action in view.page.line.takes.buttons[0].actions()}
    actions["Score 3 of 5"].trigger()
    assert taken(view, "s0002").score == 3


def test_all_before_are_heard_and_used_again(view: DeskView, qtbot: QtBot) -> None:
    before = {key: taken(view, key).id for key in ("s0002", "s0003")}
    another(view, qtbot, "s0002", "s0003")
    after = {key: taken(view, key).id for key in before}
    panel = view.page.before_after
    view.navigation.open_panel("Takes before and after")
    assert panel.table.rowCount() == 2
    heard: list[str] = []
    panel.heard.disconnect()
    panel.heard.connect(heard.append)
    panel.before.click()
    qtbot.waitUntil(lambda: heard == [*before.values()], timeout=15_000)
    panel.table.cellActivated.emit(1, 2)
    assert heard[-1] == after["s0003"]
    panel.table.setCurrentCell(0, 0)
    panel.back.click()
    assert (taken(view, "s0002").id, taken(view, "s0003").id) == (before["s0002"], after["s0003"])
    panel.table.clearSelection()
    panel.back.click()
    assert taken(view, "s0003").id == before["s0003"]
    view.desk.choose(["s0005"])
    assert panel.table.rowCount() == 0
    assert not panel.back.isEnabled()


def drop(canvas: QWidget, at: QPoint, files: list[Path]) -> bool:
    """Drop files at a place; whether they were taken."""
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(file)) for file in files])
    buttons, keys = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
    enter = QDragEnterEvent(at, Qt.DropAction.CopyAction, data, buttons, keys)
    QApplication.sendEvent(canvas, enter)
    event = QDropEvent(QPointF(at), Qt.DropAction.CopyAction, data, buttons, keys)
    QApplication.sendEvent(canvas, event)
    return event.isAccepted()


def test_a_file_dropped_on_a_line_is_a_take_of_it(view: DeskView, qtbot: QtBot, tmp_path: Path) -> None:
    file = write_sound(tmp_path / "mine.wav", 2.0)
    view.desk.select("s0003")
    at = middle_of(view, "s0003", "dub")
    assert drop(canvas_of(view), at, [file])
    done(view, qtbot)
    take = taken(view, "s0003")
    assert (take.kind, take.label) == (TakeKind.IMPORTED, "mine")
    assert not drop(canvas_of(view), at, [tmp_path / "text.txt"])
    view.page.flip_scale()
    lines = view.page.lines
    canvas = lines.viewport()
    assert canvas is not None
    row = view.desk.place("s0002")
    assert drop(canvas, lines.visualRect(lines.lines.index(row, 4)).center(), [file])
    done(view, qtbot)
    assert taken(view, "s0002").label == "mine"


def test_a_spoilt_file_is_told_and_changes_nothing(view: DeskView, qtbot: QtBot, tmp_path: Path) -> None:
    spoilt = tmp_path / "spoilt.wav"
    spoilt.write_bytes(b"RIFF")
    before = taken(view, "s0003")
    view.files.take_clips("s0003", [spoilt])
    done(view, qtbot)
    assert taken(view, "s0003") == before
    assert "spoilt.wav" in view.foot.words.text()


def test_clips_without_numbers_are_told_by_what_is_heard(
    view: DeskView, qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    from zweistimme.media.encode import write_wav

    folder = tmp_path / "clips"
    folder.mkdir()
    version = view.desk.version
    assert version is not None
    for name, key in (("one", "s0001"), ("two", "s0002")):
        samples = view.desk.document.clips.get(taken(view, key).clip)
        write_wav(folder / f"{name}.wav", [samples[None, :]], 1, len(samples))
    monkeypatch.setattr(QMessageBox, "question", lambda *_: QMessageBox.StandardButton.Yes)
    view.files.bring_in_takes(folder)
    done(view, qtbot)
    assert taken(view, "s0001").label == "one"
    assert taken(view, "s0002").label == "two"
    assert len(takes_of(view.desk.version, ("s0003",))) == 1  # type: ignore[arg-type]


def test_takes_are_gone_through_by_key(view: DeskView, window: MainWindow, qtbot: QtBot) -> None:
    first = taken(view, "s0002").id
    another(view, qtbot, "s0002")
    second = taken(view, "s0002").id
    heard: list[str] = []
    view.page.line.takes.heard.disconnect()
    view.page.line.takes.heard.connect(heard.append)
    for wanted in (first, second, first):
        QTest.keySequence(window, QKeySequence("Shift+T"))
        assert taken(view, "s0002").id == wanted
    assert heard == [first, second, first]
