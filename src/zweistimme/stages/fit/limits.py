"""The numbers behind a style: tolerances, prices and limits of the plan. Pairs are (on screen, off screen)."""

from __future__ import annotations

from dataclasses import dataclass, replace

from zweistimme.project.model import Preference, Style

Pair = tuple[float, float]


@dataclass(frozen=True, slots=True)
class Limits:
    """Times in seconds, prices per second of deviation (tempo: per second of speech), tempos as factors."""

    start_tolerance: Pair = (0.12, 0.5)
    end_tolerance: Pair = (0.2, 0.8)
    start_price: Pair = (8.0, 3.0)
    end_price: Pair = (4.0, 1.5)
    lag_cap: Pair = (0.6, 1.6)
    comfort: Pair = (0.92, 1.15)
    soft: Pair = (0.80, 1.30)
    hard: Pair = (0.67, 1.50)
    tempo_price: tuple[float, float, float] = (1.0, 12.0, 60.0)
    least_gap: float = 0.08
    start_shift: float = 0.0
    end_shift: float = 0.0
    inside_price: float = 0.0
    """What it costs, a second, to start before the original or to end after it, where a style promises neither: dearer
    than any permitted tempo, cheaper than to leave words unsaid."""


def limits_for(style: Style, preference: Preference) -> Limits:
    """The limits of a version. Styles change the numbers, not the model."""
    limits = Limits()
    if style is Style.LIP_SYNC:
        limits = replace(
            limits,
            start_tolerance=_halved(limits.start_tolerance),
            end_tolerance=_halved(limits.end_tolerance),
            lag_cap=_halved(limits.lag_cap),
            start_price=_doubled(limits.start_price),
            end_price=(12.0, 6.0),
        )
    if style is Style.VOICE_OVER:
        limits = replace(
            limits,
            start_shift=0.7,
            end_shift=0.2,
            start_tolerance=(0.3, 0.3),
            end_tolerance=(0.6, 0.6),
            lag_cap=(1.6, 1.6),
            inside_price=200.0,
        )
    if preference is Preference.VOICE:
        limits = replace(limits, tempo_price=(1.0, 30.0, 150.0))
    if preference is Preference.LIPS:
        dearer = [max(pair) for pair in zip(limits.end_price, (10.0, 4.0), strict=True)]
        limits = replace(limits, start_price=(20.0, 8.0), end_price=(dearer[0], dearer[1]))
    return limits


def _doubled(pair: Pair) -> Pair:
    return 2 * pair[0], 2 * pair[1]


def _halved(pair: Pair) -> Pair:
    return pair[0] / 2, pair[1] / 2
