"""A project folder is looked at before anything in it is opened: one that somebody sent may hold links and pipes.

Only regular files and folders are ours. What else lies where we read, write or tidy up is named and left alone, so that
no link leads a write, a truncation or a removal out of the folder, and no pipe is waited for.
"""

from __future__ import annotations

import os
import stat
from collections.abc import Iterator
from pathlib import Path
from typing import Final

from zweistimme.messages import msg
from zweistimme.project.errors import StoreError
from zweistimme.store.names import DATABASE, FOLDERS, LOCK, RUNS, WRITING_TEXTS

_FILES: Final = (DATABASE, f"{DATABASE}-wal", f"{DATABASE}-shm", f"{DATABASE}-journal", LOCK, RUNS, WRITING_TEXTS)
ABSENT: Final = 0
"""The mode of a file that is not there."""
_SUPER_JOURNAL: Final = bytes.fromhex("d9d505f920a163d7")
"""How a rollback journal ends that speaks of another file, which SQLite would remove (its file format, 3)."""


def check_folder(folder: Path) -> None:
    """A StoreError that names the first thing in a project's *folder* that is not ours to open."""
    for name in _FILES:
        mode = _mode_of(folder / name)
        if mode != ABSENT and not stat.S_ISREG(mode):
            raise _strange(folder / name, mode)
    for name in FOLDERS:
        mode = _mode_of(folder / name)
        if mode != ABSENT and not stat.S_ISDIR(mode):
            raise _strange(folder / name, mode)
        for _ in files_below(folder / name):
            pass
    journal = folder / f"{DATABASE}-journal"
    if _mode_of(journal) != ABSENT and _end_of(journal, len(_SUPER_JOURNAL)) == _SUPER_JOURNAL:
        raise StoreError(
            "{file} speaks of files outside the project. It was not opened; ask for a packed copy.", file=journal
        )


def files_below(folder: Path) -> Iterator[Path]:
    """Every regular file in *folder* and below it, without following a link; a StoreError at whatever is none."""
    try:
        entries = sorted(os.scandir(folder), key=lambda entry: entry.name)
    except FileNotFoundError:
        return
    for entry in entries:
        path = Path(entry.path)
        if entry.is_dir(follow_symlinks=False):
            yield from files_below(path)
        elif entry.is_file(follow_symlinks=False):
            yield path
        else:
            mode = _mode_of(path)
            if mode != ABSENT:  # somebody may have removed it just now
                raise _strange(path, mode)


def opened_own(path: Path, flags: int) -> int:
    """A descriptor of a file of ours, opened without following a link or waiting for a pipe."""
    handle = os.open(path, flags | os.O_NOFOLLOW | os.O_NONBLOCK | os.O_CLOEXEC, 0o666)
    mode = os.fstat(handle).st_mode
    if not stat.S_ISREG(mode):
        os.close(handle)
        raise _strange(path, mode)
    return handle


def _end_of(path: Path, length: int) -> bytes:
    """The last bytes of a file, however large somebody made it."""
    with os.fdopen(opened_own(path, os.O_RDONLY), "rb") as file:
        file.seek(max(0, file.seek(0, os.SEEK_END) - length))
        return file.read(length)


def _mode_of(path: Path) -> int:
    try:
        return path.lstat().st_mode
    except FileNotFoundError:
        return ABSENT


def _strange(path: Path, mode: int) -> StoreError:
    if stat.S_ISLNK(mode):
        sentence = msg("{path} is a link that leads elsewhere. Put what it leads to in its place, or take it away.")
    elif stat.S_ISDIR(mode) or stat.S_ISREG(mode):
        sentence = msg("{path} is not what a project has there. Take it away, or restore the folder from a copy.")
    else:
        sentence = msg("{path} is neither a file nor a folder. Take it away, or restore the folder from a copy.")
    return StoreError(sentence, path=path)
