"""Which engine a stage asks, and the memory of what was answered."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import TypeVar

import msgspec
import numpy as np

from zweistimme.engines.connections import BUNDLED
from zweistimme.engines.protocol import (
    Cost,
    Engine,
    EngineInfo,
    HeardWord,
    Mono,
    Recognition,
    RecognitionQuestion,
    Role,
    SoundSource,
    Speech,
    SpeechRequest,
    Translation,
    TranslationRequest,
)
from zweistimme.engines.request_queue import ask_one
from zweistimme.engines.text_pieces import pieces
from zweistimme.formats.ssml import ssml_of
from zweistimme.project.errors import BadAnswer, StoreError
from zweistimme.project.languages import language_of
from zweistimme.project.model import Project
from zweistimme.project.times import RATE, samples_to_us
from zweistimme.project.writing import spoken_text
from zweistimme.sound.arrays import in_24_bits, is_silent
from zweistimme.stages.work import Work

_JOIN_S = 0.25
T = TypeVar("T")


def engine_for(project: Project, role: Role, tag: str | None = None) -> str:
    """The engine asked for *role*: the version's own choice, else the project's, else the bundled one."""
    version = project.versions.get(tag) if tag else None
    return (version.engines.get(role) if version else None) or project.engines.get(role) or BUNDLED


@dataclass(frozen=True, slots=True)
class _KeptSpeech:
    """An answer to a speech request: the clip lies among the clips."""

    clip: str
    words: tuple[HeardWord, ...]
    cost: Cost


def _remembered(work: Work, key: str, kind: type[T]) -> T | None:
    """The answer given before; one that cannot be read any more is asked for again."""
    known = work.answers.get(key)
    try:
        return msgspec.json.decode(known, type=kind) if known is not None else None
    except msgspec.MsgspecError:
        return None


def spoken(work: Work, engine: Engine, request: SpeechRequest) -> Speech:
    """What *engine* says for *request*, asked once: an answer that was given before is used again, free of charge."""
    info = engine.info()
    key = work.answers.key("speech", engine.identity, info.name, info.version, msgspec.json.encode(request))
    kept = _remembered(work, key, _KeptSpeech)
    if kept is not None and kept.clip in work.clips:
        try:
            return Speech(work.clips.get(kept.clip), kept.words)
        except StoreError:  # a damaged clip is asked for again
            pass
    speech = engine.speak(request)
    if is_silent(speech.samples):
        raise BadAnswer(f"{info.name} answered with a silent clip.")
    samples = in_24_bits(speech.samples)
    clip = work.clips.put(samples)
    work.answers.put(key, msgspec.json.encode(_KeptSpeech(clip, speech.words, speech.cost)))
    return replace(speech, samples=samples)


def spoken_line(work: Work, engine: Engine, text: str, voice: str, language: str, direction: str = "") -> Speech:
    """*text* spoken; in pieces, joined again, where it is longer than the engine takes."""
    most = engine.info().limits.characters
    parts = pieces(spoken_text(text), lambda piece: most is None or len(ssml_of(piece, language)) <= most)
    return joined(
        [spoken(work, engine, SpeechRequest(ssml_of(part, language), language, voice, direction)) for part in parts]
    )


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
    """What *engine* answers to *request*, asked once. An answer in which something is empty is not kept: it would fail
    for ever."""
    info = engine.info()
    key = work.answers.key("translation", engine.identity, info.name, info.version, msgspec.json.encode(request))
    kept = _remembered(work, key, Translation)
    if kept is not None and _is_complete(kept):
        return replace(kept, cost=Cost())
    answer = engine.translate(request)
    if _is_complete(answer):
        work.answers.put(key, msgspec.json.encode(answer))
    return answer


def _is_complete(answer: Translation) -> bool:
    return all(item.texts[0].strip() for item in answer.items)


def recognised(
    work: Work, engine: Engine, sound: SoundSource, checksum: str, question: RecognitionQuestion
) -> Recognition:
    """What *engine* hears in the sound with this *checksum*, asked once."""
    info = engine.info()
    key = work.answers.key(
        "recognition", engine.identity, info.name, info.version, checksum, msgspec.json.encode(question)
    )
    kept = _remembered(work, key, Recognition)
    if kept is not None:
        return replace(kept, cost=Cost())
    answer = ask_one(lambda report: engine.recognise(sound, question, report), limits=info.limits, report=work.report)
    if answer.cost == Cost():
        answer = replace(answer, cost=info.price.of(seconds=sound.length_samples / RATE))
    work.answers.put(key, msgspec.json.encode(answer))
    return answer


def cost_sentence(who: str, cost: Cost) -> str:
    """What a run used, in words; empty if it was free.

    >>> cost_sentence("Quay", Cost(1234, 0.0, 0.02468, "EUR"))
    'Quay: 1,234 characters, 0.02 EUR.'
    """
    if not cost.amount:
        return ""
    used = [f"{cost.characters:,} characters"] if cost.characters else []
    used += [f"{cost.seconds:,.0f} s of sound"] if cost.seconds else []
    return f"{who}: {', '.join([*used, f'{cost.amount:,.2f} {cost.currency}'.strip()])}."


def pair_known(info: EngineInfo, source: str, target: str) -> bool:
    """Whether an engine translates this pair, in whatever regions, as voices are matched; it may refuse a region."""

    def same(offered: str, wanted: str) -> bool:
        return language_of(offered) == language_of(wanted)

    return any(same(a, source) and same(b, target) for a, b in info.pairs)
