"""The slot: the time a line may use, and how its wording measures against it before anything is spoken."""

from __future__ import annotations

import weakref
from bisect import bisect_left
from collections import deque
from dataclasses import dataclass

from zweistimme.project.facts import chosen_take
from zweistimme.project.model import Project, Segment, Version
from zweistimme.project.times import SECOND_US, seconds_to_us
from zweistimme.project.writing import rate_for, spoken_us, syllables
from zweistimme.stages.fit.limits import limits_for
from zweistimme.stages.fit.placements import speech_us

_LEAST_EVIDENCE = 12
_MOST_HEARD = 200
_rates: deque[tuple[weakref.ref[Version], str, float]] = deque(maxlen=32)


@dataclass(frozen=True, slots=True)
class Length:
    """A wording against its slot: *room* is how many syllables fit at a comfortable tempo."""

    syllables: int
    room: int
    spoken_us: int
    slot_us: int

    @property
    def share(self) -> float:
        """Above 1: longer than comfortable."""
        return self.syllables / max(1, self.room)


def slot_us(project: Project, version: Version, segment: Segment) -> int:
    """A segment's own time, and what it may borrow from the pauses around it within the tolerances."""
    limits = limits_for(version.style, version.preference)
    # segments are sorted by (start, id): finding one must not take longer in a longer programme
    place = bisect_left(project.segments, (segment.start_us, segment.id), key=lambda s: (s.start_us, s.id))
    start_room, end_room = (t[0] if segment.on_screen else t[1] for t in (limits.start_tolerance, limits.end_tolerance))
    before = project.segments[place - 1].end_us if place else 0
    last = project.programme.sound.duration_us if project.programme else segment.end_us
    after = project.segments[place + 1].start_us if place + 1 < len(project.segments) else last
    gap = seconds_to_us(limits.least_gap)
    early = min(seconds_to_us(start_room), max(0, segment.start_us - before - gap))
    late = min(seconds_to_us(2 * end_room), max(0, after - segment.end_us - gap))
    shift = seconds_to_us(limits.start_shift + limits.end_shift)
    return max(SECOND_US // 5, segment.end_us - segment.start_us + early + late - shift)


def voice_rate(project: Project, version: Version, speaker_id: str) -> float:
    """Syllables a second: learned from the speaker's takes in this version, else the language's usual rate.

    It is asked for at every key that is typed, so it is kept until the version is another; that a segment has gone to
    another speaker meanwhile moves it too little to be waited for."""
    for made_from, speaker, rate in _rates:
        if speaker == speaker_id and made_from() is version:
            return rate
    rate = _measured_rate(project, version, speaker_id)
    _rates.append((weakref.ref(version), speaker_id, rate))
    return rate


def _measured_rate(project: Project, version: Version, speaker_id: str) -> float:
    count, spoken, heard = 0, 0, 0
    for segment in project.segments:
        if segment.speaker_id != speaker_id:
            continue
        line = version.lines.get(segment.id)
        take = chosen_take(version, line) if line else None
        if line and take:
            count += syllables(line.text, version.tag)
            spoken += speech_us(take)
            heard += 1
            if heard >= _MOST_HEARD:  # enough to know how fast somebody speaks
                break
    return count * SECOND_US / spoken if count >= _LEAST_EVIDENCE else rate_for(version.tag)


def measured_length(project: Project, version: Version, segment: Segment, text: str) -> Length:
    """How *text* would measure as the line of *segment*."""
    rate = voice_rate(project, version, segment.speaker_id)
    slot = slot_us(project, version, segment)
    comfort = limits_for(version.style, version.preference).comfort[1]
    room = max(1, int(slot / SECOND_US * rate * comfort))
    return Length(syllables(text, version.tag), room, spoken_us(text, version.tag, rate), slot)
