"""Choosing among three wordings a line, for programmes of 100, 1,000 and 10,000 lines, and what it gains."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from benchmarks.timing import Rows, figure, once
from zweistimme.project.model import Preference, Style
from zweistimme.stages.fit.limits import limits_for
from zweistimme.stages.fit.wording_choice import Chosen, Lines, chosen_wordings

_COUNTS = (100, 1_000, 10_000)


def programme(count: int) -> Lines:
    """Lines of a talk: lengths and pauses as people's are, the first wording 12 % longer than the original, the others
    shorter by a fifth and by two fifths, give or take."""
    dice = np.random.default_rng(9)
    lengths = dice.lognormal(0.9, 0.5, count)
    pauses = np.where(dice.random(count) < 0.2, dice.exponential(2.0, count) + 0.3, dice.exponential(0.25, count))
    starts = np.cumsum(np.concatenate(([1.0], (lengths + pauses)[:-1])))
    full = lengths * 1.12 * dice.lognormal(0.0, 0.2, count)
    shares = np.array([1.0, 0.8, 0.6]) * dice.lognormal(0.0, 0.05, (count, 3))
    spoken = (full[:, None] * shares).tolist()
    return Lines(starts, starts + lengths, (dice.random(count) < 0.6).tolist(), spoken, [False] * count)


def choosing() -> Rows:
    limits = limits_for(Style.PHRASE_SYNC, Preference.BALANCED)
    for count in _COUNTS:
        lines = programme(count)
        found: list[Chosen] = []

        def choose(lines: Lines = lines, found: list[Chosen] = found) -> None:
            found.append(chosen_wordings(lines, limits))

        taken = once(choose)
        alone = chosen_wordings(replace(lines, spoken=[several[:1] for several in lines.spoken]), limits)
        wanted = "; wanted: 3 s" if count == 1_000 else ""
        yield figure(
            f"{count:,} lines, three wordings each", taken, "s", f"{1000 * taken / count:.1f} ms a line{wanted}"
        )
        share, before = (_comfort(one, limits.comfort) for one in (found[0], alone))
        kept = np.mean(found[0].wording == 0)
        against = f"{before:.0f} % with the first wording; {100 * kept:.0f} % keep it"
        yield figure(f"{count:,} lines: tempo in comfort", share, "%", against)


def _comfort(chosen: Chosen, comfort: tuple[float, float]) -> float:
    return float(100 * np.mean((chosen.tempo >= comfort[0] - 1e-6) & (chosen.tempo <= comfort[1] + 1e-6)))
