"""The stand-ins behind the engine protocol."""

from __future__ import annotations

import re
from typing import Final

from zweistimme import __version__
from zweistimme.engines.extra_roles import (
    Answered,
    Asked,
    BedRequest,
    DescriptionRequest,
    DraftRequest,
    ImitationRequest,
    MadeVoice,
    RemovedVoice,
    ToneRequest,
    VoiceRemoval,
)
from zweistimme.engines.offers import Control, EngineInfo, Limits, Usage, VoiceInfo
from zweistimme.engines.protocol import (
    DialogueRequest,
    Hear,
    HeardWord,
    Recognition,
    RecognitionQuestion,
    Report,
    SoundSource,
    Speech,
    SpeechRequest,
    Translation,
    TranslationRequest,
)
from zweistimme.project.errors import EngineError, FormatError
from zweistimme.project.times import samples_to_us, seconds_to_us
from zweistimme.sound.cores import cores
from zweistimme.standin import beds, descriptions, drafts, tones, translator
from zweistimme.standin.imitation import imitated
from zweistimme.standin.made_voices import KeptVoice, keep_voice, made_voices, remove_voice
from zweistimme.standin.text import language_of
from zweistimme.standin.voice import DIRECTIONS, LANGUAGES, VOICES, BundledVoice, Manner, speak_ssml, voice_by_id

_CONTROLS: Final = (Control("rate", 0.5, 2.0), Control("pitch", 0.7, 1.4), Control("volume_db", -20.0, 6.0))
_PIECE: Final = 4_800
_TURN_US: Final = 250_000
_CUT_IN_US: Final = -150_000
_INTERRUPTED: Final = re.compile(r"[–—…-]\s*(?:<[^>]*>\s*)*$")


class BundledEngine:
    """Recognises, translates and speaks, in this process."""

    @property
    def name(self) -> str:
        """What it is called among the connections."""
        return "bundled"

    @property
    def identity(self) -> str:
        """The stand-ins of this version."""
        return f"bundled {__version__}"

    def info(self, *, anew: bool = False) -> EngineInfo:
        """What the stand-ins can do."""
        voices = (*(_info(v, LANGUAGES) for v in VOICES), *(_info(v.voice, v.languages) for v in made_voices()))
        limits = Limits(characters=20_000, items=64, at_once=min(cores(), 8))
        return EngineInfo(
            "bundled", __version__, recognises=LANGUAGES, pairs=translator.PAIRS, voices=voices, limits=limits,
            detects=True, streams=True, situations=True, imitates=LANGUAGES, describes=descriptions.LANGUAGES,
            drafts=drafts.LANGUAGES, senses=tones.LANGUAGES, moods=beds.MOODS,
        )  # fmt: skip

    def recognise(self, sound: SoundSource, question: RecognitionQuestion, report: Report) -> Recognition:
        """Hear *sound*; see recogniser.py."""
        from zweistimme.standin.recogniser import recognise

        return recognise(sound, question, report)

    def translate(self, request: TranslationRequest) -> Translation:
        """Translate each item."""
        return translator.translate(request)

    def speak(self, request: SpeechRequest, hear: Hear | None = None) -> Speech:
        """Speak one line."""
        voice = _voice(request)
        manner = Manner(request.rate, request.pitch, volume_db=request.volume_db)
        try:
            spoken = speak_ssml(
                request.ssml, request.language, voice, direction=request.direction, seed=request.seed, manner=manner
            )
        except FormatError as error:
            raise EngineError(str(error)) from None
        words = tuple(HeardWord(t, seconds_to_us(a), seconds_to_us(b)) for t, a, b in spoken.words)
        if hear is not None:
            for start in range(0, len(spoken.samples), _PIECE):
                hear(spoken.samples[start : start + _PIECE])
        return Speech(spoken.samples, words)

    def converse(self, request: DialogueRequest) -> tuple[Speech, ...]:
        """Speak lines in turn: a breath between two, and a line that breaks off is cut into."""
        clips: list[Speech] = []
        start_us = 0
        for turn in request.turns:
            clip = self.speak(turn)
            clips.append(Speech(clip.samples, clip.words, clip.cost, max(0, start_us)))
            pause = _CUT_IN_US if _INTERRUPTED.search(turn.ssml) else _TURN_US
            start_us += samples_to_us(len(clip.samples)) + pause
        return tuple(clips)

    def ask(self, request: Asked) -> Answered:
        """Whatever else the stand-ins do."""
        match request:
            case ImitationRequest():
                kept = KeptVoice(imitated(request), request.languages, request.consent)
                if any(voice.id == kept.voice.id for voice in VOICES):
                    raise EngineError("There is a bundled voice of this name already. Choose another.")
                keep_voice(kept)
                return MadeVoice(_info(kept.voice, kept.languages))
            case VoiceRemoval():
                if not remove_voice(request.voice):
                    raise EngineError("The bundled engine has made no voice {voice}.", voice=request.voice)
                return RemovedVoice(request.voice)
            case DescriptionRequest():
                return descriptions.described(request)
            case DraftRequest():
                return drafts.drafted(request)
            case BedRequest():
                return beds.composed(request)
            case ToneRequest():
                return tones.tones_of(request)

    def usage(self) -> Usage:
        """It is free and keeps no account."""
        return Usage()

    def close(self) -> None:
        """Nothing stays open."""


def _info(voice: BundledVoice, languages: tuple[str, ...]) -> VoiceInfo:
    return VoiceInfo(
        voice.id, voice.name, voice.kind, languages, voice.about, voice.larynx.pitch_hz, DIRECTIONS,
        controls=_CONTROLS, varies=True,
    )  # fmt: skip


def _voice(request: SpeechRequest) -> BundledVoice:
    voice = voice_by_id(request.voice)
    if voice is None:
        voice = next((made.voice for made in made_voices() if made.voice.id == request.voice), None)
    if voice is None:
        there = ", ".join(voice.id for voice in VOICES)
        raise EngineError("The bundled engine has no voice {voice}; it has {there}.", voice=request.voice, there=there)
    if language_of(request.language) not in {language_of(tag) for tag in LANGUAGES}:
        raise EngineError(
            "The bundled voices do not speak {language}; they speak {names}. Import takes for this version instead.",
            language=request.language,
            names=", ".join(LANGUAGES),
        )
    return voice


def bundled_engine() -> BundledEngine:
    """The entry point."""
    return BundledEngine()
