"""The table of auditions: a row for the original, one for each voice; a column for each line, and how the voice
stands."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from functools import partial

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QAction, QKeyEvent, QKeySequence
from PyQt6.QtWidgets import QAbstractItemView, QHeaderView, QTableWidget, QTableWidgetItem

from zweistimme.messages import number, tr
from zweistimme.project.auditions import BEST, Audition, Standing
from zweistimme.project.times import clock
from zweistimme.window.auditions.sheet import Sheet
from zweistimme.window.bridge import Desk
from zweistimme.window.theme import px


class AuditionTable(QTableWidget):
    """Shows a sheet; its keys are its own."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self._desk = desk
        self._sheet: Sheet | None = None
        self._rows: tuple[str, ...] = ()
        self._blind = False
        self._keys: dict[Qt.Key, Callable[[], object]] = {}
        self.setAccessibleName(tr("Auditions: voices downwards, lines across"))
        self.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        self.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.setTabKeyNavigation(False)
        self.setShowGrid(False)
        self.setContextMenuPolicy(Qt.ContextMenuPolicy.ActionsContextMenu)
        self.setProperty("ownKeys", "auditions")
        sides, heads = self.verticalHeader(), self.horizontalHeader()
        assert sides is not None
        assert heads is not None
        sides.hide()
        sides.setMinimumSectionSize(px(20))
        sides.setDefaultSectionSize(px(24))
        heads.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)

    def bind(self, acts: Mapping[Qt.Key, tuple[str, Callable[[], object]]], score: Callable[[int], object]) -> None:
        """What its keys do; they stand in its menu, too. The numbers *score*."""
        for key, (words, act) in acts.items():
            self._keys[key] = act
            self._offer(words, QKeySequence(key).toString(QKeySequence.SequenceFormat.NativeText), act)
        for value in range(BEST + 1):
            self._keys[Qt.Key(Qt.Key.Key_0.value + value)] = partial(score, value)
            words = tr("Score {score} of {best}", score=value, best=BEST) if value else tr("No score")
            self._offer(words, str(value), partial(score, value))

    def _offer(self, words: str, key: str, act: Callable[[], object]) -> None:
        action = QAction(f"{words}\t{key}", self)
        action.triggered.connect(lambda _on=False: act())
        self.addAction(action)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Its own keys come first."""
        plain = (Qt.KeyboardModifier.NoModifier, Qt.KeyboardModifier.KeypadModifier)
        act = self._keys.get(Qt.Key(event.key())) if event is not None and event.modifiers() in plain else None
        if act is not None:
            act()
        else:
            super().keyPressEvent(event)

    # showing

    def show_sheet(self, sheet: Sheet | None, *, blind: bool) -> None:
        """Show it; one stays in the same cell."""
        here = self.place()
        self._sheet, self._blind = sheet, blind
        lines = sheet.lines if sheet else ()
        self._rows = ("", *sheet.voices) if sheet and lines else ()
        self.blockSignals(True)
        self.setColumnCount(len(lines) + 2 if lines else 0)
        self.setRowCount(len(self._rows))
        if sheet is not None and lines:
            self._fill(sheet)
            self._return_to(here)
        self.blockSignals(False)

    def _fill(self, sheet: Sheet) -> None:
        version = self._desk.version
        heads = [tr("Voice")]
        for segment in sheet.lines:
            why = sheet.telling.get(segment.id)
            heads.append(" · ".join(filter(None, (clock(segment.start_us), tr(why.value) if why else ""))))
        self.setHorizontalHeaderLabels([*heads, tr("Stands at")])
        for place, segment in enumerate(sheet.lines, 1):
            line = version.lines.get(segment.id) if version else None
            head = self.horizontalHeaderItem(place)
            if head is not None:
                head.setToolTip(line.text if line else segment.text)
        for row, voice in enumerate(self._rows):
            self._put(row, 0, self.voice_name(voice) if voice else tr("Original"), about=self._about(voice))
            for column, segment in enumerate(sheet.lines, 1):
                one = sheet.at(voice, segment.id) if voice else None
                self._put(row, column, _cell(one, original=not voice), about=_thought(one))
            self._put(row, len(sheet.lines) + 1, _standing(sheet.standing.get(voice)))
        across = self.horizontalHeader()
        assert across is not None
        across.setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
        across.setSectionResizeMode(len(sheet.lines) + 1, QHeaderView.ResizeMode.Stretch)

    def _put(self, row: int, column: int, words: str, about: str = "") -> None:
        item = QTableWidgetItem(words)
        item.setToolTip(about or words)
        self.setItem(row, column, item)

    def voice_name(self, ref: str) -> str:
        """What a voice is called; by a letter where nobody is to know which it is."""
        if self._blind and ref in self._rows:
            return tr("Voice {letter}", letter=chr(ord("A") + (self._rows.index(ref) - 1) % 26))
        voice = self._desk.book.voice(ref)
        version, sheet = self._desk.version, self._sheet
        cast = version is not None and sheet is not None and version.cast.get(sheet.speaker) == ref
        name = voice.name if voice else ref
        return tr("{voice} (cast)", voice=name) if cast else name

    def _about(self, ref: str) -> str:
        voice = None if self._blind or not ref else self._desk.book.voice(ref)
        return " · ".join(filter(None, (ref, tr(voice.kind), voice.about))) if voice else ""

    # where one is

    def place(self) -> tuple[str | None, int]:
        """The voice of the row one is in (empty: the original; None: no row) and which line; the first where one is
        in the voice's name."""
        row, column = self.currentRow(), self.currentColumn()
        there = self._rows[row] if 0 <= row < len(self._rows) else None
        return there, min(max(0, column - 1), self.columnCount() - 3)

    def go_to(self, voice: str, segment_id: str) -> None:
        """Go to the cell of a voice and a line."""
        lines = [segment.id for segment in self._sheet.lines] if self._sheet else []
        if voice in self._rows and segment_id in lines:
            self.setCurrentCell(self._rows.index(voice), lines.index(segment_id) + 1)

    def _return_to(self, here: tuple[str | None, int]) -> None:
        voice, column = here
        if voice in self._rows:
            self.setCurrentCell(self._rows.index(voice), min(column + 1, self.columnCount() - 2))
        elif self._rows:
            self.setCurrentCell(min(1, len(self._rows) - 1), 1)


def _cell(one: Audition | None, *, original: bool) -> str:
    """Whether there is something to be heard, and what was thought of it."""
    if original:
        return "▸"
    if one is None:
        return "…"
    return f"▸ {one.score}" if one.score else "▸"


def _thought(one: Audition | None) -> str:
    """What there is to say of a cell besides."""
    if one is None:
        return ""
    compared = one.won + one.lost
    parts = [one.text, tr("preferred in {won} of {compared}", won=one.won, compared=compared) if compared else ""]
    return " · ".join(filter(None, (*parts, one.note)))


def _standing(one: Standing | None) -> str:
    """How a voice stands: scores in the mean, and comparisons won."""
    if one is None:
        return ""
    parts = [number(one.score, ".1f") if one.score is not None else ""]
    parts.append(tr("{won} of {compared} won", won=one.won, compared=one.compared) if one.compared else "")
    return " · ".join(filter(None, parts))
