"""The three stand-ins behind the engine protocol."""

from __future__ import annotations

from collections.abc import Sequence

from zweistimme import __version__
from zweistimme.engines.protocol import (
    EngineInfo,
    HeardSegment,
    HeardWord,
    Report,
    SoundSource,
    Speech,
    SpeechRequest,
    TranslationItem,
    VoiceInfo,
    Wordings,
)
from zweistimme.project.errors import EngineError
from zweistimme.project.times import seconds_to_us
from zweistimme.standin import translator
from zweistimme.standin.text import language_of
from zweistimme.standin.voice import DIRECTIONS, LANGUAGES, VOICES, speak, voice_by_id


class BundledEngine:
    """Recognises, translates and speaks, in this process."""

    def info(self) -> EngineInfo:
        """What the stand-ins can do."""
        voices = tuple(
            VoiceInfo(v.id, v.name, v.kind, LANGUAGES, v.about, v.larynx.pitch_hz, DIRECTIONS) for v in VOICES
        )
        return EngineInfo("bundled", __version__, LANGUAGES, translator.PAIRS, voices)

    def recognise(self, sound: SoundSource, tag: str, report: Report) -> list[HeardSegment]:
        """Hear *sound*; see recogniser.py."""
        from zweistimme.standin.recogniser import recognise

        return recognise(sound, tag, report)

    def translate(self, items: Sequence[TranslationItem], source: str, target: str) -> list[Wordings]:
        """Translate each item."""
        return translator.translate(items, source, target)

    def speak(self, request: SpeechRequest) -> Speech:
        """Speak one line."""
        voice = voice_by_id(request.voice)
        if voice is None:
            there = ", ".join(voice.id for voice in VOICES)
            raise EngineError(f"The bundled engine has no voice {request.voice}. It has {there}.")
        if language_of(request.tag) not in {language_of(tag) for tag in LANGUAGES}:
            raise EngineError(
                f"The bundled voices do not speak {request.tag}; they speak {', '.join(LANGUAGES)}. "
                "Import takes for this version instead."
            )
        spoken = speak(request.text, request.tag, voice, direction=request.direction, seed=request.seed)
        words = tuple(HeardWord(t, seconds_to_us(a), seconds_to_us(b), 1.0) for t, a, b in spoken.words)
        return Speech(spoken.samples, words)


def bundled_engine() -> BundledEngine:
    """The entry point."""
    return BundledEngine()
