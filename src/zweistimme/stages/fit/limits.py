"""The numbers behind a style, and those a version has of its own."""

from __future__ import annotations

from dataclasses import replace

from zweistimme.project.fit_limits import Limits, Pair
from zweistimme.project.model import Preference, Style, Version


def limits_of(version: Version) -> Limits:
    """The limits of a version: its own, else those of its style and of what it keeps."""
    return version.limits or limits_for(version.style, version.preference)


def limits_for(style: Style, preference: Preference) -> Limits:
    """The limits of a style. Styles change the numbers, not the model."""
    limits = Limits()
    if style is Style.LIP_SYNC:
        limits = replace(
            limits,
            start_tolerance=_halved(limits.start_tolerance),
            end_tolerance=_halved(limits.end_tolerance),
            lag_cap=_halved(limits.lag_cap),
            start_price=_doubled(limits.start_price),
            near_price=(1.0, 8.0),
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
        limits = replace(
            limits, start_price=(20.0, 8.0), near_price=_doubled(limits.near_price), end_price=(dearer[0], dearer[1])
        )
    return limits


def _doubled(pair: Pair) -> Pair:
    return 2 * pair[0], 2 * pair[1]


def _halved(pair: Pair) -> Pair:
    return pair[0] / 2, pair[1] / 2
