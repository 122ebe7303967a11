"""How the chosen lines, or a phrase of one, are fitted by hand: tempo, pauses, level, fades; and as what."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from functools import partial
from typing import Any, Final

from PyQt6.QtWidgets import QComboBox, QDoubleSpinBox, QGridLayout, QLabel, QWidget

from zweistimme.messages import msg, msg_act, tr
from zweistimme.project.fit_edits import set_hand, set_phrase
from zweistimme.project.hand_fit import AS_PLANNED, GAIN_DB, PAUSES, TEMPO, FitAs, HandFit, PhraseHand
from zweistimme.project.held_words import phrase_hands_in
from zweistimme.project.model import Project
from zweistimme.project.placed_time import phrase_words
from zweistimme.project.times import SECOND_US
from zweistimme.stages.fit import change_and_plan
from zweistimme.window.bridge import Desk
from zweistimme.window.choices import fill
from zweistimme.window.theme import SMALL_PT, font, px

_AS: Final = {
    FitAs.USUAL: msg("as seen"),
    FitAs.OFF_SCREEN: msg("as off screen"),
    FitAs.VOICE_OVER: msg("as voice-over"),
}


_LEFT_TO_PLAN: Final = ("tempo", "pauses", "pause_us")


class HandRow(QWidget):
    """A field for each; at its least a field leaves the matter to the plan."""

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._desk = desk
        self._shown: HandFit | PhraseHand = AS_PLANNED
        self._line_id = ""
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setHorizontalSpacing(6)
        grid.setVerticalSpacing(2)
        self.part = QComboBox()
        self.part.setAccessibleName(tr("Of the whole line, or of one of its phrases"))
        self.part.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        self.part.setMinimumContentsLength(12)
        self.part.setToolTip(self.part.accessibleName())
        self.part.activated.connect(lambda _place: self._show())
        grid.addWidget(self.part, 0, 0, 1, 3)
        self.tempo = self._box(TEMPO[0] - 0.05, TEMPO[1], 0.05, "×", tr("by the plan"))
        self.pauses = self._box(PAUSES[0] - 0.1, PAUSES[1], 0.1, "×", tr("by the plan"))
        self.pause = self._box(-0.01, 10.0, 0.05, " s", tr("by the plan"))
        self.gain = self._box(*GAIN_DB, 0.5, " dB", "")
        self.fade_in, self.fade_out = (self._box(0.0, 5.0, 0.05, " s", tr("none")) for _ in range(2))
        self._boxes = {
            "tempo": self.tempo, "pauses": self.pauses, "pause_us": self.pause, "gain_db": self.gain,
            "fade_in_us": self.fade_in, "fade_out_us": self.fade_out,
        }  # fmt: skip
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
            grid.addWidget(label, place // 3 * 2 + 1, place % 3)
            grid.addWidget(widget, place // 3 * 2 + 2, place % 3)
        self.pause.setAccessibleName(tr("Seconds of pause before this phrase"))
        self.pause.setToolTip(self.pause.accessibleName())
        grid.addWidget(self.pause, 2, 1)

    def _box(self, low: float, high: float, step: float, unit: str, least: str) -> QDoubleSpinBox:
        box = QDoubleSpinBox()
        box.setRange(low, high)
        box.setSingleStep(step)
        box.setKeyboardTracking(False)
        box.setMinimumHeight(px(24))
        if unit == "×":
            box.setPrefix(unit)
        else:
            box.setSuffix(unit)
        if least:
            box.setSpecialValueText(least)
        box.valueChanged.connect(lambda _value: self._set())
        return box

    def refresh(self) -> None:
        """Show what is said of the selected line, or of its phrase that was shown before."""
        line, placed = self._desk.line(), self._desk.placed()
        self.setEnabled(line is not None)
        words = phrase_words(*placed) if placed else ()
        choice: list[tuple[str, int | None, str]] = [(tr("The whole line"), None, "")]
        if placed and len(words) > 1:
            said = " ".join
            ends = [*words[1:], len(placed[1].words)]
            for number, (word, end) in enumerate(zip(words, ends, strict=True), 1):
                text = said(one.text for one in placed[1].words[word:end])
                choice.append((tr("Phrase {number}: {text}", number=number, text=text), word, ""))
        same = self._line_id == self._desk.segment_id
        self._line_id = self._desk.segment_id
        kept = self.part.currentData() if same else None
        fill(self.part, choice, kept if kept in words else None)
        self.part.setVisible(len(choice) > 1)
        self._show()

    def _show(self) -> None:
        line, placed, word = self._desk.line(), self._desk.placed(), self.part.currentData()
        hand: HandFit | PhraseHand = line.hand if line else AS_PLANNED
        if word is not None and line and placed:
            said = phrase_hands_in(line, placed[1])
            hand = next((one for one in said if one.word == word), PhraseHand(word))
        self._shown = hand
        if isinstance(hand, HandFit):
            fill(self.fit_as, [(tr(words), one, "") for one, words in _AS.items()], hand.fit_as)
        by_itself = word is None or bool(placed and placed[0].phrases)
        self.tempo.setEnabled(by_itself)
        self.fit_as.setEnabled(word is None)
        self.pauses.setVisible(word is None)
        self.pause.setVisible(word is not None)
        self.pause.setEnabled(by_itself and bool(word))
        for name, box in self._boxes.items():
            value = getattr(hand, name, None)
            box.blockSignals(True)
            box.setValue(box.minimum() if value is None else value / SECOND_US if name.endswith("_us") else value)
            box.blockSignals(False)

    def shown(self) -> HandFit | PhraseHand:
        """What the fields say."""
        fields: dict[str, Any] = {}
        for name, box in self._boxes.items():
            if hasattr(self._shown, name):
                least = name in _LEFT_TO_PLAN and box.value() <= box.minimum()
                value = round(box.value(), 3)
                fields[name] = None if least else round(value * SECOND_US) if name.endswith("_us") else value
        if isinstance(self._shown, HandFit):
            fields["fit_as"] = FitAs(self.fit_as.currentData() or FitAs.USUAL)
        return replace(self._shown, **fields)

    def _set(self) -> None:
        """Say it of all chosen lines, or of one phrase of one; each keeps what was not touched here."""
        hand, before = self.shown(), self._shown
        if hand == before:
            return
        tag, here = self._desk.tag, self._desk.segment_id
        if isinstance(hand, PhraseHand):
            say = partial(set_phrase, tag=tag, segment_id=here, hand=hand)
            self._desk.apply(msg_act("Fit by hand"), partial(change_and_plan, tag=tag, segment_id=here, change=say))
            return
        changed = {
            name: getattr(hand, name)
            for name in HandFit.__dataclass_fields__
            if getattr(hand, name) != getattr(before, name)
        }
        self._desk.apply(msg_act("Fit by hand"), _of_all(self._desk.chosen_ids(), tag, changed))


def _of_all(ids: list[str], tag: str, changed: dict[str, Any]) -> Callable[[Project], Project]:
    def edit(project: Project) -> Project:
        for segment_id in ids:
            if segment_id in project.versions[tag].lines:
                say = partial(set_hand, tag=tag, segment_ids=[segment_id], **changed)
                project = change_and_plan(project, tag, segment_id, say)
        return project

    return edit
