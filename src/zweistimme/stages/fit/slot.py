"""The slot: the time a line may use, and how its wording measures against it before anything is spoken."""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Mapping
from dataclasses import dataclass

from zweistimme.project.facts import fresh_take, voice_of
from zweistimme.project.model import Project, Segment, Take, Version
from zweistimme.project.row_changes import changed_keys
from zweistimme.project.times import SECOND_US, seconds_to_us
from zweistimme.project.writing import spoken_text, syllables
from zweistimme.stages.fit.limits import limits_of
from zweistimme.stages.fit.pace import Pace, learned_pace, usual_pace
from zweistimme.stages.fit.taken import speech_us

_MOST_HEARD = 200
_MOST_VOICES = 64


@dataclass(slots=True)
class _Heard:
    """The pace of a voice, learned from some of these *takes*: those with the ids in *used*."""

    takes: Mapping[str, Take]
    used: frozenset[str]
    pace: Pace

    def holds_for(self, takes: Mapping[str, Take]) -> bool:
        """Whether other takes are none that matter. Checks, which look through all while a hand goes on, ask for
        the takes of a moment ago."""
        later, earlier = changed_keys(self.takes, takes), changed_keys(takes, self.takes)
        differ = later if later is not None else earlier
        if differ is None or (differ and (len(self.used) < _MOST_HEARD or not self.used.isdisjoint(differ))):
            return False
        if later is not None:
            self.takes = takes
        return True


_heard: dict[tuple[str, str], _Heard] = {}


@dataclass(frozen=True, slots=True)
class Length:
    """A wording against its slot: *room* is how many syllables fit at a comfortable tempo; *spread_us* is how far the
    time it takes may be off, as *takes* of the voice have shown; a *share* above 1 is longer than comfortable."""

    syllables: int
    room: int
    spoken_us: int
    slot_us: int
    spread_us: int
    share: float
    takes: int


def slot_us(project: Project, version: Version, segment: Segment) -> int:
    """A segment's own time, and what it may borrow from the pauses around it within the tolerances."""
    limits = limits_of(version)
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


def voice_pace(project: Project, version: Version, segment: Segment) -> Pace:
    """How fast the voice of a segment speaks in a version, learned from its takes that say what their lines say.

    It is asked for at every key that is typed, so it is kept until there are other takes or another voice; and if it
    was learned from many, until one of those is another."""
    voice, takes = voice_of(version, segment), version.takes
    if not takes:
        return usual_pace(version.tag)
    key = version.tag, voice or segment.speaker_id
    known = _heard.get(key)
    if known is None or not known.holds_for(takes):
        if len(_heard) >= _MOST_VOICES:
            _heard.clear()
        known = _heard[key] = _learned(project, version, segment.speaker_id, voice)
    return known.pace


def _learned(project: Project, version: Version, speaker_id: str, voice: str | None) -> _Heard:
    """From takes of all lines that have this voice, and of people who speak for this speaker."""
    heard: dict[str, tuple[str, float]] = {}
    for segment in project.segments:
        theirs = voice_of(version, segment)
        if theirs != voice or (voice is None and segment.speaker_id != speaker_id):
            continue
        line, take = version.lines.get(segment.id), fresh_take(project, version, segment)
        if line is not None and take is not None:
            heard[take.id] = (line.text, speech_us(take) / SECOND_US)
            if len(heard) >= _MOST_HEARD:  # enough to know how fast somebody speaks
                break
    return _Heard(version.takes, frozenset(heard), learned_pace(version.tag, [*heard.values()]))


def measured_length(project: Project, version: Version, segment: Segment, text: str) -> Length:
    """How *text* would measure as the line of *segment*."""
    pace = voice_pace(project, version, segment)
    slot = slot_us(project, version, segment)
    comfortable = slot * limits_of(version).comfort[1]
    spoken, spread = pace.spoken_and_spread_us(text)
    room = pace.room(comfortable / SECOND_US, text)
    return Length(
        syllables(spoken_text(text), version.tag), room, spoken, slot, spread, spoken / comfortable, pace.takes
    )
