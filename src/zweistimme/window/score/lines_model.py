"""The programme as a table, a row for each line: what the Score shows by text, and what assistive technology reads."""

from __future__ import annotations

from enum import IntEnum
from typing import Any

from PyQt6.QtCore import QAbstractTableModel, QModelIndex, QObject, Qt

from zweistimme.messages import msg, number, tr
from zweistimme.project.access import changed_middle
from zweistimme.project.languages import own_name
from zweistimme.project.model import Project, Segment
from zweistimme.project.times import clock
from zweistimme.sentences import STATES
from zweistimme.window.bridge import Desk
from zweistimme.window.shown_line import ShownLine, shown_line


class Column(IntEnum):
    NUMBER = 0
    TIME = 1
    SPEAKER = 2
    ORIGINAL = 3
    FIT = 4
    DUB = 5
    BESIDE = 6
    """What another version says, if one is beside."""


_HEADS = (msg("line"), msg("time"), msg("speaker"), msg("original"), msg("fit"), msg("dub"), "")


class LinesModel(QAbstractTableModel):
    """Follows the desk; rows are segments, in order of time."""

    def __init__(self, desk: Desk, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._desk = desk
        self._segments = desk.project.segments
        self.beside = ""
        """The tag of the version whose wordings stand beside."""
        self._stood: tuple[Project | None, str] = (None, "")
        self._states: dict[str, ShownLine] = {}
        """How lines stand, as the project and the version of *stood* have it."""

    def follow(self) -> None:
        """Take over the project as it is; rows come and go where segments do."""
        before, segments = self._segments, self._desk.project.segments
        _, last, other = changed_middle(before, segments)
        at = min(last, other)
        if other > last:
            self.beginInsertRows(QModelIndex(), at, other - 1)
            self._segments = segments
            self.endInsertRows()
        elif last > other:
            self.beginRemoveRows(QModelIndex(), at, last - 1)
            self._segments = segments
            self.endRemoveRows()
        self._segments = segments
        if segments:  # lines change without their segments, so all may have
            self.dataChanged.emit(self.index(0, 0), self.index(len(segments) - 1, len(_HEADS) - 1))

    def segment(self, row: int) -> Segment:
        """The segment of a row."""
        return self._segments[row]

    def beside_text(self, segment: Segment) -> str:
        """What the version beside says."""
        version = self._desk.project.versions.get(self.beside)
        line = version.lines.get(segment.id) if version else None
        return line.text if line else ""

    def state(self, row: int) -> ShownLine:
        """How the line of a row stands; asked for by each of its cells, and by what measures it, in every frame."""
        project, tag, segment = self._desk.project, self._desk.tag, self._segments[row]
        if self._stood[0] is not project or self._stood[1] != tag:
            self._stood, self._states = (project, tag), {}
        state = self._states.get(segment.id)
        if state is None:
            state = self._states[segment.id] = shown_line(self._desk, segment)
        return state

    def rowCount(self, parent: QModelIndex | None = None) -> int:
        return 0 if parent is not None and parent.isValid() else len(self._segments)

    def columnCount(self, _parent: QModelIndex | None = None) -> int:
        return len(_HEADS)

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        if orientation is Qt.Orientation.Horizontal and role == Qt.ItemDataRole.DisplayRole:
            return own_name(self.beside) if section == Column.BESIDE and self.beside else tr(_HEADS[section])
        return None

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        if not index.isValid() or role not in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.AccessibleTextRole):
            return None
        segment, column = self._segments[index.row()], Column(index.column())
        if column is Column.DUB:
            state = self.state(index.row())
            words = (state.text.rstrip("."), state.trouble, *state.marks)
            if role == Qt.ItemDataRole.AccessibleTextRole and state.written:
                words += (tr(STATES[state.state]), tr("locked") if state.locked else "")
            return ". ".join(filter(None, words))
        if column is Column.FIT:
            placed = self._desk.placed(segment.id)
            return f"×{number(placed[0].tempo, '.2f')}" if placed else ""
        if column is Column.BESIDE:
            return self.beside_text(segment)
        return {
            Column.NUMBER: str(index.row() + 1),
            Column.TIME: clock(segment.start_us),
            Column.SPEAKER: self._desk.project.speakers[segment.speaker_id].name,
            Column.ORIGINAL: segment.text or tr("(speech without words yet)"),
        }[column]
