"""The voice map: everybody who speaks and every voice on offer as points of one plane, and who would be confused with
whom."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from zweistimme.project.model import Project
from zweistimme.sound.arrays import Floats, Ints
from zweistimme.stages.cast.likeness import described_traits, distances, features, kind_of, plane
from zweistimme.stages.cast.proposing import CONFUSED_STEPS, PersonToCast, VoiceOnOffer
from zweistimme.stages.cast.run import people_to_cast


@dataclass(frozen=True, slots=True)
class Confusion:
    """Two people who talk to each other with voices that are taken for each other, *steps* apart."""

    first: str
    second: str
    steps: float


@dataclass(frozen=True)
class VoiceMap:
    """Where people and voices lie, shapes ``(people, 2)`` and ``(voices, 2)``, from -1 to 1 with NaN for those of whom
    nothing is known; *steps* is how far each voice is off for each person, shape ``(people, voices)``."""

    people: tuple[PersonToCast, ...]
    voices: tuple[VoiceOnOffer, ...]
    people_at: Floats
    voices_at: Floats
    steps: Floats
    rows: Floats
    """The features of the voices, from which it is told how alike they are."""

    @cached_property
    def voice_places(self) -> Mapping[str, int]:
        """By a voice, its place."""
        return {voice.ref: place for place, voice in enumerate(self.voices)}

    @cached_property
    def people_places(self) -> Mapping[str, int]:
        """By somebody's key, their place."""
        return {person.key: place for place, person in enumerate(self.people)}

    @cached_property
    def kinds(self) -> tuple[str, ...]:
        """Which kind each voice is; empty where its engine says none."""
        return tuple(kind_of(voice.info.kind) for voice in self.voices)

    def nearest(self, key: str) -> Ints:
        """The places of the voices in the order in which they are like somebody."""
        place = self.people_places.get(key)
        count = len(self.voices)
        return np.arange(count) if place is None else np.argsort(self.steps[place], kind="stable")

    def steps_off(self, key: str, ref: str) -> float | None:
        """How far a voice is off for somebody; None where either is not on the map."""
        person, voice = self.people_places.get(key), self.voice_places.get(ref)
        return None if person is None or voice is None else float(self.steps[person, voice])

    def confusions(self, cast: Mapping[str, str]) -> list[Confusion]:
        """Who of those who talk to each other would be confused with the voices that *cast* gives them."""
        places, found = self.voice_places, []
        for place, person in enumerate(self.people):
            for other in self.people[place + 1 :]:
                if other.key not in person.talks_to and person.key not in other.talks_to:
                    continue
                first, second = (places.get(cast.get(key, "")) for key in (person.key, other.key))
                if first is None or second is None:
                    continue
                apart = float(distances(self.rows[[first]], self.rows[[second]])[0, 0]) if first != second else 0.0
                if apart < CONFUSED_STEPS:
                    found.append(Confusion(person.key, other.key, apart))
        return found


def voice_map(project: Project, tag: str, voices: Sequence[VoiceOnOffer]) -> VoiceMap:
    """The map of a version's people and of *voices*."""
    people = people_to_cast(project, tag, anew=True)
    known = [voice.traits or described_traits(voice.info) for voice in voices]
    persons, offered = features([person.traits for person in people]), features(known)
    places = plane(np.concatenate((persons, offered)))
    nowhere = np.array([person.traits is None for person in people] + [one is None for one in known], dtype=bool)
    places[nowhere] = np.nan
    return VoiceMap(
        tuple(people), tuple(voices), places[: len(people)], places[len(people) :], distances(persons, offered), offered
    )
