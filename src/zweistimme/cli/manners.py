"""How voices speak, on the command line."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import replace
from functools import partial
from typing import Any, Final

from zweistimme.cli.app import CommandError
from zweistimme.messages import tr
from zweistimme.project.manner_edits import set_manner
from zweistimme.project.model import AS_USUAL, Manner, Project
from zweistimme.store.document import Document


def speaker_called(project: Project, name: str) -> str:
    """The id of the speaker of this name, or with this id."""
    speaker = next((key for key, one in project.speakers.items() if name in (one.name, key)), None)
    if speaker is None:
        there = ", ".join(one.name for one in project.speakers.values()) or tr("none yet")
        raise CommandError("There is no speaker “{name}”. Speakers: {there}.", name=name, there=there)
    return speaker


def set_manners(document: Document, tags: list[str], part: str, values: list[str]) -> None:
    """Set one part of how speakers speak, each given as SPEAKER=VALUE."""
    for value in values:
        name, equals, wanted = value.rpartition("=")
        if not equals:
            raise CommandError("“{value}” names no speaker. Write SPEAKER=VALUE.", value=value)
        speaker = speaker_called(document.project, name)
        for tag in tags:
            before = document.project.versions[tag].manners.get(speaker, AS_USUAL)
            given: dict[str, Any] = {part: _PARTS.get(part, _number)(wanted)}
            manner = replace(before, **given)
            edit = partial(set_manner, tag=tag, speaker_id=speaker, manner=manner)
            document.apply("How a speaker speaks", edit)


def _number(text: str) -> float:
    try:
        return float(text)
    except ValueError:
        raise CommandError("“{text}” is no number.", text=text) from None


def _whole(text: str) -> int:
    if not text.isdecimal():
        raise CommandError("“{text}” is no whole number.", text=text)
    return int(text)


_PARTS: Final[Mapping[str, Callable[[str], object]]] = {"tier": str, "seed": _whole}


def in_words(manner: Manner) -> str:
    """What of a manner is not as usual.

    >>> in_words(Manner(1.1, volume_db=-3.0))
    'rate 1.1, volume -3 dB'
    """
    parts = [tr("rate {rate:g}", rate=manner.rate)] if manner.rate != 1 else []
    parts += [tr("pitch {pitch:g}", pitch=manner.pitch)] if manner.pitch != 1 else []
    parts += [tr("volume {volume_db:+g} dB", volume_db=manner.volume_db)] if manner.volume_db else []
    parts += [tr("as {tier}", tier=manner.tier)] if manner.tier else []
    parts += [tr("way {seed}", seed=manner.seed)] if manner.seed else []
    return ", ".join(parts)
