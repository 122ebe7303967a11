"""Edits of who speaks with which voice. What a person chose is not replaced by what is proposed."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import replace

from zweistimme.project.access import find_speaker, find_version, put_version, with_key, without_keys
from zweistimme.project.errors import EditError
from zweistimme.project.languages import language_of, substitutes_for
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


def take_voices(project: Project, tag: str, speaker_ids: Iterable[str]) -> Project:
    """Leave speakers without a voice, as those whose voice may not stand in any more."""
    version = find_version(project, tag)
    cast = without_keys(version.cast, speaker_ids)
    return project if len(cast) == len(version.cast) else put_version(project, replace(version, cast=cast))


def refusal_of(tag: str, related: str) -> str:
    """How it is kept that voices of a related language may not stand in for that of *tag*."""
    return f"{language_of(tag)}>{related}"


def refuse_stand_in(project: Project, tag: str, related: str, refused: bool) -> Project:
    """Say whether voices of one related language may not stand in for that of *tag*; all versions of it are meant."""
    if related not in substitutes_for(tag):
        there = ", ".join(substitutes_for(tag))
        raise EditError(
            "{related} is no language whose voices stand in for {tag}. There are: {there}.",
            related=related, tag=tag, there=there or "–",
        )  # fmt: skip
    others = tuple(one for one in project.refused if one != refusal_of(tag, related))
    return replace(project, refused=(*others, refusal_of(tag, related)) if refused else others)


def settle_voice(project: Project, tag: str, speaker_id: str, settled: bool) -> Project:
    """Say that the voice a speaker has is to stay, or that another may be proposed."""
    version = find_version(project, tag)
    others = tuple(key for key in version.cast_chosen if key != speaker_id)
    chosen = (*others, speaker_id) if settled and speaker_id in version.cast else others
    return project if chosen == version.cast_chosen else put_version(project, replace(version, cast_chosen=chosen))
