"""The job board: one run that writes, several that read, a log with the project, and word of it elsewhere."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
import threading
import time
from collections.abc import Iterator
from dataclasses import replace
from functools import partial
from pathlib import Path

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtGui import QKeySequence
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication
from pytestqt.exceptions import capture_exceptions
from pytestqt.qtbot import QtBot

from driving import Held, notices_of, view_of
from zweistimme.engines.offers import Cost, Role
from zweistimme.project.errors import MediaError
from zweistimme.project.findings import Finding
from zweistimme.project.speaker_edits import rename_speaker
from zweistimme.stages.work import Work
from zweistimme.store.document import NOT_UNDONE, Document
from zweistimme.store.names import RUNS
from zweistimme.store.run_log import begun, read_runs
from zweistimme.window import desktop_notice
from zweistimme.window.job_board import Run, _Given
from zweistimme.window.main_window import MainWindow


@pytest.fixture
def held() -> Iterator[Held]:
    made = Held()
    yield made
    made.go.set()


def test_what_reads_goes_on_beside_what_writes(window: MainWindow, qtbot: QtBot, held: Held) -> None:
    jobs = view_of(window).desk.jobs
    ended: list[str] = []
    jobs.ended.connect(lambda run: ended.append(run.name))
    assert jobs.start("Voice de-DE", held)
    jobs.read("Listen to a voice", lambda work: work.say(Finding("late", {"by_s": 0.4})))
    jobs.read("Look something up", lambda _work: None)
    qtbot.waitUntil(lambda: len(ended) == 2, timeout=5_000)
    assert sorted(ended) == ["Listen to a voice", "Look something up"]
    assert jobs.busy
    held.go.set()
    qtbot.waitUntil(lambda: not jobs.runs, timeout=5_000)


def test_the_same_again_takes_the_place_of_what_still_reads(window: MainWindow, qtbot: QtBot, held: Held) -> None:
    jobs = view_of(window).desk.jobs
    heard: list[str] = []
    jobs.read("Listen to a voice", held)
    assert held.began.wait(5.0)
    jobs.read("Listen to a voice", lambda _work: heard.append("the second"))
    qtbot.waitUntil(lambda: not jobs.runs, timeout=5_000)
    assert heard == ["the second"]
    assert not held.go.is_set(), "the first was stopped, not waited for"


def test_what_reads_may_keep_facts_but_not_change_the_project(window: MainWindow) -> None:
    desk = view_of(window).desk
    before = desk.project
    run = Run("Look", False, begun("Look"))
    edit = partial(rename_speaker, speaker_id=next(iter(before.speakers)), name="Somebody")
    with pytest.raises(RuntimeError, match="only reads"):
        desk.jobs._take_over(run, _Given("Rename", edit))
    assert desk.project is before
    desk.jobs._take_over(run, _Given(NOT_UNDONE, edit))
    assert desk.project is not before


def test_ten_thousand_reports_are_looked_at_ten_times_a_second(window: MainWindow, qtbot: QtBot) -> None:
    jobs = view_of(window).desk.jobs
    looks: list[float] = []
    jobs.changed.connect(lambda: looks.append(time.monotonic()))

    def talkative(work: Work) -> None:
        for step in range(10_000):
            work.report(step / 10_000)
            time.sleep(0.00005)

    jobs.start("Talk", talkative)
    began = time.monotonic()
    qtbot.waitUntil(lambda: not jobs.busy, timeout=20_000)
    assert len(looks) <= 10 * (time.monotonic() - began) + 5


def test_every_run_is_kept_with_what_it_said_and_cost(window: MainWindow, qtbot: QtBot) -> None:
    desk = view_of(window).desk
    folder = desk.document.folder

    def stage(work: Work) -> None:
        with work.ledger.question("quay", Role.SPEAK, Cost(amount=0.5, currency="EUR")) as charge:
            charge(Cost(amount=0.5, currency="EUR"))
        work.say(Finding("late", {"by_s": 0.4}))

    def failing(_work: Work) -> None:
        raise MediaError("There is no file {path}.", path="a.wav")

    for name, run in (("Voice de-DE", stage), ("Bring in", failing)):
        desk.jobs.start(name, run)
        qtbot.waitUntil(lambda: not desk.jobs.busy, timeout=5_000)
    last, first = read_runs(folder)[:2]
    assert (first.name, first.state, first.spent) == ("Voice de-DE", "done", {"EUR": 0.5})
    assert [finding.code for finding in first.said] == ["late"]
    assert last.state == "failed"
    assert last.why == Finding("There is no file {path}.", {"path": "a.wav"})
    assert last.took_s is not None
    assert 0.0 <= last.took_s < 5.0


def test_a_run_that_was_killed_shows_as_cut_off(window: MainWindow, qtbot: QtBot, held: Held) -> None:
    view = view_of(window)
    folder = view.desk.document.folder
    view.desk.jobs.start("Voice de-DE", held)
    left = (folder / RUNS).read_bytes()  # all there is when the process ends here
    held.go.set()
    qtbot.waitUntil(lambda: not view.desk.jobs.busy, timeout=5_000)
    (folder / RUNS).write_bytes(left)
    QTest.keySequence(window, QKeySequence("Ctrl+J"))
    model = view.jobs.model
    assert [model.data(model.index(0, column)) for column in (0, 1, 3)] == ["Voice de-DE", "cut off", ""]


def test_the_board_shows_what_runs_and_stops_one_of_it(window: MainWindow, qtbot: QtBot, held: Held) -> None:
    view = view_of(window)
    height = view.pages.height()
    QTest.keySequence(window, QKeySequence("Ctrl+J"))
    assert view.jobs.isVisible()
    qtbot.waitUntil(lambda: view.pages.height() < height, timeout=2_000)
    view.desk.jobs.start("Voice de-DE", held)
    listening = Held()
    view.desk.jobs.read("Listen to a voice", listening)
    model = view.jobs.model
    assert [model.data(model.index(row, 0)) for row in (0, 1)] == ["Listen to a voice", "Voice de-DE"]
    qtbot.waitUntil(lambda: model.data(model.index(1, 1)) == "25%", timeout=2_000)
    assert view.foot.board.text() == "jobs (+1)"
    view.jobs.table.selectRow(0)
    QTest.mouseClick(view.jobs.stop, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: not view.desk.jobs.running("Listen to a voice"), timeout=5_000)
    assert view.desk.jobs.busy, "only that one"
    held.go.set()
    qtbot.waitUntil(lambda: model.data(model.index(0, 1)) == "done", timeout=5_000)
    QTest.keySequence(window, QKeySequence("Ctrl+J"))
    assert not view.jobs.isVisible()


def test_what_a_run_said_is_read_in_the_board(window: MainWindow, qtbot: QtBot) -> None:
    view = view_of(window)
    view.desk.jobs.start("Voice", lambda work: work.say(Finding("late", {"by_s": 0.4})))
    qtbot.waitUntil(lambda: not view.desk.jobs.busy, timeout=5_000)
    QTest.keySequence(window, QKeySequence("Ctrl+J"))
    assert "0.4" in view.jobs.said.toPlainText()


def test_errors_wait_until_each_is_put_away(window: MainWindow) -> None:
    view = view_of(window)
    foot = view.foot
    for text in ("The first.", "The second."):
        view.desk.notice("error", text)
    view.desk.notice("note", "Something else.")
    assert (foot.words.text(), foot.beside.text()) == ("The second.", "Something else.")
    assert foot._away.text() == "put away (1 more)"
    foot.put_away()
    assert foot.words.text() == "The first."
    foot.put_away()
    assert foot.words.text() == "Something else."
    assert not foot._away.isVisible()


def test_the_foot_covers_nothing_and_keeps_its_height(window: MainWindow, qtbot: QtBot) -> None:
    view = view_of(window)
    heights = set()
    for words in ("", "Short.", "A sentence that goes on and on. " * 20, "話" * 400):
        view.desk.notice("error", words)
        qtbot.wait(20)
        heights.add(view.foot.height())
        assert not view.foot.geometry().intersects(view.pages.geometry())
    assert len(heights) == 1
    assert view.foot.words.toolTip() == "話" * 400, "what does not fit is in the tooltip"
    assert len(view.foot.words.shown_lines()) == 2


@pytest.mark.parametrize(("took_s", "in_front", "told"), [(0.0, False, True), (0.0, True, False), (60.0, False, False)])
def test_who_is_elsewhere_is_told_of_a_long_job(
    window: MainWindow, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch, took_s: float, in_front: bool, told: bool
) -> None:
    said: list[str] = []
    monkeypatch.setattr(desktop_notice, "LONG_S", took_s)
    monkeypatch.setattr(window, "isActiveWindow", lambda: in_front)
    monkeypatch.setattr(desktop_notice, "tell_desktop", lambda _window, title, _text: said.append(title))
    jobs = view_of(window).desk.jobs
    jobs.start("Voice de-DE", lambda _work: time.sleep(0.02))
    qtbot.waitUntil(lambda: not jobs.busy, timeout=5_000)
    assert said == (["Voice de-DE is done"] if told else [])


DESKTOP = """
import sys
from PyQt6.QtCore import QCoreApplication, QObject, QTimer, pyqtClassInfo, pyqtSlot
from PyQt6.QtDBus import QDBusConnection

@pyqtClassInfo("D-Bus Interface", "org.freedesktop.Notifications")
class Desktop(QObject):
    @pyqtSlot(str, "uint", str, str, str, "QStringList", "QVariantMap", int, result="uint")
    def Notify(self, app, replaces, icon, title, text, buttons, hints, timeout):
        print(app, "|", title, "|", text, flush=True)
        QTimer.singleShot(0, QCoreApplication.quit)
        return 1

app = QCoreApplication([])
bus, desktop = QDBusConnection.sessionBus(), Desktop()
assert bus.registerObject("/org/freedesktop/Notifications", desktop, QDBusConnection.RegisterOption.ExportAllSlots)
assert bus.registerService("org.freedesktop.Notifications")
print("ready", flush=True)
QTimer.singleShot(20_000, app.quit)
app.exec()
"""
TEACHER = """
from PyQt6.QtCore import QTimer
from PyQt6.QtWidgets import QApplication, QWidget
from zweistimme.window.desktop_notice import tell_desktop
app, window = QApplication([]), None
window = QWidget()
tell_desktop(window, "Voice de-DE is done", "The harbour")
QTimer.singleShot(500, app.quit)
app.exec()
"""


def test_the_desktop_is_told_over_a_real_bus(tmp_path: Path) -> None:
    address = f"unix:path={tmp_path}/bus"
    bus = subprocess.Popen(["dbus-daemon", "--session", "--nofork", f"--address={address}"])
    env = {**os.environ, "DBUS_SESSION_BUS_ADDRESS": address, "QT_QPA_PLATFORM": "offscreen"}
    try:
        until = time.monotonic() + 10
        while not (tmp_path / "bus").exists() and time.monotonic() < until:
            time.sleep(0.02)
        desktop = subprocess.Popen([sys.executable, "-c", DESKTOP], env=env, stdout=subprocess.PIPE, text=True)
        assert desktop.stdout is not None
        assert desktop.stdout.readline() == "ready\n"
        subprocess.run([sys.executable, "-c", TEACHER], env=env, check=True, timeout=30)
        assert desktop.stdout.readline() == "Zweistimme | Voice de-DE is done | The harbour\n"
        desktop.communicate(timeout=20)
    finally:
        bus.terminate()
        bus.wait()


def test_notes_of_what_reads_come_together_at_its_end(window: MainWindow, qtbot: QtBot) -> None:
    desk = view_of(window).desk
    said = notices_of(desk)

    def stage(work: Work) -> None:
        for by_s in (0.4, 0.5):
            work.say(Finding("late", {"by_s": by_s}))

    desk.jobs.read("Listen to the programme", stage)
    qtbot.waitUntil(lambda: not desk.jobs.runs, timeout=5_000)
    assert len(said) == 1
    assert "0.4" in said[0]
    assert "0.5" in said[0]


def test_what_a_job_gives_at_the_last_moment_wakes_nothing_that_is_closed(window: MainWindow) -> None:
    desk = view_of(window).desk
    given = threading.Event()

    def stage(work: Work) -> None:
        work.deliver(NOT_UNDONE, lambda project: replace(project, mix=replace(project.mix, bed_db=-3.0)))
        given.set()

    desk.jobs.read("Look", stage)
    assert given.wait(5.0)
    with capture_exceptions() as caught:
        window.close_project()  # before the event loop has brought what was given
        until_s = time.monotonic() + 0.5  # more than anything waits before it looks at a change
        while time.monotonic() < until_s:
            QApplication.processEvents()  # which, unlike a loop of its own, deletes nothing: the worst case
    assert not caught
    assert desk.project.mix.bed_db == -3.0


def test_closing_waits_for_nothing_that_goes_on(window: MainWindow, qtbot: QtBot) -> None:
    view = view_of(window)
    go, began = threading.Event(), threading.Event()

    def deaf(_work: Work) -> None:
        began.set()
        go.wait(20.0)

    view.desk.jobs.start("Voice de-DE", deaf)
    view.desk.jobs.read("Listen to a voice", deaf)
    view.page.regions._finder.want(lambda: go.wait(20.0))
    assert began.wait(5.0)
    start = time.monotonic()
    window.close_project()
    assert time.monotonic() - start < 2.0, "half a second where the machine has nothing else to do"
    go.set()
    qtbot.wait(50)
    assert window.view is None


def test_another_project_is_opened_while_results_come(
    window: MainWindow, qtbot: QtBot, held: Held, demo_folder: Path, tmp_path: Path
) -> None:
    first = view_of(window).desk
    assert first.jobs.start("Voice de-DE", held)
    qtbot.waitUntil(held.began.is_set)
    other = tmp_path / "other"
    shutil.copytree(demo_folder, other, ignore=shutil.ignore_patterns("lock"))
    window.open_project(other)
    second = view_of(window).desk
    assert second.document.folder == other
    held.go.set()
    QTest.qWait(100)
    assert not second.jobs.busy
    Document.open(demo_folder).close()  # the first is free again, as it was
    assert [run.state for run in read_runs(demo_folder)] == ["stopped"]


def test_what_cannot_be_opened_is_said_on_the_desk_that_is_open(window: MainWindow, tmp_path: Path) -> None:
    before = view_of(window)
    said = notices_of(before.desk)
    broken = tmp_path / "broken"
    broken.mkdir()
    (broken / "project.sqlite").write_bytes(b"no database" * 99)
    window.open_project(broken)
    window.open_project(before.desk.document.folder)
    window.open_path(tmp_path)
    assert window.view is before
    assert "not a readable project database" in said[0]
    assert said[1] == "This project is on the desk already."
    assert "folder without a project" in said[2]
