"""The terms of the project: written where they stand, found in what is said, brought in and given away."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from functools import partial
from typing import Final

from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtGui import QShowEvent
from PyQt6.QtWidgets import (
    QAbstractItemDelegate,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QSizePolicy,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from zweistimme.messages import msg, tr
from zweistimme.project.languages import own_name, spoken_tag
from zweistimme.project.model import Project
from zweistimme.project.row_changes import changed_keys
from zweistimme.project.term_edits import key_for, merged, put_term, remove_terms
from zweistimme.project.terms import PartOfSpeech, Rendering, Term, key_in
from zweistimme.sentences import PARTS
from zweistimme.stages.translate.term_proposals import Proposal, proposals
from zweistimme.window.background import Latest
from zweistimme.window.bridge import Desk
from zweistimme.window.choice_delegate import ChoiceDelegate
from zweistimme.window.layouts import list_table, push_button
from zweistimme.window.term_files import TermFiles
from zweistimme.window.theme import SMALL_PT, font, px

NAME: Final = msg("Terms")
_TERM, _WORDS, _NOT, _SAID, _KIND, _NOTE = range(6)
_REST_MS: Final = 200
_MOST_FOUND: Final = 50
_NEW: Final = ""
"""Stands for the key of the row in which a new term is written."""


class TermsPanel(QWidget):
    """A row for each term, with what it is in the version on the desk; the last row takes a new one."""

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._desk = desk
        self._shown: tuple[Mapping[str, Term], str, str] | None = None
        self._touched: set[str] = set()
        """Rows in which somebody has written: what was written is shown as it is kept."""
        self.keys: list[str] = []
        self._finding = Latest("term proposals", self)
        self._finding.ready.connect(self._take_proposals)
        self.files = TermFiles(desk, self)
        self.what, self.about = QLineEdit(), QLabel()
        self.what.setPlaceholderText(tr("only terms with these letters"))
        self.what.setAccessibleName(tr("Which terms are shown"))
        self.about.setFont(font(SMALL_PT))
        self.about.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        self.seek = push_button(tr("Find in what is said"), self.propose)
        self.remove = push_button(tr("Remove"), self._remove)
        self.bring = push_button(tr("From a file …"), self.files.ask_file)
        self.write = push_button(tr("To a file …"), self.files.ask_target)
        heads = [tr("In the original"), "", tr("Not to be used"), tr("Said (IPA)"), tr("Kind"), tr("Note")]
        self.table = list_table(heads, tr("Terms of the project"), (_TERM, _WORDS, _NOT, _NOTE))
        self.table.setEditTriggers(
            self.table.EditTrigger.DoubleClicked
            | self.table.EditTrigger.EditKeyPressed
            | self.table.EditTrigger.AnyKeyPressed
        )
        self.table.setItemDelegateForColumn(
            _KIND, ChoiceDelegate({part.value: words for part, words in PARTS.items()}, self.table)
        )
        self.table.setTabKeyNavigation(True)
        self.table.setMinimumHeight(px(80))
        self._lay_out()
        self._rest = QTimer(self)
        self._rest.setSingleShot(True)
        self._rest.setInterval(_REST_MS)
        self._rest.timeout.connect(self.refresh)
        self.files.reads.connect(lambda reads: self.bring.setEnabled(not reads))
        self.what.textChanged.connect(lambda _text: self._rest.start())
        self.table.itemChanged.connect(self._edited)
        self.table.currentCellChanged.connect(lambda *_: self._refresh_buttons())
        desk.changed.connect(lambda _change: self._refresh_if_seen())
        desk.version_changed.connect(lambda _tag: self._refresh_if_seen())

    def _lay_out(self) -> None:
        head = QHBoxLayout()
        head.setSpacing(8)
        head.addWidget(self.what, 1)
        for button in (self.seek, self.remove, self.bring, self.write):
            head.addWidget(button)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(5)
        column.addLayout(head)
        column.addWidget(self.table, 1)
        column.addWidget(self.about)
        self.setFocusProxy(self.table)

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self.refresh()

    def _refresh_if_seen(self) -> None:
        if self.isVisible():
            self.refresh()

    # what is shown

    def refresh(self) -> None:
        """Show the terms, where they are others than those shown."""
        if self._is_shown():
            return
        self._keep_open_cell()
        if self._refilled():
            return
        self._touched.clear()
        terms, tag, what = self._shown = self._asked()
        row, column = self.table.currentRow(), self.table.currentColumn()
        there = {key: term for key, term in terms.items() if what in _all_words(term)}
        self.keys = [*there, _NEW]
        self.table.blockSignals(True)
        self.table.setRowCount(len(self.keys))
        for place, term in enumerate(there.values()):
            self._fill(place, term)
        self._fill_new(len(there))
        head = self.table.horizontalHeaderItem(_WORDS)
        assert head is not None
        head.setText(own_name(tag) if tag else tr("In a version"))
        self.table.blockSignals(False)
        self.table.setCurrentCell(min(max(row, 0), len(there)), max(column, 0))
        self._say(len(there))
        self._refresh_buttons()

    def _asked(self) -> tuple[Mapping[str, Term], str, str]:
        return self._desk.project.terms, self._desk.tag, self.what.text().strip().casefold()

    def _is_shown(self) -> bool:
        asked = self._asked()
        same = self._shown is not None and self._shown[0] is asked[0] and self._shown[1:] == asked[1:]
        return same and not self._touched

    def _refilled(self) -> bool:
        """Whether the rows are the same terms as before, so that only those that are others now had to be filled."""
        asked = terms, _, what = self._asked()
        if self._shown is None or self._shown[1:] != asked[1:] or _NEW in self._touched:
            return False
        changed = changed_keys(self._shown[0], terms)
        if changed is None or not all(key in terms and what in _all_words(terms[key]) for key in changed):
            return False
        rows = [row for row, key in enumerate(self.keys) if key in self._touched or key in changed]
        if not {*changed, *self._touched} <= {self.keys[row] for row in rows}:  # some are new
            return False
        self.table.blockSignals(True)
        for row in rows:
            self._fill(row, terms[self.keys[row]])
        self.table.blockSignals(False)
        self._shown = asked
        self._touched.clear()
        return True

    def _keep_open_cell(self) -> None:
        """Take what somebody is writing, before other rows come or the panel goes."""
        editor = self.table.focusWidget()
        if self.table.state() == self.table.State.EditingState and editor is not None:
            self.table.commitData(editor)
            self.table.closeEditor(editor, QAbstractItemDelegate.EndEditHint.NoHint)

    def _fill(self, row: int, term: Term) -> None:
        rendering = term.renderings.get(key_in(term, self._desk.tag) or "", Rendering())
        words = " | ".join(filter(None, (rendering.text, *rendering.also)))
        said = rendering.pronunciation or (term.pronunciation if term.kept and not rendering.text else "")
        unused = " | ".join(rendering.forbidden)
        for column, text in enumerate((term.source, words, unused, said, term.part.value, term.note)):
            item = QTableWidgetItem(text)
            item.setToolTip(text)
            if column == _TERM:
                item.setFlags(item.flags() | Qt.ItemFlag.ItemIsUserCheckable)
                item.setCheckState(Qt.CheckState.Checked if term.kept else Qt.CheckState.Unchecked)
                item.setToolTip(tr("Ticked: it stays as it is where nothing else is said"))
            elif not self._desk.tag and column not in (_KIND, _NOTE):
                item.setFlags(item.flags() & ~Qt.ItemFlag.ItemIsEditable)
            self.table.setItem(row, column, item)

    def _fill_new(self, row: int) -> None:
        for column in range(self.table.columnCount()):
            item = QTableWidgetItem("")
            if column == _TERM:
                item.setToolTip(tr("Write a new term here"))
            else:
                item.setFlags(item.flags() & ~Qt.ItemFlag.ItemIsEditable)
            self.table.setItem(row, column, item)

    def _say(self, shown: int) -> None:
        words = tr(
            "{n:term|terms}. Write in a cell; the last row takes a new term. Words that may be used stand behind “|”.",
            n=shown,
        )
        self.about.setText(words)
        self.about.setToolTip(words)

    def _chosen(self) -> str:
        row = self.table.currentRow()
        return self.keys[row] if 0 <= row < len(self.keys) else _NEW

    def _refresh_buttons(self) -> None:
        self.remove.setEnabled(self._chosen() != _NEW)
        self.write.setEnabled(bool(self._desk.project.terms))

    # what a hand changes

    def _edited(self, item: QTableWidgetItem) -> None:
        key, text = self.keys[item.row()], item.text()
        tag = self._shown[1] if self._shown else self._desk.tag  # of the rows: another version may be on the desk
        self._touched.add(key)
        if key == _NEW:
            if text.strip():
                self._desk.apply("Change a term", lambda p: put_term(p, key_for(p, text), Term(text)))
        else:
            kept = item.checkState() == Qt.CheckState.Checked
            self._desk.apply("Change a term", partial(_written, key, item.column(), text, kept, tag))
        QTimer.singleShot(0, self.refresh)

    def _remove(self) -> None:
        key = self._chosen()
        if key != _NEW:
            self._desk.apply("Remove terms", partial(remove_terms, keys=[key]))

    def propose(self) -> None:
        """Find names and frequent phrases in what is said, and take them in."""
        project = self._desk.project
        self.seek.setEnabled(False)
        self._finding.want(lambda: [_term_of(one) for one in proposals(project, _MOST_FOUND)])

    def _take_proposals(self, found: list[Term]) -> None:
        self.seek.setEnabled(True)
        if not found:
            self._desk.notice("done", tr("Nothing is said often enough, and no name is new."))
            return
        if self._desk.apply("Take in terms", lambda project: merged(project, found)[0]):
            key = tr("Undo takes them away again.")
            self._desk.notice("done", tr("{n:term was|terms were} found.", n=len(found)) + " " + key)

    def close_parts(self) -> None:
        self._keep_open_cell()
        self._finding.close()
        self.files.close()


def _term_of(proposal: Proposal) -> Term:
    """What is proposed as a term: a name stays as it is until somebody says otherwise."""
    return Term(proposal.text, part=proposal.part, kept=proposal.part is PartOfSpeech.NAME)


def _all_words(term: Term) -> str:
    """All that can be looked for in a term, folded to one case."""
    words = (word for one in term.renderings.values() for word in (one.text, *one.also, *one.forbidden))
    return "\n".join((term.source, term.note, *words)).casefold()


def _written(key: str, column: int, text: str, kept: bool, tag: str, project: Project) -> Project:
    """The edit that a cell of a term is."""
    term = project.terms.get(key)
    if term is None:
        return project
    if column == _TERM:
        return put_term(project, key, replace(term, source=text, kept=kept))
    if column == _NOTE:
        return put_term(project, key, replace(term, note=text))
    if column == _KIND:
        return put_term(project, key, replace(term, part=PartOfSpeech(text)))
    place = key_in(term, tag) or spoken_tag(tag)
    rendering = term.renderings.get(place, Rendering())
    several = tuple(filter(None, map(str.strip, text.split("|"))))
    if column == _WORDS:
        rendering = replace(rendering, text="", also=several)  # the first of them is the one to use
    elif column == _NOT:
        rendering = replace(rendering, forbidden=several)
    else:
        rendering = replace(rendering, pronunciation=text)
    return put_term(project, key, replace(term, renderings={**term.renderings, place: rendering}))
