"""Running a local program: no shell, its time and its output bounded, nothing left running."""

from __future__ import annotations

import os
import signal
import subprocess
import tempfile
import time
from collections.abc import Callable, Sequence
from contextlib import suppress
from pathlib import Path
from typing import IO, Final

from zweistimme.engines.cancellation import check_stopped
from zweistimme.project.errors import BadAnswer, EngineError, EngineFault, EngineTooSlow

LARGEST_OUTPUT: Final = 256 << 20
_LOOK_S: Final = 0.01


def output_of(
    command: Sequence[str],
    given: bytes,
    *,
    who: str,
    seconds: float,
    folder: Path,
    largest: int = LARGEST_OUTPUT,
    look: Callable[[], None] = lambda: None,
) -> bytes:
    """What *command* writes on its standard output when *given* stands on its input.

    *look* is called now and then and may raise to stop the program. EngineTooSlow if it takes longer than *seconds*,
    EngineFault if it ends with an error, BadAnswer if it writes more than *largest* bytes, EngineError if it cannot be
    started.
    """
    with tempfile.TemporaryFile() as source, tempfile.TemporaryFile() as sink, tempfile.TemporaryFile() as said:
        source.write(given)
        source.seek(0)
        try:
            process = subprocess.Popen(
                list(command), stdin=source, stdout=sink, stderr=said, cwd=folder, start_new_session=True
            )
        except OSError as error:
            raise EngineError(
                "{who}: {command} cannot be started ({why}). Check the command in its description.",
                who=who,
                command=command[0],
                why=error.strerror,
            ) from error
        try:
            _waited(process, sink, who, seconds, largest, look)
        finally:
            _ended(process)
        if process.returncode:
            raise EngineFault(
                "{who} ended with code {returncode}{last_line}.",
                who=who,
                returncode=process.returncode,
                last_line=_last_line(said),
            )
        sink.seek(0)
        return sink.read()


def _waited(
    process: subprocess.Popen[bytes],
    sink: IO[bytes],
    who: str,
    seconds: float,
    largest: int,
    look: Callable[[], None],
) -> None:
    end = time.monotonic() + seconds
    while process.poll() is None:
        check_stopped()
        look()
        if os.fstat(sink.fileno()).st_size > largest:
            break
        if time.monotonic() > end:
            raise EngineTooSlow("{who} was not done in {seconds:.0f} s and was stopped.", who=who, seconds=seconds)
        time.sleep(_LOOK_S)
    if os.fstat(sink.fileno()).st_size > largest:
        raise BadAnswer("{who} wrote more than {largest} MiB and was stopped.", who=who, largest=largest >> 20)


def _ended(process: subprocess.Popen[bytes]) -> None:
    """End the program and everything it started."""
    with suppress(ProcessLookupError):  # it and its children may have ended already
        os.killpg(process.pid, signal.SIGKILL)
    process.wait()


def _last_line(said: IO[bytes]) -> str:
    """The end of what a program said of its failure."""
    size = said.seek(0, os.SEEK_END)
    said.seek(max(0, size - 2000))
    lines = said.read().decode("utf-8", "replace").split("\n")
    words = next((line.strip() for line in reversed(lines) if line.strip()), "")
    return f": {words[:200].rstrip('.')}" if words else ""
