"""Adding a version: a language found by its name, what voices there are for it, a style, an engine, a name."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QComboBox,
    QDialog,
    QDialogButtonBox,
    QFormLayout,
    QLabel,
    QLineEdit,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from zweistimme.engines.offers import EngineInfo, Role, VoiceInfo
from zweistimme.messages import tr
from zweistimme.project.errors import TagError
from zweistimme.project.language_list import ListedLanguage, found_languages
from zweistimme.project.languages import (
    language_name,
    language_of,
    language_tag,
    named_tag,
    own_name,
    same_language,
    substitutes_for,
)
from zweistimme.project.model import Project, Style
from zweistimme.stages.cast import speaks, stand_in_language, stand_ins
from zweistimme.stages.engine_choice import pair_known
from zweistimme.window.bridge import Desk
from zweistimme.window.fonts import missing_font
from zweistimme.window.layouts import list_table
from zweistimme.window.theme import px, tint

_TAG: Final = Qt.ItemDataRole.UserRole
_SHOWN: Final = 60
"""So many languages are listed; who wants another types more of it."""


@dataclass(frozen=True, slots=True)
class NewVersion:
    """What was answered; *engine* translates it, where that is not the one for all; it has its words from the version
    *basis*, if from any."""

    tag: str
    style: Style
    engine: str = ""
    basis: str = ""


def voices_in_words(voices: Sequence[VoiceInfo], tag: str, allowed: Sequence[str]) -> str:
    """What voices there are for a language: its own, those of a related one, or none; *allowed* related ones may stand
    in."""
    own = sum(speaks(voice, tag) for voice in voices)
    if own:
        return tr("{n:voice|voices}", n=own)
    spoken = {language_of(language) for voice in voices for language in voice.languages}
    related = next((one for one in (*allowed, *substitutes_for(tag)) if one in spoken), None)
    if related is None:
        return tr("no voice")
    words = tr("related: {language}", language=language_name(related))
    return words if related in allowed else tr("{voices} (refused)", voices=words)


class AddVersionDialog(QDialog):
    """Type some of a language's name, choose it, and how it is to be dubbed."""

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._project: Project = desk.project
        self._voices = [voice for _, voice in desk.book.voices()]
        self._engines: dict[str, EngineInfo] = {n: t.info for n, t in desk.book.tests.items() if t.info is not None}
        self.answer: NewVersion | None = None
        self.setWindowTitle(tr("Add a version"))
        self.search = QLineEdit()
        self.search.setPlaceholderText(tr("a language, a country, or a tag such as de-AT"))
        self.search.setAccessibleName(tr("Language to dub into"))
        self.search.textChanged.connect(self._find)
        self.list = self._make_list()
        self.style_box, self.engine, self.basis = QComboBox(), QComboBox(), QComboBox()
        for style in Style:
            self.style_box.addItem(tr(style.value), style.value)
        self.name = QLineEdit()
        self.name.setPlaceholderText(tr("for a second version of the same language"))
        self.name.textChanged.connect(lambda _text: self._look())
        self.words = QLabel()
        self.words.setWordWrap(True)
        tint(self.words, "hard")
        form = QFormLayout()
        form.addRow(tr("Style"), self.style_box)
        form.addRow(tr("Translated by"), self.engine)
        form.addRow(tr("Words from"), self.basis)
        form.addRow(tr("Name of its own"), self.name)
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Cancel)
        add = buttons.addButton(tr("Add"), QDialogButtonBox.ButtonRole.AcceptRole)
        assert add is not None
        add.setDefault(True)
        self.add = add
        buttons.accepted.connect(self._accept)
        buttons.rejected.connect(self.reject)
        column = QVBoxLayout(self)
        for widget in (self.search, self.list):
            column.addWidget(widget)
        column.addLayout(form)
        column.addWidget(self.words)
        column.addWidget(buttons)
        self.resize(px(620), px(540))
        self._find("")

    def _make_list(self) -> QTableWidget:
        table = list_table([tr("Language"), tr("Voices"), tr("Tag")], tr("Languages"), (0,))
        table.currentCellChanged.connect(lambda *_: self._choose())
        table.cellDoubleClicked.connect(lambda *_: self._accept())
        return table

    @property
    def tag(self) -> str:
        """The language that is chosen; empty if none is."""
        item = self.list.item(self.list.currentRow(), 0) if self.list.currentRow() >= 0 else None
        return item.data(_TAG) if item is not None else ""

    def _find(self, words: str) -> None:
        found = [one for one in found_languages(words) if one.tag != self._project.source_tag]
        if not found and words.strip():
            found = _as_typed(words.strip())
        there = found[:_SHOWN]
        self.list.setRowCount(len(there))
        for row, one in enumerate(there):
            own = "" if one.own.casefold() in one.name.casefold() or missing_font(one.tag) else one.own
            shown = " · ".join(filter(None, (one.name, own)))
            voices = voices_in_words(self._voices, one.tag, stand_ins(self._project, one.tag))
            for column, text in enumerate((shown, voices, one.tag)):
                item = QTableWidgetItem(text)
                item.setData(_TAG, one.tag)
                self.list.setItem(row, column, item)
        new = (row for row, one in enumerate(there) if one.tag not in self._project.versions)
        self.list.setCurrentCell(next(new, 0 if there else -1), 0)
        self._choose()

    def _choose(self) -> None:
        """Offer the engines that translate into the language that is chosen."""
        tag, source = self.tag, self._project.source_tag
        self.engine.clear()
        self.engine.addItem(tr("as for all"), "")
        for name, info in self._engines.items():
            if tag and Role.TRANSLATE in info.roles and pair_known(info, source, tag):
                self.engine.addItem(name, name)
        self.basis.clear()
        self.basis.addItem(tr("the original"), "")
        for other in self._project.versions:
            if tag and same_language(other, tag):
                self.basis.addItem(own_name(other), other)
        self.basis.setEnabled(self.basis.count() > 1)
        self._look()

    def _wanted(self) -> str:
        return named_tag(self.tag, self.name.text()) if self.tag else ""

    def _look(self) -> None:
        """Say what speaks against it, or what will be missing."""
        try:
            wanted, problem = self._wanted(), ""
        except TagError as error:
            wanted, problem = "", str(error)
        if wanted in self._project.versions:
            problem = tr("{version} is there already. Give this one a name of its own.", version=own_name(wanted))
        self.add.setEnabled(bool(wanted) and not problem)
        missing = [missing_font(wanted), self._unspoken(wanted)] if wanted and not problem else []
        self.words.setText(" ".join(filter(None, [problem, *missing])))

    def _unspoken(self, tag: str) -> str:
        if any(speaks(voice, tag) for voice in self._voices):
            return ""
        if any(stand_in_language(voice, stand_ins(self._project, tag)) for voice in self._voices):
            return ""
        return tr("No voice speaks it yet: connect an engine that does, or import takes.")

    def _accept(self) -> None:
        if self.add.isEnabled():
            style, engine, basis = (box.currentData() for box in (self.style_box, self.engine, self.basis))
            self.answer = NewVersion(self._wanted(), Style(style), engine, basis)
            self.accept()


def _as_typed(words: str) -> list[ListedLanguage]:
    """A tag that is not listed, such as one without a region."""
    try:
        tag = language_tag(words)
    except TagError:
        return []
    return [ListedLanguage(tag, language_name(tag), own_name(tag))]
