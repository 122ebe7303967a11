"""Synthesize what is missing or stale. Each finished take is stored at once; a take made before is used again."""

from __future__ import annotations

from dataclasses import dataclass
from functools import partial

from zweistimme.engines.protocol import Engine, HeardWord, SpeechRequest
from zweistimme.project.edits import add_take, choose_take
from zweistimme.project.errors import EngineError
from zweistimme.project.facts import fingerprint, fresh_take, spoken_segments, take_fingerprint
from zweistimme.project.model import Line, Project, Segment, Take, TakeKind, Version, Word
from zweistimme.project.times import RATE
from zweistimme.sound.activity import clip_speech
from zweistimme.sound.arrays import Mono, checked_mono
from zweistimme.stages.cast import check_cast
from zweistimme.stages.work import Work


@dataclass(frozen=True, slots=True)
class OpenTake:
    """A line that needs a take, and the voice to make it with."""

    segment: Segment
    line: Line
    voice: str


def open_takes(project: Project, tag: str) -> list[OpenTake]:
    """Lines with words whose chosen take is missing or stale and whose speaker has a voice."""
    version = project.versions[tag]
    todo = []
    for segment in spoken_segments(project):
        line = version.lines.get(segment.id)
        voice = version.cast.get(segment.speaker_id)
        if line and line.text.strip() and voice and fresh_take(project, version, segment) is None:
            todo.append(OpenTake(segment, line, voice))
    return todo


def voice(work: Work, engine: Engine, tag: str) -> None:
    """Make takes. One line that fails does not stop the others; what failed is said at the end."""
    check_cast(work.project, [tag])
    todo = open_takes(work.project, tag)
    failures: list[str] = []
    for number, item in enumerate(todo):
        again = _made_before(work.project.versions[tag], item)
        if again is not None:
            work.deliver("Voice", partial(choose_take, tag=tag, take_id=again.id))
        else:
            try:
                take = _made(work, engine, tag, item)
                work.deliver("Voice", partial(add_take, tag=tag, take=take))
            except EngineError as error:
                failures.append(f"“{item.line.text[:40]}”: {error}")
        work.report((number + 1) / len(todo))
    if failures:
        raise EngineError(
            f"{len(failures)} of {len(todo)} takes could not be made; the others are kept. First: {failures[0]}"
        )


def _made_before(version: Version, item: OpenTake) -> Take | None:
    wanted = take_fingerprint(item.line, item.voice)
    takes = version.takes.values()
    return next((t for t in takes if t.segment_id == item.segment.id and t.made_from == wanted), None)


def _made(work: Work, engine: Engine, tag: str, item: OpenTake) -> Take:
    request = SpeechRequest(item.line.text, tag, item.voice, item.line.direction)
    speech = engine.speak(request)
    made_from = take_fingerprint(item.line, item.voice)
    number = 1 + sum(1 for t in work.project.versions[tag].takes.values() if t.segment_id == item.segment.id)
    return take_from(
        work, item.segment.id, speech.samples, made_from, TakeKind.SYNTHESIZED, f"take {number}", speech.words
    )


def take_from(
    work: Work,
    segment_id: str,
    samples: Mono,
    made_from: str,
    kind: TakeKind,
    label: str,
    words: tuple[HeardWord, ...] = (),
) -> Take:
    """Keep a clip and describe it: where it speaks, where it pauses."""
    if not len(samples) or float(abs(samples).max()) < 1e-4:
        raise EngineError(f"The clip for {label} is silent. Make or record it again.")
    clip = work.clips.put(checked_mono(samples, "the clip"))
    speech = clip_speech(samples, RATE)
    return Take(
        id=fingerprint("take", segment_id, made_from, clip),
        segment_id=segment_id,
        kind=kind,
        label=label,
        clip=clip,
        length_samples=len(samples),
        speech_start_samples=speech.start,
        speech_end_samples=speech.end,
        made_from=made_from,
        pauses_samples=speech.pauses,
        words=tuple(Word(w.text, w.start_us, w.end_us, w.confidence) for w in words),
    )
