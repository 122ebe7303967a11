"""Which voices can speak a version: those of its language, or, where there is none, those of a related one."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from zweistimme.engines.offers import EngineInfo, VoiceInfo
from zweistimme.project.errors import EngineError
from zweistimme.project.languages import language_name, language_of, spoken_tag, substitutes_for
from zweistimme.project.model import Project


def speaks(voice: VoiceInfo, tag: str) -> bool:
    """Whether a voice speaks the language of *tag*, in whatever region."""
    return language_of(tag) in {language_of(language) for language in voice.languages}


def stand_in_language(voice: VoiceInfo, tag: str) -> str | None:
    """The related language in which *voice* may stand in for that of *tag*, or None."""
    for related in substitutes_for(tag):
        for language in voice.languages:
            if language_of(language) == related:
                return language
    return None


def able_voices(project: Project, tag: str, voices: Sequence[VoiceInfo]) -> list[VoiceInfo]:
    """Voices that can be cast in *tag*: those that speak its language, else, where allowed, those that stand in."""
    native = [voice for voice in voices if speaks(voice, tag)]
    return native or [voice for voice in voices if project.substitutes and stand_in_language(voice, tag)]


def spoken_language(info: EngineInfo, voice_id: str, tag: str, *, substitutes: bool) -> str:
    """The language a voice is asked to speak for a version: its own, or the related one it stands in with."""
    voice = info.voice(voice_id)
    if speaks(voice, tag):
        return spoken_tag(tag)
    related = stand_in_language(voice, tag) if substitutes else None
    if related is None:
        raise EngineError(
            "{voice} does not speak {tag}. Choose another voice.", voice=voice.name, tag=language_name(tag)
        )
    return related


@dataclass(frozen=True, slots=True)
class Coverage:
    """How many voices speak the language of a version, and how many each related one that may stand in."""

    own: int
    related: Mapping[str, int]
    allowed: bool

    @property
    def kind(self) -> str:
        """``own``, ``related`` or ``none``: with which voices the version can be spoken."""
        return "own" if self.own else "related" if self.related and self.allowed else "none"


def coverage(project: Project, tag: str, voices: Sequence[VoiceInfo]) -> Coverage:
    """With which of *voices* a version can be spoken."""
    own = sum(speaks(voice, tag) for voice in voices)
    related = Counter(language_of(other) for voice in voices if (other := stand_in_language(voice, tag)))
    nearest = {language: related[language] for language in substitutes_for(tag) if language in related}
    return Coverage(own, nearest, project.substitutes)
