"""How the chosen lines are fitted by hand: tempo, pauses, level, fades; and as what."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from functools import partial
from typing import Any, Final

from PyQt6.QtWidgets import QComboBox, QDoubleSpinBox, QGridLayout, QLabel, QWidget

from zweistimme.messages import msg, msg_act, tr
from zweistimme.project.fit_edits import set_hand
from zweistimme.project.hand_fit import AS_PLANNED, GAIN_DB, PAUSES, TEMPO, FitAs, HandFit
from zweistimme.project.model import Project
from zweistimme.project.times import SECOND_US
from zweistimme.stages.fit import change_and_plan
from zweistimme.window.bridge import Desk
from zweistimme.window.choices import fill
from zweistimme.window.theme import SMALL_PT, font

_AS: Final = {
    FitAs.USUAL: msg("as seen"),
    FitAs.OFF_SCREEN: msg("as off screen"),
    FitAs.VOICE_OVER: msg("as voice-over"),
}


class HandRow(QWidget):
    """A field for each; at its least a field leaves the matter to the plan."""

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._desk = desk
        self._shown = AS_PLANNED
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setHorizontalSpacing(6)
        grid.setVerticalSpacing(2)
        self.tempo = self._box(TEMPO[0] - 0.05, TEMPO[1], 0.05, "×", tr("by the plan"))
        self.pauses = self._box(PAUSES[0] - 0.1, PAUSES[1], 0.1, "×", tr("by the plan"))
        self.gain = self._box(*GAIN_DB, 0.5, " dB", "")
        self.fade_in, self.fade_out = (self._box(0.0, 5.0, 0.05, " s", tr("none")) for _ in range(2))
        self.fit_as = QComboBox()
        self.fit_as.activated.connect(lambda _place: self._set())
        fields = (
            (tr("Tempo"), self.tempo, tr("Tempo of its speech, whatever the plan would give it")),
            (tr("Pauses"), self.pauses, tr("How much of its inner pauses is kept")),
            (tr("Fitted"), self.fit_as, tr("As what the line is fitted in this version")),
            (tr("Level"), self.gain, tr("How much louder or softer the line is in the mix")),
            (tr("Fade in"), self.fade_in, tr("Over how long its beginning is faded")),
            (tr("Fade out"), self.fade_out, tr("Over how long its end is faded")),
        )
        for place, (words, widget, about) in enumerate(fields):
            label = QLabel(words)
            label.setFont(font(SMALL_PT))
            label.setProperty("faded", True)
            label.setBuddy(widget)
            widget.setAccessibleName(about)
            widget.setToolTip(about)
            grid.addWidget(label, place // 3 * 2, place % 3)
            grid.addWidget(widget, place // 3 * 2 + 1, place % 3)

    def _box(self, low: float, high: float, step: float, unit: str, least: str) -> QDoubleSpinBox:
        box = QDoubleSpinBox()
        box.setRange(low, high)
        box.setSingleStep(step)
        box.setKeyboardTracking(False)
        if unit == "×":
            box.setPrefix(unit)
        else:
            box.setSuffix(unit)
        if least:
            box.setSpecialValueText(least)
        box.valueChanged.connect(lambda _value: self._set())
        return box

    def refresh(self) -> None:
        """Show what is said of the selected line."""
        line = self._desk.line()
        self.setEnabled(line is not None)
        hand = self._shown = line.hand if line else AS_PLANNED
        fill(self.fit_as, [(tr(words), one, "") for one, words in _AS.items()], hand.fit_as)
        for box, value in (
            (self.tempo, hand.tempo), (self.pauses, hand.pauses), (self.gain, hand.gain_db),
            (self.fade_in, hand.fade_in_us / SECOND_US), (self.fade_out, hand.fade_out_us / SECOND_US),
        ):  # fmt: skip
            box.blockSignals(True)
            box.setValue(box.minimum() if value is None else value)
            box.blockSignals(False)

    def shown(self) -> HandFit:
        """What the fields say."""

        def said(box: QDoubleSpinBox) -> float | None:
            return None if box.value() <= box.minimum() else round(box.value(), 3)

        fades = {
            "fade_in_us": round(self.fade_in.value() * SECOND_US),
            "fade_out_us": round(self.fade_out.value() * SECOND_US),
        }
        fields: dict[str, Any] = {"tempo": said(self.tempo), "pauses": said(self.pauses), "gain_db": self.gain.value()}
        return replace(self._shown, **fields, **fades, fit_as=FitAs(self.fit_as.currentData() or FitAs.USUAL))

    def _set(self) -> None:
        """Say it of all chosen lines; each keeps what was not touched here."""
        hand, before = self.shown(), self._shown
        if hand == before:
            return
        changed = {
            name: getattr(hand, name)
            for name in HandFit.__dataclass_fields__
            if getattr(hand, name) != getattr(before, name)
        }
        ids, tag = self._desk.chosen_ids(), self._desk.tag
        self._desk.apply(msg_act("Fit by hand"), _of_all(ids, tag, changed))


def _of_all(ids: list[str], tag: str, changed: dict[str, Any]) -> Callable[[Project], Project]:
    def edit(project: Project) -> Project:
        for segment_id in ids:
            line = project.versions[tag].lines.get(segment_id)
            if line is not None:
                say = partial(set_hand, tag=tag, segment_ids=[segment_id], hand=replace(line.hand, **changed))
                project = change_and_plan(project, tag, segment_id, say)
        return project

    return edit
