"""What engines answer, asked once: looked at before it is kept, kept before it is used, paid for once.

A question is known by who is asked and what; its answer is used again free of charge. Whoever asks anew
(``Work.anew``) gets another answer, which then stands in the place of the first. What is asked and charged goes into
the ledger.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, fields, replace
from typing import Any, Final, TypeVar

import msgspec
import numpy as np

from zweistimme.engines.offers import Cost, Role
from zweistimme.engines.protocol import (
    DialogueRequest,
    Engine,
    Hear,
    HeardWord,
    Mono,
    Recognition,
    RecognitionQuestion,
    Speech,
    SpeechRequest,
    Translation,
    TranslationRequest,
)
from zweistimme.engines.text_pieces import pieces
from zweistimme.engines.wire import LATER
from zweistimme.formats.ssml import ssml_of
from zweistimme.project.errors import BadAnswer, EngineError, StoreError
from zweistimme.project.findings import Figure, Finding
from zweistimme.project.model import AS_USUAL, Manner
from zweistimme.project.pronunciations import AS_WRITTEN, Pronunciations
from zweistimme.project.times import RATE, samples_to_us
from zweistimme.project.writing import directed_parts, spoken_text
from zweistimme.sound.arrays import in_24_bits, is_silent
from zweistimme.stages.work import Work

_JOIN_S: Final = 0.25
_KINDS: Final = {Role.SPEAK: "speech", Role.TRANSLATE: "translation", Role.RECOGNISE: "recognition"}


@dataclass(frozen=True, slots=True)
class _KeptSpeech:
    """An answer to a speech request: the clip lies among the clips."""

    clip: str
    words: tuple[HeardWord, ...]
    cost: Cost
    attempt: int = 0


@dataclass(frozen=True, slots=True)
class _KeptDialogue:
    """An answer to a dialogue: its clips lie among the clips."""

    clips: tuple[str, ...]
    words: tuple[tuple[HeardWord, ...], ...]
    cost: Cost
    attempt: int = 0


@dataclass(frozen=True, slots=True)
class _Played:
    """The clips of a dialogue, and what they cost together."""

    clips: tuple[Speech, ...]
    cost: Cost


@dataclass(frozen=True, slots=True)
class _KeptTranslation(Translation):
    attempt: int = 0


@dataclass(frozen=True, slots=True)
class KeptRecognition(Recognition):
    """An answer to a recognition, and which attempt it was."""

    attempt: int = 0


A = TypeVar("A", Speech, _Played, Translation, Recognition)
Q = TypeVar("Q", SpeechRequest, DialogueRequest, TranslationRequest, RecognitionQuestion)
Kept = TypeVar("Kept", _KeptSpeech, _KeptDialogue, _KeptTranslation, KeptRecognition)


def key_of(work: Work, engine: Engine, role: Role, request: Q, *more: str) -> str:
    """The name of a question, whichever attempt it is."""
    asked = {one.name: getattr(request, one.name) for one in fields(request) if one.name != "attempt"}
    if not asked.get("tier", True):
        del asked["tier"]  # answers from before there were tiers are found again
    if isinstance(request, TranslationRequest):
        asked = _said(msgspec.to_builtins(asked))
    info = engine.info()
    return work.answers.key(_KINDS[role], engine.identity, info.name, info.version, *more, msgspec.json.encode(asked))


def _said(asked: Any) -> Any:
    """A question without fields that came later and say nothing, so that answers from before them are found again."""
    if isinstance(asked, dict):
        return {name: _said(value) for name, value in asked.items() if value or name not in LATER}
    return [_said(one) for one in asked] if isinstance(asked, list | tuple) else asked


def remembered(work: Work, key: str, kind: type[Kept]) -> Kept | None:
    """The answer given before; one that cannot be read any more is asked for again."""
    known = work.answers.get(key)
    try:
        return msgspec.json.decode(known, type=kind) if known is not None else None
    except msgspec.MsgspecError:
        return None


def paid(
    work: Work,
    engine: Engine,
    role: Role,
    key: str,
    request: Q,
    kept: _KeptSpeech | _KeptDialogue | _KeptTranslation | KeptRecognition | None,
    used: Cost,
    ask: Callable[[Q], A],
) -> tuple[A, int]:
    """The answer to one attempt at a question, charged in the ledger, and which attempt it was. *used* is what it will
    cost as far as is known. A bad answer is asked for under another key the next time, unless the same key costs
    nothing and what arrived may have been spoilt on its way."""
    info = engine.info()
    attempt = work.attempts.setdefault(key, 1 + (kept.attempt if kept else 0) if work.anew else 0)
    with work.ledger.question(engine.name, role, used) as charge:
        try:
            answer = ask(replace(request, attempt=attempt))
        except EngineError as error:
            if error.may_have_cost and info.repeats_cost:
                charge(used, answered=False)  # a budget holds also where an engine charges for what it lost
            if isinstance(error, BadAnswer) and not (info.repeats_free and used.amount):
                work.attempts[key] = attempt + 1
            raise
        cost = answer.cost if answer.cost != Cost() else used
        charge(cost)
    return replace(answer, cost=cost), attempt


def spoken(work: Work, engine: Engine, request: SpeechRequest, hear: Hear | None = None) -> Speech:
    """What *engine* says for *request*, asked once: an answer that was given before is used again, free of charge.
    *hear* is given what comes while it comes."""
    key = key_of(work, engine, Role.SPEAK, request)
    kept = remembered(work, key, _KeptSpeech)
    if kept is not None and not work.anew and kept.clip in work.clips:
        try:
            return Speech(work.clips.get(kept.clip), kept.words)
        except StoreError:  # a damaged clip is asked for again
            pass
    info = engine.info()
    used = info.price_of_speech(request.voice, request.tier).of(len(request.ssml))

    def heard(question: SpeechRequest) -> Speech:
        speech = engine.speak(question, hear)
        if is_silent(speech.samples):
            raise BadAnswer("{engine_name} answered with a silent clip.", engine_name=engine.info().name)
        return speech

    speech, attempt = paid(work, engine, Role.SPEAK, key, request, kept, used, heard)
    samples = in_24_bits(speech.samples)
    clip = work.clips.put(samples)
    work.answers.put(key, msgspec.json.encode(_KeptSpeech(clip, speech.words, speech.cost, attempt)))
    return replace(speech, samples=samples)


@dataclass(frozen=True, slots=True)
class LineToSpeak:
    """A line as an engine is asked for it."""

    text: str
    voice: str
    language: str
    direction: str = ""
    manner: Manner = AS_USUAL
    seed: int = 0
    said: Pronunciations = AS_WRITTEN

    def request(self, text: str, direction: str | None = None) -> SpeechRequest:
        """The request for *text*, all of the line or a piece of it; a *direction* of its own takes the place of the
        line's."""
        manner = self.manner
        return SpeechRequest(
            ssml_of(text, self.language, self.said), self.language, self.voice,
            self.direction if direction is None else direction, self.seed,
            manner.rate, manner.pitch, manner.volume_db, manner.tier,
        )  # fmt: skip


def spoken_line(work: Work, engine: Engine, line: LineToSpeak, hear: Hear | None = None) -> Speech:
    """A line spoken; in pieces, joined again, where directions change within it or it is longer than the engine
    takes."""
    most = engine.info().limits.characters

    def fits(piece: str) -> bool:
        return most is None or len(ssml_of(piece, line.language, line.said)) <= most

    parts = [
        (piece, direction)
        for part, direction in directed_parts(line.text, line.direction)
        for piece in pieces(part, fits)
    ]
    return joined([spoken(work, engine, line.request(*part), hear) for part in parts])


def played_together(work: Work, engine: Engine, lines: Sequence[LineToSpeak]) -> tuple[Speech, ...]:
    """Lines that answer each other, asked for in one request: a clip for each."""
    request = DialogueRequest(tuple(line.request(spoken_text(line.text)) for line in lines))
    key = key_of(work, engine, Role.SPEAK, request, "together")
    kept = remembered(work, key, _KeptDialogue)
    if kept is not None and not work.anew and all(clip in work.clips for clip in kept.clips):
        try:
            return tuple(
                Speech(work.clips.get(clip), words) for clip, words in zip(kept.clips, kept.words, strict=True)
            )
        except StoreError:  # a damaged clip is asked for again
            pass
    info = engine.info()
    costs = (info.price_of_speech(turn.voice, turn.tier).of(len(turn.ssml)) for turn in request.turns)
    used = sum(costs, Cost())

    def heard(question: DialogueRequest) -> _Played:
        clips = engine.converse(question)
        if any(is_silent(clip.samples) for clip in clips):
            raise BadAnswer("{engine_name} answered with a silent clip.", engine_name=engine.info().name)
        return _Played(clips, sum((clip.cost for clip in clips), Cost()))

    played, attempt = paid(work, engine, Role.SPEAK, key, request, kept, used, heard)
    clips = tuple(replace(clip, samples=in_24_bits(clip.samples)) for clip in played.clips)
    names, words = tuple(work.clips.put(clip.samples) for clip in clips), tuple(clip.words for clip in clips)
    work.answers.put(key, msgspec.json.encode(_KeptDialogue(names, words, played.cost, attempt)))
    return clips


def joined(clips: list[Speech]) -> Speech:
    """Clips one behind the other, a breath between two."""
    if len(clips) == 1:
        return clips[0]
    breath = np.zeros(round(_JOIN_S * RATE), dtype=np.float32)
    samples: list[Mono] = []
    words: list[HeardWord] = []
    cost, length = Cost(), 0
    for clip in clips:
        if samples:
            samples.append(breath)
            length += len(breath)
        shift = samples_to_us(length)
        words += [replace(w, start_us=w.start_us + shift, end_us=w.end_us + shift) for w in clip.words]
        samples.append(clip.samples)
        length += len(clip.samples)
        cost += clip.cost
    return Speech(np.concatenate(samples), tuple(words), cost)


def translated(work: Work, engine: Engine, request: TranslationRequest) -> Translation:
    """What *engine* answers to *request*, asked once. An answer in which something is empty or missing is not kept: it
    would fail for ever."""
    key = key_of(work, engine, Role.TRANSLATE, request)
    kept = remembered(work, key, _KeptTranslation)
    if kept is not None and not work.anew and _is_complete(request, kept):
        return Translation(kept.items)
    used = engine.info().price.of(sum(len(item.text) for item in request.items))
    answer, attempt = paid(work, engine, Role.TRANSLATE, key, request, kept, used, engine.translate)
    if _is_complete(request, answer):
        work.answers.put(key, msgspec.json.encode(_KeptTranslation(answer.items, answer.cost, attempt)))
    else:
        work.attempts[key] = attempt + 1  # whoever asks for this again wants another answer
    return answer


def _is_complete(request: TranslationRequest, answer: Translation) -> bool:
    return len(answer.items) == len(request.items) and all(item.texts[0].strip() for item in answer.items)


def cost_of_run(who: str, cost: Cost) -> tuple[Finding, ...]:
    """What a run used; nothing if it was free."""
    if not cost.amount:
        return ()
    code = "run-cost-sound" if cost.seconds else "run-cost"
    figures: dict[str, Figure] = {"engine": who, "characters": cost.characters, "seconds": cost.seconds}
    return (Finding(code, {**figures, "amount": cost.amount, "currency": cost.currency}),)
