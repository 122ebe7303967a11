"""How loud a clip is from end to end by hand: its own ends faded, and its phrases louder, softer, or faded."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import Final

import numpy as np

from zweistimme.project.model import Line
from zweistimme.project.placed_time import hands_of, phrases_of, placed_us
from zweistimme.project.times import RATE, us_to_samples
from zweistimme.sound.arrays import Mono, amplitude
from zweistimme.stages.mix.placed import PlacedTake

_STEP_SAMPLES: Final = RATE // 100
"""From one level to the next in ten milliseconds, so that nothing clicks."""


@dataclass(frozen=True, slots=True)
class PhraseShape:
    """A phrase of a clip, microseconds from where the clip starts: so much louder than the rest, and its ends faded."""

    start_us: int
    end_us: int
    gain_db: float = 0.0
    fade_in_us: int = 0
    fade_out_us: int = 0


def shapes_of(line: Line, item: PlacedTake) -> tuple[PhraseShape, ...]:
    """What a hand says of how the phrases of a placed take are heard; none where it says nothing of any."""
    if not any(one.gain_db or one.fade_in_us or one.fade_out_us for one in line.hand.phrases):
        return ()
    spans, placement = phrases_of(item.placement, item.take), item.placement
    found: list[PhraseShape] = []
    for (start_us, end_us), hand in zip(spans, hands_of(line, item.take, [one for one, _ in spans]), strict=True):
        at = [placed_us(placement, item.take, moment) - placement.start_us for moment in (start_us, end_us)]
        if placement.phrases:  # the end of a phrase, not the beginning of the next
            phrase = placement.phrases[len(found)]
            at = [phrase.start_us - placement.start_us, phrase.start_us + phrase.length_us - placement.start_us]
        said = (hand.gain_db, hand.fade_in_us, hand.fade_out_us) if hand else (0.0, 0, 0)
        found.append(PhraseShape(at[0], at[1], *said))
    return tuple(found)


def enveloped(sound: Mono, in_us: int, out_us: int, phrases: Sequence[PhraseShape]) -> Mono:
    """A clip, shape ``(n,)``, with its ends faded, each by a raised cosine as far as it is long, and its phrases as
    loud as somebody wants them."""
    if not (in_us or out_us or phrases):
        return sound
    curve = _phrase_curve(len(sound), phrases) if phrases else np.ones(len(sound), dtype=np.float32)
    _fade(curve, 0, len(sound), in_us, out_us)
    return sound * curve


def _phrase_curve(length: int, phrases: Sequence[PhraseShape]) -> Mono:
    """Each phrase reaches to the middle of the pauses around it."""
    edges = [0, *(us_to_samples((one.end_us + two.start_us) // 2) for one, two in pairwise(phrases)), length]
    levels = np.repeat([amplitude(one.gain_db) for one in phrases], np.maximum(np.diff(edges), 0))[:length]
    curve = np.ones(length)
    curve[: len(levels)] = levels
    for one, (low, high) in zip(phrases, pairwise(edges), strict=True):
        start, end = us_to_samples(one.start_us), us_to_samples(one.end_us)
        _fade(curve, start, end, one.fade_in_us, one.fade_out_us)
        if one.fade_in_us:
            curve[low : min(start, high)] = 0
        if one.fade_out_us:
            curve[max(end, low) : high] = 0
    padded = np.pad(curve, _STEP_SAMPLES // 2, mode="edge")
    sums = np.cumsum(np.concatenate(([0.0], padded)))
    return ((sums[_STEP_SAMPLES:] - sums[:-_STEP_SAMPLES]) / _STEP_SAMPLES)[:length].astype(np.float32)


def _fade(curve: np.ndarray, start: int, end: int, in_us: int, out_us: int) -> None:
    """Fade what lies between two samples, in place."""
    part = curve[max(0, start) : max(0, end)]
    counts = [min(us_to_samples(time), len(part)) for time in (in_us, out_us)]
    rising = [0.5 - 0.5 * np.cos(np.linspace(0, np.pi, count, endpoint=False)) for count in counts]
    part[: counts[0]] *= rising[0]
    part[len(part) - counts[1] :] *= rising[1][::-1]
