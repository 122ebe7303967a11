"""Sending samples to an engine that makes a voice of them, and having such a voice removed everywhere."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from datetime import date

from zweistimme.engines.extra_questions import asked_extra, check_role
from zweistimme.engines.extra_roles import (
    Consent,
    ImitationRequest,
    MadeVoice,
    RemovedVoice,
    VoiceRemoval,
    VoiceSample,
)
from zweistimme.engines.offers import Cost, Role
from zweistimme.engines.protocol import RecognitionQuestion
from zweistimme.engines.registry import engine
from zweistimme.engines.voices import split_voice, voice_ref
from zweistimme.engines.wire import flac_base64
from zweistimme.project.errors import EditError
from zweistimme.project.writing import joined
from zweistimme.stages.cast.shortlist import shortlist, take_off_shortlist
from zweistimme.stages.recognitions import piece_of, recognised
from zweistimme.stages.samples.consents import MadeFrom, drop_consent, keep_consent
from zweistimme.stages.samples.sample import Sample
from zweistimme.stages.work import Work

_MOST_SAMPLES = 100


def make_voice(
    work: Work, name: str, called: str, languages: Sequence[str], samples: Sequence[Sample], consent: MadeFrom
) -> str:
    """Have the engine of a connection make a voice that speaks *languages*; the voice, as a cast names it. EditError
    without a name, samples or consent: nothing is sent then."""
    if not called.strip():
        raise EditError("Give the voice a name.")
    if not samples:
        raise EditError("There are no samples yet. Find clean stretches, record some, or give files.")
    if not consent.person.strip() or not consent.words.strip():
        raise EditError("Say whose voice it is, and how that person allowed it: without consent no voice is made.")
    asked = engine(name)
    check_role(asked.info(), Role.IMITATE, name)
    given_on = consent.given_on or date.today().isoformat()
    words = " ".join(filter(None, (consent.words.strip(), consent.purpose.strip())))
    request = ImitationRequest(
        called.strip(), tuple(languages),
        tuple(VoiceSample(flac_base64(one.samples), one.text, one.tone) for one in samples[:_MOST_SAMPLES]),
        Consent(consent.person.strip(), words, given_on),
    )  # fmt: skip
    with work.ledger.question(name, Role.IMITATE, Cost()) as charge:
        made = asked_extra(asked, request, MadeVoice)
        charge(made.cost)
    ref = voice_ref(name, made.voice.id)
    seconds, tones = sum(one.seconds for one in samples), dict.fromkeys(one.tone for one in samples if one.tone)
    keep_consent(ref, replace(consent, given_on=given_on, seconds=round(seconds, 1), tones=tuple(tones)))
    asked.info(anew=True)
    return ref


def remove_made_voice(voice: str) -> None:
    """Have a voice removed by its engine, and forget it here: its consent, and its place on the list of voices. Who
    has it in a project is without a voice then, which is said there."""
    name, voice_id = split_voice(voice)
    asked = engine(name)
    asked_extra(asked, VoiceRemoval(voice_id), RemovedVoice)
    drop_consent(voice)
    if voice in shortlist():
        take_off_shortlist(voice)
    asked.info(anew=True)


def said_in_samples(work: Work, name: str, language: str, samples: Sequence[Sample]) -> list[Sample]:
    """Samples with what is said in them, as an engine hears it; those that have a text keep it."""
    open_ = [number for number, one in enumerate(samples) if not one.text.strip()]
    if not open_:
        return list(samples)
    asked = engine(name)
    check_role(asked.info(), Role.RECOGNISE, name)
    pieces = [piece_of(samples[number].samples) for number in open_]
    heard = recognised(work, asked, pieces, RecognitionQuestion((language,)))
    texts = {
        number: joined([word.text for segment in one.segments for word in segment.words])
        for number, one in zip(open_, heard, strict=True)
    }
    return [replace(one, text=texts.get(number, one.text)) for number, one in enumerate(samples)]
