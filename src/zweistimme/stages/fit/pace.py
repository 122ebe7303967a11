"""How long a voice takes to say a text, before it has: learned from its takes, with how far that may be off.

Bayesian linear regression with conjugate priors (Bishop, Pattern Recognition and Machine Learning, 2006, 3.3; its
normal-inverse-gamma form in Murphy, Machine Learning, 2012, 7.6). The seconds of a take are a sum over its syllables,
the letters they have more than usual, the breaths at inner marks, and a start; numbers count as they are said. What is
left over grows with the length. Before there are takes the language's usual rate is expected, and the spread says how
far voices are from it. Against one rate of syllables from the same hundred takes, the error of bundled voices in three
languages went from 9.1 % to 4.3 %, that of women reading announcements in two from 11.5 % to 8.3 % (``bench lengths``).
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass, field
from functools import lru_cache
from typing import Final

import numpy as np

from zweistimme.project.times import SECOND_US
from zweistimme.project.writing import inner_marks, rate_for, script_of, spoken_text, syllables
from zweistimme.project.writing.numbers import said_number
from zweistimme.sound.arrays import Floats

_NUMBERS: Final = re.compile(r"\d+")
_NOISE: Final = 0.1
"""How far a take is off its expected length, as a share of it, once a voice is known."""
_NOISE_TAKES: Final = 6.0
"""As much is that expectation worth as so many takes."""
_RATE_SPREAD: Final = 0.2
"""How far a voice's rate is from that of its language, as a share."""
_LETTERS: Final = {"latin": 2.5, "cyrillic": 2.2, "greek": 2.1, "arabic": 1.8, "hebrew": 1.8}
"""Letters of a syllable where letters are sounds, or nearly."""
_OF_LETTERS, _OF_LETTERS_SPREAD = 0.7, 0.4
"""Which part of a syllable's time is that of its letters."""
_BREATH_S, _BREATH_SPREAD_S = 0.2, 0.12
_START_S, _START_SPREAD_S = 0.05, 0.15
_TAILS: Final = 4.0
"""Takes that are far off tell less: the noise is that of Student's t with so many degrees of freedom (Lange, Little and
Taylor, JASA 84, 1989)."""
_ROUNDS: Final = 4
_LEAST_S: Final = 0.08


@lru_cache(maxsize=50_000)
def _features(text: str, tag: str) -> tuple[float, float, float, float]:
    """Syllables, letters more than usual, inner marks, and one."""
    text = spoken_text(text)
    said = _NUMBERS.sub(lambda match: f" {said_number(match.group(), tag)} ", text)
    count = float(syllables(said, tag))
    usual = _LETTERS.get(script_of(said), 0.0)
    more = sum(map(str.isalpha, said)) - usual * count if usual else 0.0
    return count, more, float(inner_marks(text)), 1.0


@dataclass(frozen=True, slots=True)
class Pace:
    """What is expected of a voice in a language: *seconds* of a syllable, a letter more, a breath and a start, how sure
    that is (their *covariance*, shape ``(4, 4)``, in units of the noise, whose variance is *scale*), and from how many
    *takes* it was learned."""

    tag: str
    seconds: tuple[float, ...]
    takes: int
    scale: float
    covariance: tuple[tuple[float, ...], ...] = field(repr=False)

    def spoken_us(self, text: str) -> int:
        """How long a text will take."""
        return round(self._mean_s(_features(text, self.tag)) * SECOND_US) if text.strip() else 0

    def spread_us(self, text: str) -> int:
        """How far that may be off: two of three takes are within it."""
        return self.spoken_and_spread_us(text)[1]

    def spoken_and_spread_us(self, text: str) -> tuple[int, int]:
        """Both at once."""
        if not text.strip():
            return 0, 0
        x = _features(text, self.tag)
        mean = self._mean_s(x)
        known = sum(a * b * self.covariance[i][j] for i, a in enumerate(x) for j, b in enumerate(x))
        spread = float(np.sqrt(self.scale * (mean * mean + known)))
        return round(mean * SECOND_US), round(spread * SECOND_US)

    @property
    def syllable_s(self) -> float:
        """Seconds for one syllable more."""
        return self.seconds[0]

    def room(self, seconds: float, text: str) -> int:
        """How many syllables a text like this may have to be said in *seconds*; one at least."""
        x = _features(text, self.tag)
        rest = sum(a * b for a, b in zip(x[1:], self.seconds[1:], strict=True))
        return max(1, int((seconds - rest) / self.syllable_s))

    def _mean_s(self, x: Sequence[float]) -> float:
        return max(_LEAST_S, sum(a * b for a, b in zip(x, self.seconds, strict=True)))


@lru_cache(maxsize=100)
def usual_pace(tag: str) -> Pace:
    """What is expected of a voice nobody has heard yet."""
    return learned_pace(tag, ())


def learned_pace(tag: str, takes: Sequence[tuple[str, float]]) -> Pace:
    """The pace of a voice from *takes*: what each says, and in how many seconds."""
    syllable = 1 / rate_for(tag)
    letter = syllable / 2.5
    prior = np.array([syllable, _OF_LETTERS * letter, _BREATH_S, _START_S])
    spread = np.array([_RATE_SPREAD * syllable, _OF_LETTERS_SPREAD * letter, _BREATH_SPREAD_S, _START_SPREAD_S])
    # of the weighted problem: rows are divided by the length expected, so that the noise is a share
    precision = np.diag((_NOISE / spread) ** 2)
    freedom, squares, mean, after = _NOISE_TAKES, _NOISE_TAKES * _NOISE**2, prior, precision
    if takes:
        rows: Floats = np.array([_features(text, tag) for text, _ in takes])
        seconds = np.array([spoken_s for _, spoken_s in takes])
        shares = 1 / np.maximum(_LEAST_S, rows @ prior)
        rows, seconds = rows * shares[:, None], seconds * shares
        weights = np.ones(len(takes))
        for _ in range(_ROUNDS):
            after = precision + (rows * weights[:, None]).T @ rows
            mean = np.linalg.solve(after, precision @ prior + (rows * weights[:, None]).T @ seconds)
            off = (seconds - rows @ mean) ** 2
            noise = (squares + float((weights * off).sum())) / (freedom + float(weights.sum()))
            weights = (_TAILS + 1) / (_TAILS + off / noise)
        squares += float((weights * off).sum() + (mean - prior) @ precision @ (mean - prior))
        freedom += len(takes)
    covariance = np.linalg.inv(after)
    return Pace(tag, tuple(mean.tolist()), len(takes), squares / freedom, tuple(map(tuple, covariance.tolist())))
