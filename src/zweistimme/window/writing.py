"""What somebody is writing: one rule for every field whose text belongs to the project.

A text belongs to the place where it was begun: this line of this version, this speaker's name. It is kept when the
field is left, before every act of a hand (the Desk asks for that), and at closing. Until then nothing that happens
elsewhere changes the field or its caret; a field in which nothing has been written shows the project as it is.
"""

from __future__ import annotations

from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass
from datetime import UTC, datetime
from enum import Enum
from pathlib import Path
from typing import Final, Protocol
from weakref import WeakSet

from PyQt6 import sip
from PyQt6.QtCore import QEvent, QObject, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QFocusEvent, QKeyEvent, QTextCursor
from PyQt6.QtWidgets import QLineEdit, QPlainTextEdit, QWidget

from zweistimme.messages import msg_act, tr
from zweistimme.project.access import find_version
from zweistimme.project.conversation import set_brief
from zweistimme.project.edits import set_direction
from zweistimme.project.errors import EditError, ZweistimmeError
from zweistimme.project.line_edits import set_line_text, set_note
from zweistimme.project.model import Project
from zweistimme.project.speaker_edits import rename_speaker
from zweistimme.project.transcript import set_segment_text
from zweistimme.project.writing import one_line
from zweistimme.store.settings import NAME, read_settings
from zweistimme.store.unkept import UnkeptText, write_unkept

Field = QPlainTextEdit | QLineEdit
_REST_MS: Final = 500


class Kind(Enum):
    """What a text is; its value is what keeping it is called."""

    ORIGINAL = msg_act("Correct the original")
    WORDING = msg_act("Write a line")
    DIRECTION = msg_act("Direct a line")
    NOTE = msg_act("Note about a line")
    NAME = msg_act("Rename a speaker")
    SUBJECT = msg_act("Say what the programme is about")
    AUDIENCE = msg_act("Say who the programme is for")
    NOTES = msg_act("Write notes on the programme")


@dataclass(frozen=True, slots=True)
class Place:
    """Where a text belongs: to the segment or speaker *key*, in the version *tag* if it is one of a version."""

    kind: Kind
    key: str
    tag: str = ""


def _line_written(project: Project, place: Place, text: str) -> Project:
    if place.key not in find_version(project, place.tag).lines and not text.strip():
        return project  # nothing was written where there was nothing
    return set_line_text(project, place.tag, place.key, text)


def _noted(project: Project, place: Place, text: str) -> Project:
    now = datetime.now(UTC).isoformat(timespec="seconds")
    return set_note(project, place.tag, place.key, note_author(), text, now)


def note_author() -> str:
    """Who writes notes at this desk."""
    return read_settings().text(NAME).strip()


_WRITTEN: Final[dict[Kind, Callable[[Project, Place, str], Project]]] = {
    Kind.ORIGINAL: lambda project, place, text: set_segment_text(project, place.key, text),
    Kind.WORDING: _line_written,
    Kind.DIRECTION: lambda project, place, text: set_direction(project, place.tag, place.key, text),
    Kind.NOTE: _noted,
    Kind.NAME: lambda project, place, text: rename_speaker(project, place.key, text),
    Kind.SUBJECT: lambda project, _place, text: set_brief(project, subject=text),
    Kind.AUDIENCE: lambda project, _place, text: set_brief(project, audience=text),
    Kind.NOTES: lambda project, _place, text: set_brief(project, notes=text),
}


def written(place: Place, text: str) -> Callable[[Project], Project]:
    """The edit that makes a text part of the project."""
    return lambda project: _WRITTEN[place.kind](project, place, text)


class _Desk(Protocol):
    """What a draft needs of the desk."""

    writing: Writing

    def text_at(self, place: Place) -> str: ...

    def store(self, label: str, edit: Callable[[Project], Project]) -> None:
        """Apply an edit; ZweistimmeError if it cannot be done."""

    def notice(self, kind: str, text: str) -> None: ...


class Writing(QObject):
    """All drafts of one desk. What rests for a moment in one of them is kept beside the project, so that it outlives
    the process."""

    def __init__(self, folder: Path, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._folder, self._beside = folder, False
        self._drafts: WeakSet[Draft] = WeakSet()
        self._rest = QTimer(self)
        self._rest.setSingleShot(True)
        self._rest.setInterval(_REST_MS)
        self._rest.timeout.connect(self._put_beside)

    def add(self, draft: Draft) -> None:
        """One more field."""
        self._drafts.add(draft)

    def keep(self) -> None:
        """Keep whatever is being written, wherever."""
        for draft in self._living():
            draft.keep()
        self._rest.stop()
        if self._beside:
            self._put_beside()

    def typed(self) -> None:
        """Somebody is at it."""
        self._rest.start()

    @property
    def going_on(self) -> bool:
        """Whether somebody has the keyboard in a text of the project."""
        return any(draft.has_keyboard for draft in self._living())

    def _living(self) -> list[Draft]:
        return [draft for draft in self._drafts if not sip.isdeleted(draft)]

    def _put_beside(self) -> None:
        texts = [
            UnkeptText(draft.place.kind.name, draft.place.key, draft.place.tag, draft.text)
            for draft in self._living()
            if draft.begun and draft.place is not None
        ]
        with suppress(OSError):  # it is still in the field
            write_unkept(self._folder, texts)
        self._beside = bool(texts)


class Draft(QObject):
    """The text of one field, between the keyboard and the project."""

    escaped = pyqtSignal()
    """Escape: the text is again as it was, and whoever wrote wants to be elsewhere."""

    def __init__(self, desk: _Desk, field: Field, holder: QWidget | None = None) -> None:
        """*holder* is what has the keyboard where it is not the field itself."""
        super().__init__(field)
        self._desk, self._field, self._holder = desk, field, holder or field
        self.place: Place | None = None
        self._base = ""
        desk.writing.add(self)
        self._holder.installEventFilter(self)
        field.textChanged.connect(desk.writing.typed)

    @property
    def text(self) -> str:
        field = self._field
        return field.text() if isinstance(field, QLineEdit) else field.toPlainText()

    @property
    def begun(self) -> bool:
        """Whether there is something written that the project does not have."""
        return self.place is not None and self.text != self._base

    @property
    def has_keyboard(self) -> bool:
        return self._holder.hasFocus()

    def show(self, place: Place, text: str) -> None:
        """Show the *text* that a place has in the project; what was written at another place is kept first."""
        if self.place != place:
            self.keep()
            self.place = place
            self._put(text)
        elif not self.begun and self.text != text and one_line(self.text) != text:
            self._put(text)

    def keep(self) -> None:
        """What was written becomes part of the project, at the place where it was begun."""
        place, text = self.place, self.text
        if place is None or text == self._base:
            return
        before, self._base = self._base, text
        try:
            self._desk.store(place.kind.value, written(place, text))
        except EditError as error:  # there is no such line any more, or a name is somebody else's
            self._desk.notice(
                "error",
                str(error) if place.kind is Kind.NAME else tr("{error} Not kept: “{text}”", error=error, text=text),
            )
            if self.place == place:
                self._put(self._desk.text_at(place))
        except ZweistimmeError as error:  # it could not be stored; it is still in the field
            self._base = before
            self._desk.notice("error", tr("{error} Not stored yet: “{text}”", error=error, text=text))

    def _settle(self) -> None:
        """A field that is left shows its text as the project has it: spaces that meant nothing are gone."""
        if self.place is not None and not self.begun and not self.has_keyboard:
            text = self._desk.text_at(self.place)
            if self.text != text:
                self._put(text)

    def drop(self) -> None:
        """Back to the text as it was; the field's own undo brings the other one back."""
        field = self._field
        if isinstance(field, QLineEdit):
            field.selectAll()
            field.insert(self._base)
        else:
            cursor = field.textCursor()
            cursor.select(QTextCursor.SelectionType.Document)
            cursor.insertText(self._base)

    def _put(self, text: str) -> None:
        """Show *text*; a caret stays between the letters it stands between, as far as these are still there."""
        field, was = self._field, self.text
        caret = field.cursorPosition() if isinstance(field, QLineEdit) else field.textCursor().position()
        field.blockSignals(True)
        if isinstance(field, QLineEdit):
            field.setText(text)
            field.setCursorPosition(_moved_caret(was, text, caret))
        else:
            field.setPlainText(text)
            cursor = field.textCursor()
            cursor.setPosition(_moved_caret(was, text, caret))
            field.setTextCursor(cursor)
        field.blockSignals(False)
        self._base = self.text

    def eventFilter(self, _field: QObject | None, event: QEvent | None) -> bool:
        """Leaving the field keeps its text; Escape takes it back, and is nobody else's while one writes."""
        if isinstance(event, QFocusEvent) and event.type() == QEvent.Type.FocusOut:
            if event.reason() != Qt.FocusReason.PopupFocusReason:
                self._desk.writing.keep()
                self._settle()
        elif isinstance(event, QKeyEvent) and event.key() == Qt.Key.Key_Escape:
            if event.type() == QEvent.Type.ShortcutOverride:
                event.accept()
                return True
            if event.type() == QEvent.Type.KeyPress:
                if self.begun:
                    self.drop()
                self.escaped.emit()
                return True
        return False


def _moved_caret(was: str, now: str, caret: int) -> int:
    """Where a caret stands once a text has become another.

    >>> _moved_caret("the tide", "the old tide", 8), _moved_caret("the tide", "the tides", 3), _moved_caret("ab", "", 1)
    (12, 3, 0)
    """
    if now.startswith(was[:caret]):
        return caret
    behind = was[caret:]
    return len(now) - len(behind) if now.endswith(behind) else min(caret, len(now))
