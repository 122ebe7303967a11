"""Small files of a person's own, kept with the desk and not with a project: lists that hold across projects."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path
from typing import Any, Generic, TypeVar

import msgspec
import platformdirs

from zweistimme.media.atomic import written_text
from zweistimme.project.errors import StoreError

T = TypeVar("T")
_read: dict[Path, tuple[tuple[int, int, int], Any]] = {}
"""What files hold, as long as they are the same: lists of voices ask for every voice."""


@dataclass(frozen=True)
class PersonalFile(Generic[T]):
    """A file of this *name* that holds one value of a *type* as JSON; *empty* is what there is before it was
    written."""

    name: str
    type: Any
    empty: T

    @property
    def path(self) -> Path:
        """Where it is kept."""
        return Path(platformdirs.user_data_dir("zweistimme")) / self.name

    def read(self) -> T:
        """What it holds; StoreError where it cannot be read."""
        try:
            about = self.path.stat()
            stamp = about.st_mtime_ns, about.st_size, about.st_ino
            kept = _read.get(self.path)
            if kept is None or kept[0] != stamp:
                kept = _read[self.path] = stamp, msgspec.json.decode(self.path.read_bytes(), type=self.type)
            value: T = kept[1]
            return value
        except FileNotFoundError:
            return self.empty
        except (OSError, msgspec.MsgspecError) as error:
            raise StoreError("{file} cannot be read: {why}. Correct or remove it.", file=self.path, why=error) from None

    def write(self, value: T) -> None:
        """Keep this instead, whole or not at all; StoreError where that cannot be."""
        try:
            self.path.parent.mkdir(parents=True, exist_ok=True)
            written_text(self.path, msgspec.json.format(msgspec.json.encode(value)).decode() + "\n")
        except OSError as error:
            raise StoreError("{file} cannot be written: {why}.", file=self.path, why=error) from error
