"""A whole script laid over a whole programme, window by window, in memory that does not grow with either; and how sure
each sentence is of its place.

The ear learns twice from what was found; then the whole is looked through. What is not likely there is left out, since
it may have pushed others out of their places, and they are looked for once more without it; what fits into speech that
is left over then comes back. What has no evidence for or against it is for the caller to place by length.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace
from itertools import pairwise
from typing import Final

import numpy as np

from zweistimme.sound.arrays import Floats
from zweistimme.sound.features import STATE_SECONDS
from zweistimme.sound.script_edges import to_the_speech, word_frames
from zweistimme.sound.script_features import Match, Template, first_ear, learned_ear
from zweistimme.sound.script_path import Found, Heard, heard_in, path_through
from zweistimme.sound.script_seen import SeenScript
from zweistimme.sound.script_stretches import Placed, against_rivals, beside
from zweistimme.sound.script_sureness import SURE, doubt_of, least_among, sureness_of

SpectraOf = Callable[[float, float], Floats]
"""Log mel spectra of the sound from one second to another, every 20 ms; shape ``(n, 32)``."""
_WINDOW_S: Final = 90.0
_LAG_S: Final = 30.0
_AHEAD_S: Final = 115.0
_MOST_AHEAD_S: Final = 300.0
_LESSONS: Final = 2
_TAUGHT_S: Final = 600.0
"""How often, and from how much of the sound, the ear learns."""
_REVISIONS: Final = 2
_ANCHOR: Final = 0.8
"""Sentences surer than this stay where they are."""
_LEAST_FILLED, _LEAST_FILLED_S = 0.05, 0.3
_PACE: Final = (0.6, 1.7)
"""How long people may take for a sentence against what the voice takes."""
_AGAINST: Final = 0.35
"""Below this a sentence is taken not to be there."""


def align(
    spectra_of: SpectraOf,
    length_s: float,
    regions: Sequence[tuple[float, float]],
    templates: Sequence[Template],
    report: Callable[[float], None],
) -> list[Placed]:
    """Sentences that were found, in order. The first passes find out how voice, room and people differ."""
    search = _first_search(spectra_of, regions, templates)
    for number in range(_LESSONS):
        placed = search.everywhere(min(length_s, _TAUGHT_S), _part(report, 0.15 * number, 0.15))
        search = search.taught_by(placed)
    placed = search.everywhere(length_s, _part(report, 0.15 * _LESSONS, 0.6))
    placed = search.filled(search.without_doubtful(placed, length_s), length_s)
    placed = against_rivals(placed, regions, length_s, search.likely_between)
    report(0.9)
    more = beside(placed, len(templates), regions, length_s, search.between)
    report(1.0)
    return sorted((*placed, *more), key=lambda one: one.sentence)


def _part(report: Callable[[float], None], done: float, share: float) -> Callable[[float], None]:
    return lambda part: report(done + share * part)


def align_one(
    spectra_of: SpectraOf, start_s: float, end_s: float, template: Template, others: Sequence[Template]
) -> Placed | None:
    """Where one sentence is heard between two times; None where it is not."""
    search = _first_search(spectra_of, [(start_s, end_s)], [template, *others])
    return search.between(0, start_s, end_s)


def _first_search(
    spectra_of: SpectraOf, regions: Sequence[tuple[float, float]], templates: Sequence[Template]
) -> _Search:
    """With an ear that was only in some of the speech and around it."""
    step = max(1, len(regions) // 60)
    parts = [spectra_of(max(0.0, a - 0.5), min(b, a + 10) + 0.5) for a, b in regions[::step]]
    doubt = doubt_of(templates, sum(b - a for a, b in regions))
    return _Search(spectra_of, SeenScript(templates, first_ear(np.concatenate(parts), templates)), doubt)


@dataclass(frozen=True, slots=True)
class _Search:
    """What is needed to look for sentences: the sound, the script as it would sound here, and *doubt*, by how much, as
    a logarithm, the odds of a sentence are worse than usual: among much speech, any is like some."""

    spectra_of: SpectraOf
    script: SeenScript
    doubt: float

    @property
    def templates(self) -> Sequence[Template]:
        """The sentences as the voice spoke them."""
        return self.script.templates

    def everywhere(self, length_s: float, report: Callable[[float], None]) -> list[Placed]:
        """The whole script in the sound up to *length_s*."""
        return self._along(range(len(self.templates)), 0.0, length_s, report)

    def _along(
        self, numbers: Sequence[int], begin: float, until: float, report: Callable[[float], None] = lambda _share: None
    ) -> list[Placed]:
        """Some sentences between two times. Sound and script go by in windows; what was found well inside one is
        settled, the next begins behind it."""
        placed: list[Placed] = []
        first, following, ahead = begin, 0, _AHEAD_S
        while begin < until - 0.1 and following < len(numbers):
            end = min(until, begin + _WINDOW_S)
            wanted = numbers[following : self._until(numbers, following, ahead)]
            final = end >= until and following + len(wanted) == len(numbers)
            heard = heard_in(self.spectra_of(begin, end), self.script.ear)
            window = path_through(heard, self.script, wanted, to_the_end=final)
            settled = [one for one in window if end >= until or begin + one.frames[-1] * STATE_SECONDS < end - _LAG_S]
            edges = [0, *(int(edge) for one in window for edge in one.frames[[0, -1]]), len(heard.rows)]
            free = list(zip(edges[::2], edges[3::2], strict=False))  # from the end before to the start behind
            placed += [
                self._placed(heard, one, wanted[one.sentence], begin, place)
                for one, place in zip(settled, free, strict=False)
            ]
            if settled:
                begin, following, ahead = float(placed[-1].times_s[-1]), following + settled[-1].sentence + 1, _AHEAD_S
            elif end >= until:
                break
            else:
                begin = max(begin + 1.0, end - _LAG_S - 20.0)
                ahead = min(2 * ahead, _MOST_AHEAD_S)
            report(min(1.0, (begin - first) / max(until - first, 0.1)))
        return placed

    def _until(self, numbers: Sequence[int], first: int, seconds: float) -> int:
        """The place behind those sentences that take about so long from *first* on; at least one."""
        last, states = first, 0
        while last < len(numbers) and (last == first or states < seconds / STATE_SECONDS):
            states += self.templates[numbers[last]].states
            last += 1
        return last

    def without_doubtful(self, placed: Sequence[Placed], length_s: float) -> list[Placed]:
        """What was found, but for what is not likely there at all. Doubtful sentences may have pushed others out of
        their places, so between those that are sure the path is looked for once more without them."""
        away: set[int] = set()
        for _ in range(_REVISIONS):
            least = max(_AGAINST, least_among([one.sureness for one in placed]))
            doubtful = {one.sentence for one in placed if one.sureness < least}
            if not doubtful:
                break
            away |= doubtful
            placed = [one for part in _between_sure(placed) for one in self._revised(*part, away, length_s)]
        least = max(_AGAINST, least_among([one.sureness for one in placed]))
        return [one for one in placed if one.sureness >= least]

    def filled(self, placed: Sequence[Placed], length_s: float) -> list[Placed]:
        """With sentences that fit into what speech is left between others, unless much speaks against them: where
        somebody speaks and the script says what, that is likelier than anything else. The surer the others are, the
        more it takes."""
        least = max(_LEAST_FILLED, least_among([one.sureness for one in placed]))
        every: list[Placed] = []
        for before, behind in pairwise((None, *placed, None)):
            first, begin = (before.sentence + 1, float(before.times_s[-1])) if before else (0, 0.0)
            last, end = (behind.sentence, float(behind.times_s[0])) if behind else (len(self.templates), length_s)
            if first < last and end - begin > _LEAST_FILLED_S:
                more = self._along(range(first, last), begin, end)
                every += [one for one in more if one.sureness >= least and self._at_a_likely_pace(one)]
            every += [behind] if behind else []
        return every

    def _at_a_likely_pace(self, one: Placed) -> bool:
        took_s = float(one.times_s[-1] - one.times_s[0])
        slowest, fastest = _PACE
        return slowest < took_s / (self.templates[one.sentence].states * STATE_SECONDS) < fastest

    def _revised(
        self, before: Placed | None, run: list[Placed], behind: Placed | None, away: set[int], length_s: float
    ) -> list[Placed]:
        """A run of sentences between two that are sure, and the latter; found anew if any of them is *away*."""
        if any(one.sentence in away for one in run):
            first, begin = (before.sentence + 1, float(before.times_s[-1])) if before else (0, 0.0)
            last, end = (behind.sentence, float(behind.times_s[0])) if behind else (len(self.templates), length_s)
            run = self._along([k for k in range(first, last) if k not in away], begin, end)
        return [*run, behind] if behind else run

    def _placed(self, heard: Heard, one: Found, number: int, begin: float, free: tuple[int, int]) -> Placed:
        audible = self.script.audible(number)
        one = to_the_speech(heard, one, free, audible)
        words = word_frames(one.frames, self.templates[number].words, heard.spoken, audible)
        sure = sureness_of(heard, one, number, self.script, self.doubt)
        return Placed(number, begin + one.frames * STATE_SECONDS, begin + words * STATE_SECONDS, sure)

    def taught_by(self, placed: Sequence[Placed]) -> _Search:
        """With an ear that has learned from sentences that were found rather surely."""
        middle = float(np.median([one.sureness for one in placed])) if placed else 0.0
        known = [one for one in placed if one.sureness >= min(middle, SURE)]
        ear = learned_ear(self.script.ear, [self._match(one) for one in known], self.templates)
        return replace(self, script=SeenScript(self.templates, ear))

    def _match(self, one: Placed) -> Match:
        template = self.templates[one.sentence]
        spectra = self.spectra_of(float(one.times_s[0]), float(one.times_s[-1]))
        middles = one.times_s[0] + (np.arange(len(spectra)) + 0.5) * STATE_SECONDS
        states = np.searchsorted(one.times_s, middles, side="right") - 1
        return Match(spectra, template, np.clip(states, 0, template.states - 1))

    def likely_between(self, number: int, begin: float, end: float) -> Placed | None:
        """Where a sentence fits best between two times, at a pace that somebody may have."""
        one = self.between(number, begin, end)
        return one if one is not None and self._at_a_likely_pace(one) else None

    def between(self, number: int, begin: float, end: float) -> Placed | None:
        """Where a sentence fits best between two times."""
        heard = heard_in(self.spectra_of(begin, end), self.script.ear)
        found = path_through(heard, self.script, [number], to_the_end=True)
        return self._placed(heard, found[0], number, begin, (0, len(heard.rows))) if found else None


def _between_sure(
    placed: Sequence[Placed],
) -> Iterator[tuple[Placed | None, list[Placed], Placed | None]]:
    """Runs of sentences between such as are sure of their places."""
    before: Placed | None = None
    run: list[Placed] = []
    for one in placed:
        if one.sureness >= _ANCHOR:
            yield before, run, one
            before, run = one, []
        else:
            run.append(one)
    yield before, run, None
