"""Engines in the window: connected, tested, chosen, removed; their costs and failures where they belong."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import pytest
from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from driving import cast_of, engines_of
from zweistimme.engines.connections import Connection, Kind, connect, connections, settings_file
from zweistimme.engines.offers import Limits, Price, Role
from zweistimme.project.cast_edits import cast_voice
from zweistimme.project.progress import Step, progress
from zweistimme.server import Faults, Serving, Terms, running
from zweistimme.window.app import make_app
from zweistimme.window.casting.choices import voice_choices
from zweistimme.window.desk_view import DeskView
from zweistimme.window.engines.connect import ConnectDialog
from zweistimme.window.estimates import next_estimates
from zweistimme.window.main_window import MainWindow

EXAMPLE = Path(__file__).parents[2] / "docs" / "examples" / "little-engine" / "little.toml"


@pytest.fixture
def view(qtbot: QtBot, demo_folder: Path) -> Iterator[DeskView]:
    make_app()
    window = MainWindow()
    qtbot.addWidget(window)
    window.show()
    window.open_project(demo_folder)
    assert window.view is not None
    window.view.navigation.show_page("Engines")
    yield window.view
    window.close_project()


def answered(qtbot: QtBot, view: DeskView, *names: str) -> None:
    """Test the connections and wait until the named ones have answered, or failed."""
    view.desk.book.refresh()
    book = view.desk.book
    qtbot.waitUntil(lambda: all(book.tests[n].info or book.tests[n].problem for n in names), timeout=30_000)


def test_what_the_bundled_engine_says_of_itself_is_shown(view: DeskView) -> None:
    assert list(engines_of(view).cards) == ["bundled"]
    assert engines_of(view).cards["bundled"].state == "answers"
    assert engines_of(view).title.text().startswith("bundled")
    assert not engines_of(view).remove.isEnabled()
    assert engines_of(view).estimate.text() == "Next: Hand-over. It asks no engine."


def test_engines_are_connected_tested_and_removed(view: DeskView, qtbot: QtBot) -> None:
    connect(Connection("quay", Kind.SERVICE, "http://127.0.0.1:9"))
    connect(Connection("little", Kind.PROGRAM, str(EXAMPLE)))
    answered(qtbot, view, "quay", "little")
    page = engines_of(view)
    qtbot.waitUntil(lambda: page.cards["quay"].state == "fails")
    qtbot.mouseClick(page.cards["quay"], Qt.MouseButton.LeftButton)
    assert "nothing answers at http://127.0.0.1:9" in page.problem.text()
    assert [name for name, card in page.cards.items() if card.isChecked()] == ["quay"]
    qtbot.mouseClick(page.cards["little"], Qt.MouseButton.LeftButton)
    assert page.title.text() == "little 1"
    qtbot.mouseClick(page.remove, Qt.MouseButton.LeftButton)
    assert [c.name for c in connections()] == ["bundled", "quay"]
    assert list(page.cards) == ["bundled", "quay"]


def test_a_connection_is_made_in_its_dialog(view: DeskView, qtbot: QtBot) -> None:
    dialog = ConnectDialog(Kind.PROGRAM, view)
    qtbot.addWidget(dialog)
    dialog.name.setText("little")
    dialog.place.setText("/nowhere/little.toml")
    dialog._keep()
    assert "There is no file" in dialog.words.text()
    assert dialog.made is None
    dialog.place.setText(str(EXAMPLE))
    dialog._keep()
    assert dialog.made == Connection("little", Kind.PROGRAM, str(EXAMPLE))

    def fill() -> None:
        asked = QApplication.activeModalWidget()
        assert isinstance(asked, ConnectDialog)
        asked.name.setText("quay")
        asked.place.setText("http://127.0.0.1:9")
        asked.token.setText("saltmarsh")
        asked._keep()
        assert "no secret store" in asked.words.text()
        asked.token.clear()
        asked._keep()

    QTimer.singleShot(100, fill)
    qtbot.mouseClick(engines_of(view).add_service, Qt.MouseButton.LeftButton)
    assert [c.name for c in connections()] == ["bundled", "little", "quay"]
    assert engines_of(view).chosen == "quay"


def test_who_does_what_is_chosen_for_all_or_for_one_version(view: DeskView, qtbot: QtBot) -> None:
    connect(Connection("little", Kind.PROGRAM, str(EXAMPLE)))
    answered(qtbot, view, "little")
    boxes = engines_of(view).choices.boxes
    assert (Role.RECOGNISE, "de-DE") not in boxes
    for key in ((Role.TRANSLATE, ""), (Role.SPEAK, "es-ES")):
        boxes[key].setCurrentIndex(boxes[key].findData("little"))
        boxes[key].activated.emit(boxes[key].currentIndex())
    project = view.desk.project
    assert project.engines == {Role.TRANSLATE: "little"}
    assert project.versions["es-ES"].engines == {Role.SPEAK: "little"}
    view.desk.undo()
    assert boxes[Role.SPEAK, "es-ES"].currentText() == "as for all"


def test_costs_stand_where_a_run_is_started_and_failures_at_their_lines(view: DeskView, qtbot: QtBot) -> None:
    desk = view.desk
    terms = Terms(price=Price(0.001, 0.0, "EUR"), limits=Limits(at_once=4), quota_characters=100_000)
    with running(Serving(terms=terms, faults=Faults({"no-voice": 0.5}, seed=2))) as address:
        connect(Connection("quay", Kind.SERVICE, address))
        answered(qtbot, view, "quay")
        qtbot.waitUntil(lambda: desk.book.info("quay") is not None)
        desk.apply("Cast", lambda p: cast_voice(p, desk.tag, "p1", "quay/edda"))
        assert "about" in view.strip.go_on.text()
        assert "EUR" in view.strip.go_on.text()
        assert "quay: 6 requests" in engines_of(view).estimate.text()
        view.steps.go_on()
        qtbot.waitUntil(lambda: not desk.jobs.busy, timeout=60_000)
    assert desk.version is not None
    done = progress(desk.project, desk.version)[Step.TAKES].done
    assert len(desk.version.failures) == 18 - done
    assert 0 < len(desk.version.failures) < 6
    view.navigation.show_page("Score")
    for segment_id in desk.version.failures:
        desk.select(segment_id)
        assert "The voice is not there" in view.page.line.failure.text()
        assert view.page.line.failure.isVisible()
    assert "could not be made; the others are kept" in view.foot.words.text()
    visited = set()
    for _ in desk.project.segments:
        view.navigation.next_open()
        visited.add(desk.segment_id)
    assert set(desk.version.failures) <= visited, "each of them needs somebody"
    view.navigation.go_to_step(Step.FIT)
    desk.jobs.start("Something else", lambda _work: None)
    qtbot.waitUntil(lambda: not desk.jobs.busy)
    assert desk.version.failures, "another job leaves them standing"
    with running(Serving(terms=terms)) as address:
        connect(Connection("quay", Kind.SERVICE, address))
        view.steps.go_on()
        qtbot.waitUntil(lambda: not desk.jobs.busy, timeout=60_000)
    assert not any(desk.failure(s) for s in desk.project.segments)
    assert progress(desk.project, desk.project.versions[desk.tag])[Step.TAKES].complete
    assert not view.page.line.failure.isVisible()


def test_a_damaged_list_of_engines_leaves_the_bundled_one(view: DeskView) -> None:
    settings_file().parent.mkdir(parents=True, exist_ok=True)
    settings_file().write_text("[{]")
    view.desk.book.refresh()
    assert list(engines_of(view).cards) == ["bundled"]
    assert "engines.json is damaged" in engines_of(view).problem.text()
    assert len(voice_choices(view.desk, "de-DE")) == 8
    settings_file().unlink()
    view.desk.book.refresh()
    assert not engines_of(view).problem.isVisible()


def test_estimates_are_worked_out_once_for_each_state(view: DeskView, qtbot: QtBot) -> None:
    desk = view.desk
    first = next_estimates(desk)
    assert next_estimates(desk) is first
    desk.apply("Cast", lambda p: cast_voice(p, desk.tag, "p1", "dario"))
    again = next_estimates(desk)
    assert again is not first
    assert (again.step, again.count) == (Step.TAKES, 6)
    assert "bundled: 6 requests" in again.sentence
    assert "free" in again.sentence
    desk.undo()
    assert next_estimates(desk).step is first.step


def test_related_voices_stand_in_unless_they_are_refused(view: DeskView) -> None:
    page = cast_of(view)
    view.navigation.show_page("Cast")
    assert page.coverage.text() == "Voices: 8 voices of its own"
    view.versions.add("gl-ES")
    view.navigation.show_page("Cast")
    assert page.coverage.text() == "Voices: no voice of its own; Spanish stands in"
    texts = [words for _, words in voice_choices(view.desk, "gl-ES")]
    assert len(texts) == 8
    assert all("stands in, in Spanish" in words for words in texts)
    page.coverage.build()
    _, spanish = page.coverage.list.actions()[:2]
    assert spanish.text() == "Spanish: 8 voices"
    spanish.trigger()
    assert view.desk.project.refused == ("gl>es",)
    assert voice_choices(view.desk, "gl-ES") == []
    assert page.coverage.text() == "Voices: no voice; related ones are refused"
    page.coverage.build()
    page.coverage.list.actions()[1].trigger()
    assert len(voice_choices(view.desk, "gl-ES")) == 8
    page.coverage.build()
    everything = page.coverage.list.actions()[0]
    everything.trigger()
    assert not view.desk.project.substitutes
    assert voice_choices(view.desk, "gl-ES") == []
    page.coverage.build()
    others = {action.text(): action for action in page.coverage.list.actions()}
    others["Deutsch (Deutschland): 8 voices of its own"].trigger()
    assert view.desk.tag == "de-DE"


def test_a_voice_whose_engine_is_away_is_still_shown(view: DeskView, qtbot: QtBot) -> None:
    desk = view.desk
    desk.apply("Cast", lambda p: cast_voice(p, desk.tag, "p1", "quay/edda"))
    view.navigation.show_page("Cast")
    qtbot.wait(20)
    texts = [row.voice.currentText() for row in cast_of(view).rows]
    assert any("quay/edda · its engine does not answer" in text for text in texts)
    view.steps.go_on()
    qtbot.waitUntil(lambda: not desk.jobs.busy, timeout=30_000)
    assert "no engine called quay" in view.foot.words.text()


def test_python_engines_and_mapped_services_are_connected(view: DeskView, tmp_path: Path) -> None:
    examples = EXAMPLE.parents[1]
    dialog = ConnectDialog(Kind.PROGRAM, view)
    dialog.name.setText("tidepool")
    dialog.place.setText(f"{examples / 'python-engine' / 'tidepool.py'}:nothing")
    dialog._keep()
    assert "has no nothing" in dialog.words.text()
    dialog.place.setText(f"{examples / 'python-engine' / 'tidepool.py'}:engine")
    dialog._keep()
    assert dialog.made is not None
    assert dialog.made.kind is Kind.PYTHON
    mapped = ConnectDialog(Kind.PROGRAM, view)
    mapped.name.setText("lark")
    mapped.place.setText(str(examples / "mapped-services" / "lark.toml"))
    mapped.token.setText("a token")
    mapped._keep()
    assert "no secret store" in mapped.words.text()
    mapped.token.setText("")
    mapped._keep()
    assert mapped.made is not None
    assert mapped.made.kind is Kind.MAPPED
    far = ConnectDialog(Kind.SERVICE, view)
    far.name.setText("far")
    far.place.setText("http://quay.example")
    far.token.setText("a token")
    far._keep()
    assert "without encryption" in far.words.text()
    assert [one.name for one in connections()] == ["bundled", "tidepool", "lark"]
