"""Small programmes, projects and sounds made for tests."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path

import numpy as np
import soundfile

from demo_project import make_demo_project, work_on
from zweistimme.engines.protocol import SpeechRequest
from zweistimme.formats.ssml import ssml_of
from zweistimme.project.facts import source_fingerprint, take_fingerprint
from zweistimme.project.model import Line, Project, Segment, Speaker, Take, TakeKind, Version, Word
from zweistimme.project.programme import Programme, SoundTrack
from zweistimme.project.speaker_edits import set_traits
from zweistimme.project.times import RATE, seconds_to_us
from zweistimme.project.voice_traits import VoiceTraits
from zweistimme.standin.voice import speak, voice_by_id

__all__ = [
    "make_demo_project",
    "project_with",
    "speech",
    "speechlike",
    "spoken_programme",
    "with_pitches",
    "work_on",
    "write_sound",
]


def speech(text: str, language: str, voice: str, direction: str = "") -> SpeechRequest:
    """A request to speak plain text."""
    return SpeechRequest(ssml_of(text, language), language, voice, direction)


def speechlike(seconds: float, *, pitch: float = 140.0, seed: int = 0) -> np.ndarray:
    """A voiced sound that comes and goes four times a second, float32 at 48 kHz."""
    times = np.arange(round(seconds * RATE)) / RATE
    random = np.random.default_rng(seed)
    tone = sum(np.sin(2 * np.pi * pitch * k * times) / k for k in range(1, 12))
    envelope = 0.15 + 0.85 * np.abs(np.sin(np.pi * 4 * times))
    return (0.2 * tone * envelope + 0.002 * random.standard_normal(len(times))).astype(np.float32)


def write_sound(path: Path, seconds: float = 2.0, *, rate: int = RATE, channels: int = 1) -> Path:
    """A sound file."""
    sound = np.repeat(speechlike(seconds)[: round(seconds * rate), None], channels, axis=1)
    soundfile.write(path, sound, rate)
    return path


def spoken_programme(path: Path, lines: list[tuple[str, str]], language: str, *, gap: float = 0.7) -> Path:
    """A programme in which voices say lines, each given as (voice, text), with pauses between and a little noise."""
    pause = np.zeros(round(gap * RATE))
    parts = [np.zeros(RATE)]
    for name, text in lines:
        voice = voice_by_id(name)
        assert voice is not None
        parts += [0.3 * speak(text, language, voice).samples, pause]
    sound = np.concatenate(parts)
    sound += 0.002 * np.random.default_rng(1).standard_normal(len(sound))
    soundfile.write(path, sound.astype(np.float32), RATE)
    return path


def project_with(
    segments: list[tuple[float, float, str]], *, tag: str = "de-DE", takes: list[float] | None = None
) -> Project:
    """A project with segments of one speaker in seconds, and, if wanted, takes of the given lengths."""
    made = tuple(
        Segment(f"s{k}", "p1", seconds_to_us(a), seconds_to_us(b), text, tuple(_words(text, a, b)))
        for k, (a, b, text) in enumerate(segments, 1)
    )
    lines, clips = {}, {}
    for k, segment in enumerate(made):
        line = Line(segment.id, f"Zeile {k + 1}", source_fingerprint(segment))
        if takes is not None:
            length = round(takes[k] * RATE)
            made_from = take_fingerprint(line, "alva")
            clips[f"t{k}"] = Take(
                f"t{k}", segment.id, TakeKind.SYNTHESIZED, "take 1", f"{k:064x}", length, 0, length, made_from
            )
            line = Line(segment.id, line.text, line.made_from, take_id=f"t{k}")
        lines[segment.id] = line
    version = Version(tag, cast={"p1": "alva"}, lines=lines, takes=clips)
    last = max(b for _, b, _ in segments) + 5
    sound = SoundTrack("/nowhere/programme.wav", 1, "0" * 32, seconds_to_us(last), RATE, 1)
    return Project("Test", "en-GB", Programme(sound), {"p1": Speaker("p1", "Ada")}, made, {tag: version})


def _words(text: str, start: float, end: float) -> list[Word]:
    parts = text.split()
    edges = np.linspace(seconds_to_us(start), seconds_to_us(end), len(parts) + 1)
    return [Word(word, int(edges[k]), int(edges[k + 1])) for k, word in enumerate(parts)]


def with_pitches(project: Project, pitches: Mapping[str, float]) -> Project:
    """A project whose people were measured to have these pitches, in Hz."""
    return set_traits(project, {key: VoiceTraits(hz, 2.0, 1.0, 4.0, 12.0, 4.0, 5.0) for key, hz in pitches.items()})
