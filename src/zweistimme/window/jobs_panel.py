"""What runs on the project and what was run: a fold at the foot of the desk, a table with what each run said."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from PyQt6.QtCore import QAbstractTableModel, QModelIndex, QObject, Qt
from PyQt6.QtGui import QShowEvent
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QHBoxLayout,
    QHeaderView,
    QPlainTextEdit,
    QPushButton,
    QTableView,
    QVBoxLayout,
    QWidget,
)  # fmt: skip

from zweistimme.messages import money, msg, tr, tr_act
from zweistimme.sentences import sentence_of
from zweistimme.store.run_log import RunEntry, read_runs
from zweistimme.window.bridge import Desk
from zweistimme.window.durations import about_s, took_s
from zweistimme.window.job_board import Run

_HEADS = (msg("job"), msg("how it stands"), msg("began"), msg("took"), msg("cost"))
_STATES = {
    "running": msg("cut off"),
    "done": msg("done"),
    "failed": msg("failed"),
    "stopped": msg("stopped"),
}
"""How an entry that is not running now is called."""


class JobTable(QAbstractTableModel):
    """Runs, the newest first: those on the board, then those of the log."""

    def __init__(self, desk: Desk, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._desk = desk
        self._running: list[Run] = []
        self._log: list[RunEntry] = []
        self._was_read = False

    def follow(self) -> None:
        """Show the board as it is now; the log is read again only when a run has ended."""
        now = list(reversed(self._desk.jobs.runs))
        if now == self._running and self._was_read:
            if now:
                self.dataChanged.emit(self.index(0, 0), self.index(len(now) - 1, len(_HEADS) - 1))
            return
        self.beginResetModel()
        self._running = now
        ids = {run.entry.run for run in now}
        self._log = [entry for entry in read_runs(self._desk.document.folder) if entry.run not in ids]
        self._was_read = True
        self.endResetModel()

    def run_at(self, row: int) -> Run | None:
        """The run that goes on in a row."""
        return self._running[row] if 0 <= row < len(self._running) else None

    def entry_at(self, row: int) -> RunEntry | None:
        """What is known of the run in a row."""
        if 0 <= row < len(self._running):
            return self._running[row].as_entry()
        row -= len(self._running)
        return self._log[row] if 0 <= row < len(self._log) else None

    def row_of(self, run_id: str) -> int | None:
        """Where a run stands."""
        ids = [run.entry.run for run in self._running] + [entry.run for entry in self._log]
        return ids.index(run_id) if run_id in ids else None

    def rowCount(self, parent: QModelIndex | None = None) -> int:
        return 0 if parent is not None and parent.isValid() else len(self._running) + len(self._log)

    def columnCount(self, _parent: QModelIndex | None = None) -> int:
        return len(_HEADS)

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        if orientation is Qt.Orientation.Horizontal and role == Qt.ItemDataRole.DisplayRole:
            return tr(_HEADS[section])
        return None

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        entry = self.entry_at(index.row())
        if entry is None or role != Qt.ItemDataRole.DisplayRole:
            return None
        run = self.run_at(index.row())
        return (
            tr_act(entry.name),
            _standing(run) if run else tr(_STATES.get(entry.state, entry.state)),
            f"{datetime.fromisoformat(entry.began).astimezone():%Y-%m-%d %H:%M}",
            "" if run or entry.took_s is None else took_s(entry.took_s),
            " + ".join(money(amount, currency, 4) for currency, amount in entry.spent.items()),
        )[index.column()]


class JobsPanel(QWidget):
    """The table, and what the run in its chosen row had to say."""

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._desk = desk
        self._shown = ""
        self.table, self.model = QTableView(), JobTable(desk, self)
        self.table.setModel(self.model)
        self.table.setAccessibleName(tr("What runs and what was run"))
        self.table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.table.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        self.table.setShowGrid(False)
        self.table.setTabKeyNavigation(False)
        heads, sides = self.table.horizontalHeader(), self.table.verticalHeader()
        assert heads is not None
        assert sides is not None
        heads.setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
        heads.setSectionResizeMode(0, QHeaderView.ResizeMode.Stretch)
        heads.setSectionResizeMode(1, QHeaderView.ResizeMode.Fixed)  # its words change while it runs
        heads.resizeSection(1, self.fontMetrics().horizontalAdvance(_left("100%", 39_000.0)) + 12)
        heads.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft)
        sides.hide()
        sides.setDefaultSectionSize(self.fontMetrics().height() + 6)
        self.said = QPlainTextEdit()
        self.said.setReadOnly(True)
        self.said.setTabChangesFocus(True)
        self.said.setAccessibleName(tr("What it said"))
        self.said.setPlaceholderText(tr("What a job says stands here."))
        self.stop = QPushButton(tr("Stop this job"))
        self.stop.clicked.connect(self._stop)
        right = QVBoxLayout()
        right.addWidget(self.said, 1)
        right.addWidget(self.stop, 0, Qt.AlignmentFlag.AlignLeft)
        row = QHBoxLayout(self)
        row.setContentsMargins(14, 8, 14, 8)
        row.addWidget(self.table, 3)
        row.addLayout(right, 2)
        chosen = self.table.selectionModel()
        assert chosen is not None
        chosen.currentRowChanged.connect(lambda now, _before: self._choose(now.row()))
        desk.jobs.changed.connect(self._look)
        self.setFocusProxy(self.table)

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self._look()

    def _look(self) -> None:
        if not self.isVisible():
            return
        self.model.follow()
        row = self.model.row_of(self._shown)
        if row is None:
            row = 0
        if self.table.currentIndex().row() != row:
            self.table.selectRow(row)
        self._choose(row)

    def _choose(self, row: int) -> None:
        entry, run = self.model.entry_at(row), self.model.run_at(row)
        self._shown = entry.run if entry else ""
        told = [] if entry is None else [sentence_of(finding) for finding in (*entry.said, entry.why) if finding]
        words = "\n".join(told)
        if words != self.said.toPlainText():
            self.said.setPlainText(words)
        self.stop.setEnabled(run is not None)

    def _stop(self) -> None:
        run = self.model.run_at(self.table.currentIndex().row())
        if run is not None:
            self._desk.jobs.stop(run)


def _standing(run: Run) -> str:
    left_s = run.pace.left_s
    share = f"{run.job.progress:.0%}"
    return share if left_s is None else _left(share, left_s)


def _left(share: str, left_s: float) -> str:
    return tr("{share}, {time} left", share=share, time=about_s(left_s))
