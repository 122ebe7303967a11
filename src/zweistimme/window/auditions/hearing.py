"""What is heard at the audition desk, made ready on a thread: the original, a voice, a scene, all equally loud."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from zweistimme.engines.registry import answering
from zweistimme.project.auditions import Audition
from zweistimme.project.model import Project, Segment
from zweistimme.sound.arrays import Mono
from zweistimme.stages.audition import (
    audition_sound,
    auditions_by_segment,
    line_levels_db,
    loudness_lufs,
    original_sound,
    scene_sound,
    speakers_lufs,
)
from zweistimme.stages.cast import on_offer
from zweistimme.stages.cast.voice_map import voice_map
from zweistimme.stages.work import Work


@dataclass(frozen=True, slots=True)
class Ready:
    """Sound to be heard from a time of the programme on."""

    start_us: int
    samples: Mono


@dataclass(frozen=True, slots=True)
class Levels:
    """How loud the original of each line of a person is, in dB."""

    speaker: str
    db: Mapping[str, float]


@dataclass(frozen=True, slots=True)
class Alike:
    """Voices in the order in which they are like a person."""

    speaker: str
    tag: str
    voices: tuple[str, ...]


def heard_original(work: Work, segment: Segment) -> Ready:
    """A line in the original; nothing where it is not at hand."""
    sound = original_sound(work, segment)
    return Ready(segment.start_us, np.zeros(0, dtype=np.float32) if sound is None else sound)


def heard_audition(work: Work, segment: Segment, one: Audition) -> Ready:
    """A line in a voice, as loud as the original."""
    return Ready(segment.start_us, audition_sound(work.clips, one, loudness_lufs(original_sound(work, segment))))


def heard_scene(work: Work, tag: str, lines: Sequence[Segment], cast: Mapping[str, str]) -> Ready:
    """A scene in the voices of a proposed cast."""
    heard = auditions_by_segment(work.project, tag, cast)
    return Ready(*scene_sound(work, lines, heard, speakers_lufs(work, lines)))


def levels_of(work: Work, speaker: str) -> Levels:
    """What tells the strongest line of a person."""
    return Levels(speaker, line_levels_db(work, speaker))


def alike(project: Project, tag: str, speaker: str, names: Sequence[str]) -> Alike:
    """The voices of engines that can be cast, those most like a person first. An engine that does not answer has
    none."""
    made = voice_map(project, tag, on_offer(project, tag, answering(names)))
    return Alike(speaker, tag, tuple(made.voices[place].ref for place in made.nearest(speaker).tolist()))
