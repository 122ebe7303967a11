"""How sure a sentence is of its place: how much better it fits there than other sentences of the same voice would, and
than any sound that people make there."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Final

import numpy as np
import numpy.typing as npt

from zweistimme.sound.arrays import Floats
from zweistimme.sound.features import STATE_SECONDS
from zweistimme.sound.script_features import Singles, Template, costs
from zweistimme.sound.script_path import SKIP, STAY, Found, Heard
from zweistimme.sound.script_seen import SeenScript

SURE: Final = 0.5
"""Above this a sentence is taken to be where it was found."""
_DECOYS: Final = 14
_LEAST_DECOYS: Final = 4
_LEAST_SPOKEN: Final = 3
_MOST_COSTS: Final = 4_000_000
"""Distances that are held at once."""
_NO_WAY: Final = 4.0
"""What it costs a frame where there are more states than frames reach."""
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


def sureness_of(heard: Heard, one: Found, number: int, script: SeenScript, doubt: float) -> float:
    """How sure sentence *number* is of where it was found, 0..1, against others of the same length."""
    own = script.states(number)
    rows = heard.rows[_spoken(heard, one)]
    fits = _fits(rows, [own, *_others(number, script)])
    apart = float(fits[1:].mean() - fits[0]) / (float(fits[1:].std()) + 0.08)
    # fitted on recordings of people and mixtures of them with unspoken sentences: see benchmarks/human.py
    evidence = 1.75 * apart - 7.9 * _over_any(heard, one, script, number) + 0.2 * np.log(len(rows) / 50) + 1.0 - doubt
    return float(1 / (1 + np.exp(-np.clip(evidence, -20, 20))))


def _others(number: int, script: SeenScript) -> list[Singles]:
    """What else could have been said in the place of a sentence, as long as it: the same few sentences for all, so that
    they are made once."""
    own = script.states(number)
    size = own.shape[1]
    step = max(1, len(script.templates) // _DECOYS)
    decoys = [k for k in range(0, len(script.templates), step)[: _DECOYS + 1] if not script.alike(k, number)]
    others = [script.states(k)[:, np.arange(size) % script.templates[k].states] for k in decoys[:_DECOYS]]
    if len(others) < _LEAST_DECOYS:  # the same sounds in another order will do
        others += [np.roll(own, size * k // 4, axis=1) for k in (1, 2, 3)] + [own[:, ::-1]]
    return others


def _spoken(heard: Heard, one: Found) -> npt.NDArray[np.int64]:
    """The frames of a sentence in which somebody speaks; all of them where those are hardly any."""
    a, b = int(one.frames[0]), max(int(one.frames[-1]), int(one.frames[0]) + 2)
    every = np.arange(a, min(b, len(heard.rows)))
    spoken = every[heard.spoken[every]]
    return spoken if len(spoken) > _LEAST_SPOKEN else every


def _over_any(heard: Heard, one: Found, script: SeenScript, number: int) -> float:
    """By how much the frames of a sentence are further from its states than from any sound people make here."""
    frames = _spoken(heard, one)
    own = script.states(number)
    states = np.clip(np.searchsorted(one.frames, frames + 0.5) - 1, 0, own.shape[1] - 1)
    rows = heard.rows[frames]
    apart = ((rows[None] - own[:, states]) ** 2).sum(axis=2).min(axis=0)
    return float((np.sqrt(apart) - script.ear.nearest(rows)).mean())


def _fits(rows: Singles, seen: Sequence[Singles]) -> Floats:
    """What the cheapest way through all states costs a frame, for each of some sentences of the same length."""
    size, together = seen[0].shape[1], max(1, _MOST_COSTS // (len(rows) * seen[0].shape[1]))
    totals = []
    for first in range(0, len(seen), together):
        some = seen[first : first + together]
        tables = costs(rows, np.concatenate(some, axis=1)).reshape(len(rows), len(some), size)
        total = np.full((len(some), size + 2), np.inf, dtype=np.float32)  # two more, so that every state has two before
        total[:, 2] = tables[0, :, 0]
        for row in tables[1:]:
            came = np.minimum(total[:, 1:-1], total[:, :-2] + SKIP)
            total[:, 2:] = np.minimum(total[:, 2:] + STAY, came) + row
        totals.append(total[:, -1])
    every = np.concatenate(totals) / len(rows)
    return np.where(np.isfinite(every), every, _NO_WAY).astype(np.float64)
