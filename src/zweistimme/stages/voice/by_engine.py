"""Synthesize what is missing or stale. Each finished take is stored at once; a take made before is used again."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, replace
from functools import partial
from itertools import groupby
from threading import Lock

from zweistimme.engines.offers import Cost, EngineInfo
from zweistimme.engines.protocol import Engine, HeardWord, Speech
from zweistimme.engines.registry import engine
from zweistimme.engines.request_queue import ask_all
from zweistimme.engines.voices import split_voice
from zweistimme.messages import msg
from zweistimme.project.edits import add_made_take, choose_take
from zweistimme.project.errors import EditError, EngineError, PartlyDone
from zweistimme.project.facts import fingerprint
from zweistimme.project.findings import Finding
from zweistimme.project.model import (
    Failure,
    Made,
    Maker,
    Project,
    Take,
    TakeKind,
    Word,
)
from zweistimme.project.pronunciations import pronunciations_of
from zweistimme.project.segment_takes import takes_of
from zweistimme.project.times import RATE
from zweistimme.sound.activity import clip_speech
from zweistimme.sound.arrays import Mono, checked_mono, in_24_bits, is_silent
from zweistimme.stages.answers import LineToSpeak, cost_of_run, played_together, spoken_line
from zweistimme.stages.cast import check_cast, spoken_language, stand_ins
from zweistimme.stages.fit.slot import measured_length
from zweistimme.stages.voice.directions import unknown_directions
from zweistimme.stages.voice.exchanges import exchanges
from zweistimme.stages.voice.manners import manner_for
from zweistimme.stages.voice.open_takes import OpenTake, open_takes, takes_anew
from zweistimme.stages.work import Report, Work
from zweistimme.store.settings import ORDER, read_settings


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
        again = before.get((item.segment.id, item.made_from))
        if again is not None and not work.anew:
            work.deliver("Voice", partial(choose_take, tag=tag, take_id=again.id))
        else:
            new.append(item)

    def keep(item: OpenTake, take: Take) -> None:
        work.deliver("Voice", partial(add_made_take, tag=tag, take=take, instead_of=item.line.take_id))

    if not work.project.versions[tag].together and read_settings().text(ORDER) == "tightest":
        new.sort(key=lambda item: -_tightness(work.project, tag, item))
    failed = speak_takes(
        replace(work, report=work.part(1 - len(new) / len(todo) if todo else 0.0, 1.0)), tag, new, keep
    )
    for item, error in failed:
        work.failed(tag, Failure(item.segment.id, Made.TAKE, error.finding, item.made_from))
    check_all_made(failed, len(todo))


def _tightness(project: Project, tag: str, item: OpenTake) -> float:
    """How much longer than comfortable a line is likely to be."""
    return measured_length(project, project.versions[tag], item.segment, item.line.text).share


def speak_takes(
    work: Work, tag: str, items: Sequence[OpenTake], keep: Callable[[OpenTake, Take], None]
) -> list[tuple[OpenTake, EngineError]]:
    """Have each line spoken by the engine that its voice belongs to, and give each take to *keep* the moment it is
    there; those that failed, and why."""
    failed: list[tuple[OpenTake, EngineError]] = []
    done = 0
    for name, group in groupby(sorted(items, key=_engine_of), key=_engine_of):  # sorted keeps the order of lines within
        some = list(group)
        report = work.part(done / len(items), (done + len(some)) / len(items))
        failed += _voiced(work, tag, name, some, report, keep)
        done += len(some)
    work.report(1.0)
    return failed


def check_all_made(failed: Sequence[tuple[OpenTake, EngineError]], count: int) -> None:
    """PartlyDone where some of so many takes could not be made, EngineError where none could."""
    if failed:
        kind = PartlyDone if len(failed) < count else EngineError
        item, error = failed[0]
        raise kind(
            msg("{failed} of {all:take|takes} could not be made; the others are kept. First: {first}"),
            failed=len(failed),
            all=count,
            first=f"“{item.line.text[:40]}”: {error}",
        )


def _engine_of(item: OpenTake) -> str:
    return split_voice(item.voice)[0]


def _voiced(
    work: Work, tag: str, name: str, items: list[OpenTake], report: Report, keep: Callable[[OpenTake, Take], None]
) -> list[tuple[OpenTake, EngineError]]:
    """Ask one engine for all its takes, those of a dialogue together; those that failed."""
    run = _Run(work, tag, engine(name), keep)
    info = run.engine.info()
    items = _that_differ(items, info)
    _say_unknown_directions(work, items, info)
    together = work.project.versions[tag].together and info.converses
    groups = (
        exchanges(items, tag, info.limits.characters, pronunciations_of(work.project, tag))
        if together
        else [(item,) for item in items]
    )
    failures = ask_all(
        groups, run.ask, limits=info.limits, took=run.took, report=report, repeats_cost=info.repeats_cost
    )
    for failure in failures:
        run.failed += [(item, failure.error) for item in failure.question]
    for finding in cost_of_run(info.name, run.cost):
        work.say(finding)
    return run.failed


def _say_unknown_directions(work: Work, items: Sequence[OpenTake], info: EngineInfo) -> None:
    """Before anything is spoken and paid: which directions nobody will hear."""
    lines: Counter[tuple[str, str]] = Counter()
    for item in items:
        voice = info.voice(split_voice(item.voice)[1])
        lines.update((voice.name, direction) for direction in unknown_directions(item.line, voice))
    for (name, direction), count in lines.items():
        work.say(Finding("direction-unknown", {"lines": count, "voice": name, "direction": direction}))


def _that_differ(items: list[OpenTake], info: EngineInfo) -> list[OpenTake]:
    """Takes without those that a voice that always says a line in one way would say over again."""
    kept: dict[tuple[str, str, int], OpenTake] = {}
    for item in items:
        varies = info.voice(split_voice(item.voice)[1]).varies
        kept.setdefault((item.segment.id, item.made_from, item.seed if varies else 0), item)
    return list(kept.values())


@dataclass(frozen=True, slots=True)
class _Made:
    """What a clip cost, and the take it is, or why it is none."""

    cost: Cost
    take: Take | EngineError


class _Run:
    """The takes one engine makes for one version."""

    def __init__(self, work: Work, tag: str, asked: Engine, keep: Callable[[OpenTake, Take], None]) -> None:
        self._work, self._tag, self.engine, self._keep = work, tag, asked, keep
        self.cost = Cost()
        self.failed: list[tuple[OpenTake, EngineError]] = []
        self._told: set[tuple[str, str]] = set()
        self._numbers, self._turn = Counter[str](), Lock()

    def ask(self, items: tuple[OpenTake, ...]) -> tuple[_Made, ...]:
        """The takes of one line, or of a dialogue; trimmed and kept here, beside others that are asked for."""
        if len(items) > 1:
            clips = played_together(self._work, self.engine, [self._manner_of(item) for item in items])
        else:
            clips = (spoken_line(self._work, self.engine, self._manner_of(items[0])),)
        return tuple(self._made(item, speech) for item, speech in zip(items, clips, strict=True))

    def _made(self, item: OpenTake, speech: Speech) -> _Made:
        try:
            return _Made(speech.cost, self._take(item, speech))
        except EngineError as error:  # of its clip: to ask again would cost again
            return _Made(speech.cost, error)

    def _manner_of(self, item: OpenTake) -> LineToSpeak:
        info, voice_id = self.engine.info(), split_voice(item.voice)[1]
        voice = info.voice(voice_id)
        language = spoken_language(info, voice_id, self._tag, stand_ins(self._work.project, self._tag))
        manner, left_out = manner_for(voice, item.manner)
        for control in left_out:
            if (item.voice, control) not in self._told:
                self._told.add((item.voice, control))
                self._work.say(Finding("manner-beyond-voice", {"voice": voice.name, "control": control}))
        seed = item.seed if voice.varies else 0
        said = pronunciations_of(self._work.project, self._tag)
        return LineToSpeak(item.line.text, voice_id, language, item.line.direction, manner, seed, said)

    def took(self, items: tuple[OpenTake, ...], made: tuple[_Made, ...]) -> None:
        """Put the takes into the project."""
        for item, one in zip(items, made, strict=True):
            self.cost += one.cost
            if isinstance(one.take, EngineError):
                self.failed.append((item, one.take))
            else:
                self._keep(item, one.take)

    def _take(self, item: OpenTake, speech: Speech) -> Take:
        with self._turn:
            self._numbers[item.segment.id] += 1
            number = self._numbers[item.segment.id]
        number += len(takes_of(self._work.project.versions[self._tag], (item.segment.id,)))
        info = self.engine.info()
        made = take_from(
            self._work, item.segment.id, speech.samples, item.made_from, TakeKind.SYNTHESIZED, f"take {number}",
            speech.words,
        )  # fmt: skip
        voice = info.voice(split_voice(item.voice)[1]).name
        maker = Maker(self.engine.name, info.version, voice, speech.cost.amount, speech.cost.currency)
        return replace(made, maker=maker)


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
