"""What people and voices are like, measured once: of people in the programme, of voices in samples of the lines they
would speak. What was measured of a voice is kept with the desk, whatever project it was for."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from pathlib import Path
from typing import Final

import msgspec
import numpy as np
import platformdirs

from zweistimme.engines.protocol import Engine
from zweistimme.media.atomic import written_text
from zweistimme.project.access import find_version
from zweistimme.project.errors import EngineError
from zweistimme.project.facts import fingerprint, speakers_in_use, spoken_segments
from zweistimme.project.findings import Finding
from zweistimme.project.languages import spoken_tag
from zweistimme.project.model import Project, Segment
from zweistimme.project.times import RATE, us_to_samples
from zweistimme.project.voice_traits import VoiceTraits
from zweistimme.sound.arrays import Mono
from zweistimme.sound.features import RATE as LOW_RATE
from zweistimme.sound.voice_traits import voice_traits
from zweistimme.stages.answers import LineToSpeak, spoken_line
from zweistimme.stages.work import Work, open_sound

LISTEN_S: Final = 30
"""So much of a person's speech says what their voice is like."""
_ALONE_US: Final = 100_000
_LONGEST_SAMPLE: Final = 160
"""Characters that a voice speaks to be measured: some ten seconds."""
_LEAST_SAMPLE: Final = 40


def measure_people(work: Work) -> dict[str, VoiceTraits]:
    """What the voices of people not measured yet are like, from their longest stretches in which nobody else speaks."""
    import soxr

    programme = work.project.programme
    todo = [key for key in speakers_in_use(work.project) if work.project.speakers[key].traits is None]
    if programme is None or not todo:
        return {}
    measured = {}
    with open_sound(work, programme.sound) as reader:
        for speaker in todo:
            parts: list[Mono] = []
            for segment in _clearest(spoken_segments(work.project), speaker):
                a, b = us_to_samples(segment.start_us), us_to_samples(segment.end_us)
                parts.append(soxr.resample(reader.mono(a, b - a), RATE, LOW_RATE, "HQ").astype(np.float32))
                if sum(map(len, parts)) > LISTEN_S * LOW_RATE:
                    break
            traits = voice_traits(np.concatenate(parts)) if parts else None
            if traits is not None:
                measured[speaker] = traits
    return measured


def _clearest(segments: Sequence[Segment], speaker: str) -> Iterator[Segment]:
    """Somebody's segments, the longest first; those in which others are heard at once come last."""
    own, clear = [], {}
    for place, segment in enumerate(segments):
        if segment.speaker_id == speaker:
            own.append(segment)
            beside = [*segments[max(0, place - 1) : place], *segments[place + 1 : place + 2]]
            clear[segment.id] = not any(
                other.speaker_id != speaker
                and other.start_us < segment.end_us - _ALONE_US
                and other.end_us > segment.start_us + _ALONE_US
                for other in beside
            )
    yield from sorted(own, key=lambda one: (not clear[one.id], one.start_us - one.end_us))


def sample_text(project: Project, tag: str) -> str:
    """What voices speak to be measured for a version: its own lines, those that say most; empty where there are too
    few."""
    lines = find_version(project, tag).lines
    texts = sorted({line.text.strip() for line in lines.values()}, key=lambda text: (-len(text), text))
    said = ""
    for text in texts:
        if len(said) + len(text) < _LONGEST_SAMPLE:
            said = f"{said} {text}".strip()
    return said if len(said) >= _LEAST_SAMPLE else ""


def kept_traits(engine: Engine, voice_id: str, language: str) -> VoiceTraits | None:
    """What was measured of a voice before."""
    try:
        return msgspec.json.decode(_file(engine, voice_id, language).read_bytes(), type=VoiceTraits)
    except (OSError, msgspec.MsgspecError):
        return None


def measure_voices(work: Work, engine: Engine, voices: Iterable[tuple[str, str]], tag: str) -> dict[str, VoiceTraits]:
    """What voices of an engine are like, each with the language it speaks for a version: measured before, or in a
    sample that it speaks now. One that fails is said and left out."""
    found, text, todo = {}, sample_text(work.project, tag), list(voices)
    for number, (voice_id, language) in enumerate(todo):
        traits = kept_traits(engine, voice_id, language)
        if traits is None and text:
            try:
                traits = _measured(work, engine, voice_id, language, text)
            except EngineError as error:
                work.say(Finding("voice-not-measured", {"voice": voice_id, "why": str(error)}))
        if traits is not None:
            found[voice_id] = traits
        work.report(number / len(todo))
    return found


def _measured(work: Work, engine: Engine, voice_id: str, language: str, text: str) -> VoiceTraits | None:
    import soxr

    spoken = spoken_line(work, engine, LineToSpeak(text, voice_id, language)).samples
    traits = voice_traits(np.asarray(soxr.resample(spoken, RATE, LOW_RATE, "HQ"), dtype=np.float32))
    if traits is not None:
        file = _file(engine, voice_id, language)
        file.parent.mkdir(parents=True, exist_ok=True)
        written_text(file, msgspec.json.encode(traits).decode() + "\n")
    return traits


def _file(engine: Engine, voice_id: str, language: str) -> Path:
    name = fingerprint("voice-traits", engine.identity, engine.info().version, voice_id, spoken_tag(language))
    return Path(platformdirs.user_data_dir("zweistimme")) / "voice-traits" / f"{name}.json"
