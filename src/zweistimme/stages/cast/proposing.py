"""Voices proposed for everybody at once: each as like the person as can be, nobody with the voice of another, and those
who talk to each other easy to tell apart. One linear assignment (``scipy.optimize.linear_sum_assignment``), made again
with what it costs that neighbours are alike, as long as that makes the whole better.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Final

import numpy as np

from zweistimme.engines.offers import VoiceInfo
from zweistimme.project.findings import Finding
from zweistimme.project.languages import region_of
from zweistimme.project.voice_traits import VoiceTraits
from zweistimme.sound.arrays import Floats, Ints
from zweistimme.stages.cast.likeness import described_traits, distances, features, kind_of, likely_kind

_OTHER_KIND, _OTHER_REGION, _STANDS_IN, _TWICE = 1.0, 0.5, 2.0, 3.0
_PRICE, _EARLIER, _ALIKE = 0.5, 1.2, 1.5
"""What counts, in steps of likeness."""
CONFUSED_STEPS: Final = 0.6
"""Voices nearer than this are taken for each other by somebody who listens to a scene."""
_ROUNDS: Final = 8
_LEAST_CANDIDATES: Final = 40


@dataclass(frozen=True, slots=True)
class VoiceOnOffer:
    """A voice that can be cast: as a cast names it, what is known of it, what was measured, and what a character costs.
    *stands_in* is the related language it speaks where it does not speak the version's own."""

    ref: str
    info: VoiceInfo
    traits: VoiceTraits | None = None
    price: float = 0.0
    stands_in: str = ""


@dataclass(frozen=True, slots=True)
class PersonToCast:
    """Somebody who needs a voice, called *name*. *settled* is the voice that a person chose, *earlier* those that
    somebody of this name had in other projects, *talks_to* how often the person speaks with others, by their keys."""

    key: str
    name: str
    traits: VoiceTraits | None
    settled: str = ""
    earlier: Sequence[str] = ()
    talks_to: Mapping[str, int] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class Proposal:
    """A voice for somebody, how many steps it is off, and why it."""

    voice: str
    steps: float
    reasons: tuple[Finding, ...]


def proposals(people: Sequence[PersonToCast], voices: Sequence[VoiceOnOffer], tag: str) -> dict[str, Proposal]:
    """A voice for everybody who has none by somebody's choice; empty where there are no voices."""
    todo = [place for place, person in enumerate(people) if not person.settled]
    if not todo or not voices:
        return {}
    known = [voice.traits or described_traits(voice.info) for voice in voices]
    persons, offered = features([person.traits for person in people]), features(known)
    apart = distances(persons, offered)
    costs = apart + _wishes(people, voices, tag)
    places = {voice.ref: place for place, voice in enumerate(voices)}
    few = _candidates(costs, [places[person.settled] for person in people if person.settled in places])
    ranks = apart.argsort(axis=1, kind="stable").argsort(axis=1)[:, few] + 1
    voices, costs, apart = [voices[place] for place in few.tolist()], costs[:, few], apart[:, few]
    alike = distances(offered[few], offered[few])
    places = {voice.ref: place for place, voice in enumerate(voices)}
    given = [places.get(person.settled, -1) for person in people]
    talk = _talk(people)
    best, least = given, np.inf
    extra = np.zeros_like(costs)
    for _ in range(_ROUNDS):
        given = _assigned(costs + extra, todo, given)
        whole = sum(costs[p, given[p]] for p in todo) + _confusion(given, talk, alike)
        if whole >= least - 1e-9:
            break
        best, least = list(given), whole
        extra = _beside(given, talk, alike, len(voices))
    return {
        people[place].key: Proposal(
            voices[best[place]].ref,
            round(float(apart[place, best[place]]), 2),
            (
                _likeness(people[place], voices[best[place]], int(ranks[place, best[place]]), len(known)),
                *_reasons(people, voices, place, best, alike, tag),
            ),
        )
        for place in todo
    }


def _candidates(costs: Floats, settled: Sequence[int]) -> Ints:
    """The places of voices that may be proposed: for each person more of the best than there are people, and those that
    somebody has."""
    each = min(costs.shape[1], max(_LEAST_CANDIDATES, 2 * len(costs)))
    best = np.argpartition(costs, each - 1, axis=1)[:, :each]
    return np.unique(np.concatenate((best.ravel(), np.array(settled, dtype=np.int64))))


def _assigned(costs: Floats, todo: list[int], given: list[int]) -> list[int]:
    """The assignment that costs least; who has to share a voice does so at a price. Shapes ``(people, voices)``."""
    from scipy.optimize import linear_sum_assignment

    fixed = [given[place] for place in range(len(given)) if place not in set(todo) and given[place] >= 0]
    times = -(-len(todo) // costs.shape[1])
    use = np.bincount(fixed, minlength=costs.shape[1]) if fixed else np.zeros(costs.shape[1])
    wide = np.concatenate([costs[todo] + _TWICE * (use + again) for again in range(times)], axis=1)
    rows, columns = linear_sum_assignment(wide)
    after = list(given)
    for row, column in zip(rows, columns, strict=True):
        after[todo[row]] = int(column) % costs.shape[1]
    return after


def _wishes(people: Sequence[PersonToCast], voices: Sequence[VoiceOnOffer], tag: str) -> Floats:
    """What speaks for or against a voice besides its sound, in steps."""
    region, dearest = region_of(tag), max((voice.price for voice in voices), default=0.0)
    found = np.zeros((len(people), len(voices)))
    for column, voice in enumerate(voices):
        found[:, column] += _STANDS_IN * bool(voice.stands_in)
        found[:, column] += _PRICE * voice.price / dearest if dearest else 0.0
        if region and not _is_of(voice.info, tag):
            found[:, column] += _OTHER_REGION
    kinds = [kind_of(voice.info.kind) for voice in voices]
    for row, person in enumerate(people):
        kind = likely_kind(person.traits) if person.traits else ""
        for column, voice in enumerate(voices):
            found[row, column] += _OTHER_KIND * bool(kind and kinds[column] and kind != kinds[column])
            found[row, column] -= _EARLIER * (voice.ref in person.earlier)
    return found


def _is_of(voice: VoiceInfo, tag: str) -> bool:
    """Whether a voice speaks as in the region of *tag*, as far as is known."""
    regions = {region_of(language) for language in voice.languages} | {voice.region}
    return region_of(tag) in regions or regions <= {""}


def _talk(people: Sequence[PersonToCast]) -> Floats:
    """How much people talk to each other, 0..1 of all that the one says who says less of it to others."""
    places = {person.key: place for place, person in enumerate(people)}
    times = np.zeros((len(people), len(people)))
    for row, person in enumerate(people):
        for key, count in person.talks_to.items():
            if key in places:
                times[row, places[key]] += count
    both = times + times.T
    said = np.maximum(both.sum(axis=1), 1.0)
    return np.asarray(np.maximum(both / said[:, None], both / said[None, :]))


def _nearness(alike: Floats) -> Floats:
    """How easily voices are taken for each other, 0..1."""
    return np.asarray(np.clip(1.0 - alike / (2 * CONFUSED_STEPS), 0.0, 1.0))


def _confusion(given: Sequence[int], talk: Floats, alike: Floats) -> float:
    there = [place for place, voice in enumerate(given) if voice >= 0]
    voices = [given[place] for place in there]
    return float((_ALIKE * talk[np.ix_(there, there)] * _nearness(alike)[np.ix_(voices, voices)]).sum() / 2)


def _beside(given: Sequence[int], talk: Floats, alike: Floats, count: int) -> Floats:
    """What each voice would cost each person, next to what the others have."""
    near, extra = _nearness(alike), np.zeros((len(given), count))
    for other, voice in enumerate(given):
        if voice >= 0:
            extra += _ALIKE * talk[:, other, None] * near[None, voice]
    return extra


def _likeness(person: PersonToCast, voice: VoiceOnOffer, rank: int, count: int) -> Finding:
    """How like a voice is: which of *count*, the likest being the first."""
    own = voice.traits or described_traits(voice.info)
    if person.traits is None or person.traits.pitch_hz is None:
        return Finding("voice-unmeasured-person", {})
    hz = round(person.traits.pitch_hz)
    if own is None or own.pitch_hz is None:
        return Finding("voice-pitch-unknown", {"hz": hz, "rank": rank, "count": count})
    return Finding("voice-alike", {"hz": hz, "voice_hz": round(own.pitch_hz), "rank": rank, "count": count})


def _reasons(
    people: Sequence[PersonToCast], voices: Sequence[VoiceOnOffer], place: int, given: Sequence[int], alike: Floats,
    tag: str,
) -> tuple[Finding, ...]:  # fmt: skip
    """What speaks for or against a voice besides its likeness."""
    person, voice = people[place], voices[given[place]]
    found = []
    if voice.ref in person.earlier:
        found.append(Finding("voice-earlier", {}))
    if voice.stands_in:
        found.append(Finding("voice-related", {"language": voice.stands_in}))
    shared = [other for other, has in enumerate(given) if other != place and has == given[place]]
    if shared:
        found.append(Finding("voice-shared", {"names": ", ".join(people[other].name for other in shared)}))
    close = [
        other
        for other in range(len(people))
        if other not in {place, *shared} and given[other] >= 0
        and people[other].key in person.talks_to
        and alike[given[place], given[other]] < CONFUSED_STEPS
    ]  # fmt: skip
    if close:
        found.append(Finding("voice-confused", {"names": ", ".join(people[other].name for other in close)}))
    return tuple(found)
