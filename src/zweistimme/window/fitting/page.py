"""The Fit page: how lines are spread, person by person and version beside version; who needs somebody, the worst first;
and the limits, with their effect shown before they are used."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from functools import partial
from typing import Final

import numpy as np
from PyQt6.QtCore import Qt, QTimer, pyqtSignal
from PyQt6.QtWidgets import (
    QComboBox,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from zweistimme.messages import msg, msg_act, tr
from zweistimme.project.fit_edits import set_limits
from zweistimme.project.fit_limits import Limits, limits_problem_of_fit
from zweistimme.project.languages import own_name
from zweistimme.project.model import Preference, Project, Style
from zweistimme.stages.fit import fit
from zweistimme.stages.fit.limits import limits_for, limits_of
from zweistimme.stages.fit.summary import FitFigures, FitSummary, fit_summary, trial_summary
from zweistimme.window.background import Latest
from zweistimme.window.bridge import Desk
from zweistimme.window.choices import fill
from zweistimme.window.fitting.limit_fields import LimitFields
from zweistimme.window.fitting.line_list import FitLines
from zweistimme.window.fitting.spread import Spread
from zweistimme.window.layouts import list_table, scrolled
from zweistimme.window.page import Page
from zweistimme.window.theme import SMALL_PT, TITLE_PT, font, px, tint

_REST_MS: Final = 150
_BEFORE: Final = "before"
_TRIAL: Final = "trial"
_HEADS: Final = (
    msg("Who"),
    msg("Lines"),
    msg("Near"),
    msg("Comfortable"),
    msg("Soft"),
    msg("Too long"),
    msg("At once"),
)
_PRESETS: Final = tuple(
    (f"{style.value} · {preference.value}", limits_for(style, preference))
    for style in Style
    for preference in Preference
)


@dataclass(frozen=True, slots=True, eq=False)
class Drawn:
    """What was worked out, off the GUI thread: the version's fit, and those it can be held against, by name."""

    tag: str
    now: FitSummary
    others: Mapping[str, FitSummary]


class FitPage(Page):
    """All lines of the version on the desk."""

    went = pyqtSignal(str)
    """To the Score, to this line."""

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._desk = desk
        self._was: dict[str, tuple[FitSummary, FitSummary]] = {}
        """By version, its fit before the last change and now."""
        self.drawn: Drawn | None = None
        seconds, times = (lambda value: f"{value:+.1f} s"), (lambda value: f"×{value:.2f}")
        self.spreads = {
            "lag": Spread(tr("Starts off by"), (-1.0, 1.0), seconds),
            "tempo": Spread(tr("Tempo"), (0.6, 1.6), times),
            "pauses": Spread(tr("Given by pauses"), (-1.0, 1.0), seconds),
            "overflow": Spread(tr("Too long by"), (0.0, 2.0), seconds),
        }
        self.people = list_table([tr(head) for head in _HEADS], tr("Fit by person"), (0,))
        self.lines, self.beside = FitLines(desk), QComboBox()
        self.beside.setAccessibleName(tr("Outlined beside it"))
        self.beside.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToContents)
        self.fields, self.preset = LimitFields(), QComboBox()
        self.preset.setAccessibleName(tr("Limits to begin with"))
        self.use, self.usual = QPushButton(tr("Fit to these")), QPushButton(tr("As the style has them"))
        for button in (self.use, self.usual):
            button.setEnabled(False)
        self._state, self.effect = QLabel(), QLabel()
        for label in (self._state, self.effect):
            label.setWordWrap(True)
        self._latest = Latest("fit page", self)
        self._rest = QTimer(self)
        self._rest.setSingleShot(True)
        self._rest.setInterval(_REST_MS)
        self._lay_out()
        self._connect()

    def _lay_out(self) -> None:
        title = QLabel(tr("Fit"))
        title.setFont(font(TITLE_PT + 2, bold=True))
        self._state.setProperty("faded", True)
        above = QHBoxLayout()
        above.addWidget(title)
        above.addWidget(self._state, 1)
        above.addWidget(QLabel(tr("Outlined")))
        above.addWidget(self.beside)
        grid = QGridLayout()
        grid.setSpacing(px(8))
        for place, spread in enumerate(self.spreads.values()):
            grid.addWidget(spread, place // 2, place % 2)
        left = QVBoxLayout()
        left.addLayout(grid, 3)
        left.addWidget(self.people, 2)
        body = QHBoxLayout()
        body.setSpacing(px(12))
        body.addLayout(left, 5)
        body.addWidget(self.lines, 3)
        body.addLayout(self._limits_column())
        column = QVBoxLayout(self)
        column.setContentsMargins(20, 14, 16, 10)
        column.setSpacing(8)
        column.addLayout(above)
        column.addLayout(body, 1)

    def _limits_column(self) -> QVBoxLayout:
        side = QVBoxLayout()
        head = QLabel(tr("Limits of the plan"))
        head.setFont(font(SMALL_PT + 0.5, bold=True))
        side.addWidget(head)
        side.addWidget(self.preset)
        inner = QWidget()
        box = QVBoxLayout(inner)
        box.setContentsMargins(0, 0, px(6), 0)
        box.addWidget(self.fields)
        box.addStretch(1)
        area = scrolled(inner)
        area.setMinimumWidth(px(318))
        area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        side.addWidget(area, 1)
        side.addWidget(self.effect)
        side.addWidget(self.use)
        side.addWidget(self.usual)
        return side

    def _connect(self) -> None:
        self._latest.ready.connect(self._take_over)
        self._rest.timeout.connect(self._work_out)
        self.fields.changed.connect(self._rest.start)
        self.preset.activated.connect(self._begin_with)
        self.beside.activated.connect(lambda _place: self._show())
        self.lines.went.connect(self.went)
        self.use.clicked.connect(lambda _on: self._use(self.fields.shown()))
        self.usual.clicked.connect(lambda _on: self._use(None))
        self._desk.changed.connect(lambda _change: self._refresh_soon())
        self._desk.version_changed.connect(lambda _tag: self.refresh())

    def close_parts(self) -> None:
        self._rest.stop()
        self._latest.close()

    def showEvent(self, _event: object) -> None:
        self.refresh()

    def _refresh_soon(self) -> None:
        """What nobody sees is made when it is shown."""
        if self.isVisible():
            self._rest.start()

    def refresh(self) -> None:
        """Show the limits as they are, and have the rest worked out."""
        version = self._desk.version
        if version is None or not self.isVisible():
            return
        limits = limits_of(version)
        self.fields.show_limits(limits)
        own = [(tr("its own"), "own", "")] if version.limits is not None else []
        styles = [(_in_words(name), place, "") for place, (name, _) in enumerate(_PRESETS)]
        known = next((place for place, (_, one) in enumerate(_PRESETS) if one == limits), "own")
        fill(self.preset, [*own, *styles], known)
        self.usual.setEnabled(version.limits is not None)
        self._rest.start()

    def _begin_with(self, _place: int) -> None:
        chosen = self.preset.currentData()
        if isinstance(chosen, int):
            self.fields.show_limits(_PRESETS[chosen][1])
            self._rest.start()

    def _work_out(self) -> None:
        version, project = self._desk.version, self._desk.project
        if version is None:
            return
        limits = self.fields.shown()
        problem = limits_problem_of_fit(limits)
        trial = None if problem or limits == limits_of(version) else limits
        self.use.setEnabled(trial is not None)
        self.effect.setText(tr(problem) if problem else "")
        tint(self.effect, "hard" if problem else "ink")
        self._latest.want(partial(_drawn, project, version.tag, trial))

    def _take_over(self, drawn: Drawn) -> None:
        if drawn.tag != self._desk.tag:
            return
        before = self._was.get(drawn.tag)
        if before is None:
            self._was[drawn.tag] = (drawn.now, drawn.now)
        elif not _same(before[1], drawn.now):
            self._was[drawn.tag] = (before[1], drawn.now)
        self.drawn = drawn
        others = [(tr("before the last change"), _BEFORE, "")]
        others += [(own_name(tag), tag, "") for tag in drawn.others if tag != _TRIAL]
        others += [(tr("with these limits"), _TRIAL, "")] if _TRIAL in drawn.others else []
        fill(self.beside, others, _TRIAL if _TRIAL in drawn.others else self.beside.currentData() or _BEFORE)
        self._show()

    def _other(self) -> FitSummary | None:
        if self.drawn is None:
            return None
        chosen = self.beside.currentData()
        before, now = self._was[self.drawn.tag]
        if chosen == _BEFORE:
            return None if before is now else before
        return self.drawn.others.get(chosen)

    def _show(self) -> None:
        if self.drawn is None:
            return
        now, other = self.drawn.now, self._other()
        limits = now.limits
        well = {
            "lag": (-limits.start_tolerance[0], limits.start_tolerance[0]),
            "tempo": limits.comfort,
            "pauses": (-0.3, 0.3),
            "overflow": (0.0, 0.02),
        }
        for name, spread in self.spreads.items():
            spread.show_values(getattr(now, name), None if other is None else getattr(other, name), well[name])
        figures = now.figures()
        self._state.setText(f"{own_name(self.drawn.tag)}: {figures_in_words(figures)}")
        trial = self.drawn.others.get(_TRIAL)
        if trial is not None:
            self.effect.setText(tr("With these limits: {figures}", figures=figures_in_words(trial.figures())))
        self._fill_people(now)
        self.lines.show_fit(now)

    def _fill_people(self, now: FitSummary) -> None:
        project = self._desk.project
        speakers = [key for key in project.speakers if key in now.speakers]
        self.people.setRowCount(len(speakers))
        for row, key in enumerate(speakers):
            one = now.figures(now.of_speaker(key))
            cells = (
                project.speakers[key].name, str(one.lines), f"{one.near:.0%}", f"{one.comfort:.0%}", f"{one.soft:.0%}",
                str(one.over), str(one.clashing),
            )  # fmt: skip
            for place, text in enumerate(cells):
                self.people.setItem(row, place, QTableWidgetItem(text))

    def _use(self, limits: Limits | None) -> None:
        """Fit the version to other limits."""
        tag = self._desk.tag
        self._desk.apply(msg_act("Set the limits of the plan"), partial(set_limits, tag=tag, limits=limits))
        self.refresh()
        self._desk.jobs.start(msg_act("Fit"), partial(fit, tag=tag))


def _drawn(project: Project, tag: str, trial: Limits | None) -> Drawn:
    others = {one: fit_summary(project, one) for one in project.versions if one != tag}
    if trial is not None:
        others[_TRIAL] = trial_summary(project, tag, trial)
    return Drawn(tag, fit_summary(project, tag), others)


def _same(one: FitSummary, two: FitSummary) -> bool:
    names = ("lag", "tempo", "pauses", "overflow")
    return one.segment_ids == two.segment_ids and all(
        np.array_equal(getattr(one, name), getattr(two, name)) for name in names
    )


def _in_words(name: str) -> str:
    return " · ".join(tr(part) for part in name.split(" · "))


def figures_in_words(figures: FitFigures) -> str:
    """A fit in a sentence."""
    if not figures.lines:
        return tr("nothing is fitted yet")
    return tr(
        "{near:.0%} of {lines:line|lines} start within 0.2 s, {comfort:.0%} in a comfortable tempo, {soft:.0%} in a "
        "soft one; {over} too long, {clashing} at once, the worst start off by {worst:.2f} s",
        near=figures.near,
        lines=figures.lines,
        comfort=figures.comfort,
        soft=figures.soft,
        over=figures.over,
        clashing=figures.clashing,
        worst=figures.worst_lag_s,
    )
