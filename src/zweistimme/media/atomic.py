"""Files appear whole or not at all."""

from __future__ import annotations

import os
import tempfile
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    import numpy as np
    import numpy.typing as npt

_PREFIX = ".writing-"


def remove_unfinished(folder: Path) -> None:
    """Remove what a process that was killed had not finished writing in *folder* and below."""
    for path in folder.rglob(f"{_PREFIX}*"):
        path.unlink(missing_ok=True)


def written_whole(path: Path, write: Callable[[Path], None]) -> None:
    """Have *write* make a file under a temporary name beside *path*, then move it into place.

    The file is on disk before it gets its name; if *write* raises, nothing is left behind. An OSError of a folder
    that cannot be written to names *path*.
    """
    path.parent.mkdir(parents=True, exist_ok=True)
    try:
        handle, name = tempfile.mkstemp(prefix=_PREFIX, suffix=path.suffix, dir=path.parent)
    except OSError as error:
        raise OSError(error.errno, error.strerror, str(path)) from None
    os.close(handle)
    temporary = Path(name)
    try:
        write(temporary)
        with temporary.open("rb") as file:
            os.fsync(file.fileno())
        temporary.chmod(0o644)
        temporary.replace(path)
    finally:
        temporary.unlink(missing_ok=True)
    _sync_folder(path.parent)


def _sync_folder(folder: Path) -> None:
    """Make the new name itself survive a power cut."""
    handle = os.open(folder, os.O_RDONLY)
    try:
        os.fsync(handle)
    finally:
        os.close(handle)


def written_bytes(path: Path, data: bytes) -> None:
    """Write bytes whole."""

    def write(temporary: Path) -> None:
        temporary.write_bytes(data)

    written_whole(path, write)


def written_text(path: Path, text: str) -> None:
    """Write UTF-8 text whole."""
    written_bytes(path, text.encode("utf-8"))


def written_array(path: Path, values: npt.NDArray[np.generic]) -> None:
    """Write an array whole, as NumPy's own file."""

    import numpy as np  # the window writes its list of projects before it needs any

    def write(temporary: Path) -> None:
        with temporary.open("wb") as file:
            np.save(file, values)

    written_whole(path, write)
