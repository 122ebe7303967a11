"""What voices people had in earlier projects: by their name and the language, kept with the desk, so that somebody who
comes back in the next episode is offered the voice they had."""

from __future__ import annotations

import unicodedata
from collections.abc import Mapping
from contextlib import suppress
from typing import Final

from zweistimme.project.errors import StoreError
from zweistimme.project.languages import spoken_tag
from zweistimme.project.model import Project
from zweistimme.store.personal_file import PersonalFile

_EARLIER: Final[PersonalFile[dict[str, list[str]]]] = PersonalFile("earlier-voices.json", dict[str, list[str]], {})
_MOST: Final = 5_000
"""Names that are kept; the oldest go."""


def earlier_voices(tag: str) -> Mapping[str, tuple[str, ...]]:
    """By name, the voices that people had in a language, the latest first; empty where nothing is kept."""
    return {
        name: tuple(voices)
        for key, voices in _read().items()
        for language, _, name in [key.partition(" ")]
        if language == spoken_tag(tag)
    }


def name_key(name: str) -> str:
    """A name as it is looked for: without regard to case and to how letters are composed.

    >>> name_key(" Käthe ") == name_key("KÄTHE")
    True
    """
    return unicodedata.normalize("NFKC", name).casefold().strip()


def remember_voices(project: Project, tag: str) -> None:
    """Keep who has which voice by somebody's choice. It is not worth a failure."""
    version = project.versions.get(tag)
    chosen = {key: version.cast[key] for key in version.cast_chosen if key in version.cast} if version else {}
    if not chosen:
        return
    kept = _read()
    for key, voice in chosen.items():
        entry = f"{spoken_tag(tag)} {name_key(project.speakers[key].name)}"
        kept[entry] = [voice, *(other for other in kept.pop(entry, []) if other != voice)][:3]
    _write(kept)


def forget_voice(project: Project, tag: str, speaker_id: str) -> None:
    """Forget that somebody's name goes with the voice they have: it is not to be what others are proposed."""
    voice = project.versions[tag].cast.get(speaker_id)
    entry = f"{spoken_tag(tag)} {name_key(project.speakers[speaker_id].name)}"
    kept = _read()
    if voice in kept.get(entry, ()):
        kept[entry] = [other for other in kept[entry] if other != voice]
        _write(kept)


def _write(kept: Mapping[str, list[str]]) -> None:
    newest = {name: voices for name, voices in list(kept.items())[-_MOST:] if voices}
    with suppress(StoreError):
        _EARLIER.write(newest)


def _read() -> dict[str, list[str]]:
    try:
        return dict(_EARLIER.read())
    except StoreError:
        return {}
