"""How the mix is made: what lies under the dub and how it gives way, and what is done to the voices."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import partial
from typing import Any, Final

from PyQt6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QDoubleSpinBox,
    QGridLayout,
    QInputDialog,
    QLabel,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from zweistimme.engines.offers import Role
from zweistimme.messages import msg, msg_act, tr
from zweistimme.project.delivery_edits import mix_as_project, set_mix
from zweistimme.project.facts import mix_of
from zweistimme.project.mix_settings import Beneath, MixSettings
from zweistimme.project.model import Version
from zweistimme.project.times import SECOND_US
from zweistimme.stages.composed_bed import compose_bed, section_of
from zweistimme.stages.engine_choice import engine_for
from zweistimme.stages.mix.beneath import figures_in_use
from zweistimme.window.bridge import Desk
from zweistimme.window.choices import fill
from zweistimme.window.theme import SMALL_PT, font, px

_LABEL: Final = msg_act("Set the mix")


@dataclass(frozen=True, slots=True)
class _Figure:
    """A figure of the mix: where it is in the settings, its words, its range and unit; *scale* is what one of its
    unit is in the settings."""

    name: str
    title: str
    about: str
    low: float
    high: float
    unit: str = " dB"
    step: float = 0.5
    giving: bool = False
    scale: int = 1


_TIME: Final[dict[str, Any]] = {"unit": " s", "step": 0.05, "giving": True, "scale": SECOND_US}
_LOUDNESS: Final = (
    _Figure(
        "loudness_lufs", msg("Loudness"), msg("Integrated loudness that each mix is made to"), -40.0, -8.0, " LUFS"
    ),
    _Figure("true_peak_dbtp", msg("True peak"), msg("True peak that no mix goes beyond"), -12.0, 0.0, " dBTP"),
)
_UNDER: Final = (
    _Figure("bed_db", msg("Bed"), msg("How much louder or softer the bed is than in its file"), -24.0, 12.0),
    _Figure("duck_db", msg("Gives way by"), msg("How far what lies under the dub gives way to it"), -60.0, 0.0),
    _Figure(
        "voice_over_duck_db",
        msg("in a voice-over"),
        msg("How far the original gives way under a voice-over, where it stays audible"),
        -60.0,
        0.0,
    ),
    _Figure("look_ahead_us", msg("Down before"), msg("How long before speech it is down"), 0.0, 2.0, **_TIME),
    _Figure("attack_us", msg("Going down"), msg("How long it takes to go down"), 0.0, 3.0, **_TIME),
    _Figure("hold_us", msg("Over pauses of"), msg("Over how long a pause it stays down"), 0.0, 10.0, **_TIME),
    _Figure("release_us", msg("Coming back"), msg("How long it takes to come back"), 0.0, 5.0, **_TIME),
)
_ROOM: Final = (_Figure("room_db", msg("Room"), msg("More or less of the original's room for the dub"), -24.0, 12.0),)
_BENEATH: Final = (
    (Beneath.AS_THERE, msg("bed, else the original"),
     msg("The bed where there is one, the lowered original where not")),
    (Beneath.ORIGINAL, msg("the original, lowered"), msg("The original, lowered where somebody speaks")),
    (Beneath.ROOM_TONE, msg("room tone"),
     msg("The original where nobody speaks, and its own room tone, grown from its pauses, where somebody does")),
)  # fmt: skip
_STEPS: Final = (
    ("line_levels", msg("Levels of lines"), msg("Each line as loud beside its speaker's others as in the original")),
    ("tone", msg("Tone"), msg("Voices have the tone of the original's, within 6 dB")),
    ("room", msg("Room"), msg("Voices stand in the room that is heard in the original")),
    ("high_pass", msg("Rumble"), msg("What is well under a voice is taken away")),
    ("de_ess", msg("Sharp s"), msg("Sibilants are no sharper than the original's")),
    ("even_out", msg("Even out"), msg("Loud moments go no further than the original's do")),
)


class MixControls(QWidget):
    """A field for each figure, a box for each step."""

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._desk, self._tag = desk, ""
        self.own = QCheckBox(tr("of this version alone"))
        self.own.setToolTip(tr("Mix this version in its own way; else all are mixed alike"))
        self.own.clicked.connect(self._set_own)
        self.beneath = QComboBox()
        self.beneath.setAccessibleName(tr("What lies under the dub"))
        self.beneath.activated.connect(lambda _place: self._set())
        self.boxes: dict[str, QDoubleSpinBox] = {}
        self.steps: dict[str, QCheckBox] = {}
        self.sides = QCheckBox(tr("Sides by"))
        self.sides.setToolTip(tr("The sides of a stereo original give way by themselves: music and places lie there"))
        self.sides.clicked.connect(lambda _on: self._set())
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(px(3))
        column.addWidget(self.own)
        column.addLayout(self._figures(_LOUDNESS))
        column.addWidget(_heading(tr("Under the dub")))
        column.addWidget(self.beneath)
        self.compose = QPushButton(tr("Have a bed composed …"))
        self.compose.setToolTip(tr("By an engine, after a plan of sections: seconds, mood, and how much goes on"))
        self.compose.clicked.connect(lambda _on: self._compose())
        column.addWidget(self.compose)
        under = self._figures(_UNDER)
        box = self._box(_Figure("sides_db", "", msg("How far the sides give way"), -60.0, 0.0))
        under.addWidget(self.sides, under.rowCount(), 0)
        under.addWidget(box, under.rowCount() - 1, 1)
        column.addLayout(under)
        column.addWidget(_heading(tr("The voices")))
        column.addLayout(self._boxes())
        column.addLayout(self._figures(_ROOM))

    def _figures(self, figures: tuple[_Figure, ...]) -> QGridLayout:
        grid = QGridLayout()
        grid.setVerticalSpacing(px(2))
        for row, figure in enumerate(figures):
            label, box = QLabel(tr(figure.title)), self._box(figure)
            label.setBuddy(box)
            grid.addWidget(label, row, 0)
            grid.addWidget(box, row, 1)
        return grid

    def _box(self, figure: _Figure) -> QDoubleSpinBox:
        box = self.boxes[figure.name] = QDoubleSpinBox()
        box.setRange(figure.low, figure.high)
        box.setDecimals(2 if figure.step < 0.1 else 1)
        box.setSingleStep(figure.step)
        box.setSuffix(figure.unit)
        box.setToolTip(tr(figure.about))
        box.setAccessibleName(tr(figure.title) if figure.title else tr(figure.about))
        box.setKeyboardTracking(False)
        box.valueChanged.connect(lambda _value: self._set())
        return box

    def _boxes(self) -> QGridLayout:
        grid = QGridLayout()
        grid.setVerticalSpacing(px(1))
        for place, (name, title, about) in enumerate(_STEPS):
            box = self.steps[name] = QCheckBox(tr(title))
            box.setToolTip(tr(about))
            box.clicked.connect(lambda _on: self._set())
            grid.addWidget(box, place // 2, place % 2)
        return grid

    def refresh(self) -> None:
        """Show the settings as they are. What is being written when another version comes is that of the one before."""
        version = self._desk.version
        if version is None:
            return
        if version.tag != self._tag and self._tag:
            for box in self.boxes.values():
                box.interpretText()
        self._tag = version.tag
        mix = mix_of(self._desk.project, version)
        self.own.setChecked(version.mix is not None)
        fill(self.beneath, [(tr(title), one, tr(about)) for one, title, about in _BENEATH], mix.beneath)
        for figure in (*_LOUDNESS, *_UNDER, *_ROOM):
            self._show(figure.name, getattr(mix.giving if figure.giving else mix, figure.name) / figure.scale)
        sides = mix.giving.sides_db
        self.sides.setChecked(sides is not None)
        used = self._in_use(version)
        for figure in _UNDER:
            self.boxes[figure.name].setEnabled(figure.name in used)
        self.sides.setEnabled("sides_db" in used)
        self.boxes["sides_db"].setEnabled(sides is not None and "sides_db" in used)
        self._show("sides_db", mix.duck_db if sides is None else sides)
        for name, step in self.steps.items():
            step.setChecked(getattr(mix.treatment, name))

    def _in_use(self, version: Version) -> frozenset[str]:
        """The figures that change anything in the versions that are set here."""
        project = self._desk.project
        alike = [one for one in project.versions.values() if one.mix is None] if version.mix is None else [version]
        return frozenset().union(*(figures_in_use(project, one) for one in alike))

    def _show(self, name: str, value: float) -> None:
        box = self.boxes[name]
        if not box.hasFocus() or box.value() != round(value, box.decimals()):
            box.blockSignals(True)
            box.setValue(value)
            box.blockSignals(False)

    def _compose(self) -> None:
        """Ask for the plan, and have the bed made."""
        project = self._desk.project
        seconds = project.programme.sound.duration_us / SECOND_US if project.programme else 0.0
        words = tr("A section a line: SECONDS:MOOD:ENERGY. The programme lasts {seconds:.0f} s.", seconds=seconds)
        text, ok = QInputDialog.getMultiLineText(self, tr("A bed by a plan"), words, f"{seconds:.0f}:calm:0.4")
        lines = [line.strip() for line in text.splitlines() if line.strip()] if ok else []
        plan = []
        for line in lines:
            section = section_of(line)
            if section is None:
                words = tr("“{text}” is no section. Write SECONDS:MOOD:ENERGY, such as 20:calm:0.4.", text=line)
                self._desk.notice("note", words)
                return
            plan.append(section)
        if not plan:
            return
        name = engine_for(project, Role.COMPOSE)
        self._desk.jobs.start(msg_act("Compose a bed"), partial(compose_bed, name=name, sections=plan))

    def _set_own(self, on: bool) -> None:
        version = self._desk.version
        if version is None:
            return
        edit: Callable[..., Any] = partial(mix_as_project, tag=version.tag)
        if on:
            edit = partial(set_mix, mix=mix_of(self._desk.project, version), tag=version.tag)
        self._desk.apply(_LABEL, edit)

    def _set(self) -> None:
        """Take over what is shown; what is only shown rounded was not changed by whoever passed through the field."""
        version = self._desk.project.versions.get(self._tag)
        if version is None:
            return
        before = mix_of(self._desk.project, version)
        mix = self._shown(before)
        if mix != before:
            tag = version.tag if version.mix is not None else None
            self._desk.apply(_LABEL, partial(set_mix, mix=mix, tag=tag))

    def _shown(self, mix: MixSettings) -> MixSettings:
        giving, steps = mix.giving, {name: box.isChecked() for name, box in self.steps.items()}
        for figure in (*_LOUDNESS, *_UNDER, *_ROOM):
            value, box = self.boxes[figure.name].value() * figure.scale, self.boxes[figure.name]
            old = getattr(giving if figure.giving else mix, figure.name)
            if abs(value - old) > 0.6 * figure.scale * 10 ** -box.decimals():
                changed: dict[str, Any] = {figure.name: round(value) if figure.giving else value}
                if figure.giving:
                    giving = replace(giving, **changed)
                else:
                    mix = replace(mix, **changed)
        sides = self.boxes["sides_db"].value() if self.sides.isChecked() else None
        giving = giving if sides == giving.sides_db else replace(giving, sides_db=sides)
        beneath = Beneath(self.beneath.currentData() or mix.beneath)
        return replace(mix, giving=giving, beneath=beneath, treatment=replace(mix.treatment, **steps))


def _heading(words: str) -> QLabel:
    label = QLabel(words)
    label.setFont(font(SMALL_PT + 0.5, bold=True))
    label.setContentsMargins(0, px(4), 0, 0)
    return label
