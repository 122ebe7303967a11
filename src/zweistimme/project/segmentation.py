"""Where speech is cut into segments: at pauses and sentence ends, never inside a word, as a person would dub it.

The places are chosen together, by dynamic programming over the words of one speaker.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import Final

from zweistimme.project.model import Segment, Speaker, Word
from zweistimme.project.words import SHORTEST_SEGMENT_US, text_of
from zweistimme.project.writing import ends_clause, ends_sentence

_LONG_PRICE: Final = 6.0
_SHORT_PRICE: Final = 3.0
_CUT_PRICE: Final = 0.35
_INSIDE: Final = 9.0
_CLAUSE: Final = 3.0
_SENTENCE: Final = -1.0
_PAUSE_SHARE: Final = 4.0
_MOST_WORDS: Final = 250
"""No segment has more, however short its words are said to be."""
_SMALL: Final = {
    *("a", "an", "the", "of", "to", "in", "on", "at", "and", "or", "but", "my", "his", "her", "its", "their"),
    *("der", "die", "das", "den", "dem", "des", "ein", "eine", "einen", "im", "in", "am", "und", "oder", "zu", "von"),
    *("el", "la", "los", "las", "un", "una", "de", "del", "en", "y", "o", "que", "mi", "su"),
}
"""Words that lean on the one behind them."""


@dataclass(frozen=True, slots=True)
class CutLimits:
    """What a segment should be. A silence of *pause_us* always ends one; *shortest_us* and *longest_us* are aimed
    at, and only broken where a pause or a single word leaves no choice."""

    pause_us: int = 650_000
    shortest_us: int = 900_000
    longest_us: int = 7_000_000


def cut_places(words: Sequence[Word], limits: CutLimits) -> list[int]:
    """After how many words to cut, in order, each once; empty where all belong together.

    >>> from zweistimme.project.words import spread
    >>> said = (*spread(["It", "turns!"], 0, 1_000_000), *spread(["Good."], 2_000_000, 3_000_000))
    >>> cut_places(said, CutLimits())
    [2]
    """
    places = []
    start = 0
    for stop in range(1, len(words) + 1):
        if stop == len(words) or words[stop].start_us - words[stop - 1].end_us >= limits.pause_us:
            places += [start + place for place in _cuts_within(words[start:stop], limits)]
            if stop < len(words):
                places.append(stop)
            start = stop
    return places


def utterances(words: Sequence[Word], speakers: Sequence[str], limits: CutLimits) -> list[tuple[str, tuple[Word, ...]]]:
    """Words with their speakers as (speaker, words) of each segment, in order. Somebody else always begins anew;
    words of two people who talk at once are told apart first."""
    found: list[tuple[str, tuple[Word, ...]]] = []
    runs: dict[str, list[Word]] = {}
    for word, speaker in sorted(zip(words, speakers, strict=True), key=lambda pair: pair[0].start_us):
        for other in [name for name, run in runs.items() if name != speaker and run[-1].end_us <= word.start_us]:
            found += _segments_of(other, runs.pop(other), limits)
        runs.setdefault(speaker, []).append(word)
    for speaker, run in runs.items():
        found += _segments_of(speaker, run, limits)
    return sorted(found, key=lambda one: one[1][0].start_us)


def transcript_of(
    cut: Sequence[tuple[str, tuple[Word, ...]]], *, on_screen: bool = True
) -> tuple[tuple[Speaker, ...], list[Segment]]:
    """Speakers and segments made of utterances, each given as its speaker's name and its words."""
    ids: dict[str, str] = {}
    segments = [
        Segment(
            f"s{number:04d}",
            ids.setdefault(name, f"p{len(ids) + 1}"),
            said[0].start_us,
            max(max(word.end_us for word in said), said[0].start_us + SHORTEST_SEGMENT_US),
            text_of(said),
            said,
            on_screen,
        )
        for number, (name, said) in enumerate(cut, 1)
    ]
    return tuple(Speaker(key, name) for name, key in ids.items()), segments


def _segments_of(speaker: str, words: list[Word], limits: CutLimits) -> list[tuple[str, tuple[Word, ...]]]:
    edges = [0, *cut_places(words, limits), len(words)]
    return [(speaker, tuple(words[a:b])) for a, b in pairwise(edges)]


def _cuts_within(words: Sequence[Word], limits: CutLimits) -> list[int]:
    """Cuts in speech without a long pause: the cheapest way from the first word to the last."""
    count = len(words)
    best = [0.0] + [float("inf")] * count
    came = [0] * (count + 1)
    prices = [_cut_price(words, place, limits) for place in range(count)]
    for stop in range(1, count + 1):
        for start in range(stop - 1, -1, -1):
            length = words[stop - 1].end_us - words[start].start_us
            price = best[start] + _length_price(length, limits) + (prices[start] if start else 0.0)
            if price < best[stop]:
                best[stop], came[stop] = price, start
            if (length > 2 * limits.longest_us and stop - start > 1) or stop - start > _MOST_WORDS:
                break
    places = []
    place = came[count]
    while place:
        places.append(place)
        place = came[place]
    return places[::-1]


def _length_price(length_us: int, limits: CutLimits) -> float:
    over = max(0.0, length_us / limits.longest_us - 1)
    under = max(0.0, 1 - length_us / limits.shortest_us)
    return _LONG_PRICE * min(over, 1) + 25 * over + _SHORT_PRICE * under


def _cut_price(words: Sequence[Word], place: int, limits: CutLimits) -> float:
    """What it costs to cut before word *place*: little after a sentence, much within a phrase, less in a pause."""
    if place == 0:
        return 0.0
    before, after = words[place - 1], words[place]
    pause = min(1.0, max(0, after.start_us - before.end_us) / limits.pause_us)
    if ends_sentence(before.text, after.text):
        price = _SENTENCE
    else:
        price = _CLAUSE if ends_clause(before.text) else _INSIDE
        price += 8.0 if before.text.lower() in _SMALL else 0.0
    return _CUT_PRICE + price - _PAUSE_SHARE * pause * (0.25 if price < 0 else 1.0)
