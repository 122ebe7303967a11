"""Find and replace: every place is seen as it is and as it would be, and can be left out."""

from __future__ import annotations

from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QPushButton,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from zweistimme.messages import msg, tr
from zweistimme.project.find_replace import ORIGINAL, Hit, Search, found, replace_found
from zweistimme.project.languages import own_name
from zweistimme.project.times import clock
from zweistimme.window.bridge import Desk
from zweistimme.window.layouts import list_table
from zweistimme.window.theme import SMALL_PT, font, px

NAME = msg("Find and replace")
_MOST_ROWS = 400
_REST_MS = 180
_BEFORE = 16


class FindPanel(QWidget):
    """Looks while one types."""

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._desk = desk
        self.hits: list[Hit] = []
        self._search: Search | None = None
        self._left_out: set[tuple[str, str]] = set()
        self.what, self.instead = QLineEdit(), QLineEdit()
        self.what.setPlaceholderText(tr("find"))
        self.instead.setPlaceholderText(tr("replace by"))
        self.what.setAccessibleName(tr("What to find"))
        self.instead.setAccessibleName(tr("What to put in its place"))
        self.where = QComboBox()
        self.where.setAccessibleName(tr("Where to look"))
        self.same_case, self.whole_words = QCheckBox(tr("same case")), QCheckBox(tr("whole words"))
        self.go = QPushButton(tr("Replace"))
        self.go.clicked.connect(self.replace)
        self.count = QLabel()
        self.count.setFont(font(SMALL_PT))
        self.count.setWordWrap(True)
        for edit in (self.what, self.instead):
            edit.setMinimumWidth(px(90))
        row = QHBoxLayout()
        row.setSpacing(8)
        row.addWidget(self.what, 2)
        row.addWidget(self.instead, 2)
        for widget in (self.where, self.same_case, self.whole_words, self.go):
            row.addWidget(widget)
        self.table = list_table([tr("At"), tr("In"), tr("Now"), tr("After")], tr("Places found"), (2, 3))
        upright = self.table.verticalHeader()
        assert upright is not None
        upright.setDefaultSectionSize(22)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(5)
        column.addLayout(row)
        column.addWidget(self.table, 1)
        column.addWidget(self.count)
        self.setFocusProxy(self.what)
        self._rest = QTimer(self)
        self._rest.setSingleShot(True)
        self._rest.setInterval(_REST_MS)
        self._rest.timeout.connect(self.look)
        for edit in (self.what, self.instead):
            edit.textChanged.connect(lambda _text: self._rest.start())
        self.what.returnPressed.connect(self.look)
        self.where.activated.connect(self.look)
        for box in (self.same_case, self.whole_words):
            box.toggled.connect(self.look)
        self.table.currentCellChanged.connect(lambda row, *_: self._go_to(row))
        self.table.itemChanged.connect(self._ticked)
        desk.changed.connect(lambda _change: self._rest.start() if self.isVisible() else None)

    def showEvent(self, event: object) -> None:
        self._fill_places()
        self.what.selectAll()
        self.look()

    def _fill_places(self) -> None:
        before = self.where.currentData()
        self.where.clear()
        tags = list(self._desk.project.versions)
        self.where.addItem(tr("the original"), (ORIGINAL,))
        for tag in tags:
            self.where.addItem(own_name(tag, region=False), (tag,))
        if tags:
            self.where.addItem(tr("everywhere"), (ORIGINAL, *tags))
        place = next((k for k in range(self.where.count()) if self.where.itemData(k) == before), 0)
        self.where.setCurrentIndex(place)

    def look(self) -> None:
        """Find, and show what would be."""
        self._rest.stop()
        project = self._desk.project
        search = Search(
            self.what.text(),
            self.instead.text(),
            same_case=self.same_case.isChecked(),
            whole_words=self.whole_words.isChecked(),
            places=tuple(self.where.currentData() or (ORIGINAL,)),
        )
        if search != self._search:
            self._search, self._left_out = search, set()
        self.hits = found(project, search)
        starts = {segment.id: segment.start_us for segment in project.segments}
        self.table.blockSignals(True)
        self.table.setRowCount(min(len(self.hits), _MOST_ROWS))
        for row, hit in enumerate(self.hits[:_MOST_ROWS]):
            where = own_name(hit.tag, region=False) if hit.tag else tr("original")
            cells = (clock(starts[hit.segment_id]), where, *_around(hit))
            for place, text in enumerate(cells):
                item = QTableWidgetItem(text)
                item.setToolTip(hit.after if place == 3 else hit.before)
                if place == 0:
                    item.setFlags(item.flags() | Qt.ItemFlag.ItemIsUserCheckable)
                    left_out = (hit.tag, hit.segment_id) in self._left_out
                    item.setCheckState(Qt.CheckState.Unchecked if left_out else Qt.CheckState.Checked)
                self.table.setItem(row, place, item)
        self.table.blockSignals(False)
        self._show_count()

    def _ticked(self, item: QTableWidgetItem) -> None:
        """Remember what is left out: the list is made anew whenever something changes."""
        hit = self.hits[item.row()]
        if item.checkState() == Qt.CheckState.Checked:
            self._left_out.discard((hit.tag, hit.segment_id))
        else:
            self._left_out.add((hit.tag, hit.segment_id))
        self._show_count()

    def _wanted(self) -> list[Hit]:
        """Hits that are not left out; those beyond what is shown are in."""
        return [hit for hit in self.hits if (hit.tag, hit.segment_id) not in self._left_out]

    def _show_count(self) -> None:
        wanted = self._wanted()
        places = sum(len(hit.spans) for hit in wanted)
        self.go.setEnabled(bool(wanted))
        self.go.setText(tr("Replace {places}", places=places) if places else tr("Replace"))
        more = len(self.hits) - _MOST_ROWS
        if not self.what.text().strip():
            self.count.setText(tr("Type what to find. Nothing is changed before Replace is pressed."))
        elif not self.hits:
            self.count.setText(tr("Found nowhere."))
        else:
            texts = tr(
                "{chosen} of {count} texts chosen; places: {places}.",
                chosen=len(wanted),
                count=len(self.hits),
                places=places,
            )
            self.count.setText(
                tr("{texts} {more:,} texts more than are shown here.", texts=texts, more=more) if more > 0 else texts
            )

    def _go_to(self, row: int) -> None:
        if 0 <= row < len(self.hits):
            self._desk.select(self.hits[row].segment_id)

    def replace(self) -> None:
        """Replace what is chosen, as one edit."""
        wanted = self._wanted()
        places = sum(len(hit.spans) for hit in wanted)
        if wanted and self._desk.apply("Replace text", lambda project: replace_found(project, wanted)):
            self._desk.notice("done", tr("Replaced in {n:place|places}.", n=places))
            self.look()


def _around(hit: Hit) -> tuple[str, str]:
    """The text as it is and as it would be, from a few words before the first place on."""
    start = hit.before.rfind(" ", 0, max(0, hit.spans[0][0] - _BEFORE)) + 1
    more = "… " if start else ""
    return more + hit.before[start:], more + hit.after[start:]
