"""Where a moment of a take is heard, line by line or phrase by phrase, and which phrases hands speak of."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise
from typing import Final

from zweistimme.project.hand_fit import PhraseHand
from zweistimme.project.held_words import phrase_hands_in
from zweistimme.project.model import Line, Placement, Take
from zweistimme.project.programme import Programme
from zweistimme.project.times import samples_to_us

BEHIND_END: Final = "behind-end"
"""The reason that is kept of a placement some of which is not heard."""
_HEARD_US: Final = 1_000
_NEAR_US: Final = 60_000
"""A word that begins so shortly before a phrase begins it."""
_SAME_US: Final = 500
"""A moment so near to the end of a phrase is the beginning of the next."""


def placed_us(placement: Placement, take: Take, take_us: float) -> int:
    """The programme time at which a moment of a take is heard, microseconds: evenly within the take, or within each of
    its phrases and what lies between them.

    >>> take = Take("t", "s", "synthesized", "", "", 96_000, 0, 96_000, "")
    >>> placed_us(Placement("s", "t", 5_000_000, 1_000_000, 2.0, (), ""), take, 500_000)
    5250000
    """
    knots = edges_of(placement, take)
    for (from_us, at_us), (to_us, then_us) in pairwise(knots):
        if take_us < to_us - _SAME_US or (to_us, then_us) == knots[-1]:
            share = (take_us - from_us) / max(1, to_us - from_us)
            return round(at_us + share * (then_us - at_us))
    return placement.start_us


def behind_end_us(placement: Placement, programme: Programme | None) -> int:
    """How much of a placed take would be heard behind the end of the programme, where nothing is heard any more; what
    nobody could hear, a millisecond, is none."""
    if programme is None:
        return 0
    behind_us = placement.start_us + placement.length_us - programme.sound.duration_us
    return behind_us if behind_us > _HEARD_US else 0


def does_not_fit(placement: Placement) -> bool:
    """Whether something is wrong with where a take stands: too long, at once with another, or behind the end."""
    behind = any(one.code == BEHIND_END for one in placement.why)
    return bool(placement.overflow_us or placement.clash_us or behind)


def edges_of(placement: Placement, take: Take) -> list[tuple[int, int]]:
    """Moments of a take and when they are heard, both rising: its ends, and those of its phrases."""
    if not placement.phrases:
        first, end = samples_to_us(take.speech_start_samples), samples_to_us(take.speech_end_samples)
        return [(first, placement.start_us), (end, placement.start_us + placement.length_us)]
    knots = []
    for one in placement.phrases:
        knots.append((samples_to_us(one.take_start_samples), one.start_us))
        knots.append((samples_to_us(one.take_end_samples), one.start_us + one.length_us))
    return knots


def phrases_of(placement: Placement, take: Take) -> list[tuple[int, int]]:
    """The phrases of a placed take, microseconds of the take: those that are placed by themselves, or else those
    between its inner pauses."""
    if placement.phrases:
        spans = [(one.take_start_samples, one.take_end_samples) for one in placement.phrases]
    else:
        edges = [take.speech_start_samples, *(at for one in take.pauses_samples for at in one), take.speech_end_samples]
        spans = list(zip(edges[::2], edges[1::2], strict=True))
    return [(samples_to_us(start), samples_to_us(end)) for start, end in spans]


def first_word(take: Take, start_us: int) -> int:
    """The number of the word with which a phrase begins that starts at this moment of the take; -1 where that is not
    known."""
    return next((k for k, one in enumerate(take.words) if one.start_us >= start_us - _NEAR_US), -1)


def hands_of(line: Line, take: Take, starts_us: Sequence[int]) -> list[PhraseHand | None]:
    """What a hand says of each phrase of a take, by where these start; None where it says nothing."""
    found: list[PhraseHand | None] = [None] * len(starts_us)
    for hand in phrase_hands_in(line, take):
        at_us = take.words[hand.word].start_us + _NEAR_US
        place = next((k for k in reversed(range(len(starts_us))) if starts_us[k] <= at_us), 0)
        found[place] = hand
    return found


def phrase_words(placement: Placement, take: Take) -> tuple[int, ...]:
    """The numbers of the words with which the phrases of a placed take begin; none where that is not known."""
    words = [first_word(take, start_us) for start_us, _ in phrases_of(placement, take)]
    return tuple(words) if all(a < b for a, b in pairwise([-1, *words])) else ()
