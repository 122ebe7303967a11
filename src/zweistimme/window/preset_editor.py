"""Presets of sound deliveries looked at, changed and made: a list, and the fields of the one that is chosen."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from functools import partial
from typing import Any, Final

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QDoubleSpinBox,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from zweistimme.messages import msg_act, tr
from zweistimme.project.delivery_edits import put_preset, remove_preset
from zweistimme.project.sound_delivery import (
    BITS,
    PRESETS,
    RATES,
    Channels,
    LoudnessOf,
    Part,
    SoundForm,
    SoundPreset,
    preset_problem,
    presets_of,
)
from zweistimme.window.bridge import Desk
from zweistimme.window.preset_words import CHANNELS, FORMS, OF, PARTS, in_short
from zweistimme.window.theme import px, tint

_NAME: Final = int(Qt.ItemDataRole.UserRole)


class PresetEditor(QWidget):
    """What a preset is is changed field by field, and kept under its name: ours stay, a changed one is the
    project's."""

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._desk = desk
        self.list, self.name = QListWidget(), QLineEdit()
        self.list.setAccessibleName(tr("Presets"))
        self.list.setWordWrap(True)
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.currentItemChanged.connect(lambda *_: self._show_chosen())
        self.name.setAccessibleName(tr("Name of the preset"))
        self.loudness, self.peak = _figure(-40, -8, " LUFS"), _figure(-12, 0, " dBTP")
        self.range = _figure(0, 60, " LU")
        self.range.setSpecialValueText(tr("any"))
        self.bit_rate = _figure(0, 640, " kbit/s", decimals=0)
        self.bit_rate.setSpecialValueText(tr("as usual"))
        self.of, self.channels, self.form = _choice(OF), _choice(CHANNELS), _choice(FORMS)
        self.rate = _choice({one: f"{one} Hz" for one in RATES})
        self.bits = _choice({one: tr("{bits} bits", bits=one) for one in BITS})
        self.parts = {part: QCheckBox(tr(words)) for part, words in PARTS.items()}
        self.problem = QLabel()
        self.problem.setWordWrap(True)
        tint(self.problem, "hard")
        self.keep, self.remove = QPushButton(tr("Keep it")), QPushButton(tr("Remove"))
        self.keep.clicked.connect(lambda _on: self._keep())
        self.remove.clicked.connect(lambda _on: self._remove())
        self._lay_out()

    def _lay_out(self) -> None:
        grid = QGridLayout()
        grid.setVerticalSpacing(px(3))
        rows = (
            ((tr("Name"), self.name), (tr("Form"), self.form)),
            ((tr("Loudness"), self.loudness), (tr("of"), self.of)),
            ((tr("True peak"), self.peak), (tr("Range up to"), self.range)),
            ((tr("Channels"), self.channels), (tr("Samples a second"), self.rate)),
            ((tr("Bits"), self.bits), (tr("Bit rate"), self.bit_rate)),
        )
        for row, fields in enumerate(rows):
            for place, (words, field) in enumerate(fields):
                label = QLabel(words)
                label.setBuddy(field)
                field.setAccessibleName(words)
                field.setMinimumHeight(px(26))
                grid.addWidget(label, row, 2 * place)
                grid.addWidget(field, row, 2 * place + 1)
        parts = QHBoxLayout()
        for box in self.parts.values():
            parts.addWidget(box)
        parts.addStretch(1)
        below = QHBoxLayout()
        below.addWidget(self.problem, 1)
        below.addWidget(self.remove)
        below.addWidget(self.keep)
        right = QVBoxLayout()
        right.addLayout(grid)
        right.addLayout(parts)
        right.addLayout(below)
        right.addStretch(1)
        whole = QHBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.addWidget(self.list, 3)
        whole.addLayout(right, 4)

    def refresh(self) -> None:
        """List what there is, the chosen one still chosen."""
        known, chosen = presets_of(self._desk.project.presets), self.chosen()
        self.list.blockSignals(True)
        self.list.clear()
        for name, preset in known.items():
            own = "  ·  " + tr("own") if name in self._desk.project.presets else ""
            item = QListWidgetItem(f"{name}{own}\n{in_short(preset)}")
            item.setData(_NAME, name)
            self.list.addItem(item)
        self.list.blockSignals(False)
        self.list.setCurrentRow(list(known).index(chosen) if chosen in known else 0)

    def chosen(self) -> str:
        """The name of the preset that is chosen."""
        item = self.list.currentItem()
        return str(item.data(_NAME)) if item is not None else ""

    def _show_chosen(self) -> None:
        name = self.chosen()
        preset = presets_of(self._desk.project.presets).get(name)
        if preset is None:
            return
        self.name.setText(name)
        self.loudness.setValue(preset.loudness_lufs)
        self.peak.setValue(preset.true_peak_dbtp)
        self.range.setValue(preset.most_range_lu or 0)
        self.bit_rate.setValue(preset.bit_rate_kbit)
        for box, value in (
            (self.of, preset.loudness_of), (self.channels, preset.channels), (self.form, preset.form),
            (self.rate, preset.rate), (self.bits, preset.bits),
        ):  # fmt: skip
            box.setCurrentIndex(box.findData(value))
        for part, tick in self.parts.items():
            tick.setChecked(part in preset.parts)
        self.problem.setText("")
        own = name in self._desk.project.presets
        self.remove.setEnabled(own)
        self.remove.setText(tr("As it came") if own and name in PRESETS else tr("Remove"))

    def shown(self) -> SoundPreset:
        """What the fields say."""
        said: dict[str, Any] = {
            "loudness_lufs": self.loudness.value(), "true_peak_dbtp": self.peak.value(),
            "loudness_of": LoudnessOf(self.of.currentData()), "most_range_lu": self.range.value() or None,
            "channels": Channels(self.channels.currentData()), "rate": self.rate.currentData(),
            "bits": self.bits.currentData(),
            "form": SoundForm(self.form.currentData()), "bit_rate_kbit": round(self.bit_rate.value()),
            "parts": tuple(part for part in Part if self.parts[part].isChecked()),
        }  # fmt: skip
        return replace(SoundPreset(), **said)

    def _keep(self) -> None:
        name, preset = self.name.text().strip(), self.shown()
        problem = preset_problem(name, preset)
        self.problem.setText(tr(problem) if problem else "")
        if problem or presets_of(self._desk.project.presets).get(name) == preset:
            return
        self._desk.apply(msg_act("Set a preset"), partial(put_preset, name=name, preset=preset))
        self.refresh()
        self.list.setCurrentRow(list(presets_of(self._desk.project.presets)).index(name))

    def _remove(self) -> None:
        name = self.chosen()
        if name in self._desk.project.presets:
            self._desk.apply(msg_act("Remove a preset"), partial(remove_preset, name=name))
            self.refresh()


def _figure(low: float, high: float, unit: str, decimals: int = 1) -> QDoubleSpinBox:
    box = QDoubleSpinBox()
    box.setRange(low, high)
    box.setDecimals(decimals)
    box.setSingleStep(0.5 if decimals else 16)
    box.setSuffix(unit)
    return box


def _choice(words: Mapping[Any, str]) -> QComboBox:
    box = QComboBox()
    for value, text in words.items():
        box.addItem(tr(text) if isinstance(text, str) else str(text), value)
    return box
