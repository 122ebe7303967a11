"""A program that stays: started once, asked many times, one JSON object a line in and out.

It is started with the first question and again whenever it has died; it ends after a while without questions, and with
the desk. Questions under way when it dies are told so, and may be asked again.
"""

from __future__ import annotations

import os
import select
import subprocess
import threading
import time
from collections.abc import Mapping
from contextlib import suppress
from dataclasses import dataclass, field
from pathlib import Path
from typing import IO, Any, Final, TypeVar

import msgspec

from zweistimme.engines.cancellation import check_stopped
from zweistimme.engines.offers import Role
from zweistimme.engines.processes import LARGEST_OUTPUT, GuardedProgram, last_line
from zweistimme.engines.program_description import ResidentPart
from zweistimme.engines.protocol import Report
from zweistimme.engines.wire import parsed, written
from zweistimme.messages import msg
from zweistimme.project.errors import (
    BadAnswer,
    EngineBusy,
    EngineCutOff,
    EngineError,
    EngineFault,
    EngineTooSlow,
)

T = TypeVar("T")
_LOOK_S: Final = 0.05
_SAID_MOST: Final = 4_000
_LAST_WORDS_S: Final = 1.0


@dataclass(slots=True)
class _Question:
    """One question under way: how far it is, and what came of it."""

    progress: float = 0.0
    answer: Mapping[str, Any] | None = None
    error: EngineError | None = None
    done: threading.Event = field(default_factory=threading.Event)


class Resident:
    """A resident program and the questions it has under way; used by several threads at once."""

    def __init__(self, name: str, folder: Path, part: ResidentPart, environment: tuple[str, ...], at_once: int) -> None:
        self._name, self._folder, self._part, self._environment = name, folder, part, environment
        self._turns = threading.Semaphore(at_once)
        self._lock = threading.Lock()
        self._live: _Live | None = None
        self._idle: threading.Timer | None = None
        self._asking = 0

    def ask(
        self,
        role: Role,
        request: object,
        kind: type[T],
        seconds: float,
        more: Mapping[str, str] | None = None,
        report: Report = lambda _share: None,
    ) -> T:
        """The answer to one question, of type *kind*; *more* goes beside the request. EngineTooSlow after *seconds*,
        EngineCutOff if the program dies meanwhile, BadAnswer for what cannot be used."""
        while not self._turns.acquire(timeout=_LOOK_S):
            check_stopped()
        self._begin()
        try:
            live = self._alive()
            question, number = live.asked(role, msgspec.Raw(written(request)), more or {})
            try:
                self._wait(live, question, seconds, report)
            except BaseException:
                live.leave(number)
                raise
        finally:
            self._turns.release()
            self._rest()
        if question.error is not None:
            raise question.error
        try:
            return parsed(kind, question.answer or {})
        except ValueError as error:
            raise BadAnswer("{who} answered with {why}.", who=self._name, why=error) from None

    def close(self) -> None:
        """End the program."""
        with self._lock:
            if self._idle is not None:
                self._idle.cancel()
            if self._live is not None:
                self._live.end()
                self._live = None

    def _begin(self) -> None:
        """Somebody asks: it does not rest, not even while it loads."""
        with self._lock:
            self._asking += 1
            if self._idle is not None:
                self._idle.cancel()

    def _alive(self) -> _Live:
        """The program, started if it does not run, once it is ready."""
        with self._lock:
            if self._live is None or self._live.dead.is_set():
                if self._live is not None:
                    self._live.end()
                self._live = _Live(self._name, self._folder, self._part, self._environment)
            live = self._live
        end = live.began + self._part.start_seconds
        while not live.ready.wait(_LOOK_S):
            check_stopped()
            if live.dead.is_set():
                raise live.obituary("before it was ready")
            if time.monotonic() > end:
                live.end()
                raise EngineTooSlow(
                    "{who} was not ready after {seconds:.0f} s and was stopped.",
                    who=self._name,
                    seconds=self._part.start_seconds,
                )
        return live

    def _wait(self, live: _Live, question: _Question, seconds: float, report: Report) -> None:
        end = time.monotonic() + seconds
        while not question.done.wait(_LOOK_S):
            check_stopped()
            report(question.progress)
            if time.monotonic() > end:
                live.end()
                raise EngineTooSlow(
                    "{who} was not done in {seconds:.0f} s and was stopped.", who=self._name, seconds=seconds
                )

    def _rest(self) -> None:
        """End it after a while, unless somebody asks still or again."""
        with self._lock:
            self._asking -= 1
            if self._asking:
                return
            self._idle = threading.Timer(self._part.idle_seconds, self._end_idle)
            self._idle.daemon = True
            self._idle.start()

    def _end_idle(self) -> None:
        with self._lock:
            if self._live is not None and not self._asking:
                self._live.end()
                self._live = None


class _Live:
    """The program as it runs."""

    def __init__(self, name: str, folder: Path, part: ResidentPart, environment: tuple[str, ...]) -> None:
        self._name, self.began = name, time.monotonic()
        self.ready, self.dead = threading.Event(), threading.Event()
        self._questions: dict[int, _Question] = {}
        self._number, self._said = 0, b""
        self._lock, self._ending, self._pen = threading.Lock(), threading.Lock(), threading.Lock()
        command = [word.replace("{folder}", str(folder)) for word in part.command]
        self._program = GuardedProgram(command, who=name, folder=folder, environment=environment)
        process = self._program.process
        assert process.stdin is not None
        os.set_blocking(process.stdin.fileno(), False)
        self._stdin: IO[bytes] = process.stdin
        self._hearing = threading.Thread(target=self._hear, args=(process.stderr,), name=f"{name} errs", daemon=True)
        self._hearing.start()
        threading.Thread(target=self._read, args=(process.stdout,), name=f"{name} speaks", daemon=True).start()

    def asked(self, role: Role, request: msgspec.Raw, more: Mapping[str, str]) -> tuple[_Question, int]:
        """Hand over a question; what will hold its answer, and its number."""
        question = _Question()
        with self._lock:
            self._number += 1
            number = self._number
            self._questions[number] = question
        self._write({"id": number, "role": role.value, "request": request, **more})
        if self.dead.is_set():  # it died before it could be told
            self._bury()
        return question, number

    def leave(self, number: int) -> None:
        """Nobody waits for this any more."""
        with self._lock:
            left = self._questions.pop(number, None)
        if left is not None and not self.dead.is_set():
            self._write({"id": number, "stop": True}, patient=False)

    def end(self) -> None:
        """End the program; what is under way is told so."""
        with self._ending:
            if not self.dead.is_set():
                self.dead.set()
                self._program.end()
        self._bury()

    def obituary(self, when: str) -> EngineFault:
        """What is said of its death."""
        with self._ending:
            code = self._program.process.poll()
        return EngineFault(
            "{who} ended with code {returncode} {when}{last_line}.",
            who=self._name,
            returncode=code if code is not None else "unknown",
            when=when,
            last_line=last_line(self._said),
        )

    def _write(self, what: Mapping[str, object], *, patient: bool = True) -> None:
        line = memoryview(msgspec.json.encode(what) + b"\n")
        with self._pen:
            while line and not self.dead.is_set():
                try:
                    line = line[os.write(self._stdin.fileno(), line) :]
                except BlockingIOError:  # it reads nothing while it works
                    if not patient:
                        return
                    check_stopped()
                    select.select((), (self._stdin,), (), _LOOK_S)
                except (OSError, ValueError):  # it has died; whoever reads from it finds out
                    return

    def _read(self, pipe: IO[bytes]) -> None:
        while line := self._line(pipe):
            try:
                said = msgspec.json.decode(line)
            except msgspec.DecodeError:
                self._said = (self._said + line)[-_SAID_MOST:]  # what libraries print while they load
                continue
            if isinstance(said, dict):
                self._take(said)
        with suppress(subprocess.TimeoutExpired):  # it may have closed its output and go on
            self._program.process.wait(_LAST_WORDS_S)
        self._hearing.join(_LAST_WORDS_S)
        self.end()

    def _line(self, pipe: IO[bytes]) -> bytes:
        try:
            line = pipe.readline(LARGEST_OUTPUT + 1)
        except (OSError, ValueError):  # closed while it was read
            return b""
        return line if len(line) <= LARGEST_OUTPUT else b""

    def _take(self, said: dict[str, Any]) -> None:
        if said.get("ready") is True:
            self.ready.set()
        number = said.get("id")
        with self._lock:
            question = self._questions.get(number) if isinstance(number, int) else None
        if question is None:
            return
        progress = said.get("progress")
        if isinstance(progress, int | float):
            question.progress = min(1.0, max(0.0, progress))
            return
        if isinstance(said.get("answer"), dict):
            question.answer = said["answer"]
        else:
            question.error = self._error(said)
        with self._lock:
            self._questions.pop(number, None)  # type: ignore[arg-type]
        question.done.set()

    def _error(self, said: Mapping[str, Any]) -> EngineError:
        why = str(said.get("error", "it does not say why"))[:300].strip().rstrip(".")
        if said.get("kind") == "busy":
            after = said.get("after_s")
            after_s = float(after) if isinstance(after, int | float) else None
            return EngineBusy("{who} asks to wait: {why}.", after_s, who=self._name, why=why)
        kind = EngineFault if said.get("kind") == "fault" else EngineError
        return kind(msg("{who} could not do it: {why}."), who=self._name, why=why)

    def _hear(self, pipe: IO[bytes]) -> None:
        try:
            while piece := os.read(pipe.fileno(), 1 << 16):
                self._said = (self._said + piece)[-_SAID_MOST:]
        except (OSError, ValueError):  # closed at its end
            return

    def _bury(self) -> None:
        """Tell everybody who still waits."""
        with self._lock:
            left, self._questions = list(self._questions.values()), {}
        for question in left:
            question.error = EngineCutOff(
                "{who} ended in the middle{last_line}.", who=self._name, last_line=last_line(self._said)
            )
            question.done.set()
