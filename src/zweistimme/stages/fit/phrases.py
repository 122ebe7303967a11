"""Phrases: where the original pauses and where the take does, and which of the one belong to which of the other.

Matched by dynamic programming over moves 1:1, 1:2, 2:1, 1:3 and 3:1, as sentences of two languages are (Gale and
Church 1993): what is matched should have like shares of the speech, should not hide pauses within, and should end in
like marks. What the research on dubbing calls prosodic alignment (Federico et al. 2020; Virkar et al. 2021) is done
here inside the plan: the phrases are what it places.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import accumulate
from math import inf, log, sqrt
from typing import Final

from zweistimme.project.hand_fit import FitAs
from zweistimme.project.held_words import pins_in
from zweistimme.project.model import Line, Segment, Style, Take
from zweistimme.project.times import samples_to_us
from zweistimme.project.words import inner_pauses
from zweistimme.project.writing import ends_clause, ends_sentence
from zweistimme.stages.fit.matches import Match, cut_at_pins, with_hands

_MOVES: Final = ((1, 1), (1, 2), (2, 1), (1, 3), (3, 1))
_UNEVEN_PRICE: Final = 1.4142
_MERGE_PRICE: Final = 0.25
_HIDDEN_PRICE: Final = 0.6
"""For each second of a pause that is not kept as one; with those above as measured on generated lines of one to four
phrases."""
_UNLIKE_MARKS: Final = 0.1
_KEPT_PAUSE_US: Final = 60_000
_SHORTEST_US: Final = 250_000
"""No phrase of less is placed by itself: a word that is thrown in goes with its neighbour."""
_LONGEST_PAUSE_US: Final = 2_500_000


@dataclass(frozen=True, slots=True)
class Phrase:
    """A stretch of speech, microseconds ``[start, end)``; *pause_us* is what follows it within the line, *mark* how
    its last word ends: 2 as a sentence, 1 as a clause, 0 as neither or unknown."""

    start_us: int
    end_us: int
    pause_us: int = 0
    mark: int = 0

    @property
    def speech_us(self) -> int:
        """How long it lasts."""
        return self.end_us - self.start_us


def matched_phrases(style: Style, segment: Segment, line: Line, take: Take) -> list[Match]:
    """The phrases of a line that are placed by themselves, in order; fewer than two where the line is placed as a
    whole: off screen, in a voice-over, as long as a hand wants it, or where one of the two does not pause."""
    by_phrase = style is not Style.VOICE_OVER and segment.on_screen and line.hand.fit_as is FitAs.USUAL
    found: list[Match] = []
    as_long = line.hand.tempo is not None or (line.pin is not None and line.pin.length_us is not None)
    if by_phrase and not as_long:
        original, spoken = original_phrases(segment), take_phrases(take)
        if len(original) >= 2 and len(spoken) >= 2:
            found = [_match(take, original[a:b], spoken[c:d], original, spoken, a, c)
                     for a, b, c, d in _groups(original, spoken)]  # fmt: skip
    return with_hands(line, take, cut_at_pins(segment, take, found, pins_in(line, take)))


def original_phrases(segment: Segment) -> list[Phrase]:
    """A segment cut at its inner pauses, as its words lie; a pause of more than two and a half seconds ends
    everything, so such a segment is one phrase."""
    words, found, first = segment.words, [], 0
    pauses = inner_pauses(segment)
    if any(segment.words[k].start_us - segment.words[k - 1].end_us > _LONGEST_PAUSE_US for k in pauses):
        return [Phrase(segment.start_us, segment.end_us)]
    for k in [*pauses, len(words)]:
        start = words[first].start_us if first else segment.start_us
        end = words[k - 1].end_us if k < len(words) else segment.end_us
        pause = words[k].start_us - end if k < len(words) else 0
        found.append(Phrase(start, end, pause, _mark(words[k - 1].text) if words else 0))
        first = k
    return _long_enough(found)


def take_phrases(take: Take) -> list[Phrase]:
    """A take cut at its inner pauses, in take time."""
    edges = [take.speech_start_samples, *(at for pause in take.pauses_samples for at in pause), take.speech_end_samples]
    found = []
    for k in range(0, len(edges), 2):
        start, end = samples_to_us(edges[k]), samples_to_us(edges[k + 1])
        pause = samples_to_us(edges[k + 2]) - end if k + 2 < len(edges) else 0
        last = [word for word in take.words if word.start_us < end]
        found.append(Phrase(start, end, pause, _mark(last[-1].text) if last else 0))
    return _long_enough(found)


def _mark(word: str) -> int:
    return 2 if ends_sentence(word) else int(ends_clause(word))


def _long_enough(phrases: Sequence[Phrase]) -> list[Phrase]:
    """Phrases, those that are too short joined to the nearer neighbour."""
    found = list(phrases)
    while len(found) > 1:
        k = min(range(len(found)), key=lambda place: found[place].speech_us)
        if found[k].speech_us >= _SHORTEST_US:
            break
        before = k > 0 and (k == len(found) - 1 or found[k - 1].pause_us <= found[k].pause_us)
        a = k - 1 if before else k
        one, two = found[a], found[a + 1]
        found[a : a + 2] = [Phrase(one.start_us, two.end_us, two.pause_us, two.mark)]
    return found


def _groups(original: Sequence[Phrase], spoken: Sequence[Phrase]) -> list[tuple[int, int, int, int]]:
    """The cheapest matching: phrases ``[a, b)`` of the original with ``[c, d)`` of the take. In plain numbers: there
    are few of each, and an edit by hand asks for a hundred lines."""
    n, m = len(original), len(spoken)
    ours, theirs = _shares_before(original), _shares_before(spoken)
    best = {(0, 0): 0.0}
    came: dict[tuple[int, int], tuple[int, int]] = {}
    for i in range(1, n + 1):
        for j in range(1, m + 1):
            for p, q in _MOVES:
                before = best.get((i - p, j - q))
                if before is None:
                    continue
                a, b = ours[i] - ours[i - p], theirs[j] - theirs[j - q]
                hidden = sum(one.pause_us for one in original[i - p : i - 1]) + sum(
                    o.pause_us for o in spoken[j - q : j - 1]
                )
                price = before + abs(log(b / a)) * _UNEVEN_PRICE * sqrt(min(a, b))
                price += _MERGE_PRICE * (p + q - 2) + _HIDDEN_PRICE * hidden / 1e6
                if i < n:
                    price += _UNLIKE_MARKS * abs(original[i - 1].mark - spoken[j - 1].mark)
                if price < best.get((i, j), inf):
                    best[i, j], came[i, j] = price, (p, q)
    if (n, m) not in best:  # more than three times as many of the one: placed as a whole
        return [(0, n, 0, m)]
    found, i, j = [], n, m
    while i:
        p, q = came[i, j]
        found.append((i - p, i, j - q, j))
        i, j = i - p, j - q
    return found[::-1]


def _shares_before(phrases: Sequence[Phrase]) -> list[float]:
    """The share of all speech that lies before each phrase, and 1 at the end."""
    sums = [0, *accumulate(one.speech_us for one in phrases)]
    return [one / sums[-1] for one in sums]


def _match(
    take: Take, original: Sequence[Phrase], spoken: Sequence[Phrase],
    all_original: Sequence[Phrase], all_spoken: Sequence[Phrase], a: int, c: int,
) -> Match:  # fmt: skip
    pauses = [all_original[a - 1].pause_us if a else 0, all_spoken[c - 1].pause_us if c else 0]
    inside = [
        (start, end)
        for start, end in take.pauses_samples
        if spoken[0].start_us < samples_to_us(start) and samples_to_us(end) < spoken[-1].end_us
    ]
    spare = sum(max(0, samples_to_us(end - start) - _KEPT_PAUSE_US) for start, end in inside)
    edges = {samples_to_us(at): at for pause in take.pauses_samples for at in pause}
    first = edges.get(spoken[0].start_us, take.speech_start_samples) if c else take.speech_start_samples
    end = edges.get(spoken[-1].end_us, take.speech_end_samples)
    end = end if c + len(spoken) < len(all_spoken) else take.speech_end_samples
    return Match(original[0].start_us, original[-1].end_us, first, end, spare, max(pauses))
