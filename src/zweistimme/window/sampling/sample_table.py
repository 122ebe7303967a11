"""The samples: which of them are used, how good they are, what is said in them."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Final

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QAbstractItemView, QTableWidgetItem, QVBoxLayout, QWidget

from zweistimme.messages import msg, number, tr
from zweistimme.project.model import Segment
from zweistimme.project.times import clock
from zweistimme.stages.samples import Sample
from zweistimme.window.layouts import list_table

_HEADS: Final = (msg("From"), msg("Seconds"), msg("Over noise"), msg("Tone"), msg("What is said"))
_FROM, _SECONDS, _NOISE, _TONE, _TEXT = range(5)


class SampleTable(QWidget):
    """A row for each sample; those that are ticked are used."""

    changed = pyqtSignal()
    heard = pyqtSignal(object)
    """A sample to be played."""

    def __init__(self) -> None:
        super().__init__()
        self._samples: list[Sample] = []
        self.table = list_table([tr(words) for words in _HEADS], tr("Samples of the voice"), (_TEXT,))
        self.table.setEditTriggers(
            QAbstractItemView.EditTrigger.DoubleClicked | QAbstractItemView.EditTrigger.EditKeyPressed
        )
        self.table.itemChanged.connect(self._take_over)
        self.table.cellActivated.connect(lambda row, column: self._hear(row) if column < _TONE else None)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(self.table)

    @property
    def samples(self) -> list[Sample]:
        """All of them."""
        return list(self._samples)

    def wanted(self) -> list[Sample]:
        """Those that are ticked."""
        return [one for row, one in enumerate(self._samples) if self._is_ticked(row)]

    def _is_ticked(self, row: int) -> bool:
        item = self.table.item(row, _FROM)
        return item is not None and item.checkState() is Qt.CheckState.Checked

    def add(self, samples: Sequence[Sample], segments: Mapping[str, Segment]) -> None:
        """More samples behind those that are there; poor ones are not ticked."""
        for one in samples:
            self._samples.append(one)
            self._fill(one, segments.get(one.source))
        self.changed.emit()

    def put_texts(self, samples: Sequence[Sample]) -> None:
        """What is said in them, where it was not known."""
        texts = {id(one.samples): one.text for one in samples}
        for row, one in enumerate(self._samples):
            item = self.table.item(row, _TEXT)
            if item is not None and not one.text and texts.get(id(one.samples)):
                item.setText(texts[id(one.samples)])

    def clear(self) -> None:
        """Let go of all."""
        self._samples = []
        self.table.setRowCount(0)
        self.changed.emit()

    def _fill(self, one: Sample, segment: Segment | None) -> None:
        row = self.table.rowCount()
        self.table.blockSignals(True)
        self.table.setRowCount(row + 1)
        place = clock(segment.start_us) if segment is not None else one.source
        noise = tr("{db} dB", db=number(one.snr_db, ".0f")) + (" · " + tr("cut off at the top") if one.clipped else "")
        for column, words in enumerate((place, number(one.seconds, ".1f"), noise, tr(one.tone or "plain"), one.text)):
            item = QTableWidgetItem(words)
            item.setToolTip(words)
            if column < _TONE:
                item.setFlags(item.flags() & ~Qt.ItemFlag.ItemIsEditable)
            self.table.setItem(row, column, item)
        first = self.table.item(row, _FROM)
        if first is not None:
            first.setCheckState(Qt.CheckState.Unchecked if one.poor else Qt.CheckState.Checked)
        self.table.blockSignals(False)

    def _take_over(self, item: QTableWidgetItem) -> None:
        row, words = item.row(), item.text().strip()
        if not 0 <= row < len(self._samples):
            return
        if item.column() == _TEXT:
            self._samples[row] = replace(self._samples[row], text=words)
        elif item.column() == _TONE:
            plain = words.casefold() in ("", tr("plain").casefold())
            self._samples[row] = replace(self._samples[row], tone="" if plain else words)
        self.changed.emit()

    def _hear(self, row: int) -> None:
        if 0 <= row < len(self._samples):
            self.heard.emit(self._samples[row].samples)
