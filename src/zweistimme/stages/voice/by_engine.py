"""Synthesize what is missing or stale. Each finished take is stored at once; a take made before is used again."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace
from functools import partial
from itertools import groupby

from zweistimme.engines.offers import Cost
from zweistimme.engines.protocol import HeardWord, Speech
from zweistimme.engines.registry import engine
from zweistimme.engines.request_queue import ask_all
from zweistimme.engines.voices import split_voice
from zweistimme.project.access import find_version, takes_of
from zweistimme.project.edits import add_made_take, choose_take
from zweistimme.project.errors import EditError, EngineError, PartlyDone
from zweistimme.project.facts import fingerprint, spoken_segments, take_fingerprint
from zweistimme.project.model import Failure, Line, Made, Project, Segment, Take, TakeKind, Word
from zweistimme.project.progress import Mark, marks_of
from zweistimme.project.times import RATE
from zweistimme.sound.activity import clip_speech
from zweistimme.sound.arrays import Mono, checked_mono, in_24_bits, is_silent
from zweistimme.stages.answers import cost_of_run, spoken_line
from zweistimme.stages.cast import check_cast, spoken_language
from zweistimme.stages.work import Report, Work


@dataclass(frozen=True, slots=True)
class OpenTake:
    """A line that needs a take, and the voice to make it with."""

    segment: Segment
    line: Line
    voice: str


def open_takes(project: Project, tag: str) -> list[OpenTake]:
    """Lines with words whose chosen take is missing or stale and whose speaker has a voice."""
    version = project.versions[tag]
    return [
        OpenTake(segment, version.lines[segment.id], version.cast[segment.speaker_id])
        for segment, marks in marks_of(project, version)
        if marks & Mark.TO_VOICE
    ]


def takes_anew(project: Project, tag: str, segment_ids: Iterable[str]) -> list[OpenTake]:
    """These lines, as far as they have words and a voice, to be made once more whatever takes they have."""
    version, wanted = find_version(project, tag), set(segment_ids)
    todo = []
    for segment in spoken_segments(project):
        line, name = version.lines.get(segment.id), version.cast.get(segment.speaker_id)
        if segment.id in wanted and line is not None and line.text.strip() and name is not None:
            todo.append(OpenTake(segment, line, name))
    return todo


def voice(work: Work, tag: str, segment_ids: Iterable[str] | None = None) -> None:
    """Make takes, each with the engine its voice belongs to: those that are missing or stale, or, of some lines,
    others than there are, asked for anew. One line that fails does not stop the others: what failed is said of that
    line, and once more at the end."""
    if segment_ids is None:
        check_cast(work.project, [tag])
        todo = open_takes(work.project, tag)
    else:
        work = replace(work, anew=True)
        todo = takes_anew(work.project, tag, segment_ids)
        if not todo:
            raise EditError(
                "None of these lines has a wording and a voice in {tag}. Write and cast them first.", tag=tag
            )
    new = []
    before: dict[tuple[str, str], Take] = {}
    for take in work.project.versions[tag].takes.values():
        before.setdefault((take.segment_id, take.made_from), take)
    for item in todo:
        again = before.get((item.segment.id, take_fingerprint(item.line, item.voice)))
        if again is not None and not work.anew:
            work.deliver("Voice", partial(choose_take, tag=tag, take_id=again.id))
        else:
            new.append(item)
    failures: list[str] = []
    done = len(todo) - len(new)
    by_engine = groupby(sorted(new, key=_engine_of), key=_engine_of)  # sorted keeps the order of lines within
    for name, group in by_engine:
        items = list(group)
        failures += _voiced(work, tag, name, items, work.part(done / len(todo), (done + len(items)) / len(todo)))
        done += len(items)
    work.report(1.0)
    if failures:
        kind = PartlyDone if len(failures) < len(todo) else EngineError
        raise kind(f"{len(failures)} of {len(todo)} takes could not be made; the others are kept. First: {failures[0]}")


def _engine_of(item: OpenTake) -> str:
    return split_voice(item.voice)[0]


def _voiced(work: Work, tag: str, name: str, items: list[OpenTake], report: Report) -> list[str]:
    """Ask one engine for all its takes; sentences for those that failed."""
    asked = engine(name)
    cost = Cost()

    def ask(item: OpenTake) -> Speech:
        voice_id = split_voice(item.voice)[1]
        language = spoken_language(asked.info(), voice_id, tag, substitutes=work.project.substitutes)
        return spoken_line(work, asked, item.line.text, voice_id, language, item.line.direction)

    failed: list[tuple[OpenTake, EngineError]] = []

    def took(item: OpenTake, speech: Speech) -> None:
        nonlocal cost
        cost += speech.cost
        try:
            take = _take(work, tag, item, speech)
        except EngineError as error:
            failed.append((item, error))
        else:
            work.deliver("Voice", partial(add_made_take, tag=tag, take=take, instead_of=item.line.take_id))

    info = asked.info()
    failures = ask_all(items, ask, limits=info.limits, took=took, report=report, repeats_cost=info.repeats_cost)
    failed += [(failure.question, failure.error) for failure in failures]
    for finding in cost_of_run(asked.info().name, cost):
        work.say(finding)
    for item, error in failed:
        asked_for = take_fingerprint(item.line, item.voice)
        work.failed(tag, Failure(item.segment.id, Made.TAKE, error.finding, asked_for))
    return [f"“{item.line.text[:40]}”: {error}" for item, error in failed]


def _take(work: Work, tag: str, item: OpenTake, speech: Speech) -> Take:
    made_from = take_fingerprint(item.line, item.voice)
    number = 1 + len(takes_of(work.project.versions[tag], (item.segment.id,)))
    label = f"take {number}"
    return take_from(work, item.segment.id, speech.samples, made_from, TakeKind.SYNTHESIZED, label, speech.words)


def take_from(
    work: Work,
    segment_id: str,
    samples: Mono,
    made_from: str,
    kind: TakeKind,
    label: str,
    words: tuple[HeardWord, ...] = (),
    room_db: float = -200.0,
) -> Take:
    """Keep a clip and describe it, as it is once kept: where it speaks, where it pauses. *room_db* is the
    level of the room it was recorded in, if that was measured."""
    if is_silent(samples):
        raise EngineError("The clip for {label} is silent. Make or record it again.", label=label)
    samples = in_24_bits(checked_mono(samples, "the clip"))
    clip = work.clips.put(samples)
    speech = clip_speech(samples, RATE, room_db=room_db)
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
