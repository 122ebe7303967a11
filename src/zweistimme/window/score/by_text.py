"""The Score by text: every line as high as its words need, one under the other, for reading and reviewing a whole
programme. The same lines, selection and keys as by time."""

from __future__ import annotations

from bisect import bisect_right
from typing import Final

from PyQt6.QtCore import QItemSelection, QItemSelectionModel, QModelIndex, QPoint, QRect, Qt, pyqtSignal
from PyQt6.QtGui import QContextMenuEvent, QMouseEvent, QPainter, QPaintEvent, QResizeEvent, QShowEvent
from PyQt6.QtWidgets import QAbstractItemView, QHeaderView, QTableView, QWidget

from zweistimme.messages import tr
from zweistimme.window.bridge import Desk
from zweistimme.window.score.drops import ClipDrops
from zweistimme.window.score.in_place import InPlace
from zweistimme.window.score.lines_delegate import LinesDelegate
from zweistimme.window.score.lines_model import Column, LinesModel
from zweistimme.window.theme import colour, px
from zweistimme.window.writing import Kind, Place

_AROUND: Final = 40
"""Rows above and below what is seen that are as high as they need already."""


def _runs(rows: list[int]) -> list[tuple[int, int]]:
    """Sorted numbers as runs of neighbours: a selection of ten thousand ranges would be merged range by range.

    >>> _runs([1, 2, 3, 7])
    [(1, 3), (7, 7)]
    """
    runs: list[tuple[int, int]] = []
    for row in rows:
        first = runs.pop()[0] if runs and runs[-1][1] == row - 1 else row
        runs.append((first, row))
    return runs


class LinesView(QTableView):
    """Reads downwards, as dense as the words are."""

    menu_wanted = pyqtSignal(str, QPoint)
    split_wanted = pyqtSignal(str, int)
    """A segment's id, and the number of the word before which it should be split."""
    typed = pyqtSignal(str)
    """The dub's wording, while it is written in its row."""
    looked = pyqtSignal(float, float)
    """The stretch of time whose lines are seen, in microseconds."""

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._desk = desk
        self.lines = LinesModel(desk, self)
        self._delegate = LinesDelegate(desk, self.lines)
        self._fitting = self._taking_over = self._sifted = False
        self.setModel(self.lines)
        self.setItemDelegate(self._delegate)
        self.setAccessibleName(tr("Lines of the programme: time, speaker, original, fit, dub"))
        self.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        self.setVerticalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.setFrameShape(QTableView.Shape.NoFrame)
        self.setShowGrid(False)
        self.setTabKeyNavigation(False)
        self.setProperty("ownKeys", "none")  # its keys are those of the Score
        self._set_columns()
        canvas = self.viewport()
        assert canvas is not None
        canvas.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)  # so that scrolling moves what is painted already
        self.drops = ClipDrops(canvas, self._segment_at)
        self._in_place = InPlace(desk, canvas, self._box_of, self.show_segment, self.typed.emit)
        self.editor = self._in_place.editor
        self.editor.left.connect(self.setFocus)
        self.editor.split.connect(self.split_wanted)
        self._connect()

    def _set_columns(self) -> None:
        heads, sides = self.horizontalHeader(), self.verticalHeader()
        assert heads is not None
        assert sides is not None
        for column in Column:
            stretched = column in (Column.ORIGINAL, Column.DUB, Column.BESIDE)
            mode = QHeaderView.ResizeMode.Stretch if stretched else QHeaderView.ResizeMode.Fixed
            heads.setSectionResizeMode(column, mode)
        for column, width in ((Column.NUMBER, 44), (Column.TIME, 62), (Column.SPEAKER, 76), (Column.FIT, 64)):
            heads.resizeSection(column, px(width))
        heads.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft)
        heads.setHighlightSections(False)
        self.setColumnHidden(Column.BESIDE, True)
        sides.hide()
        sides.setMinimumSectionSize(px(22))
        sides.setDefaultSectionSize(px(40))

    def _connect(self) -> None:
        bar, chosen = self.verticalScrollBar(), self.selectionModel()
        assert bar is not None
        assert chosen is not None
        bar.valueChanged.connect(lambda _value: self._scrolled())
        chosen.selectionChanged.connect(self._selection_made)
        desk = self._desk
        desk.changed.connect(lambda _change: self.refresh())
        desk.version_changed.connect(lambda _tag: self.refresh())
        desk.selected.connect(lambda _id: self._take_over_choice())
        desk.chosen_changed.connect(self._take_over_choice)
        desk.sifting.changed.connect(self.refresh)

    # what is shown

    def paintEvent(self, event: QPaintEvent | None) -> None:
        """Paint the ground where no line is, then the lines."""
        canvas = self.viewport()
        if event is not None and canvas is not None:
            with QPainter(canvas) as painter:
                painter.fillRect(event.rect(), colour("card"))
        super().paintEvent(event)

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self.refresh()
        self.show_segment(self._desk.segment_id)
        self.look()

    def refresh(self) -> None:
        """Take over the project as it is, if anybody sees it."""
        if self.isVisible():
            self.lines.follow()
            self._sift()
            self._take_over_choice()
            self._fit_rows()
        self._in_place.follow()

    def _sift(self) -> None:
        """Show the lines that are looked at, and the one somebody is at."""
        kept, here = self._desk.sifting.kept, self._desk.segment_id
        if kept is None and not self._sifted:
            return
        self._sifted = kept is not None
        for row in range(self.lines.rowCount()):
            segment_id = self.lines.segment(row).id
            self.setRowHidden(row, kept is not None and segment_id not in kept and segment_id != here)

    def put_beside(self, tag: str) -> None:
        """Have the wordings of another version beside, or (empty) of none."""
        self.lines.beside = tag
        self.setColumnHidden(Column.BESIDE, not tag)
        self.lines.headerDataChanged.emit(Qt.Orientation.Horizontal, Column.BESIDE, Column.BESIDE)
        self._fit_rows()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._fit_rows()

    def _scrolled(self) -> None:
        self._fit_rows()
        self._in_place.follow()
        self.look()

    def look(self) -> None:
        """Say which stretch is seen, if this view is."""
        if not self.isVisible():
            return
        first, last = self._rows_in_sight()
        if last >= first:
            self.looked.emit(float(self.lines.segment(first).start_us), float(self.lines.segment(last).end_us))

    def _rows_in_sight(self) -> tuple[int, int]:
        canvas = self.viewport()
        assert canvas is not None
        first, last = self.rowAt(0), self.rowAt(canvas.height() - 1)
        return max(0, first), last if last >= 0 else self.lines.rowCount() - 1

    def _fit_rows(self) -> None:
        """Make what is seen, and what is near it, as high as its words need; what is at the top stays there."""
        if self._fitting or not self.isVisible() or not self.lines.rowCount():
            return
        self._fitting = True
        top, last = self._rows_in_sight()
        offset = self.rowViewportPosition(top)
        widths = {column: self.columnWidth(column) for column in (Column.ORIGINAL, Column.DUB, Column.BESIDE)}
        for row in range(max(0, top - _AROUND), min(self.lines.rowCount(), last + _AROUND)):
            if self.isRowHidden(row):
                continue
            height = self._delegate.height(row, widths)
            if self.rowHeight(row) != height:
                self.setRowHeight(row, height)
        bar = self.verticalScrollBar()
        if bar is not None and self.rowViewportPosition(top) != offset:
            bar.setValue(bar.value() + self.rowViewportPosition(top) - offset)
        self._fitting = False

    def show_segment(self, segment_id: str) -> None:
        """Scroll as little as needed to have a line in sight."""
        row = self._desk.place(segment_id)
        if row is not None and row < self.lines.rowCount() and self.isVisible():
            self.scrollTo(self.lines.index(row, 0))
            self._fit_rows()
            self.scrollTo(self.lines.index(row, 0))

    def centre_on(self, time_us: float) -> None:
        """Scroll so that the line at a time is in the middle."""
        row = self._row_at(time_us)
        if row >= 0:
            self.scrollTo(self.lines.index(row, 0), QAbstractItemView.ScrollHint.PositionAtCenter)

    def show_playhead(self, time_us: float, *, follow: bool) -> None:
        """Mark the line at the playhead; *follow* scrolls to it when there is another."""
        row = self._row_at(time_us)
        if row == self._delegate.heard_row:
            return
        self._delegate.heard_row = row
        canvas = self.viewport()
        assert canvas is not None
        canvas.update(0, 0, self.columnWidth(Column.NUMBER), canvas.height())
        if follow and row >= 0 and not self._desk.writing.going_on:
            self.scrollTo(self.lines.index(row, 0))

    def _row_at(self, time_us: float) -> int:
        return bisect_right(self._desk.project.segments, time_us, key=lambda segment: segment.start_us) - 1

    # what is chosen

    def _take_over_choice(self) -> None:
        """Show what the desk has chosen."""
        chosen = self.selectionModel()
        if not self.isVisible() or chosen is None or self._taking_over:
            return
        self._taking_over = True
        places = map(self._desk.place, self._desk.chosen)
        rows = sorted(row for row in places if row is not None and row < self.lines.rowCount())
        selection = QItemSelection()
        for first, last in _runs(rows):
            selection.select(self.lines.index(first, 0), self.lines.index(last, len(Column) - 1))
        chosen.select(selection, QItemSelectionModel.SelectionFlag.ClearAndSelect)
        here = self._desk.place(self._desk.segment_id)
        if here is not None and here < self.lines.rowCount():
            chosen.setCurrentIndex(self.lines.index(here, Column.DUB), QItemSelectionModel.SelectionFlag.NoUpdate)
        self._taking_over = False
        canvas = self.viewport()
        assert canvas is not None
        canvas.update()

    def _selection_made(self) -> None:
        """Somebody has chosen lines here."""
        chosen = self.selectionModel()
        if self._taking_over or chosen is None:
            return
        self._taking_over = True
        ids = [self.lines.segment(index.row()).id for index in chosen.selectedRows()]
        current = chosen.currentIndex()
        if len(ids) == 1:
            self._desk.select(ids[0])
        elif ids:
            if current.isValid():
                self._desk.select(self.lines.segment(current.row()).id)
            self._desk.choose(ids)
        self._taking_over = False

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        index = self.indexAt(event.position().toPoint()) if event else QModelIndex()
        if index.isValid():
            self._desk.select(self.lines.segment(index.row()).id)
            self.edit_side("original" if index.column() == Column.ORIGINAL else "dub")

    def contextMenuEvent(self, event: QContextMenuEvent | None) -> None:
        if event is None:
            return
        index = self.indexAt(event.pos())
        kinds = {Column.ORIGINAL: "original", Column.FIT: "ribbon", Column.DUB: "dub"}
        self.menu_wanted.emit(
            kinds.get(Column(index.column()), "original") if index.isValid() else "nothing", event.globalPos()
        )

    def _segment_at(self, at: QPoint) -> str:
        row, segments = self.indexAt(at).row(), self._desk.project.segments
        return segments[row].id if 0 <= row < len(segments) else ""

    # writing in place

    def edit_side(self, side: str) -> None:
        """Write the selected line in place; *side* is "original" or "dub"."""
        self._in_place.begin(side)

    def _box_of(self, place: Place) -> QRect | None:
        row = self._desk.place(place.key)
        if row is None or row >= self.lines.rowCount():
            return None
        column = Column.ORIGINAL if place.kind is Kind.ORIGINAL else Column.DUB
        box = self.visualRect(self.lines.index(row, column))
        words = self.editor.document()
        lines = round(words.size().height()) if words is not None and self.editor.place == place else 2
        height = lines * self.editor.fontMetrics().lineSpacing() + px(14)
        return QRect(box.left(), box.top(), box.width(), max(box.height(), height))
