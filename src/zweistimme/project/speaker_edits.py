"""Edits of the people heard in a programme."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import replace
from itertools import chain, count
from string import ascii_uppercase

from zweistimme.messages import tr
from zweistimme.project.access import (
    find_segments,
    find_speaker,
    new_person_id,
    people_made,
    person_number,
    put_segments,
    with_key,
    without_keys,
)
from zweistimme.project.conversation import addressed_among, readdressed
from zweistimme.project.errors import EditError
from zweistimme.project.model import Project, Speaker
from zweistimme.project.voice_traits import VoiceTraits


def assign_speaker(project: Project, segment_ids: Iterable[str], speaker_id: str) -> Project:
    """Give segments to another speaker."""
    find_speaker(project, speaker_id)
    moved = [s for s in find_segments(project, segment_ids) if s.speaker_id != speaker_id]
    return put_segments(project, [replace(s, speaker_id=speaker_id) for s in moved]) if moved else project


def rename_speaker(project: Project, speaker_id: str, name: str) -> Project:
    """Give a speaker a name, unlike any other speaker's."""
    speaker = find_speaker(project, speaker_id)
    named = replace(speaker, name=_free_name(project, name, speaker_id))
    return replace(project, speakers=with_key(project.speakers, speaker_id, named))


def _free_name(project: Project, name: str, speaker_id: str = "") -> str:
    name = " ".join(name.split())
    if not name:
        raise EditError("A speaker needs a name.")
    if any(s.name == name and s.id != speaker_id for s in project.speakers.values()):
        raise EditError("Another speaker is already called {name}.", name=name)
    return name


def unused_name(taken: Iterable[str]) -> str:
    """The first of Speaker A … Speaker Z, Speaker 27 … that nobody has yet.

    >>> unused_name(["Mira", "Speaker A"])
    'Speaker B'
    """
    known = set(taken)
    marks = chain(ascii_uppercase, map(str, count(27)))
    return next(name for mark in marks if (name := f"Speaker {mark}") not in known)


def add_somebody(project: Project) -> Project:
    """One more person, whose name is not known yet; the last of ``project.speakers``."""
    return add_speaker(project, unused_name(one.name for one in project.speakers.values()))


def add_speaker(project: Project, name: str) -> Project:
    """One more person; the last of ``project.speakers``."""
    speaker = Speaker(new_person_id(project), _free_name(project, name))
    speakers = with_key(project.speakers, speaker.id, speaker)
    return replace(project, speakers=speakers, people_made=person_number(speaker.id))


def merge_speakers(project: Project, speaker_id: str, into_id: str) -> Project:
    """Two speakers were one: the second takes over all the first said, and its voices where it has none."""
    if speaker_id == into_id:
        return project
    gone, kept = find_speaker(project, speaker_id), find_speaker(project, into_id)
    spoken = [s.id for s in project.segments if s.speaker_id == speaker_id]
    project = assign_speaker(project, spoken, into_id)
    versions = {}
    for tag, version in project.versions.items():
        cast, manners = without_keys(version.cast, [speaker_id]), without_keys(version.manners, [speaker_id])
        chosen = version.cast_chosen
        if speaker_id in version.cast and into_id not in cast:  # with the voice comes how it speaks
            cast = with_key(cast, into_id, version.cast[speaker_id])
            chosen = tuple(into_id if key == speaker_id else key for key in chosen)
            manners = without_keys(manners, [into_id])
            if speaker_id in version.manners:
                manners = with_key(manners, into_id, version.manners[speaker_id])
        chosen = tuple(key for key in chosen if key != speaker_id)
        same = (cast, manners, chosen) == (version.cast, version.manners, version.cast_chosen)
        versions[tag] = version if same else replace(version, cast=cast, manners=manners, cast_chosen=chosen)
    speakers = {key: speaker for key, speaker in project.speakers.items() if key != speaker_id}
    if kept.pitch_hz is None:
        speakers[into_id] = replace(kept, pitch_hz=gone.pitch_hz, traits=kept.traits or gone.traits)
    brief = readdressed(project.brief, speaker_id, into_id)
    made = people_made(project)
    return replace(project, speakers=speakers, versions=versions, brief=brief, people_made=made)


def remove_speaker(project: Project, speaker_id: str) -> Project:
    """Take away a speaker who says nothing."""
    speaker = find_speaker(project, speaker_id)
    count = sum(s.speaker_id == speaker_id for s in project.segments)
    if count:
        lines = tr("{n:segment|segments}", n=count)
        raise EditError(
            "{speaker_name} speaks {lines}. Give them to somebody else first, or merge the speakers.",
            speaker_name=speaker.name,
            lines=lines,
        )
    versions = {
        tag: replace(
            version,
            cast=without_keys(version.cast, [speaker_id]),
            manners=without_keys(version.manners, [speaker_id]),
            cast_chosen=tuple(key for key in version.cast_chosen if key != speaker_id),
        )
        if speaker_id in version.cast or speaker_id in version.manners or speaker_id in version.cast_chosen
        else version
        for tag, version in project.versions.items()
    }
    kept = {key: one for key, one in project.speakers.items() if key != speaker_id}
    brief = addressed_among(project.brief, kept)
    return replace(project, speakers=kept, versions=versions, brief=brief, people_made=people_made(project))


def set_traits(project: Project, measured: Mapping[str, VoiceTraits]) -> Project:
    """Keep what was measured of speakers' voices."""
    known = {
        key: replace(project.speakers[key], pitch_hz=traits.pitch_hz, traits=traits)
        for key, traits in measured.items()
        if key in project.speakers
    }
    return replace(project, speakers={**project.speakers, **known})
