"""How sure a sentence is of its place: how much better it fits there than other sentences of the same voice would, and
than any sound that people make there."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Final

import numpy as np
import numpy.typing as npt

from zweistimme.sound.features import STATE_SECONDS
from zweistimme.sound.script_features import Ear, Singles, Template, costs
from zweistimme.sound.script_path import SKIP, STAY, Found, Heard

SURE: Final = 0.5
"""Above this a sentence is taken to be where it was found."""
_DECOYS: Final = 14
_LEAST_DECOYS: Final = 4
_LEAST_SPOKEN: Final = 3
_FEW: Final = 1.5
"""What it costs, in logarithms of odds, to have no more than so many sentences to compare with."""
_USUAL_SPEECH: Final = 1.5
"""So much speech for what the script has is nothing unusual."""
_ODDS_APART: Final = 5.5
"""By how much, as a logarithm, the odds of a sentence may be worse than usual."""
_ENOUGH: Final = 0.55
"""This is sure enough beside any others."""


def doubt_of(templates: Sequence[Template], speech_s: float) -> float:
    """By how much, as a logarithm, the odds of any sentence are worse than usual: among much speech there is always
    some that is like it, and with few others it can be compared with little."""
    script_s = sum(one.states for one in templates) * STATE_SECONDS
    few = _FEW if len(templates) <= _LEAST_DECOYS else 0.0
    return few + float(np.log(max(1.0, speech_s / max(script_s, STATE_SECONDS) / _USUAL_SPEECH)))


def least_among(sureness: Sequence[float]) -> float:
    """Below what sureness a sentence does not go with the others: the surer they are, the more evidence it takes."""
    if not sureness:
        return 0.0
    usual = np.clip(np.median(sureness), 1e-9, 1 - 1e-9)
    return min(_ENOUGH, float(1 / (1 + (1 - usual) / usual * np.exp(_ODDS_APART))))


def sureness_of(heard: Heard, one: Found, number: int, templates: Sequence[Template], ear: Ear, doubt: float) -> float:
    """How sure sentence *number* is of where it was found, 0..1, against others of the same length."""
    own = templates[number]
    spoken = _spoken(heard, one)
    step = max(1, len(templates) // _DECOYS)
    decoys = [templates[(number + k * step + 1) % len(templates)] for k in range(_DECOYS)]
    fakes = [_as_long(other, own.states) for other in decoys if other is not own]
    if len(fakes) < _LEAST_DECOYS:  # the same sounds in another order will do
        fakes += [np.roll(own.spectra, own.states * k // 4, axis=1) for k in (1, 2, 3)] + [own.spectra[:, ::-1]]
    rows = heard.rows[spoken]
    cost = _fit(rows, ear.states(own.spectra))
    others = np.array([_fit(rows, ear.states(fake)) for fake in fakes])
    apart = (float(others.mean()) - cost) / (float(others.std()) + 0.08)
    # fitted on recordings of people and mixtures of them with unspoken sentences: see benchmarks/human.py
    evidence = 1.75 * apart - 7.9 * _over_any(heard, one, own, ear) + 0.2 * np.log(len(rows) / 50) + 1.0 - doubt
    return float(1 / (1 + np.exp(-np.clip(evidence, -20, 20))))


def _spoken(heard: Heard, one: Found) -> npt.NDArray[np.int64]:
    """The frames of a sentence in which somebody speaks; all of them where those are hardly any."""
    a, b = int(one.frames[0]), max(int(one.frames[-1]), int(one.frames[0]) + 2)
    every = np.arange(a, min(b, len(heard.rows)))
    spoken = every[heard.spoken[every]]
    return spoken if len(spoken) > _LEAST_SPOKEN else every


def _over_any(heard: Heard, one: Found, own: Template, ear: Ear) -> float:
    """By how much the frames of a sentence are further from its states than from any sound people make here."""
    frames = _spoken(heard, one)
    states = np.clip(np.searchsorted(one.frames, frames + 0.5) - 1, 0, own.states - 1)
    rows = heard.rows[frames]
    apart = ((rows[None] - ear.states(own.spectra)[:, states]) ** 2).sum(axis=2).min(axis=0)
    return float((np.sqrt(apart) - ear.nearest(rows)).mean())


def _as_long(template: Template, states: int) -> npt.NDArray[np.float16]:
    """A template's states, repeated from its beginning until there are as many."""
    return template.spectra[:, np.arange(states) % template.states]


def _fit(rows: Singles, seen: Singles) -> float:
    """What the cheapest way through all states of a sentence costs a frame."""
    table = costs(rows, seen)
    total = np.full(table.shape[1], np.inf)
    total[0] = table[0, 0]
    for row in table[1:]:
        step = np.concatenate(([np.inf], total[:-1]))
        skip = np.concatenate(([np.inf, np.inf], total[:-2])) + SKIP
        total = np.minimum(np.minimum(total + STAY, step), skip)[: len(row)] + row
    best = float(total[-1])
    return best / len(table) if np.isfinite(best) else 4.0
