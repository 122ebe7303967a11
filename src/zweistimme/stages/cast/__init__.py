"""Cast: a voice for every speaker in every version, proposed by language and pitch, overruled by hand."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from zweistimme.engines.connections import BUNDLED
from zweistimme.engines.offers import EngineInfo, VoiceInfo
from zweistimme.engines.protocol import Engine
from zweistimme.engines.voices import voice_ref
from zweistimme.project.access import find_version
from zweistimme.project.edits import cast_voice
from zweistimme.project.errors import EngineError, MissingVoices
from zweistimme.project.facts import fresh_take, speakers_in_use, spoken_segments
from zweistimme.project.findings import Finding
from zweistimme.project.languages import language_name, language_of, spoken_tag, substitutes_for
from zweistimme.project.model import Project
from zweistimme.project.speaker_edits import set_pitches
from zweistimme.project.times import RATE, us_to_samples
from zweistimme.sound.pitch import median_pitch_hz
from zweistimme.stages.work import Work, open_sound

__all__ = [
    "able_voices",
    "cast",
    "check_cast",
    "measure_speakers",
    "proposed",
    "speaks",
    "spoken_language",
    "stand_in_language",
]

_LISTEN_S = 12
_PITCH_RATE = 16_000
_USUAL_HZ = {
    "male": 118.0, "man": 118.0, "masculine": 118.0, "female": 205.0, "woman": 205.0, "feminine": 205.0,
    "child": 280.0, "boy": 270.0, "girl": 290.0, "neutral": 160.0,
}  # fmt: skip
"""What a kind of voice is like where an engine does not say how high a voice is."""
_UNKNOWN_OCTAVES = 0.6
"""A voice of which nothing is known is no better than one that is this far off."""


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


def cast(work: Work, engine: Engine, tag: str, name: str = BUNDLED) -> None:
    """Propose a voice of *engine*, whose connection is called *name*, for every speaker who has none in *tag*."""
    pitches = measure_speakers(work)
    if pitches:
        work.deliver("Measure the speakers", lambda project: set_pitches(project, pitches))
    known = {speaker.id: speaker.pitch_hz for speaker in work.project.speakers.values()} | pitches
    info = engine.info()
    able = able_voices(work.project, tag, info.voices)
    related = stand_in_language(able[0], tag) if able and not speaks(able[0], tag) else None
    if related:
        work.say(Finding("voices-stand-in", {"engine": info.name, "wanted": tag, "related": related}))
    choice = proposed(work.project, tag, known, info.voices, name)
    cast_already = find_version(work.project, tag).cast
    mute = [key for key in speakers_in_use(work.project) if key not in choice and key not in cast_already]
    if mute:
        names = ", ".join(work.project.speakers[key].name for key in mute)
        work.say(Finding("without-voice", {"engine": info.name, "language": tag, "names": names}))

    def edit(project: Project) -> Project:
        for speaker, voice in choice.items():
            project = cast_voice(project, tag, speaker, voice)
        return project

    work.deliver(f"Cast {tag}", edit)
    work.report(1.0)


def measure_speakers(work: Work) -> dict[str, float]:
    """The usual pitch of speakers not measured yet, from the first seconds of their speech."""
    import soxr

    programme = work.project.programme
    if programme is None:
        return {}
    pitches = {}
    todo = [key for key in speakers_in_use(work.project) if work.project.speakers[key].pitch_hz is None]
    if not todo:
        return {}
    with open_sound(work, programme.sound) as reader:
        for speaker in todo:
            parts: list[np.ndarray[tuple[int], np.dtype[np.float32]]] = []
            for segment in (s for s in spoken_segments(work.project) if s.speaker_id == speaker):
                a, b = us_to_samples(segment.start_us), us_to_samples(segment.end_us)
                parts.append(soxr.resample(reader.mono(a, b - a), RATE, _PITCH_RATE, "QQ").astype(np.float32))
                if sum(map(len, parts)) > _LISTEN_S * _PITCH_RATE:
                    break
            pitch = median_pitch_hz(np.concatenate(parts), _PITCH_RATE)
            if pitch is not None:
                pitches[speaker] = round(pitch, 1)
    return pitches


def proposed(
    project: Project,
    tag: str,
    pitches: dict[str, float | None],
    voices: Sequence[VoiceInfo],
    engine: str = BUNDLED,
) -> dict[str, str]:
    """A voice out of *voices* of *engine* for each uncast speaker: nearest in pitch, none twice if it can be helped."""
    version = find_version(project, tag)
    able = able_voices(project, tag, voices)
    taken = set(version.cast.values())
    choice: dict[str, str] = {}
    for speaker in speakers_in_use(project):
        if speaker in version.cast or not able:
            continue
        pitch = pitches.get(speaker)

        def distance(voice: VoiceInfo, pitch: float | None = pitch) -> tuple[bool, float]:
            own = voice.pitch_hz or _USUAL_HZ.get(voice.kind.lower(), 0.0)
            far = abs(math.log2(own / pitch)) if pitch and own else _UNKNOWN_OCTAVES
            return voice_ref(engine, voice.id) in taken, far

        best = voice_ref(engine, min(able, key=distance).id)
        taken.add(best)
        choice[speaker] = best
    return choice


def check_cast(project: Project, tags: Sequence[str]) -> None:
    """MissingVoices, with the whole list, if anything would reach synthesis without a voice."""
    missing = []
    for tag in tags:
        version = project.versions[tag]
        for speaker in speakers_in_use(project):
            if speaker in version.cast:
                continue
            mute = [s for s in spoken_segments(project) if s.speaker_id == speaker]
            count = sum(1 for s in mute if fresh_take(project, version, s) is None)
            if count:
                missing.append((tag, project.speakers[speaker].name, count))
    if missing:
        raise MissingVoices(missing)
