"""Typing, changing versions, undoing, results of jobs, playing and closing, at random: every text is what was typed
there, and nothing but the one who writes moves the caret."""

from __future__ import annotations

import random
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field, replace
from pathlib import Path

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtGui import QInputMethodEvent, QKeySequence
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QLineEdit, QPlainTextEdit
from pytestqt.qtbot import QtBot

from driving import opened, view_of
from zweistimme.project.access import put_line
from zweistimme.project.model import Project
from zweistimme.project.writing import one_line
from zweistimme.window.score.editor import CardEditor
from zweistimme.window.writing import Kind, Place

_STEPS, _SEEDS = 1_000, range(10)
_LINES = 6
_LETTERS = "abmn2 kséß漢م"


@dataclass
class Entry:
    """One step that can be undone: what a place said before and after, and what its wording was made from."""

    place: Place
    before: tuple[str, str]
    after: tuple[str, str]


@dataclass
class Model:
    """What was typed where, as simple as can be."""

    texts: dict[Place, str]
    made_from: dict[Place, str]
    done: list[Entry] = field(default_factory=list)
    undone: list[Entry] = field(default_factory=list)
    place: Place | None = None
    written: str = ""
    base: str = ""

    def source_of(self, place: Place) -> str:
        return self.texts[Place(Kind.ORIGINAL, place.key)]

    def put(self, place: Place, text: str, made_from: str) -> None:
        """A change that can be undone, if it is one."""
        before, after = (self.texts[place], self.made_from.get(place, "")), (text, made_from)
        if before != after:
            self.done.append(Entry(place, before, after))
            self.undone = []
            self.texts[place], self.made_from[place] = after

    def keep(self) -> None:
        """What is being written is kept."""
        if self.place is not None and self.written != self.base:
            made_from = self.source_of(self.place) if self.place.kind is Kind.WORDING else ""
            self.put(self.place, one_line(self.written), made_from)
        self.base = self.written

    def settle(self) -> None:
        """Where nothing is being written, the field shows what there is."""
        if self.place is not None and self.written == self.base and one_line(self.written) != self.texts[self.place]:
            self.written = self.base = self.texts[self.place]

    def step(self, *, back: bool) -> None:
        self.keep()
        come, go = (self.done, self.undone) if back else (self.undone, self.done)
        if come:
            entry = come.pop()
            go.append(entry)
            self.texts[entry.place], self.made_from[entry.place] = entry.before if back else entry.after


class Storm:
    """One window in the hands of chance."""

    def __init__(self, qtbot: QtBot, folder: Path, seed: int) -> None:
        self._qtbot, self._folder, self._chance = qtbot, folder, random.Random(seed)
        self.window = opened(qtbot, folder)
        desk = view_of(self.window).desk
        self._ids = [segment.id for segment in desk.project.segments[:_LINES]]
        self._tags = list(desk.project.versions)
        places = [Place(Kind.ORIGINAL, key) for key in self._ids]
        places += [Place(Kind.WORDING, key, tag) for tag in self._tags for key in self._ids]
        texts = {place: desk.text_at(place) for place in places}
        made = {p: texts[Place(Kind.ORIGINAL, p.key)] for p in places if p.kind is Kind.WORDING}
        self.model = Model(texts, made)
        self._steps: list[tuple[int, Callable[[], None]]] = [
            (30, self._type), (6, self._rub_out), (8, self._begin), (4, self._leave), (4, self._select),
            (3, self._change_version), (3, self._undo), (2, self._redo), (8, self._deliver), (5, self._play),
            (2, self._turn_page), (2, self._scroll), (1, self._flip_theme), (1, self._flip_scale),
        ]  # fmt: skip

    def run(self, steps: int) -> None:
        weights = [weight for weight, _ in self._steps]
        for number in range(steps):
            (_, act) = self._chance.choices(self._steps, weights)[0]
            act()
            self.model.settle()
            self._check(f"step {number}: {act.__name__}")
            if number % 250 == 249:
                self._close_and_open()
                self._check(f"step {number}: closed and opened")

    def _check(self, when: str) -> None:
        desk, model = view_of(self.window).desk, self.model
        for place, text in model.texts.items():
            assert desk.text_at(place) == text, (when, place)
        if model.place is not None:
            writing = self._field()
            assert writing is not None, when
            assert writing.hasFocus(), when
            assert _text_of(writing) == model.written, when

    def _field(self) -> QPlainTextEdit | QLineEdit | None:
        focus = QApplication.focusWidget()
        return focus if isinstance(focus, QPlainTextEdit | QLineEdit) else None

    def _gone(self) -> None:
        """The field is left."""
        self.model.keep()
        self.model.place = None

    # what a hand does

    def _begin(self) -> None:
        """Go into a field: a card's, or one of the panel's."""
        view, here = view_of(self.window), view_of(self.window).desk.segment_id
        self._gone()
        view.navigation.show_page("Score")
        view.page.take_keyboard()
        kind = self._chance.choice([Kind.ORIGINAL, Kind.WORDING])
        if self._chance.random() < 0.5:
            self.window.actions_by_id["edit_source" if kind is Kind.ORIGINAL else "edit_line"].trigger()
        else:
            (view.page.line.source if kind is Kind.ORIGINAL else view.page.line.wording).setFocus()
        self.model.place = Place(kind, here) if kind is Kind.ORIGINAL else Place(kind, here, view.desk.tag)
        self.model.written = self.model.base = self.model.texts[self.model.place]

    def _type(self) -> None:
        writing = self._field()
        if writing is None or self.model.place is None:
            return
        if _text_of(writing) == self.model.base:  # the caret may stand anywhere in what has not been touched
            QTest.keySequence(writing, QKeySequence("Ctrl+End"))
        letters = "".join(self._chance.choices(_LETTERS, k=self._chance.randint(1, 6))).rstrip() + "x"
        for letter in letters:
            if letter.isascii():
                QTest.keyClicks(writing, letter)
            else:  # as an input method does
                said = QInputMethodEvent()
                said.setCommitString(letter)
                QApplication.sendEvent(writing, said)
        self.model.written += letters

    def _rub_out(self) -> None:
        writing = self._field()
        if writing is None or self.model.place is None or self.model.written == self.model.base:
            return
        QTest.keyClick(writing, Qt.Key.Key_Backspace)
        self.model.written = self.model.written[:-1]

    def _leave(self) -> None:
        writing = self._field()
        if writing is None or self.model.place is None:
            return
        way = self._chance.choice(["escape", "return", "click"])
        if way == "escape":
            self.model.written = self.model.base
            QTest.keyClick(writing, Qt.Key.Key_Escape)
        elif way == "return" and writing is self._card():
            QTest.keyClick(writing, Qt.Key.Key_Return)
        else:
            view_of(self.window).page.take_keyboard()
        self._gone()

    def _select(self) -> None:
        view, kept, wanted = view_of(self.window), self._field(), self._chance.choice(self._ids)
        if wanted != view.desk.segment_id:
            self.model.keep()
            view.desk.select(wanted)
            self._follow(kept)

    def _change_version(self) -> None:
        kept = self._field()
        self.model.keep()
        self.window.actions_by_id["next_version"].trigger()
        self._follow(kept)

    def _follow(self, kept: QPlainTextEdit | QLineEdit | None) -> None:
        """A field of the panel goes on with what is selected now; a card is written to its end first."""
        view, model = view_of(self.window), self.model
        if model.place is None or kept is self._card():
            if kept is self._card() and self._card().isVisible():
                return  # another line was selected; the card is still being written
            model.place = None
            return
        here, kind = view.desk.segment_id, model.place.kind
        model.place = Place(kind, here) if kind is Kind.ORIGINAL else Place(kind, here, view.desk.tag)
        model.written = model.base = model.texts[model.place]

    def _undo(self) -> None:
        if self.model.done or self.model.written != self.model.base:
            self.model.step(back=True)
            self.window.actions_by_id["undo"].trigger()

    def _redo(self) -> None:
        self.model.keep()
        if self.model.undone:
            self.model.step(back=False)
            self.window.actions_by_id["redo"].trigger()
        else:
            view_of(self.window).desk.writing.keep()

    def _turn_page(self) -> None:
        self._gone()
        view = view_of(self.window)
        view.navigation.show_page(self._chance.choice(["Cast", "Speakers", "Hand-over"]))
        view.navigation.show_page("Score")
        view.page.take_keyboard()

    def _flip_theme(self) -> None:
        self.model.keep()
        self.window.outfit.flip_theme()

    def _flip_scale(self) -> None:
        self._gone()
        self.window.actions_by_id["by_text"].trigger()

    def _card(self) -> CardEditor:
        """What a line is written with where it stands."""
        page = view_of(self.window).page
        return page.lines.editor if page.by_text else page.score.editor

    def _close_and_open(self) -> None:
        self._gone()
        self.window.close()
        self.window = opened(self._qtbot, self._folder)

    # what happens elsewhere

    def _deliver(self) -> None:
        key, tag = self._chance.choice(self._ids), self._chance.choice(self._tags)
        place, text = Place(Kind.WORDING, key, tag), f"Machine {self._chance.randrange(1000)}"

        def edit(project: Project) -> Project:
            line = project.versions[tag].lines[key]
            return put_line(project, tag, replace(line, text=text))

        view_of(self.window).desk.document.apply("Translate", edit)
        self.model.put(place, text, self.model.made_from[place])

    def _play(self) -> None:
        view_of(self.window).page.show_playhead(self._chance.uniform(0, 80_000_000), follow=True)

    def _scroll(self) -> None:
        page, by = view_of(self.window).page, self._chance.uniform(-400, 400)
        bar = page.lines.verticalScrollBar()
        if page.by_text and bar is not None:
            bar.setValue(bar.value() + round(by))
        else:
            page.score.scroll_by(by)


def _text_of(writing: QPlainTextEdit | QLineEdit) -> str:
    return writing.text() if isinstance(writing, QLineEdit) else writing.toPlainText()


@pytest.fixture
def storm(qtbot: QtBot, demo_folder: Path, request: pytest.FixtureRequest) -> Iterator[Storm]:
    made = Storm(qtbot, demo_folder, request.param)
    yield made
    made.window.close_project()


@pytest.mark.parametrize("storm", _SEEDS, indirect=True)
def test_every_text_is_what_was_typed_there(storm: Storm) -> None:
    storm.run(_STEPS)
