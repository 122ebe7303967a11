"""What every mix of the project is made to: loudness, true peak, bed, and how far what lies under the dub gives way."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import partial
from typing import Any, Final

from PyQt6.QtWidgets import QDoubleSpinBox, QWidget

from zweistimme.messages import msg, tr
from zweistimme.project.delivery_edits import set_mix
from zweistimme.window.bridge import Desk
from zweistimme.window.figure_row import FigureRow


@dataclass(frozen=True, slots=True)
class _Level:
    """A figure that mixes are made to: its name in the mix's settings, its words, its range."""

    name: str
    title: str
    about: str
    low: float
    high: float
    unit: str = " dB"


_LEVELS: Final = (
    _Level("loudness_lufs", msg("Loudness"), msg("Integrated loudness that each mix is made to"), -40.0, -8.0, " LUFS"),
    _Level("true_peak_dbtp", msg("True peak"), msg("True peak that no mix goes beyond"), -12.0, 0.0, " dBTP"),
    _Level("bed_db", msg("Bed"), msg("How much louder or softer the bed is than in its file"), -24.0, 12.0),
    _Level("duck_db", msg("Gives way by"), msg("How far what lies under the dub gives way to it"), -40.0, 0.0),
    _Level(
        "voice_over_duck_db",
        msg("in a voice-over"),
        msg("How far the original gives way under a voice-over, where it stays audible"),
        -40.0,
        0.0,
    ),
)


class MixLevels(FigureRow):
    """A field for each level."""

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._desk = desk
        self.boxes: dict[str, QDoubleSpinBox] = {}
        for level in _LEVELS:
            box = self.boxes[level.name] = self.add_figure(tr(level.title), tr(level.about), level.low, level.high)
            box.setSuffix(level.unit)
            box.setSingleStep(0.5)
            box.editingFinished.connect(self._set)
        self.end()

    def refresh(self) -> None:
        """Show the levels as they are."""
        for name, box in self.boxes.items():
            if not box.hasFocus():
                box.setValue(getattr(self._desk.project.mix, name))

    def _set(self) -> None:
        mix = self._desk.project.mix
        shown = {name: box.value() for name, box in self.boxes.items()}
        # what is only shown rounded was not changed by whoever passed through the field
        others: dict[str, Any] = {
            name: value for name, value in shown.items() if abs(value - getattr(mix, name)) > 0.05
        }
        if others:
            self._desk.apply("Set the levels of the mix", partial(set_mix, mix=replace(mix, **others)))
