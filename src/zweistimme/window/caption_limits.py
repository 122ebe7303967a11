"""What the captions of each language are held to."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from functools import partial
from typing import Any, Final

from PyQt6.QtWidgets import QComboBox, QDoubleSpinBox, QPushButton, QWidget

from zweistimme.messages import msg, tr
from zweistimme.project.delivery_edits import (
    GAP_US,
    LINE_LETTERS,
    LONGEST_US,
    MOST_LINES,
    SHORTEST_US,
    SPEED,
    captioned,
    set_caption_limits,
)
from zweistimme.project.languages import own_name
from zweistimme.project.model import CaptionLimits
from zweistimme.project.times import SECOND_US
from zweistimme.stages.caption import CaptionRules, rules_for
from zweistimme.window.bridge import Desk
from zweistimme.window.figure_row import FigureRow


@dataclass(frozen=True, slots=True)
class _Limit:
    """A limit: its name among the rules, its words, and its range, both as the rules have it."""

    name: str
    title: str
    about: str
    span: tuple[float, float]
    decimals: int = 0

    @property
    def unit(self) -> int:
        """How many of its own units one of those is that are shown: times are shown in seconds."""
        return SECOND_US if self.name.endswith("_us") else 1


_LIMITS: Final = (
    _Limit("lines", msg("Lines"), msg("Lines of a caption at most"), (1, MOST_LINES)),
    _Limit("line_letters", msg("Letters a line"), msg("Letters of a line at most"), LINE_LETTERS),
    _Limit("most_speed", msg("Letters a second"), msg("Letters a second at most: who reads needs the time"), SPEED, 1),
    _Limit("shortest_us", msg("Stands at least"), msg("How long a caption stands at least"), SHORTEST_US, 2),
    _Limit("longest_us", msg("at most"), msg("How long a caption stands at most"), LONGEST_US, 1),
    _Limit("gap_us", msg("Apart by"), msg("How much time lies between two captions at least"), GAP_US, 2),
)


class CaptionLimitsRow(FigureRow):
    """The language, its limits, and a way back to what is usual in it."""

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._desk = desk
        self.language = QComboBox()
        self.add(self.language, tr("Captions"), tr("The language whose captions are held to these limits"))
        self.boxes: dict[str, QDoubleSpinBox] = {}
        for limit in _LIMITS:
            low, high = (end / limit.unit for end in limit.span)
            box = self.boxes[limit.name] = self.add_figure(tr(limit.title), tr(limit.about), low, high, limit.decimals)
            if limit.unit > 1:
                box.setSuffix(" s")
                box.setSingleStep(0.1)
            box.editingFinished.connect(partial(self._set, limit))
        self.usual = QPushButton(tr("As usual"))
        self.usual.clicked.connect(self._set_usual)
        self.add(self.usual, "", tr("Hold the captions to what is usual in their language again"))
        self.usual.setAccessibleName(tr("As usual"))
        self.end()
        self.language.activated.connect(lambda _place: self._show())

    def refresh(self) -> None:
        """Show the limits as they are; those of the version on the desk, unless somebody looks at others."""
        project = self._desk.project
        tags = captioned(project)
        if tags != [self.language.itemData(place) for place in range(self.language.count())]:
            chosen = self.language.currentData() or self._desk.tag
            self.language.clear()
            for tag in tags:
                original = tag == project.source_tag and tag not in project.versions
                self.language.addItem(
                    tr("{language} (original)", language=own_name(tag)) if original else own_name(tag), tag
                )
            self.language.setCurrentIndex(max(0, self.language.findData(chosen)))
        self._show()

    def follow_version(self) -> None:
        """Another version is on the desk: its captions are meant. What is being set belongs to those before."""
        for limit in _LIMITS:
            if self.boxes[limit.name].hasFocus():
                self.boxes[limit.name].interpretText()
                self._set(limit)
        self.language.setCurrentIndex(max(0, self.language.findData(self._desk.tag)))
        self._show(also_at_work=True)

    def _limits(self) -> CaptionLimits:
        return self._desk.project.caption_limits.get(self.language.currentData(), CaptionLimits())

    def _rules(self) -> CaptionRules:
        return rules_for(self.language.currentData() or self._desk.project.source_tag, self._limits())

    def _show(self, *, also_at_work: bool = False) -> None:
        """Show the limits; in a field at work only where what is in it has been set, or refused."""
        rules, own = self._rules(), self._limits()
        for limit in _LIMITS:
            box = self.boxes[limit.name]
            if also_at_work or not box.hasFocus():
                box.setValue(getattr(rules, limit.name) / limit.unit)
        self.usual.setEnabled(own != CaptionLimits())

    def _set(self, limit: _Limit) -> None:
        value, now = self.boxes[limit.name].value(), getattr(self._rules(), limit.name)
        # what is only shown rounded was not changed by whoever passed through the field
        if abs(value - now / limit.unit) < 0.5 * 10**-limit.decimals:
            return
        whole = limit.unit > 1 or limit.name == "lines"
        changed: Mapping[str, Any] = {limit.name: round(value * limit.unit) if whole else value}
        self._apply(replace(self._limits(), **changed))

    def _set_usual(self) -> None:
        self._apply(CaptionLimits())

    def _apply(self, limits: CaptionLimits) -> None:
        tag = self.language.currentData()
        self._desk.apply("Set the captions", partial(set_caption_limits, tag=tag, limits=limits))
        self._show(also_at_work=True)
