"""A whole fit in figures: how far lines start from where they should, their tempo, what pauses gave, what is too long;
by line, by person, and altogether."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from typing import Final

import numpy as np

from zweistimme.project.access import find_version, put_version
from zweistimme.project.fit_limits import Limits
from zweistimme.project.model import Placement, Project
from zweistimme.project.times import SECOND_US
from zweistimme.sound.arrays import Floats, Ints
from zweistimme.stages.fit.limits import limits_of
from zweistimme.stages.fit.placements import planned, taken_lines
from zweistimme.stages.fit.remedies import Standing, standing_of

NEAR_S: Final = 0.2


@dataclass(frozen=True, slots=True, eq=False)
class FitSummary:
    """Every placed line of a version, in the order of the segments; arrays have shape ``(n,)``. *lag* is by how much
    a start is off where the style wants it, *pauses* what inner pauses gave, *overflow* what remains too long,
    *clash* what is heard at once, in seconds; *trouble* is how badly a line stands, 0 where it stands well."""

    segment_ids: tuple[str, ...]
    speakers: tuple[str, ...]
    lag: Floats
    tempo: Floats
    pauses: Floats
    overflow: Floats
    clash: Floats
    trouble: Floats
    pinned: tuple[bool, ...]
    limits: Limits

    def figures(self, which: Ints | slice = slice(None)) -> FitFigures:
        """Shares of all of them, or of some."""
        lag, tempo = self.lag[which], self.tempo[which]
        if not len(lag):
            return FitFigures(0, 0.0, 0.0, 0.0, 0, 0, 0.0)
        slack = 1e-3
        comfort, soft = self.limits.comfort, self.limits.soft
        return FitFigures(
            len(lag),
            float((np.abs(lag) <= NEAR_S + slack).mean()),
            float(((tempo >= comfort[0] - slack) & (tempo <= comfort[1] + slack)).mean()),
            float(((tempo >= soft[0] - slack) & (tempo <= soft[1] + slack)).mean()),
            int((self.overflow[which] > 0).sum()),
            int((self.clash[which] > 0).sum()),
            float(np.abs(lag).max()),
        )

    def of_speaker(self, speaker: str) -> Ints:
        """Which lines are a person's."""
        return np.flatnonzero([one == speaker for one in self.speakers])

    def worst(self) -> list[int]:
        """The lines that need a person, the worst first."""
        order = np.argsort(-self.trouble, kind="stable")
        return [int(k) for k in order if self.trouble[k] > 0.05]


@dataclass(frozen=True, slots=True)
class FitFigures:
    """*near*, *comfort* and *soft* are shares of *lines*: that start within 0.2 s, that are spoken in the comfortable
    and in the soft tempos; *over* and *clashing* are counted; *worst_lag_s* is the largest."""

    lines: int
    near: float
    comfort: float
    soft: float
    over: int
    clashing: int
    worst_lag_s: float


def fit_summary(project: Project, tag: str, placements: Iterable[Placement] | None = None) -> FitSummary:
    """A version's fit in figures: as it is, or as other *placements* of it would be."""
    version = find_version(project, tag)
    limits = limits_of(version)
    placed = {one.segment_id: one for one in (version.placements.values() if placements is None else placements)}
    found = [(segment, placed[segment.id]) for segment in project.segments if segment.id in placed]
    standings: Sequence[Standing] = [standing_of(project, tag, segment, one) for segment, one in found]
    lines = [version.lines.get(segment.id) for segment, _ in found]

    def array(values: Iterable[float]) -> Floats:
        return np.fromiter(values, dtype=np.float64, count=len(found))

    return FitSummary(
        tuple(segment.id for segment, _ in found),
        tuple(segment.speaker_id for segment, _ in found),
        array((one.start_us - segment.start_us) / SECOND_US - limits.start_shift for segment, one in found),
        array(one.tempo for _, one in found),
        array(one.pauses_cut_us / SECOND_US for _, one in found),
        array(one.overflow_us / SECOND_US for _, one in found),
        array(one.clash_us / SECOND_US for _, one in found),
        array(standing.trouble for standing in standings),
        tuple(line is not None and (line.pin is not None or bool(line.word_pins)) for line in lines),
        limits,
    )


def trial_summary(project: Project, tag: str, limits: Limits | None) -> FitSummary:
    """How a version would be fitted to other limits, or to those of its style (None)."""
    version = find_version(project, tag)
    other = put_version(project, replace(version, limits=limits))
    return fit_summary(other, tag, planned(other, tag, taken_lines(other, tag)))
