"""Files appear whole or not at all."""

from __future__ import annotations

import os
import shutil
import tempfile
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING, TypeVar

if TYPE_CHECKING:
    import numpy as np
    import numpy.typing as npt

    K = TypeVar("K", bound=np.generic)

WRITING = ".writing-"
"""How the names of what is not whole yet begin; the id of the process that writes it comes next."""
_UMASK = os.umask(0o022)
os.umask(_UMASK)  # it can only be read by setting it


def remove_unfinished(folder: Path, *, below: bool = False) -> None:
    """Remove what processes that were killed had not finished writing in *folder*, and, if wanted, *below* it. What
    somebody is writing just now stays."""
    for path in list((folder.rglob if below else folder.glob)(f"{WRITING}*")):
        owner = path.name.removeprefix(WRITING).partition("-")[0]
        if not owner.isdecimal() or not _is_running(int(owner)):
            if path.is_dir() and not path.is_symlink():
                shutil.rmtree(path, ignore_errors=True)
            else:
                path.unlink(missing_ok=True)


def _is_running(process: int) -> bool:
    try:
        os.kill(process, 0)
    except ProcessLookupError:
        return False
    except (PermissionError, OverflowError):
        pass  # somebody else's, or a number that is none: better left alone
    return True


@contextmanager
def appearing(path: Path) -> Iterator[Path]:
    """A temporary name beside *path* to write a file under; at the end it is moved into place.

    The file is on disk before it gets its name; if something is raised, nothing is left behind. An OSError of a folder
    that cannot be written to names *path*.
    """
    path.parent.mkdir(parents=True, exist_ok=True)
    try:
        handle, name = tempfile.mkstemp(prefix=f"{WRITING}{os.getpid()}-", suffix=path.suffix, dir=path.parent)
    except OSError as error:
        raise OSError(error.errno, error.strerror, str(path)) from None
    os.close(handle)
    temporary = Path(name)
    try:
        yield temporary
        with temporary.open("rb") as file:
            os.fsync(file.fileno())
        temporary.chmod(0o666 & ~_UMASK)
        temporary.replace(path)
    finally:
        temporary.unlink(missing_ok=True)
    _sync_folder(path.parent)


def written_whole(path: Path, write: Callable[[Path], None]) -> None:
    """Have *write* make a file that appears whole."""
    with appearing(path) as temporary:
        write(temporary)


@contextmanager
def unfinished_folder(parent: Path) -> Iterator[Path]:
    """A folder in *parent* for files that are not all there yet; gone at the end, whatever happens."""
    folder = Path(tempfile.mkdtemp(prefix=f"{WRITING}{os.getpid()}-", dir=parent))
    try:
        folder.chmod(0o777 & ~_UMASK)
        yield folder
    finally:
        shutil.rmtree(folder, ignore_errors=True)


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


def kept_array(path: Path, kind: type[K]) -> npt.NDArray[K] | None:
    """An array that was kept; None where there is none, or a damaged one, so that it is made again."""
    import numpy as np

    try:
        return np.asarray(np.load(path, allow_pickle=False), dtype=kind)
    except (OSError, ValueError, EOFError):
        return None


def written_array(path: Path, values: npt.NDArray[np.generic]) -> None:
    """Write an array whole, as NumPy's own file."""

    import numpy as np  # the window writes its list of projects before it needs any

    def write(temporary: Path) -> None:
        with temporary.open("wb") as file:
            np.save(file, values)

    written_whole(path, write)
