"""Directions that a voice does not know: an engine takes them in silence, and nobody hears them."""

from __future__ import annotations

from collections.abc import Mapping

from zweistimme.engines.offers import VoiceInfo
from zweistimme.engines.registry import engine
from zweistimme.engines.voices import split_voice
from zweistimme.project.access import find_version
from zweistimme.project.errors import EngineError
from zweistimme.project.facts import spoken_segments, voice_of
from zweistimme.project.model import Line, Project, Segment
from zweistimme.project.writing import directed_parts


def unknown_directions(line: Line, voice: VoiceInfo) -> list[str]:
    """The directions of a line that its voice does not know, each once."""
    known = [one.casefold() for one in voice.directions]
    wanted = dict.fromkeys(direction for _, direction in directed_parts(line.text, line.direction) if direction)
    return [one for one in wanted if one.casefold() not in known]


def unheard_directions(project: Project, tag: str) -> list[Segment]:
    """The lines of a version that have a direction which their voice does not know. Of engines that cannot be asked
    nothing is said."""
    version = find_version(project, tag)
    asked: dict[str, Mapping[str, VoiceInfo]] = {}
    found = []
    for segment in spoken_segments(project):
        line, voice = version.lines.get(segment.id), voice_of(version, segment)
        if line is None or not voice or not (line.direction or "[" in line.text or "(" in line.text):
            continue
        name, own = split_voice(voice)
        if name not in asked:
            asked[name] = _voices(name)
        if own in asked[name] and unknown_directions(line, asked[name][own]):
            found.append(segment)
    return found


def _voices(name: str) -> Mapping[str, VoiceInfo]:
    try:
        return {voice.id: voice for voice in engine(name).info().voices}
    except EngineError:
        return {}
