"""Which of a person's lines tell most about a voice, and the scene that a line is in."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from enum import StrEnum
from typing import Final

import numpy as np

from zweistimme.messages import msg
from zweistimme.project.access import find_version
from zweistimme.project.facts import spoken_segments
from zweistimme.project.model import Project, Segment
from zweistimme.project.times import RATE, us_to_samples
from zweistimme.project.writing import is_question, syllables
from zweistimme.sound.arrays import decibels
from zweistimme.stages.work import Work, open_sound, within_reach

_SCENE_PAUSE_US: Final = 4_000_000
"""A silence of that length ends a scene, as it ends a neighbourhood of the plan."""
_SCENE_LINES: Final = 24
_FRAME: Final = RATE // 50
_LEAST_SYLLABLES: Final = 3
_MOST_LOOKED: Final = 400
"""Of a person with more lines, the longest so many are listened to for the strongest."""


class Telling(StrEnum):
    """Why a line is among those that tell most about a voice."""

    LONGEST = msg("the longest")
    SHORTEST = msg("the shortest")
    STRONGEST = msg("the strongest")
    QUESTION = msg("a question")


def telling_lines(
    project: Project, tag: str, speaker_id: str, levels_db: Mapping[str, float] | None = None
) -> dict[str, Telling]:
    """By segment, the person's longest and shortest line, the strongest (by *levels_db* in the original, where they
    are known) and a question, as far as they have a wording; each once, in order of time. The shortest has three
    syllables at least, if any has: of “yes” nobody can tell a voice."""
    lines = find_version(project, tag).lines
    own = [
        segment
        for segment in spoken_segments(project)
        if segment.speaker_id == speaker_id and segment.id in lines and lines[segment.id].text.strip()
    ]
    if not own:
        return {}
    size = {segment.id: syllables(lines[segment.id].text, tag) for segment in own}
    long_enough = [segment for segment in own if size[segment.id] >= _LEAST_SYLLABLES] or own
    found = {max(own, key=lambda one: size[one.id]).id: Telling.LONGEST}
    found.setdefault(min(long_enough, key=lambda one: size[one.id]).id, Telling.SHORTEST)
    loud = [segment for segment in long_enough if segment.id in (levels_db or {}) and segment.id not in found]
    if levels_db and loud:
        found[max(loud, key=lambda one: levels_db[one.id]).id] = Telling.STRONGEST
    asking = [one for one in own if is_question(lines[one.id].text) and one.id not in found]
    if asking:
        found[max(asking, key=lambda one: size[one.id]).id] = Telling.QUESTION
    return {segment.id: found[segment.id] for segment in own if segment.id in found}


def line_levels_db(work: Work, speaker_id: str) -> dict[str, float]:
    """How loud the original of each line of a person is: the level of its loudest fifth, in dB. Nothing where the
    sound is not at hand."""
    programme = work.project.programme
    if programme is None or not within_reach(work.cache, programme.sound):
        return {}
    own = [segment for segment in spoken_segments(work.project) if segment.speaker_id == speaker_id]
    own = sorted(own, key=lambda one: one.start_us - one.end_us)[:_MOST_LOOKED]
    found = {}
    with open_sound(work, programme.sound) as reader:
        for segment in own:
            start = us_to_samples(segment.start_us)
            samples = reader.mono(start, us_to_samples(segment.end_us) - start)
            frames = samples[: len(samples) // _FRAME * _FRAME].reshape(-1, _FRAME)
            if len(frames):
                levels = decibels(np.sqrt(np.mean(frames.astype(np.float64) ** 2, axis=1)))
                found[segment.id] = float(np.percentile(levels, 80))
    return found


def scene_of(segments: Sequence[Segment], segment_id: str) -> list[Segment]:
    """The lines around one that belong to its scene: up to a silence of four seconds on either side, two dozen at
    most."""
    spoken = [segment for segment in segments if segment.text.strip()]
    at = next((place for place, segment in enumerate(spoken) if segment.id == segment_id), None)
    if at is None:
        return []
    first, last = at, at
    while last - first + 1 < _SCENE_LINES:
        before = first > 0 and spoken[first].start_us - spoken[first - 1].end_us < _SCENE_PAUSE_US
        after = last + 1 < len(spoken) and spoken[last + 1].start_us - spoken[last].end_us < _SCENE_PAUSE_US
        if not before and not after:
            break
        first -= before
        last += after
    return spoken[first : last + 1]
