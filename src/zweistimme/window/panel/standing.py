"""How far the selected line is, where its words are from, and what was noted about it."""

from __future__ import annotations

from functools import partial
from html import escape

from PyQt6.QtCore import QSize, Qt, pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QMenu, QPlainTextEdit, QToolButton, QVBoxLayout, QWidget

from zweistimme.messages import tr
from zweistimme.project.facts import line_is_stale
from zweistimme.project.languages import own_name
from zweistimme.project.line_edits import note_of, remove_note
from zweistimme.project.model import Line, Segment
from zweistimme.project.wordings import LineNote, LineState, Origin, OriginKind
from zweistimme.sentences import STATES
from zweistimme.window.actions import BY_ID, tip
from zweistimme.window.bridge import Desk
from zweistimme.window.layouts import empty
from zweistimme.window.panel.makers import maker_in_words
from zweistimme.window.score.state_marks import LENGTH, state_icon
from zweistimme.window.theme import SMALL_PT, font, px, tint
from zweistimme.window.writing import Draft, Kind, Place, note_author

_SETTLING = {
    LineState.INITIAL: "reopen",
    LineState.TRANSLATED: "settle",
    LineState.REVIEWED: "review",
    LineState.FINAL: "make_final",
}


def origin_in_words(line: Line) -> str:
    """Where a line's words are from; empty where nobody knows.

    >>> origin_in_words(Line("s1", "Ja.", "", origin=Origin(OriginKind.MEMORY, "Tide", 87)))
    '87 % like a line of “Tide”'
    """
    if line.maker is not None:
        return maker_in_words(line.maker)
    return offer_in_words(line.origin)


def offer_in_words(origin: Origin | None) -> str:
    """Where a wording is from."""
    if origin is None:
        return ""
    if origin.kind is OriginKind.MEMORY:
        if origin.percent >= 100:
            return tr("as settled in “{name}”", name=origin.name)
        return tr("{percent} % like a line of “{name}”", percent=origin.percent, name=origin.name)
    if origin.kind is OriginKind.PERSON:
        return tr("written by hand")
    if origin.kind is OriginKind.VERSION:
        return tr("from {name}", name=own_name(origin.name))
    return tr("from {name}", name=origin.name) if origin.kind is OriginKind.IMPORT else origin.name


class StandingRow(QWidget):
    """A row with the line's state, its origin and its notes; below it the notes, while they are wanted."""

    state_wanted = pyqtSignal(LineState)
    lock_wanted = pyqtSignal()

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._desk = desk
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(3)
        row = QHBoxLayout()
        row.setSpacing(6)
        self.state = self._button(tr("How far the line is"))
        self.state.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        self.state.setToolButtonStyle(Qt.ToolButtonStyle.ToolButtonTextBesideIcon)
        self.state.setIconSize(QSize(px(LENGTH), px(16)))
        self._menu = QMenu(self.state)
        self._menu.aboutToShow.connect(self._fill_menu)
        self.state.setMenu(self._menu)
        self.origin = QLabel()
        self.origin.setFont(font(SMALL_PT))
        self.origin.setTextFormat(Qt.TextFormat.PlainText)
        tint(self.origin, "faded")
        self.note = self._button(tip("note"))
        self.note.setCheckable(True)
        self.note.clicked.connect(self._flip_notes)
        row.addWidget(self.state)
        row.addWidget(self.origin, 1)
        row.addWidget(self.note)
        column.addLayout(row)
        self._said = QVBoxLayout()
        self._said.setSpacing(2)
        column.addLayout(self._said)
        self.field = QPlainTextEdit()
        self.field.setAccessibleName(tr("Your note about this line"))
        self.field.setPlaceholderText(tr("Your note about this line"))
        self.field.setTabChangesFocus(True)
        self.field.setObjectName("wordingEdit")
        self.field.setFixedHeight(int(self.field.fontMetrics().lineSpacing() * 2 + 22))
        self.draft = Draft(desk, self.field)
        column.addWidget(self.field)
        self._shown: object = None
        self._open_for = ""

    def _button(self, hint: str) -> QToolButton:
        button = QToolButton()
        button.setFont(font(SMALL_PT))
        button.setToolTip(hint)
        return button

    def refresh(self, segment: Segment, line: Line | None) -> None:
        """Show how the line of a segment stands."""
        self.setVisible(self._desk.version is not None)
        state, locked = (line.state, line.locked) if line else (LineState.INITIAL, False)
        words = tr(STATES[state]) + (" · " + tr("locked") if locked else "")
        self.state.setText(words)
        self.state.setIcon(state_icon(state, locked=locked, ratio=self.devicePixelRatioF()))
        self.state.setAccessibleName(tr("How far the line is: {state}", state=words))
        stale = line is not None and line_is_stale(segment, line)
        self.origin.setText(tr("the original has changed") if stale else origin_in_words(line) if line else "")
        self.origin.setToolTip(f"<p>{escape(self.origin.text())}</p>")
        tint(self.origin, "firm" if stale else "faded")
        notes = line.notes if line else ()
        self.note.setText(tr("{n:note|notes}", n=len(notes)) if notes else tr("note …"))
        author = note_author()
        self.draft.show(Place(Kind.NOTE, segment.id, self._desk.tag), note_of(line, author))
        wanted = bool(notes) or self._open_for == segment.id or self.draft.has_keyboard
        self.note.setChecked(wanted)
        self.field.setVisible(wanted)
        self._show_notes(notes, author)

    def _show_notes(self, notes: tuple[LineNote, ...], author: str) -> None:
        """Those of others; one's own is in the field."""
        mine = max((n for n, note in enumerate(notes) if note.author == author), default=-1)
        shown = (self._desk.segment_id, self._desk.tag, notes, mine)
        if shown == self._shown:
            return
        self._shown = shown
        empty(self._said)
        for number, note in enumerate(notes):
            if number != mine:
                self._said.addWidget(self._said_by(number, note))

    def _said_by(self, number: int, note: LineNote) -> QWidget:
        row = QWidget()
        box = QHBoxLayout(row)
        box.setContentsMargins(0, 0, 0, 0)
        head = " · ".join(filter(None, (note.author, note.written[:10])))
        words = QLabel(f"<b>{escape(head)}</b> {escape(note.text)}" if head else escape(note.text))
        words.setWordWrap(True)
        words.setTextFormat(Qt.TextFormat.RichText)
        words.setFont(font(SMALL_PT))
        away = self._button(tr("Take this note away"))
        away.setText("×")
        away.setAccessibleName(tr("Take away the note “{text}”", text=note.text[:40]))
        away.clicked.connect(partial(self._remove, number))
        box.addWidget(words, 1)
        box.addWidget(away, 0, Qt.AlignmentFlag.AlignTop)
        return row

    def _remove(self, number: int, _checked: bool = False) -> None:
        tag, segment_id = self._desk.tag, self._desk.segment_id
        self._desk.apply("Take a note away", lambda project: remove_note(project, tag, segment_id, number))

    def _flip_notes(self, wanted: bool) -> None:
        self._open_for = self._desk.segment_id if wanted else ""
        self.field.setVisible(wanted)
        if wanted:
            self.field.setFocus()

    def begin_note(self) -> None:
        """Put the keyboard where a note is written."""
        if self._desk.version is not None and self._desk.segment_id:
            self.note.setChecked(True)
            self._flip_notes(True)

    def _fill_menu(self) -> None:
        """Four states and the lock, named as the actions are."""
        self._menu.clear()
        line, ratio = self._desk.line(), self.devicePixelRatioF()
        for state, action_id in _SETTLING.items():
            action = self._menu.addAction(state_icon(state, locked=False, ratio=ratio), tr(STATES[state]))
            assert action is not None
            action.setToolTip(tip(action_id))
            action.setEnabled(line is not None and line.state is not state)
            action.triggered.connect(partial(self._want, state))
        self._menu.addSeparator()
        lock = self._menu.addAction(BY_ID["lock"].words)
        assert lock is not None
        lock.triggered.connect(lambda _checked=False: self.lock_wanted.emit())

    def _want(self, state: LineState, _checked: bool = False) -> None:
        self.state_wanted.emit(state)
