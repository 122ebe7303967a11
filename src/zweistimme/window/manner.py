"""How a voice speaks: a button that says it, and the knobs behind it."""

from __future__ import annotations

from dataclasses import replace
from typing import Any, Final

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import (
    QComboBox,
    QDoubleSpinBox,
    QFormLayout,
    QMenu,
    QPushButton,
    QSpinBox,
    QToolButton,
    QWidget,
    QWidgetAction,
)

from zweistimme.engines.offers import VoiceInfo
from zweistimme.messages import msg, tr
from zweistimme.project.manner_edits import set_line_manners
from zweistimme.project.model import AS_USUAL, Manner
from zweistimme.window.bridge import Desk
from zweistimme.window.manner_words import in_few_words

_KNOBS: Final = (
    ("rate", msg("Pace"), "× ", 0.05, 2),
    ("pitch", msg("Pitch"), "× ", 0.05, 2),
    ("volume_db", msg("Level"), "", 1.0, 0),
)

_MOST_WAYS: Final = 999


class MannerButton(QToolButton):
    """Says how a voice is to speak; pressed, it shows the knobs the voice has. *chosen* once they are let go, if
    something is another."""

    chosen = pyqtSignal(object)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.manner = AS_USUAL
        self._voice: VoiceInfo | None = None
        self.knobs: dict[str, QDoubleSpinBox | QSpinBox | QComboBox] = {}
        self.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        self.setAccessibleName(tr("How the voice speaks"))
        self._menu = QMenu(self)
        self._menu.aboutToShow.connect(self.build)
        self._menu.aboutToHide.connect(self.take_over)
        self.setMenu(self._menu)

    def show_manner(self, manner: Manner, voice: VoiceInfo | None) -> None:
        """Show how it is; *voice* says which knobs there are."""
        self.manner, self._voice = manner, voice
        self.setText(in_few_words(manner))
        able = voice is not None and bool(voice.controls or len(voice.tiers) > 1 or voice.varies)
        self.setEnabled(able)
        self.setToolTip(tr("Pace, pitch, level and quality, as far as the voice has them") if able else
                        tr("This voice speaks in one way alone"))  # fmt: skip

    def build(self) -> None:
        """The knobs as they stand."""
        self._menu.clear()
        self.knobs = {}
        panel = QWidget()
        form = QFormLayout(panel)
        for name, words, prefix, step, decimals in _KNOBS:
            control = self._voice.control(name) if self._voice else None
            if control is None:
                continue
            box = QDoubleSpinBox()
            box.setPrefix(prefix)
            box.setSuffix(" dB" if name == "volume_db" else "")
            box.setDecimals(decimals)
            box.setSingleStep(step)
            box.setRange(control.least, control.most)
            box.setValue(getattr(self.manner, name))
            form.addRow(words, box)
            self.knobs[name] = box
        tiers = self._voice.tiers if self._voice else ()
        if len(tiers) > 1:
            choice = QComboBox()
            choice.addItems([tier.name for tier in tiers])
            choice.setCurrentText(self.manner.tier or tiers[0].name)
            form.addRow(tr("Quality"), choice)
            self.knobs["tier"] = choice
        if self._voice is not None and self._voice.varies:
            way = QSpinBox()
            way.setRange(0, _MOST_WAYS)
            way.setSpecialValueText(tr("as it comes"))
            way.setValue(self.manner.seed)
            way.setToolTip(tr("A voice that varies says a line in another way for each number"))
            form.addRow(tr("Way"), way)
            self.knobs["seed"] = way
        usual = QPushButton(tr("As usual"))
        usual.clicked.connect(self._as_usual)
        form.addRow(usual)
        action = QWidgetAction(self._menu)
        action.setDefaultWidget(panel)
        self._menu.addAction(action)

    def take_over(self) -> None:
        """What the knobs say now becomes the manner."""
        values: dict[str, Any] = {}
        for name, knob in self.knobs.items():
            if isinstance(knob, QSpinBox):
                values[name] = knob.value()
            elif isinstance(knob, QDoubleSpinBox):
                values[name] = round(knob.value(), 3)
            elif knob.currentIndex() > 0 or self.manner.tier:
                values[name] = knob.currentText()
        manner = replace(self.manner, **values)
        if manner != self.manner:
            self.chosen.emit(manner)

    def _as_usual(self) -> None:
        self.knobs = {}
        self._menu.close()
        if self.manner != AS_USUAL:
            self.chosen.emit(AS_USUAL)


class LineManner(MannerButton):
    """How the selected line, or all that are chosen, are spoken, on top of how their speakers speak."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self._desk = desk
        self.chosen.connect(self._set)

    def refresh(self, voice: VoiceInfo | None) -> None:
        """Show the selected line's."""
        line = self._desk.line()
        self.show_manner(line.manner if line else AS_USUAL, voice if line else None)

    def _set(self, manner: Manner) -> None:
        tag, ids = self._desk.tag, self._desk.chosen_ids() or [self._desk.segment_id]
        self._desk.apply("How a line is spoken", lambda project: set_line_manners(project, tag, ids, manner))
