"""Directions that a voice does not know: an engine takes them in silence, and nobody hears them."""

from __future__ import annotations

from zweistimme.engines.offers import VoiceInfo
from zweistimme.engines.registry import answering
from zweistimme.engines.voices import split_voice
from zweistimme.project.access import find_version
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
    told = [
        (segment, version.lines[segment.id], *split_voice(voice))
        for segment in spoken_segments(project)
        if segment.id in version.lines and (voice := voice_of(version, segment))
    ]
    there = answering({name for _, _, name, _ in told})
    voices = {(name, voice.id): voice for name, asked in there.items() for voice in asked.info().voices}
    return [
        segment
        for segment, line, name, voice in told
        if (name, voice) in voices and unknown_directions(line, voices[name, voice])
    ]
