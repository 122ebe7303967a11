"""Jobs: long work on a thread of its own, with progress and cancel. Results wait in a queue for their owner."""

from __future__ import annotations

import queue
import threading
import traceback
from collections.abc import Callable
from enum import StrEnum
from typing import Any

from zweistimme.messages import tr, tr_act
from zweistimme.project.errors import Cancelled, ZweistimmeError
from zweistimme.project.findings import AS_WRITTEN, Finding, cause


class JobState(StrEnum):
    WAITING = "waiting"
    RUNNING = "running"
    DONE = "done"
    FAILED = "failed"
    STOPPED = "stopped"


class Job:
    """A named piece of work. The worker calls ``report``, which raises Cancelled once a person has stopped it,
    and ``give``; the owner calls ``take`` for what was given. *woken* is called, on the worker's thread,
    whenever there is something to look at."""

    def __init__(self, name: str, work: Callable[[Job], None], woken: Callable[[], None] = lambda: None) -> None:
        self.name = name
        self.state = JobState.WAITING
        self.progress = 0.0
        self.message = ""
        self.why: Finding | None = None
        """Why it failed or was stopped."""
        self.details = ""
        self._work, self._woken = work, woken
        self._results: queue.SimpleQueue[Any] = queue.SimpleQueue()
        self._stop = threading.Event()
        self._thread = threading.Thread(target=self._run, name=name, daemon=True)

    def start(self) -> None:
        self.state = JobState.RUNNING
        self._thread.start()

    def cancel(self) -> None:
        """Ask the worker to stop at its next report."""
        self._stop.set()

    def wait(self, seconds: float | None = None) -> bool:
        """Wait for the end; True once it has come. Not for the GUI thread."""
        self._thread.join(seconds)
        return not self._thread.is_alive()

    @property
    def finished(self) -> bool:
        return self.state in (JobState.DONE, JobState.FAILED, JobState.STOPPED)

    def report(self, progress: float) -> None:
        if self._stop.is_set():
            raise Cancelled
        self.progress = progress
        self._woken()

    def give(self, result: Any) -> None:
        self._results.put(result)
        self._woken()

    def take(self) -> list[Any]:
        """Everything given since the last call."""
        results = []
        while True:
            try:
                results.append(self._results.get_nowait())
            except queue.Empty:
                return results

    def _run(self) -> None:
        try:
            self._work(self)
            self.state = JobState.DONE
        except Cancelled as stopped:
            self.message, self.why, self.state = str(stopped), stopped.finding, JobState.STOPPED
        except ZweistimmeError as error:
            self.message, self.why, self.state = str(error), error.finding, JobState.FAILED
        except OSError as error:  # a full disk, a folder that went away
            where = error.filename or tr("A file")
            self.message = tr("{file}: {why}. Check space and permissions.", file=where, why=cause(error))
            self.why, self.state = Finding(AS_WRITTEN, {"text": self.message}), JobState.FAILED
        except Exception as error:  # a defect: said in a sentence, kept in full for a report
            self.message = tr(
                "{job} stopped because of a defect in Zweistimme ({kind}: {error}).",
                job=tr_act(self.name),
                kind=type(error).__name__,
                error=error,
            )
            self.why = Finding(AS_WRITTEN, {"text": self.message})
            self.details, self.state = traceback.format_exc(), JobState.FAILED
        self._woken()
