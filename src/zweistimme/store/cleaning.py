"""What of a project folder can go: what can be made again, and clips that nothing speaks of any more."""

from __future__ import annotations

import re
import sqlite3
from collections.abc import Iterator
from contextlib import closing
from dataclasses import dataclass
from pathlib import Path
from typing import Final

from zweistimme.store.database import said
from zweistimme.store.names import ANSWERS, CACHE, CLIPS, DATABASE
from zweistimme.store.own_files import check_folder, files_below

_NAMES: Final = re.compile(rb"[0-9a-f]{64}")


@dataclass(frozen=True, slots=True)
class Removable:
    """Files of one kind that can go, and how much room they take."""

    kind: str
    files: tuple[Path, ...]

    @property
    def size_bytes(self) -> int:
        return sum(path.stat().st_size for path in self.files if path.is_file())


def removable(folder: Path) -> tuple[Removable, Removable]:
    """Clips that neither the project nor its history nor an answer speaks of; and the cache, which is made again when
    it is needed (its sounds from the media, if they are still there)."""
    check_folder(folder)
    spoken_of = _spoken_of(folder)
    clips = tuple(path for path in files_below(folder / CLIPS) if path.suffix == ".flac" and path.stem not in spoken_of)
    return Removable("clips", clips), cache_of(folder)


def cache_of(folder: Path) -> Removable:
    """What can be made again."""
    return Removable("cache", tuple(files_below(folder / CACHE)))


def removed(some: Removable) -> int:
    """Remove files; how many bytes that gave."""
    size = some.size_bytes
    for path in some.files:
        path.unlink(missing_ok=True)
    return size


def _spoken_of(folder: Path) -> set[str]:
    """Every name of a clip that stands anywhere: in rows, in what undo or redo would bring back, in answers."""
    names: set[str] = set()
    for body in _bodies(folder):
        names.update(name.decode() for name in _NAMES.findall(body))
    return names


def _bodies(folder: Path) -> Iterator[bytes]:
    path = folder / DATABASE
    with said(path), closing(sqlite3.connect(f"{path.absolute().as_uri()}?mode=ro", uri=True)) as there:
        for table, column in (("record", "body"), ("change", "before"), ("change", "after")):
            query = f"SELECT {column} FROM {table} WHERE kind IN ('take', 'segment') AND {column} IS NOT NULL"
            for (body,) in there.execute(query):
                yield body
    for answer in files_below(folder / ANSWERS):
        if answer.suffix == ".json":
            yield answer.read_bytes()
