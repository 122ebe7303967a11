"""The voices a person may choose from, in words."""

from __future__ import annotations

from zweistimme.engines.connections import BUNDLED
from zweistimme.engines.offers import VoiceInfo
from zweistimme.engines.voices import split_voice
from zweistimme.messages import tr
from zweistimme.project.languages import language_name
from zweistimme.stages.cast import speaks, stand_in_language, stand_ins
from zweistimme.stages.samples import consent_of
from zweistimme.window.bridge import Desk
from zweistimme.window.sampling.consent_words import consent_words


def voice_choices(desk: Desk, tag: str, cast: str | None = None) -> list[tuple[str, str]]:
    """Voices for a version, as a cast names them and in words: those of its language, else related ones; and the
    one that is *cast*, even if its engine does not answer."""
    choices = _choices(desk, tag)
    if cast is not None and cast not in dict(choices):
        choices.append((cast, tr("{cast} · its engine does not answer", cast=cast)))
    return choices


def _choices(desk: Desk, tag: str) -> list[tuple[str, str]]:
    known = desk.book.voices()
    native = [(ref, voice) for ref, voice in known if speaks(voice, tag)]
    if not native:
        allowed = stand_ins(desk.project, tag)
        related = [(ref, voice, stand_in_language(voice, allowed)) for ref, voice in known]
        return [
            (
                ref,
                tr(
                    "{voice} · stands in, in {language}",
                    voice=_described(ref, voice),
                    language=language_name(lang),
                ),
            )
            for ref, voice, lang in related
            if lang
        ]
    return [(ref, _described(ref, voice)) for ref, voice in native]


def _described(ref: str, voice: VoiceInfo) -> str:
    name, _ = split_voice(ref)
    made_from = consent_of(ref)
    if made_from is not None:
        return f"{voice.name} · {consent_words(made_from)}" + ("" if name == BUNDLED else f" · {name}")
    parts = [
        part
        for part in (
            tr(voice.kind),
            voice.about,
            tr("{pitch_hz:.0f} Hz", pitch_hz=voice.pitch_hz) if voice.pitch_hz else "",
        )
        if part
    ]
    return f"{voice.name} · {', '.join(parts)}" + ("" if name == BUNDLED else f" · {name}")
