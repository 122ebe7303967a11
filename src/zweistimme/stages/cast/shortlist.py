"""Voices that somebody wants to find again: a list across projects, each with a note, kept with the desk."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Final

from zweistimme.store.personal_file import PersonalFile

_MOST: Final = 2_000
_LONGEST_NOTE: Final = 500
SHORTLIST: Final[PersonalFile[dict[str, str]]] = PersonalFile("shortlist.json", dict[str, str], {})


def shortlist() -> Mapping[str, str]:
    """By a voice, as a cast names it, the note on it; StoreError where the list cannot be read."""
    return SHORTLIST.read()


def put_on_shortlist(voice: str, note: str = "") -> None:
    """Put a voice on the list, or another note to it."""
    _write({**shortlist(), voice: " ".join(note.split())[:_LONGEST_NOTE]})


def take_off_shortlist(voice: str) -> None:
    """Take a voice off the list."""
    _write({key: note for key, note in shortlist().items() if key != voice})


def _write(kept: Mapping[str, str]) -> None:
    SHORTLIST.write(dict(list(kept.items())[-_MOST:]))
