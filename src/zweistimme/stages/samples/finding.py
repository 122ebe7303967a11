"""Clean stretches of a person, found in the programme by themselves: long enough, with nobody else and nothing under
them."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Sequence
from contextlib import ExitStack
from dataclasses import replace
from typing import Final

import numpy as np

from zweistimme.media.sound_reader import SoundReader
from zweistimme.project.errors import EditError
from zweistimme.project.facts import spoken_segments
from zweistimme.project.model import Segment
from zweistimme.project.times import RATE, us_to_samples
from zweistimme.sound.arrays import Mono, decibels
from zweistimme.stages.samples.sample import GOOD_S, PLAIN, Sample, of_clip
from zweistimme.stages.voice.deliveries import delivery_kinds
from zweistimme.stages.work import Work, open_sound, within_reach

_LEAST_S: Final = 1.0
_ALONE_US: Final = 150_000
_AROUND_S: Final = 0.4
_MOST_LOOKED: Final = 200
"""Of somebody who says more, the longest so many lines are looked at."""


def clean_stretches(work: Work, speaker_id: str) -> list[Sample]:
    """The cleanest half minute of a person for each tone, in order of time; poor ones only where there are no others.
    EditError where there is no sound, or nobody speaks alone."""
    programme = work.project.programme
    if programme is None or not within_reach(work.cache, programme.sound):
        raise EditError("There is no programme to listen to. Bring one in first.")
    segments = spoken_segments(work.project)
    own = [one for one in _alone(segments) if one.speaker_id == speaker_id]
    own = sorted(own, key=lambda one: one.start_us - one.end_us)[:_MOST_LOOKED]
    own = [one for one in own if one.end_us - one.start_us >= _LEAST_S * 1_000_000]
    if not own:
        raise EditError("Nobody of this name speaks alone for a second. Record samples, or give files.")
    tones = delivery_kinds(work, [one for one in segments if one.speaker_id == speaker_id])
    found: dict[str, list[tuple[Segment, Sample]]] = {}
    bed = programme.bed if programme.bed and within_reach(work.cache, programme.bed) else None
    with ExitStack() as opened:
        reader = opened.enter_context(open_sound(work, programme.sound))
        under = opened.enter_context(open_sound(work, bed)) if bed else None
        for done, segment in enumerate(own):
            around = round(_AROUND_S * RATE)
            start, end = us_to_samples(segment.start_us) - around, us_to_samples(segment.end_us) + around
            samples = reader.mono(max(0, start), end - max(0, start))
            tone = tones.get(segment.id, PLAIN)
            found.setdefault(tone, []).append((segment, _looked_at(segment, samples, tone, under)))
            work.report((done + 1) / len(own))
    chosen = [pair for some in found.values() for pair in _cleanest(some)]
    return [sample for _, sample in sorted(chosen, key=lambda pair: pair[0].start_us)]


def _alone(segments: Sequence[Segment]) -> list[Segment]:
    """Those during which, and beside which, nobody else speaks."""
    starts = [one.start_us for one in segments]
    longest = max((one.end_us - one.start_us for one in segments), default=0)
    found = []
    for segment in segments:
        first = bisect_right(starts, segment.start_us - _ALONE_US - longest)
        last = bisect_right(starts, segment.end_us + _ALONE_US)
        others = (one for one in segments[first:last] if one.speaker_id != segment.speaker_id)
        if all(one.end_us + _ALONE_US <= segment.start_us or one.start_us >= segment.end_us for one in others):
            found.append(segment)
    return found


def _looked_at(segment: Segment, samples: Mono, tone: str, bed: SoundReader | None) -> Sample:
    """A stretch with what is under it: told by its own pauses and, where there is a bed, by how loud that is there."""
    one = of_clip(segment.id, samples, segment.text, tone)
    if bed is None:
        return one
    start = us_to_samples(segment.start_us)
    under = bed.mono(start, us_to_samples(segment.end_us) - start)
    over_db = float(decibels(_rms(one.samples)) - decibels(_rms(under)))
    return replace(one, snr_db=min(one.snr_db, over_db))


def _rms(samples: Mono) -> float:
    return float(np.sqrt(np.mean(samples.astype(np.float64) ** 2))) if len(samples) else 0.0


def _cleanest(some: Sequence[tuple[Segment, Sample]]) -> list[tuple[Segment, Sample]]:
    """Those that stand the highest over what is under them, until there is half a minute; poor ones only if needed."""
    chosen, seconds = [], 0.0
    for pair in sorted(some, key=lambda pair: (pair[1].poor, -pair[1].snr_db)):
        if seconds >= GOOD_S or (pair[1].poor and seconds > 0):
            break
        chosen.append(pair)
        seconds += pair[1].seconds
    return chosen
