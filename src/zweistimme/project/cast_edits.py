"""Edits of who speaks with which voice. What a person chose is not replaced by what is proposed."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

from zweistimme.project.access import find_speaker, find_version, put_version, with_key, without_keys
from zweistimme.project.model import Project


def cast_voice(project: Project, tag: str, speaker_id: str, voice: str | None) -> Project:
    """Give a speaker a voice in a version, as a person does; None takes it away."""
    find_speaker(project, speaker_id)
    version = find_version(project, tag)
    others = tuple(key for key in version.cast_chosen if key != speaker_id)
    if voice is None:
        cast, chosen = without_keys(version.cast, [speaker_id]), others
    else:
        cast, chosen = with_key(version.cast, speaker_id, voice), (*others, speaker_id)
    return put_version(project, replace(version, cast=cast, cast_chosen=chosen))


def propose_voices(project: Project, tag: str, voices: Mapping[str, str]) -> Project:
    """Give speakers the voices that are proposed for them; who has one by a person's choice keeps it."""
    version = find_version(project, tag)
    open_ = {key: voice for key, voice in voices.items() if key in project.speakers and key not in version.cast_chosen}
    cast = {**version.cast, **open_}
    return project if cast == version.cast else put_version(project, replace(version, cast=cast))


def settle_voice(project: Project, tag: str, speaker_id: str, settled: bool) -> Project:
    """Say that the voice a speaker has is to stay, or that another may be proposed."""
    version = find_version(project, tag)
    others = tuple(key for key in version.cast_chosen if key != speaker_id)
    chosen = (*others, speaker_id) if settled and speaker_id in version.cast else others
    return project if chosen == version.cast_chosen else put_version(project, replace(version, cast_chosen=chosen))
