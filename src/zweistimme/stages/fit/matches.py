"""Phrases of a take and of the original that belong together, cut where a hand holds a word."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Final

from zweistimme.project.hand_fit import PhraseHand, WordPin
from zweistimme.project.model import Line, Segment, Take
from zweistimme.project.placed_time import hands_of
from zweistimme.project.times import samples_to_us, us_to_samples

_KEPT_PAUSE_US: Final = 60_000
_LEAST_SAMPLES: Final = 2_400
"""A word this near to the edge of a phrase (50 ms) begins it."""


@dataclass(frozen=True, slots=True)
class Match:
    """Phrases of the original (programme time) and of the take (samples of its clip) that belong together; *spare_us*
    is what the take's pauses within have above what a breath needs, *before_us* the longer of the two pauses before
    it; *is_word*: it begins with a word that is held to *pinned_us*, where there need be no pause; *hand*: what else
    is said of it."""

    start_us: int
    end_us: int
    take_start_samples: int
    take_end_samples: int
    spare_us: int
    before_us: int
    pinned_us: int | None = None
    is_word: bool = False
    hand: PhraseHand | None = None


def cut_at_pins(segment: Segment, take: Take, matches: Sequence[Match], pins: Sequence[WordPin]) -> list[Match]:
    """The phrases of a line with one more wherever a word begins that is held: what is before it in its phrase has
    until then, what is behind it the rest."""
    if pins and not matches:
        first, end = take.speech_start_samples, take.speech_end_samples
        matches = [Match(segment.start_us, segment.end_us, first, end, _spare_us(take, first, end), 0)]
    cut = list(matches)
    for pin in pins:
        at = us_to_samples(max(0, take.words[pin.word].start_us))
        place = next((k for k, one in enumerate(cut) if at < one.take_end_samples - _LEAST_SAMPLES), None)
        if place is not None:
            cut[place : place + 1] = _cut(cut[place], take, at, pin.start_us)
    return cut


def with_hands(line: Line, take: Take, matches: Sequence[Match]) -> list[Match]:
    """The phrases of a line with what a hand says of them."""
    if not (line.hand.phrases and matches):
        return list(matches)
    hands = hands_of(line, take, [samples_to_us(one.take_start_samples) for one in matches])
    return [replace(one, hand=hand) for one, hand in zip(matches, hands, strict=True)]


def _cut(one: Match, take: Take, at: int, pinned_us: int) -> list[Match]:
    """A phrase cut at a sample of the take that is held to a moment."""
    if at <= one.take_start_samples + _LEAST_SAMPLES:
        return [replace(one, pinned_us=pinned_us)]
    share = (at - one.take_start_samples) / (one.take_end_samples - one.take_start_samples)
    middle_us = one.start_us + round(share * (one.end_us - one.start_us))
    before = replace(one, end_us=middle_us, take_end_samples=at, spare_us=_spare_us(take, one.take_start_samples, at))
    behind = Match(
        middle_us, one.end_us, at, one.take_end_samples, _spare_us(take, at, one.take_end_samples), 0, pinned_us,
        is_word=True,
    )  # fmt: skip
    return [before, behind]


def _spare_us(take: Take, first: int, end: int) -> int:
    """What the inner pauses of a stretch have above what a breath needs."""
    inside = [(a, b) for a, b in take.pauses_samples if first < a and b < end]
    return sum(max(0, samples_to_us(b - a) - _KEPT_PAUSE_US) for a, b in inside)
