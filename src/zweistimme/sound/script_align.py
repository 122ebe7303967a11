"""A whole script laid over a whole programme, window by window, in memory that does not grow with either; and how sure
each sentence is of its place.

Sure is what fits its place much better than other sentences of the same voice would, and better than none. What was
not found is looked for once more between its neighbours; what has no evidence for or against it is for the caller to
place by length.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from typing import Final

import numpy as np
import numpy.typing as npt

from zweistimme.sound.arrays import Floats
from zweistimme.sound.features import STATE_SECONDS
from zweistimme.sound.script_path import (
    Found,
    Heard,
    Room,
    Singles,
    Template,
    costs,
    heard_in,
    path_through,
    phones_of,
    room_of,
    through,
)

SpectraOf = Callable[[float, float], Floats]
"""Log mel spectra of the sound from one second to another, every 20 ms; shape ``(n, 32)``."""
_WINDOW_S: Final = 60.0
_LAG_S: Final = 14.0
_AHEAD_S: Final = 75.0
_MOST_AHEAD_S: Final = 300.0
_DECOYS: Final = 14
_LOUD_SHARE: Final = 95
_MOST_BESIDE_S: Final = 45.0
_STAY, _SKIP = 0.5, 0.35
_CLEAR: Final = 5.5
"""Nepers of power by which speech must be over its room for its edges to be seen."""
_NEAR: Final = 5
"""Frames within which an edge goes to the pause beside it."""
_USUAL_SHARE, _VERY_SURE = 0.36, 0.85
_LEAST_DECOYS: Final = 4
_LEAST_BESIDE: Final = 0.33
_BESIDE_COSTS: Final = 0.3
_MOST_STRETCHES: Final = 12
_SPOKEN: Final = 0.6
"""Frames that cost more as silence than this have speech in them."""
SURE: Final = 0.5
"""Above this a sentence is taken to be where it was found."""
AGAINST: Final = 0.12
"""Below this a sentence is taken not to be there."""


@dataclass(frozen=True, slots=True)
class Placed:
    """A sentence in its place: its number, when each state begins (seconds, shape ``(states + 1,)``, the last one its
    end), and how sure that is, 0..1."""

    sentence: int
    times_s: Floats
    sureness: float


def align(
    spectra_of: SpectraOf,
    length_s: float,
    regions: Sequence[tuple[float, float]],
    templates: Sequence[Template],
    report: Callable[[float], None],
) -> list[Placed]:
    """Sentences that were found, in order. Two passes: the first finds out how voice and room differ."""
    phones = phones_of(templates)
    room, loud = _first_room(spectra_of, regions, templates)
    placed = _pass(spectra_of, length_s, templates, phones, room, loud, lambda share: report(0.5 * share))
    middle = float(np.median([one.sureness for one in placed])) if placed else 0.0
    room = _learned_room(spectra_of, [one for one in placed if one.sureness >= min(middle, SURE)], templates, room)
    placed = _pass(spectra_of, length_s, templates, phones, room, loud, lambda share: report(0.5 + 0.45 * share))
    least = _least_sureness(placed)
    placed = [one for one in placed if one.sureness >= least]
    more = _beside(
        _Search(spectra_of, templates, phones, room, loud), length_s, regions, placed, max(least, _LEAST_BESIDE)
    )
    report(1.0)
    return sorted((*placed, *more), key=lambda one: one.sentence)


def _least_sureness(placed: Sequence[Placed]) -> float:
    """Below what a sentence is taken not to be there: the surer the others are, the more evidence it takes."""
    usual = float(np.median([one.sureness for one in placed])) if placed else 0.0
    return max(AGAINST, _USUAL_SHARE * usual if usual > _VERY_SURE else 0.0)


def align_one(
    spectra_of: SpectraOf, start_s: float, end_s: float, template: Template, others: Sequence[Template]
) -> Placed | None:
    """Where one sentence is heard between two times; None where it is not."""
    every = [template, *others]
    room, loud = _first_room(spectra_of, [(start_s, end_s)], every)
    spectra = spectra_of(start_s, end_s)
    heard = heard_in(spectra, room, phones_of(every), loud)
    return _surest(heard, [template], every, room, start_s, to_the_end=True)


def _first_room(
    spectra_of: SpectraOf, regions: Sequence[tuple[float, float]], templates: Sequence[Template]
) -> tuple[Room, float]:
    """The room as it is heard in some of the speech and around it, and how loud speech is over it."""
    step = max(1, len(regions) // 60)
    parts = [spectra_of(max(0.0, a - 0.5), min(b, a + 10) + 0.5) for a, b in regions[::step]]
    spectra = np.concatenate(parts)
    level = spectra.mean(axis=1)
    room = room_of(spectra, templates, level > np.percentile(level, 40))
    return room, float(np.percentile(level, _LOUD_SHARE) - room.noise.mean())


def _learned_room(spectra_of: SpectraOf, placed: Sequence[Placed], templates: Sequence[Template], room: Room) -> Room:
    """The channel that sentences found surely speak of: the middle of what their sound has and templates have not."""
    off = []
    for one in placed[:: max(1, len(placed) // 80)]:
        spectra = spectra_of(float(one.times_s[0]), float(one.times_s[-1]))
        frames = np.clip(((one.times_s[:-1] - one.times_s[0]) / STATE_SECONDS).astype(int), 0, max(0, len(spectra) - 1))
        if len(spectra):
            off.append(spectra[frames] - templates[one.sentence].spectra[1])
    if not off or sum(map(len, off)) < 100:
        return room
    rows = np.concatenate(off)
    return replace(room, channel=np.median(rows, axis=0))


def _pass(
    spectra_of: SpectraOf,
    length_s: float,
    templates: Sequence[Template],
    phones: Floats,
    room: Room,
    loud: float,
    report: Callable[[float], None],
) -> list[Placed]:
    """Sound and script go by in windows; what was found well inside one is settled, the next begins behind it."""
    placed: list[Placed] = []
    begin, following, ahead = 0.0, 0, _AHEAD_S
    while begin < length_s - 0.1 and following < len(templates):
        end = min(length_s, begin + _WINDOW_S)
        last = _until(templates, following, ahead)
        final = end >= length_s and last == len(templates)
        heard = heard_in(spectra_of(begin, end), room, phones, loud)
        window = path_through(heard, templates[following:last], room, to_the_end=final)
        settled = [one for one in window if end >= length_s or begin + one.frames[-1] * STATE_SECONDS < end - _LAG_S]
        for one in (_to_the_speech(heard, one) if loud > _CLEAR else one for one in settled):
            sure = _sureness(heard, one, following, templates, room)
            placed.append(Placed(following + one.sentence, begin + one.frames * STATE_SECONDS, sure))
        if settled:
            begin, following, ahead = float(placed[-1].times_s[-1]), placed[-1].sentence + 1, _AHEAD_S
        elif end >= length_s:
            break
        else:
            begin = max(begin + 1.0, end - _LAG_S - 20.0)
            ahead = min(2 * ahead, _MOST_AHEAD_S)
        report(min(1.0, begin / length_s))
    return placed


def _to_the_speech(heard: Heard, one: Found) -> Found:
    """A sentence whose edges are where the speech begins and ends, if a pause is beside them: a state of the template
    is as long as the voice that spoke it took for it."""
    spoken = heard.silence > _SPOKEN
    first, last = int(one.frames[0]), int(one.frames[-1])
    begin, end = _edge(spoken, first, -1), _edge(spoken, last - 1, 1)
    if begin is None and end is None:
        return one
    begin, end = first if begin is None else begin, last if end is None else end + 1
    if end - begin < 0.5 * (last - first):
        return one
    if last - first > 3 * _NEAR:  # what lies well inside stays where it is
        kept = [first + _NEAR, last - _NEAR]
        moved = np.interp(one.frames, [first, *kept, last], [begin, max(begin, kept[0]), min(end, kept[1]), end])
    else:
        moved = begin + (one.frames - first) * (end - begin) / max(1, last - first)
    return replace(one, frames=moved)


def _edge(spoken: npt.NDArray[np.bool_], place: int, outward: int) -> int | None:
    """The frame of speech nearest to an edge that has silence outside it; None where there is no pause near."""
    place = min(max(place, 0), len(spoken) - 1)
    if spoken[place]:
        for step in range(1, _NEAR + 1):
            beside = place + outward * step
            if not 0 <= beside < len(spoken) or not spoken[beside]:
                return place + outward * (step - 1)
        return None
    for step in range(1, _NEAR + 1):
        beside = place - outward * step
        if 0 <= beside < len(spoken) and spoken[beside]:
            return beside
    return None


def _until(templates: Sequence[Template], first: int, seconds: float) -> int:
    """The sentence behind those that take about so long from *first* on; at least one."""
    last, states = first, 0
    while last < len(templates) and (last == first or states < seconds / STATE_SECONDS):
        states += templates[last].states
        last += 1
    return last


def _sureness(heard: Heard, one: Found, first: int, templates: Sequence[Template], room: Room) -> float:
    """How much better a sentence fits its place than others of the same length would, and than none does."""
    a, b = int(one.frames[0]), max(int(one.frames[-1]), int(one.frames[0]) + 2)
    spoken = heard.silence[a:b] > _SPOKEN
    rows = heard.rows[a:b][spoken] if spoken.sum() > 3 else heard.rows[a:b]
    number = first + one.sentence
    own = templates[number]
    pace = len(rows) / max(1, own.states)
    step = max(1, len(templates) // _DECOYS)
    decoys = [templates[(number + k * step + 1) % len(templates)] for k in range(_DECOYS)]
    decoys = [other for other in decoys if other is not own]
    cost = _fit(rows, through(own.spectra, room))
    fakes = [_as_long(other, own.states) for other in decoys]
    if len(fakes) < _LEAST_DECOYS:  # few sentences: the same sounds in another order will do
        fakes += [np.roll(own.spectra, own.states * k // 4, axis=1) for k in (1, 2, 3)] + [own.spectra[:, ::-1]]
    others = np.array([_fit(rows, through(fake, room)) for fake in fakes])
    without = float(heard.outside[a:b][spoken].mean()) if spoken.any() else 0.0
    apart = (float(others.mean()) - cost) / (float(others.std()) + 0.08)
    # fitted on recordings of people and mixtures of them with unspoken sentences: see benchmarks/human.py
    evidence = 0.53 * apart + 2.0 * (without - cost) - 3.3 * abs(np.log(pace)) - 1.27 * np.log(len(rows) / 50) + 0.24
    return float(1 / (1 + np.exp(-np.clip(evidence, -20, 20))))


def _as_long(template: Template, states: int) -> npt.NDArray[np.float16]:
    """A template's states, repeated from its beginning until there are as many."""
    return template.spectra[:, np.arange(states) % template.states]


def _fit(rows: Singles, seen: Singles) -> float:
    """What the cheapest way through all states of a sentence costs a frame."""
    table = costs(rows, seen)
    total = np.full(table.shape[1], np.inf)
    total[0] = table[0, 0]
    for row in table[1:]:
        step = np.concatenate(([np.inf], total[:-1]))
        skip = np.concatenate(([np.inf, np.inf], total[:-2])) + _SKIP
        total = np.minimum(np.minimum(total + _STAY, step), skip)[: len(row)] + row
    best = float(total[-1])
    return best / len(table) if np.isfinite(best) else 4.0


def _surest(
    heard: Heard, wanted: Sequence[Template], every: Sequence[Template], room: Room, start_s: float, *, to_the_end: bool
) -> Placed | None:
    found = path_through(heard, wanted, room, to_the_end=to_the_end)
    if not found:
        return None
    sure = _sureness(heard, found[0], 0, every, room)
    return Placed(0, start_s + found[0].frames * STATE_SECONDS, sure)


@dataclass(frozen=True, slots=True)
class _Search:
    """What is needed to look for one sentence somewhere."""

    spectra_of: SpectraOf
    templates: Sequence[Template]
    phones: Floats
    room: Room
    loud: float

    def between(self, number: int, begin: float, end: float) -> Placed | None:
        """Where a sentence fits best between two times."""
        heard = heard_in(self.spectra_of(begin, end), self.room, self.phones, self.loud)
        others = [self.templates[number], *self.templates[:number], *self.templates[number + 1 :]]
        return _surest(heard, [self.templates[number]], others, self.room, begin, to_the_end=True)


def _beside(
    search: _Search,
    length_s: float,
    regions: Sequence[tuple[float, float]],
    placed: Sequence[Placed],
    least: float,
) -> list[Placed]:
    """Single sentences that were passed over, as when somebody else speaks at once, or whispers: looked for between the
    beginning of the one before and the end of the one behind, and in each stretch of speech there."""
    more = []
    known = {one.sentence: one for one in placed}
    count = len(search.templates)
    for number in range(count):
        before, behind = known.get(number - 1), known.get(number + 1)
        if number in known or (before is None and number > 0) or (behind is None and number + 1 < count):
            continue
        begin = float(before.times_s[0]) if before else 0.0
        end = min(length_s, float(behind.times_s[-1]) + 0.1) if behind else length_s
        if not 0.2 < end - begin < _MOST_BESIDE_S:
            continue
        free = (float(before.times_s[-1]) if before else 0.0, float(behind.times_s[0]) if behind else length_s)
        stretches = [(max(a - 0.15, 0.0), b + 0.15) for a, b in regions if a >= free[0] - 0.1 and b <= free[1] + 0.1]
        tried = [search.between(number, a, b) for a, b in [(begin, end), *stretches[:_MOST_STRETCHES]]]

        def worth(one: Placed, free: tuple[float, float] = free) -> float:
            """Where a neighbour is heard already, it takes more to be heard beside it."""
            inside = free[0] - 0.1 <= one.times_s[0] and one.times_s[-1] <= free[1] + 0.1
            return one.sureness - (0.0 if inside else _BESIDE_COSTS)

        best = max((one for one in tried if one is not None), key=worth, default=None)
        if best is not None and best.sureness > least:
            more.append(replace(best, sentence=number))
    return more
