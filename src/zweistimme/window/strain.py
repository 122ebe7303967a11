"""How hard a placement is on its take, as a class, a colour, a pattern and a word: never by colour alone."""

from __future__ import annotations

from enum import Enum

from PyQt6.QtCore import Qt

from zweistimme.messages import tr
from zweistimme.project.fit_limits import Limits
from zweistimme.project.model import Placement
from zweistimme.project.placed_time import BEHIND_END, does_not_fit
from zweistimme.project.times import SECOND_US
from zweistimme.sentences import sentence_of
from zweistimme.stages.fit.reasons import syllables_over


class Strain(Enum):
    """Role of the line colour, of the fill, and the fill's pattern."""

    CALM = ("calm", "calm_soft", Qt.BrushStyle.NoBrush)
    FIRM = ("firm", "firm_soft", Qt.BrushStyle.Dense6Pattern)
    HARD = ("hard", "hard_soft", Qt.BrushStyle.BDiagPattern)

    @property
    def role(self) -> str:
        return str(self.value[0])

    @property
    def soft_role(self) -> str:
        return str(self.value[1])

    @property
    def pattern(self) -> Qt.BrushStyle:
        return self.value[2]


_LIMITS = Limits()


def strain_of(placement: Placement) -> Strain:
    """Calm within the comfort band, firm within the soft limits; hard beyond, or where something overflows or
    clashes."""
    if does_not_fit(placement) or not _within(placement.tempo, _LIMITS.soft):
        return Strain.HARD
    return Strain.CALM if _within(placement.tempo, _LIMITS.comfort) else Strain.FIRM


def _within(tempo: float, band: tuple[float, float]) -> bool:
    return band[0] - 1e-3 <= tempo <= band[1] + 1e-3


def trouble_words(placement: Placement, text: str) -> str:
    """What is wrong with where a take stands, as a person would say it; empty where nothing is."""
    wrong = [sentence_of(one) for one in placement.why if one.code in (BEHIND_END, "clashes")]
    return " ".join(filter(None, (_overflow_words(placement, text), *wrong)))


def _overflow_words(placement: Placement, text: str) -> str:
    """An overflow as a person would say it; empty where there is none."""
    if not placement.overflow_us:
        return ""
    over = placement.overflow_us / SECOND_US
    speech = placement.length_us / SECOND_US * placement.tempo
    count = syllables_over(text, speech, over)
    return tr("{over_s:.1f} s over: about {n:syllable|syllables} too long", over_s=over, n=count)
