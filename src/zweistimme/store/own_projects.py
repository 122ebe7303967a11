"""Whose projects are: made on this desk, or received. What others settled is nobody's here until somebody says so."""

from __future__ import annotations

import hashlib
from enum import StrEnum
from pathlib import Path
from typing import Final

import msgspec

from zweistimme.project.errors import StoreError
from zweistimme.store.personal_file import PersonalFile


class Whose(StrEnum):
    """What becomes of the lines that are settled in a project: they go into this person's memory, or somebody wants
    them left out, or the project was received and nobody has said yet."""

    OWN = "own"
    LEFT_OUT = "left-out"
    RECEIVED = "received"


class _Known(msgspec.Struct, frozen=True):
    folder: int
    """The number the system has for the project's folder: another copy of the same project has another."""
    whose: Whose


_NOBODYS: Final = _Known(0, Whose.RECEIVED)


def whose(project_id: str, folder: Path) -> Whose:
    """Whose the project in *folder* is; what cannot be read here is said to be received."""
    try:
        known = _file(project_id).read()
        return known.whose if known.folder == folder.stat().st_ino else Whose.RECEIVED
    except (StoreError, OSError):
        return Whose.RECEIVED


def set_whose(project_id: str, folder: Path, own: Whose) -> None:
    """Keep whose a project is; StoreError where that cannot be kept."""
    try:
        number = folder.stat().st_ino
    except OSError as error:
        raise StoreError("{file} cannot be read: {why}. Correct or remove it.", file=folder, why=error) from error
    _file(project_id).write(_Known(number, own))


def _file(project_id: str) -> PersonalFile[_Known]:
    """A file for each project, so that two desks that make one at once lose nothing. Ids come with projects: none is
    part of a path as it is."""
    name = hashlib.sha256(project_id.encode()).hexdigest()[:32]
    return PersonalFile(f"own-projects/{name}.json", _Known, _NOBODYS)
