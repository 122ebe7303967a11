"""What recognisers answer, asked once for each piece of sound, as many pieces at once as the engine takes."""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Sequence
from dataclasses import dataclass

import msgspec

from zweistimme.engines.offers import Role
from zweistimme.engines.protocol import Engine, Recognition, RecognitionQuestion, SoundSource
from zweistimme.engines.request_queue import ask_long
from zweistimme.project.times import RATE
from zweistimme.sound.arrays import Mono
from zweistimme.stages.answers import KeptRecognition, key_of, paid, remembered
from zweistimme.stages.work import Work


@dataclass(frozen=True, slots=True)
class Piece:
    """Sound to be recognised, and what it is known by."""

    sound: SoundSource
    checksum: str


def piece_of(samples: Mono) -> Piece:
    """A clip at 48 kHz, shape ``(n,)``, known by its samples."""
    source = SoundSource(lambda start, count: samples[start : start + count], len(samples))
    return Piece(source, hashlib.sha256(samples.tobytes()).hexdigest())


def recognised(work: Work, engine: Engine, pieces: Sequence[Piece], question: RecognitionQuestion) -> list[Recognition]:
    """What *engine* hears in each piece. An answer that was given before is used again; each is kept the moment it is
    there, so a run that was stopped goes on where it was."""
    info = engine.info()
    keys = [key_of(work, engine, Role.RECOGNISE, question, piece.checksum) for piece in pieces]
    kept = [remembered(work, key, KeptRecognition) for key in keys]
    answers: dict[int, Recognition] = {}
    for number, known in enumerate(kept):
        if known is not None and not work.anew:
            answers[number] = Recognition(known.language, known.probability, known.segments)
    open_ = [number for number in range(len(pieces)) if number not in answers]

    def asked(number: int, report: Callable[[float], None]) -> tuple[Recognition, int]:
        sound = pieces[number].sound
        used = info.price.of(seconds=sound.length_samples / RATE)
        return paid(
            work, engine, Role.RECOGNISE, keys[number], question, kept[number], used,
            lambda one: engine.recognise(sound, one, report),
        )  # fmt: skip

    def took(number: int, given: tuple[Recognition, int]) -> None:
        answer, attempt = given
        made = KeptRecognition(answer.language, answer.probability, answer.segments, answer.cost, attempt)
        work.answers.put(keys[number], msgspec.json.encode(made))
        answers[number] = answer

    failures = ask_long(open_, asked, limits=info.limits, took=took, report=work.report, repeats_cost=info.repeats_cost)
    if failures:
        raise failures[0].error
    return [answers[number] for number in range(len(pieces))]
