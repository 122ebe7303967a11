"""Terms and the notes on the programme in the window: shown under the line, put into it by key, written in a table."""

from __future__ import annotations

from pathlib import Path

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QFileDialog, QLineEdit
from pytestqt.qtbot import QtBot

from driving import notices_of, view_of
from zweistimme.project.brief import Address
from zweistimme.project.edits import add_version
from zweistimme.project.line_edits import set_locked
from zweistimme.project.term_edits import put_term, put_terms, remove_terms
from zweistimme.project.terms import PartOfSpeech, Rendering, Term
from zweistimme.window.main_window import MainWindow
from zweistimme.window.score.editor import CardEditor
from zweistimme.window.terms_panel import TermsPanel
from zweistimme.window.writing import Kind

CTRL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier


def cell(panel: TermsPanel, row: int, column: int) -> str:
    item = panel.table.item(row, column)
    assert item is not None
    return item.text()


def write(panel: TermsPanel, row: int, column: int, text: str, qtbot: QtBot) -> None:
    item = panel.table.item(row, column)
    assert item is not None
    item.setText(text)
    qtbot.wait(1)


def test_a_term_of_the_line_is_shown_and_put_where_the_caret_is(window: MainWindow) -> None:
    view = view_of(window)
    desk, line, said_of_all = view.desk, view.page.line, notices_of(view.desk)
    segment = next(s for s in desk.project.segments if "ferry" in s.text)
    desk.select(segment.id)
    assert not line.terms.said
    desk.apply("x", lambda p: put_term(p, "k", Term("ferry", {"de-DE": Rendering("Fährboot")}, "twice a day")))
    (said,) = line.terms.said
    assert said.rendering.text == "Fährboot"
    line.wording.setFocus()
    line.wording.setPlainText("Das  sinkt.")
    cursor = line.wording.textCursor()
    cursor.setPosition(4)
    line.wording.setTextCursor(cursor)
    view.page.insert_term(0)
    assert line.wording.toPlainText() == "Das Fährboot sinkt."
    desk.writing.keep()
    view.page.take_keyboard()
    window.actions_by_id["term_1"].trigger()
    editor = QApplication.focusWidget()
    assert isinstance(editor, CardEditor)
    assert editor.toPlainText() == "Das Fährboot sinkt. Fährboot"
    desk.apply("x", lambda p: set_locked(p, desk.tag, [segment.id], locked=True))
    line.wording.setFocus()
    view.page.insert_term(0)
    assert "locked" in said_of_all[-1]
    view.page.insert_term(3)
    assert "no term 4" in said_of_all[-1]


def test_many_terms_are_made_ready_beside_what_one_does(window: MainWindow, qtbot: QtBot) -> None:
    view = view_of(window)
    desk, line = view.desk, view.page.line
    many = {f"k{k}": Term(f"ferry {k}", {"de-DE": Rendering(f"Boot {k}")}) for k in range(300)}
    desk.apply("x", lambda p: put_terms(p, many | {"k": Term("ferry", {"de-DE": Rendering("Fähre")})}))
    desk.select(next(s for s in desk.project.segments if "ferry" in s.text).id)
    qtbot.waitUntil(lambda: [one.rendering.text for one in line.terms.said] == ["Fähre"], timeout=5_000)
    desk.select(next(s for s in desk.project.segments if "ferry" not in s.text).id)
    qtbot.waitUntil(lambda: not line.terms.said, timeout=5_000)


def test_terms_are_written_in_the_table_found_and_undone(window: MainWindow, qtbot: QtBot) -> None:
    view = view_of(window)
    desk, panel, said = view.desk, view.page.terms, notices_of(view.desk)
    view.navigation.open_panel("Terms")
    write(panel, 0, 0, " tide  clock ", qtbot)
    (key,) = desk.project.terms
    for column, text in (
        (1, "Gezeitenuhr | Tidenuhr"),
        (2, "Ebbeuhr"),
        (3, "/ɡəˈtsaɪtnˌʔuːɐ/"),
        (4, "noun"),
        (5, "in the tower"),
    ):
        write(panel, panel.keys.index(key), column, text, qtbot)
    (term,) = desk.project.terms.values()
    rendering = Rendering("Gezeitenuhr", ("Tidenuhr",), ("Ebbeuhr",), "ɡəˈtsaɪtnˌʔuːɐ")
    assert (term.source, term.renderings, term.note) == ("tide clock", {"de-DE": rendering}, "in the tower")
    assert term.part is PartOfSpeech.NOUN
    assert [cell(panel, 0, k) for k in range(3)] == ["tide clock", "Gezeitenuhr | Tidenuhr", "Ebbeuhr"]
    write(panel, 0, 2, "Tidenuhr", qtbot)
    assert "to be used and not to be used" in said[-1]
    assert cell(panel, 0, 2) == "Ebbeuhr"
    panel.propose()
    qtbot.waitUntil(lambda: len(desk.project.terms) > 1, timeout=5_000)
    assert any(one.source == "Varnholm" and one.kept for one in desk.project.terms.values())
    panel.what.setText("tower")
    qtbot.waitUntil(lambda: len(panel.keys) == 2, timeout=2_000)
    panel.table.setCurrentCell(0, 0)
    panel.remove.click()
    assert key not in desk.project.terms
    desk.undo()
    desk.undo()
    assert list(desk.project.terms) == [key]


def test_what_is_being_written_is_kept_in_the_version_it_was_written_for(window: MainWindow, qtbot: QtBot) -> None:
    view = view_of(window)
    desk, panel = view.desk, view.page.terms
    desk.apply("x", lambda p: put_term(add_version(p, "sv-SE"), "k", Term("ferry")))
    view.navigation.open_panel("Terms")
    panel.table.setCurrentCell(0, 1)
    item = panel.table.item(0, 1)
    assert item is not None
    panel.table.editItem(item)
    editor = panel.table.findChild(QLineEdit)
    assert editor is not None
    editor.setText("Fährboot")
    desk.show_version("sv-SE")
    assert desk.project.terms["k"].renderings == {"de-DE": Rendering("Fährboot")}
    qtbot.wait(1)
    assert (desk.tag, cell(panel, 0, 1)) == ("sv-SE", "")


def test_terms_go_to_a_file_and_come_from_one(
    window: MainWindow, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, qtbot: QtBot
) -> None:
    view = view_of(window)
    desk, panel, said = view.desk, view.page.terms, notices_of(view.desk)
    desk.apply("x", lambda p: put_term(p, "k", Term("ferry", {"de-DE": Rendering("Fährboot")})))
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(tmp_path / "t.tbx"), ""))
    panel.write.click()
    desk.undo()
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: (str(tmp_path / "t.tbx"), ""))
    panel.bring.click()
    assert not panel.bring.isEnabled()  # until it is read
    qtbot.waitUntil(panel.bring.isEnabled, timeout=5_000)
    assert [one.source for one in desk.project.terms.values()] == ["ferry"]
    (tmp_path / "t.tbx").write_text("<x/>")
    panel.bring.click()
    qtbot.waitUntil(panel.bring.isEnabled, timeout=5_000)
    assert "TBX with <tbx>" in said[-1]


def test_of_many_terms_only_those_that_are_others_are_filled_anew(window: MainWindow, qtbot: QtBot) -> None:
    view = view_of(window)
    desk, panel = view.desk, view.page.terms
    desk.apply("x", lambda p: put_terms(p, {f"k{n:03}": Term(f"word {n}") for n in range(300)}))
    view.navigation.open_panel("Terms")
    filled, fill = [], panel._fill
    panel._fill = lambda row, term: (filled.append(row), fill(row, term))[1]  # type: ignore[method-assign]
    write(panel, 7, 1, "Wort", qtbot)
    assert (filled, cell(panel, 7, 1)) == ([7], "Wort")
    write(panel, 9, 1, " ", qtbot)  # changes nothing, and is shown as it is kept
    assert (filled, cell(panel, 9, 1)) == ([7, 9], "")
    desk.undo()
    assert (filled, cell(panel, 7, 1)) == ([7, 9, 7], "")
    desk.apply("x", lambda p: remove_terms(p, ["k100"]))
    assert len(filled) == 3 + 299
    assert len(panel.keys) == 300
    desk.undo()
    assert [cell(panel, row, 0) for row in (99, 299)] == ["word 99", "word 100"]
    desk.show_version("es-ES")
    assert len(filled) == 3 + 299 + 300 + 300


def test_the_notes_on_the_programme_are_kept_when_they_are_left(window: MainWindow, qtbot: QtBot) -> None:
    view = view_of(window)
    desk, panel = view.desk, view.page.brief
    view.navigation.open_panel("Notes on the programme")
    QTest.keyClicks(panel.texts[Kind.SUBJECT], "A clock.")
    view.navigation.open_panel("Terms")
    assert desk.project.brief.subject == "A clock."
    view.navigation.open_panel("Notes on the programme")
    speaker, listener = panel.pairs[0]
    choice = panel.table.cellWidget(0, 2)
    choice.setCurrentIndex(1)
    choice.activated.emit(1)
    assert desk.project.brief.address == {f"{speaker}>{listener}": Address.FORMAL}
    segment = next(s for s in desk.project.segments if s.speaker_id == speaker)
    desk.select(segment.id)
    assert view.page.line.said_to.text().startswith("Original")
