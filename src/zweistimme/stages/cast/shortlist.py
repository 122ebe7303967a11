"""Voices that somebody wants to find again: a list across projects, each with a note, kept with the desk."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path
from typing import Final

import msgspec
import platformdirs

from zweistimme.media.atomic import written_text
from zweistimme.project.errors import StoreError

_MOST: Final = 2_000
_LONGEST_NOTE: Final = 500


def shortlist() -> Mapping[str, str]:
    """By a voice, as a cast names it, the note on it; StoreError where the list cannot be read."""
    file = _file()
    try:
        return msgspec.json.decode(file.read_bytes(), type=dict[str, str])
    except FileNotFoundError:
        return {}
    except (OSError, msgspec.MsgspecError) as error:
        raise StoreError("{file} cannot be read: {why}. Correct or remove it.", file=file, why=error) from None


def put_on_shortlist(voice: str, note: str = "") -> None:
    """Put a voice on the list, or another note to it."""
    _write({**shortlist(), voice: " ".join(note.split())[:_LONGEST_NOTE]})


def take_off_shortlist(voice: str) -> None:
    """Take a voice off the list."""
    _write({key: note for key, note in shortlist().items() if key != voice})


def _write(kept: Mapping[str, str]) -> None:
    file = _file()
    try:
        file.parent.mkdir(parents=True, exist_ok=True)
        newest = dict(list(kept.items())[-_MOST:])
        written_text(file, msgspec.json.format(msgspec.json.encode(newest)).decode() + "\n")
    except OSError as error:
        raise StoreError("{file} cannot be written: {why}.", file=file, why=error) from error


def _file() -> Path:
    return Path(platformdirs.user_data_dir("zweistimme")) / "shortlist.json"
