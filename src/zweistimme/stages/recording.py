"""What becomes of a recording: a take of a line, or the words of a segment that somebody said again."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import partial
from typing import Final

import numpy as np

from zweistimme.engines.offers import Role
from zweistimme.engines.protocol import RecognitionQuestion, SoundSource
from zweistimme.engines.registry import engine
from zweistimme.messages import tr
from zweistimme.project.access import find_line, find_segment, find_version, put_segment
from zweistimme.project.edits import add_take
from zweistimme.project.errors import EngineError
from zweistimme.project.facts import IMPORTED_VOICE, take_fingerprint
from zweistimme.project.model import Project, Segment, TakeKind, Word
from zweistimme.project.segment_takes import takes_of
from zweistimme.project.times import RATE, samples_to_us
from zweistimme.project.words import retimed, squeezed, text_of
from zweistimme.sound.activity import clip_speech
from zweistimme.sound.arrays import Mono, decibels, in_24_bits
from zweistimme.stages.engine_choice import engine_for
from zweistimme.stages.recognitions import Piece, recognised
from zweistimme.stages.voice.by_engine import take_from
from zweistimme.stages.work import Work

_CLIPPED: Final = 0.99
_LOUD_ROOM_DB: Final = -45.0
_SOFT_DB: Final = -30.0


@dataclass(frozen=True, slots=True)
class Heard:
    """How a stretch of sound stands: levels in dB relative to full scale."""

    peak_db: float
    level_db: float


def heard(samples: Mono) -> Heard:
    """Peak and mean level; -200 where there is nothing."""
    if not len(samples):
        return Heard(-200.0, -200.0)
    level = np.sqrt(np.mean(samples.astype(np.float64) ** 2))
    return Heard(float(decibels(float(np.abs(samples).max()))), float(decibels(float(level))))


def room_words(room: Heard) -> str:
    """What a measured room means for a recording."""
    if room.level_db < -120:
        return tr("Nothing at all comes from the microphone. Is it switched on?")
    if room.level_db > _LOUD_ROOM_DB:
        return tr(
            "The room is loud ({level_db:.0f} dB). Close the window, or come nearer to the microphone.",
            level_db=room.level_db,
        )
    return tr("The room is quiet enough ({level_db:.0f} dB).", level_db=room.level_db)


def faults(samples: Mono) -> list[str]:
    """What is wrong with a recording, as far as its level tells."""
    found = heard(samples)
    said = []
    if found.peak_db >= float(decibels(_CLIPPED)):
        said.append(tr("The recording is clipped. Turn the microphone down, or move away a little, and record again."))
    elif found.peak_db < _SOFT_DB:
        said.append(
            tr(
                "The recording is soft (peak {peak_db:.0f} dB). Come nearer, or turn the microphone up.",
                peak_db=found.peak_db,
            )
        )
    return said


def keep_take(work: Work, tag: str, segment_id: str, samples: Mono, room_db: float = -200.0) -> None:
    """Keep a recording as a take of a line, and choose it."""
    version, line = find_version(work.project, tag), find_line(work.project, tag, segment_id)
    count = sum(take.kind is TakeKind.RECORDED for take in takes_of(version, (segment_id,)))
    take = take_from(
        work,
        segment_id,
        samples,
        take_fingerprint(line, IMPORTED_VOICE),
        TakeKind.RECORDED,
        f"recorded {count + 1}",
        room_db=room_db,
    )
    work.deliver("Record a take", partial(add_take, tag=tag, take=take))


def respeak(work: Work, segment_id: str, samples: Mono, room_db: float = -200.0) -> None:
    """Write down a segment as somebody has said it again. The sound is kept with it. Words that were there keep their
    times; a segment without words gets them from the recording, brought to its length."""
    segment = find_segment(work.project, segment_id)
    samples = in_24_bits(samples)
    speech = clip_speech(samples, RATE, room_db=room_db)
    clip = work.clips.put(samples)
    ear = engine(engine_for(work.project, Role.RECOGNISE))
    source = SoundSource(lambda start, count: _part(samples, start, count), len(samples))
    answer = recognised(work, ear, [Piece(source, clip)], RecognitionQuestion((work.project.source_tag,)))[0]
    words = [w for s in answer.segments for w in s.words if not w.filler]

    def kept(project: Project) -> Project:
        return put_segment(project, replace(find_segment(project, segment_id), respoken=clip))

    if not words:
        work.deliver("Keep a recording", kept)
        raise EngineError("The recording is kept, but no words were recognised in it. Write the text by hand.")
    start, end = samples_to_us(speech.start), max(samples_to_us(speech.end), samples_to_us(speech.start) + 1)
    length = segment.end_us - segment.start_us

    def there(time_us: int) -> int:
        return segment.start_us + (time_us - start) * length // (end - start)

    timed = [Word(w.text, there(w.start_us), there(w.end_us), w.confidence) for w in words]

    def written(project: Project) -> Project:
        now = find_segment(project, segment_id)
        fitted = _confirmed(now, timed) if now.words else squeezed(timed, now.start_us, now.end_us)
        return put_segment(kept(project), replace(now, respoken=clip, text=text_of(fitted), words=fitted))

    work.deliver("Say a segment again", written)


def _confirmed(segment: Segment, heard: Sequence[Word]) -> tuple[Word, ...]:
    """The words heard, at the times of those that were there; what was heard twice is as sure as the surer time."""
    before = set(map(id, segment.words))
    words = retimed(segment, [word.text for word in heard])
    return tuple(
        replace(word, confidence=max(word.confidence, again.confidence) if id(word) in before else again.confidence)
        for word, again in zip(words, heard, strict=True)
    )


def _part(samples: Mono, start: int, count: int) -> Mono:
    """A stretch; what lies outside the recording is silence."""
    part = np.zeros(count, dtype=np.float32)
    first, last = max(start, 0), min(start + count, len(samples))
    if last > first:
        part[first - start : last - start] = samples[first:last]
    return part
