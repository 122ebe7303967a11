"""Which voices can speak a version: those of its language, or, where there is none, those of a related one."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from zweistimme.engines.offers import EngineInfo, VoiceInfo
from zweistimme.project.cast_edits import refusal_of
from zweistimme.project.errors import EngineError
from zweistimme.project.languages import language_name, language_of, spoken_tag, substitutes_for
from zweistimme.project.model import Project


def speaks(voice: VoiceInfo, tag: str) -> bool:
    """Whether a voice speaks the language of *tag*, in whatever region."""
    return language_of(tag) in {language_of(language) for language in voice.languages}


def stand_ins(project: Project, tag: str) -> tuple[str, ...]:
    """The related languages whose voices may stand in for that of *tag*, the closest first: all but those refused."""
    if not project.substitutes:
        return ()
    return tuple(related for related in substitutes_for(tag) if refusal_of(tag, related) not in project.refused)


def stand_in_language(voice: VoiceInfo, related: Sequence[str]) -> str | None:
    """The first of *related* languages that *voice* speaks, with its region, or None."""
    for one in related:
        for language in voice.languages:
            if language_of(language) == one:
                return language
    return None


def able_voices(project: Project, tag: str, voices: Sequence[VoiceInfo]) -> list[VoiceInfo]:
    """Voices that can be cast in *tag*: those that speak its language, else, where allowed, those that stand in."""
    native = [voice for voice in voices if speaks(voice, tag)]
    related = stand_ins(project, tag)
    return native or [voice for voice in voices if stand_in_language(voice, related)]


def spoken_language(info: EngineInfo, voice_id: str, tag: str, related: Sequence[str]) -> str:
    """The language a voice is asked to speak for a version: its own, or the related one it stands in with."""
    voice = info.voice(voice_id)
    if speaks(voice, tag):
        return spoken_tag(tag)
    language = stand_in_language(voice, related)
    if language is None:
        raise EngineError(
            "{voice} does not speak {tag}. Choose another voice.", voice=voice.name, tag=language_name(tag)
        )
    return language


@dataclass(frozen=True, slots=True)
class Coverage:
    """How many voices speak the language of a version, and how many each related one; which of these are refused."""

    own: int
    related: Mapping[str, int]
    refused: tuple[str, ...] = ()

    @property
    def kind(self) -> str:
        """``own``, ``related`` or ``none``: with which voices the version can be spoken."""
        allowed = set(self.related) - set(self.refused)
        return "own" if self.own else "related" if allowed else "none"


def coverage(project: Project, tag: str, voices: Sequence[VoiceInfo]) -> Coverage:
    """With which of *voices* a version can be spoken."""
    own = sum(speaks(voice, tag) for voice in voices)
    spoken = Counter(one for voice in voices for one in {language_of(language) for language in voice.languages})
    related = {language: spoken[language] for language in substitutes_for(tag) if spoken[language]}
    return Coverage(own, related, tuple(one for one in related if one not in stand_ins(project, tag)))
