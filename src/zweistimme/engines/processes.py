"""Running a local program: no shell, its time and its output bounded, nothing left running when the desk is gone, and
of the environment only what a program needs.
"""

from __future__ import annotations

import os
import re
import selectors
import signal
import socket
import subprocess
import sys
import time
from collections.abc import Callable, Sequence
from contextlib import suppress
from pathlib import Path
from typing import IO, Any, Final

from zweistimme.engines.cancellation import check_stopped
from zweistimme.engines.secrets import PREFIX
from zweistimme.project.errors import BadAnswer, EngineError, EngineFault, EngineTooSlow

LARGEST_OUTPUT: Final = 256 << 20
_BLOCK: Final = 1 << 16
_LOOK_S: Final = 0.02
_END_S: Final = 5.0
_SAID_MOST: Final = 4_000
_GUARD: Final = str(Path(__file__).with_name("guard.py"))
_PASSED_ON: Final = re.compile(
    r"PATH|HOME|USER|LOGNAME|SHELL|LANG|LANGUAGE|LC_\w+|TZ|TMPDIR|TMP|TEMP|VIRTUAL_ENV|LD_LIBRARY_PATH"
    r"|XDG_(?:CACHE|CONFIG|DATA)_HOME|(?:CUDA|OMP|MKL|ROCR|HIP)_\w+"
)


def environment_for(names: Sequence[str]) -> dict[str, str]:
    """The variables a program is given: the usual ones and those its description names; no token of any service."""
    return {
        name: value
        for name, value in os.environ.items()
        if not name.startswith(PREFIX) and (_PASSED_ON.fullmatch(name) or name in names)
    }


class GuardedProgram:
    """A program that runs, with its three pipes. It ends with ``end``, or with the desk."""

    def __init__(self, command: Sequence[str], *, who: str, folder: Path, environment: Sequence[str] = ()) -> None:
        self.who = who
        self._command = command[0]
        self._lifeline, theirs = socket.socketpair()
        with theirs:
            try:
                self.process: subprocess.Popen[bytes] = subprocess.Popen(
                    [sys.executable, "-I", "-S", _GUARD, str(theirs.fileno()), *command],
                    stdin=subprocess.PIPE,
                    stdout=subprocess.PIPE,
                    stderr=subprocess.PIPE,
                    cwd=folder,
                    env=environment_for(environment),
                    pass_fds=[theirs.fileno()],
                    start_new_session=True,
                )
            except OSError as error:
                self._lifeline.close()
                raise self._not_started(error) from error

    def end(self) -> None:
        """End the program and everything it started."""
        with suppress(ProcessLookupError):  # it and its children may have ended already
            os.killpg(self.process.pid, signal.SIGKILL)
        self.process.wait()
        self._lifeline.close()
        for pipe in (self.process.stdin, self.process.stdout, self.process.stderr):
            if pipe is not None:
                with suppress(OSError):  # what it no longer takes cannot be flushed
                    pipe.close()

    def check_started(self) -> None:
        """EngineError if it could not be started at all."""
        with suppress(BlockingIOError, ConnectionError):
            said = self._lifeline.recv(16, socket.MSG_DONTWAIT)
            if said:
                raise self._not_started(OSError(int(said), os.strerror(int(said))))

    def _not_started(self, why: OSError) -> EngineError:
        return EngineError(
            "{who}: {command} cannot be started ({why}). Check the command in its description.",
            who=self.who,
            command=self._command,
            why=why,
        )


def output_of(
    command: Sequence[str],
    given: bytes,
    *,
    who: str,
    seconds: float,
    folder: Path,
    largest: int = LARGEST_OUTPUT,
    environment: Sequence[str] = (),
    out: Path | None = None,
    look: Callable[[], None] = lambda: None,
    came: Callable[[bytes], None] = lambda _piece: None,
) -> bytes:
    """What *command* writes on its standard output when *given* stands on its input, or into the file *out*.

    *look* is called now and then and may raise to stop the program; *came* is given the output in pieces, as it comes.
    EngineTooSlow if it takes longer than *seconds*, EngineFault if it ends with an error, BadAnswer if it writes more
    than *largest* bytes, EngineError if it cannot be started.
    """
    program = GuardedProgram(command, who=who, folder=folder, environment=environment)
    try:
        printed, said = _Talk(program, given, largest, out, came).whole(seconds, look)
    finally:
        program.end()
    if program.process.returncode:
        raise EngineFault(
            "{who} ended with code {returncode}{last_line}.",
            who=who,
            returncode=program.process.returncode,
            last_line=last_line(said),
        )
    return printed


class _Talk:
    """All three pipes of a program that answers once."""

    def __init__(
        self, program: GuardedProgram, given: bytes, largest: int, out: Path | None, came: Callable[[bytes], None]
    ) -> None:
        self._program, self._given, self._largest, self._out, self._came = (
            program,
            memoryview(given),
            largest,
            out,
            came,
        )
        self._printed, self._said, self._size = [b""], b"", 0
        self._pipes = selectors.DefaultSelector()
        process, write, read = program.process, selectors.EVENT_WRITE, selectors.EVENT_READ
        for pipe, event, act in (
            (process.stdin, write, self._write),
            (process.stdout, read, self._read),
            (process.stderr, read, self._hear),
        ):
            assert pipe is not None
            os.set_blocking(pipe.fileno(), False)
            self._pipes.register(pipe, event, act)

    def whole(self, seconds: float, look: Callable[[], None]) -> tuple[bytes, bytes]:
        """Output and the end of what was said of errors, once the program has ended."""
        who, end = self._program.who, time.monotonic() + seconds
        ended_at: float | None = None
        with self._pipes:
            while self._pipes.get_map() or self._program.process.poll() is None:
                check_stopped()
                look()
                for key, _ in self._pipes.select(_LOOK_S) if self._pipes.get_map() else ():
                    key.data(key.fileobj)
                if self._out is not None and self._out.is_file() and self._out.stat().st_size > self._largest:
                    raise self._too_much()
                now = time.monotonic()
                if now > end:
                    raise EngineTooSlow(
                        "{who} was not done in {seconds:.0f} s and was stopped.", who=who, seconds=seconds
                    )
                if self._program.process.poll() is not None:
                    ended_at = ended_at or now
                    if now - ended_at > _END_S:  # something else holds its pipes open
                        break
                elif not self._pipes.get_map():
                    time.sleep(_LOOK_S)
        self._program.check_started()
        return b"".join(self._printed), self._said

    def _write(self, pipe: IO[bytes]) -> None:
        try:
            self._given = self._given[os.write(pipe.fileno(), self._given[:_BLOCK]) :]
        except BrokenPipeError:  # it does not want to read all of it
            self._given = self._given[:0]
        if not self._given:
            self._close(pipe)

    def _read(self, pipe: IO[bytes]) -> None:
        piece = os.read(pipe.fileno(), _BLOCK)
        self._size += len(piece)
        if self._size > self._largest:
            raise self._too_much()
        self._printed.append(piece)
        if piece:
            self._came(piece)
        else:
            self._close(pipe)

    def _hear(self, pipe: IO[bytes]) -> None:
        piece = os.read(pipe.fileno(), _BLOCK)
        self._said = (self._said + piece)[-_SAID_MOST:]
        if not piece:
            self._close(pipe)

    def _close(self, pipe: Any) -> None:
        self._pipes.unregister(pipe)
        with suppress(OSError):
            pipe.close()

    def _too_much(self) -> BadAnswer:
        return BadAnswer(
            "{who} wrote more than {largest} MiB and was stopped.", who=self._program.who, largest=self._largest >> 20
        )


def last_line(said: bytes) -> str:
    """The end of what a program said of its failure."""
    lines = said[-2_000:].decode("utf-8", "replace").split("\n")
    words = next((line.strip() for line in reversed(lines) if line.strip()), "")
    return f": {words[:200].rstrip('.')}" if words else ""
