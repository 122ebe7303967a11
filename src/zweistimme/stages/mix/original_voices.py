"""What each person sounds like in the original: tone, how the level moves, and the room they were heard in.

Measured of up to a minute and a half of each, where nobody else speaks; what is heard under the speech, the bed or what
is between the lines, is known beside it, so that it is not taken for the voice. Places are chosen over the whole
programme, and always the same.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import partial
from itertools import pairwise
from math import isfinite
from pathlib import Path
from typing import Final

import numpy as np

from zweistimme.media.sound_reader import SoundReader
from zweistimme.project.facts import fingerprint
from zweistimme.project.model import Project, Segment
from zweistimme.project.picks import sound_key
from zweistimme.project.times import RATE, us_to_samples
from zweistimme.sound.arrays import Mono
from zweistimme.sound.cores import cores, together
from zweistimme.sound.decay import octave_decays_s
from zweistimme.sound.long_spectrum import BandPowers, frame_powers, mean_powers, spoken
from zweistimme.sound.voice_dynamics import Dynamics, dynamics_of
from zweistimme.stages.mix.kept import keep_figures, kept_figures
from zweistimme.stages.work import Work, open_sound

_MOST_US: Final = 90_000_000
_SHORTEST_US: Final = 400_000
_TAIL_US: Final = 700_000
_LONGEST_US: Final = 30_000_000
"""A segment may be as long as the programme; what is listened to is not."""
_PAUSE_US: Final = 150_000
"""So far from speech a pause begins."""
_LONGEST_PAUSE_US: Final = 2_000_000
_MOST_PAUSES_US: Final = 40_000_000
Span = tuple[int, int]


@dataclass(frozen=True, slots=True)
class OriginalVoice:
    """A person as heard in the original: powers of third octaves, how the level moves, and how long each octave from
    400 Hz on rings (empty where that cannot be told)."""

    tone: tuple[float, ...]
    frames: int
    dynamics: Dynamics | None
    decays_s: tuple[float, ...]

    def bands(self) -> BandPowers:
        """The tone as an array."""
        return BandPowers(np.array(self.tone), self.frames)


@dataclass(frozen=True, slots=True)
class OriginalVoices:
    """All people of an original by id, the powers of third octaves under their speech, how long its places ring with
    all of them taken together, and of what it was measured."""

    people: Mapping[str, OriginalVoice]
    under: tuple[float, ...]
    decays_s: tuple[float, ...]
    made_from: str

    def bands_under(self) -> BandPowers:
        """What lies under the speech, as an array."""
        return BandPowers(np.array(self.under), 1)


def known_voices(project: Project, cache: Path) -> OriginalVoices | None:
    """What was measured of this original, if it was."""
    kept = kept_figures(_file(cache), OriginalVoices)
    return kept if kept is not None and kept.made_from == _made_from(project) else None


def measured_voices(work: Work) -> OriginalVoices | None:
    """What is heard of the people of an original; kept in the cache. None without a programme."""
    project = work.project
    known = known_voices(project, work.cache)
    if known is not None or project.programme is None:
        return known
    with open_sound(work, project.programme.sound) as reader:
        found = _heard(project, reader)
    keep_figures(_file(work.cache), found)
    return found


def _file(cache: Path) -> Path:
    return cache / "original-voices.msgpack"


def _made_from(project: Project) -> str:
    assert project.programme is not None
    spans = tuple((s.start_us, s.end_us, s.speaker_id) for s in project.segments)
    return fingerprint("original voices", 1, sound_key(project.programme.sound), spans)


def _heard(project: Project, reader: SoundReader) -> OriginalVoices:
    alone = spans_alone(project.segments)
    under = _powers([_read(reader, span) for span in pauses_of(project, _MOST_PAUSES_US)], speech=False)
    people = list(alone)
    voices: list[OriginalVoice] = []
    for first in range(0, len(people), cores()):  # however many there are, no more are held at once
        sounds = [_read_some(reader, alone[person]) for person in people[first : first + cores()]]
        voices += together([partial(_voice, some) for some in sounds])
    every = sorted(span for spans in alone.values() for span in spans)
    whole = _decays(_read_some(reader, every)) if len(people) > 1 else next((one.decays_s for one in voices), ())
    return OriginalVoices(
        dict(zip(people, voices, strict=True)), tuple(under.powers.tolist()), whole, _made_from(project)
    )


def _read_some(reader: SoundReader, spans: Sequence[Span]) -> list[Mono]:
    return [_read(reader, span) for span in _spread(spans, _MOST_US)]


def _voice(sounds: Sequence[Mono]) -> OriginalVoice:
    bands = _powers(sounds, speech=True)
    return OriginalVoice(
        tuple(bands.powers.tolist()), bands.frames, dynamics_of(np.concatenate(sounds)), _decays(sounds)
    )


def _powers(sounds: Sequence[Mono], *, speech: bool) -> BandPowers:
    parts = [frame_powers(sound) for sound in sounds]
    powers = np.concatenate([np.empty((0, frame_powers(np.zeros(0, np.float32)).shape[1])), *parts])
    return mean_powers(powers[spoken(powers)] if speech else powers)


def _decays(sounds: Sequence[Mono]) -> tuple[float, ...]:
    if not sounds:
        return ()
    found = octave_decays_s(np.concatenate(sounds), RATE)
    known = [one for one in found if isfinite(one)]
    if not known:
        return ()
    usual = float(np.median(known))
    return tuple(one if isfinite(one) else usual for one in found)


def _read(reader: SoundReader, span: Span) -> Mono:
    start, end = us_to_samples(span[0]), us_to_samples(span[1])
    return reader.mono(start, end - start)


def spans_alone(segments: Sequence[Segment]) -> dict[str, list[Span]]:
    """Where each person speaks and nobody else does, with what follows before the next begins, up to 0.7 s; in
    order, and in pieces of up to half a minute."""
    found: dict[str, list[Span]] = {}
    ends_us = -1
    for place, segment in enumerate(segments):
        following = segments[place + 1].start_us if place + 1 < len(segments) else segment.end_us + _TAIL_US
        end = min(segment.end_us + _TAIL_US, following)
        if segment.start_us >= ends_us and end - segment.start_us >= _SHORTEST_US:
            count = -(-(end - segment.start_us) // _LONGEST_US)
            edges = [segment.start_us + (end - segment.start_us) * k // count for k in range(count + 1)]
            found.setdefault(segment.speaker_id, []).extend(pairwise(edges))
        ends_us = max(ends_us, segment.end_us)
    return found


def pauses_of(project: Project, most_us: int) -> list[Span]:
    """Where nobody speaks in the original, a little away from speech, in pieces of up to two seconds from everywhere in
    the programme, *most_us* in all."""
    assert project.programme is not None
    found: list[Span] = []
    at = 0
    ends = [(s.start_us, s.end_us) for s in project.segments]
    for start, end in [*ends, (project.programme.sound.duration_us, project.programme.sound.duration_us)]:
        begin, until = at + _PAUSE_US, start - _PAUSE_US
        while until - begin >= _SHORTEST_US:
            found.append((begin, min(begin + _LONGEST_PAUSE_US, until)))
            begin += _LONGEST_PAUSE_US
        at = max(at, end)
    return _spread(found, most_us)


def _spread(spans: Sequence[Span], most_us: int) -> list[Span]:
    """Some of many spans, from everywhere among them, *most_us* long in all or a little less."""
    whole = sum(end - start for start, end in spans)
    if whole <= most_us:
        return list(spans)
    count = max(1, int(len(spans) * most_us / whole))
    return [spans[k * len(spans) // count] for k in range(count)]
