"""Auditions as they are heard beside the original: all equally loud, where they would stand."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from math import isfinite
from typing import Final

import numpy as np

from zweistimme.project.auditions import Audition
from zweistimme.project.model import Project, Segment
from zweistimme.project.times import us_to_samples
from zweistimme.sound.arrays import Mono, amplitude
from zweistimme.sound.loudness import measure
from zweistimme.stages.work import Work, open_sound, within_reach
from zweistimme.store.clips import ClipStore

_USUAL_LUFS: Final = -23.0
_MOST_DB: Final = 24.0
_TOP: Final = 0.98


def original_sound(work: Work, segment: Segment) -> Mono | None:
    """What is heard of a segment in the original, shape ``(n,)`` at 48 kHz; None where it is not at hand."""
    programme = work.project.programme
    if programme is None or not within_reach(work.cache, programme.sound):
        return None
    start = us_to_samples(segment.start_us)
    with open_sound(work, programme.sound) as reader:
        return reader.mono(start, us_to_samples(segment.end_us) - start)


def loudness_lufs(samples: Mono | None) -> float:
    """How loud a clip is, gated; that of a usual programme where nothing can be said."""
    lufs = measure(samples[None, :]).integrated_lufs if samples is not None and len(samples) else -np.inf
    return lufs if isfinite(lufs) else _USUAL_LUFS


def as_loud(samples: Mono, lufs: float) -> Mono:
    """A clip brought to a loudness, but not beyond full scale, nor by more than 24 dB."""
    heard = measure(samples[None, :]).integrated_lufs if len(samples) else -np.inf
    top = float(np.max(np.abs(samples))) if len(samples) else 0.0
    if not isfinite(heard) or not top:
        return samples
    gain = amplitude(min(lufs - heard, _MOST_DB))
    return (samples * min(gain, _TOP / top)).astype(np.float32)


def audition_sound(clips: ClipStore, one: Audition, lufs: float) -> Mono:
    """The speech of an audition at a loudness, from its first sound on."""
    samples = clips.get(one.clip)[one.speech_start_samples : one.speech_end_samples]
    return as_loud(samples, lufs)


def scene_sound(
    work: Work, segments: Iterable[Segment], heard: Mapping[str, Audition], lufs: Mapping[str, float]
) -> tuple[int, Mono]:
    """A scene in the voices of its auditions (by segment), each line where its original begins and as loud as *lufs*
    says of its speaker: the microsecond at which it begins, and the sound. A line that goes on when the next begins
    is heard with it: nothing is fitted here."""
    there = [segment for segment in segments if segment.id in heard]
    if not there:
        return 0, np.zeros(0, dtype=np.float32)
    begin = there[0].start_us
    parts = []
    for segment in there:
        sound = audition_sound(work.clips, heard[segment.id], lufs.get(segment.speaker_id, _USUAL_LUFS))
        parts.append((us_to_samples(segment.start_us - begin), sound))
    scene = np.zeros(max(at + len(sound) for at, sound in parts), dtype=np.float32)
    for at, sound in parts:
        scene[at : at + len(sound)] += sound
    top = float(np.max(np.abs(scene)))
    return begin, scene * np.float32(_TOP / top) if top > _TOP else scene


def speakers_lufs(work: Work, segments: Iterable[Segment]) -> dict[str, float]:
    """How loud each person is in the original of some lines, all their lines taken together."""
    parts: dict[str, list[Mono]] = {}
    for segment in segments:
        sound = original_sound(work, segment)
        if sound is not None:
            parts.setdefault(segment.speaker_id, []).append(sound)
    return {speaker: loudness_lufs(np.concatenate(some)) for speaker, some in parts.items()}


def auditions_by_segment(project: Project, tag: str, cast: Mapping[str, str]) -> dict[str, Audition]:
    """Of each segment, its latest audition in the voice that a proposed cast gives its speaker."""
    speakers = {segment.id: segment.speaker_id for segment in project.segments}
    return {
        one.segment_id: one
        for one in project.versions[tag].auditions.values()
        if one.segment_id in speakers and one.voice == cast.get(speakers[one.segment_id])
    }
