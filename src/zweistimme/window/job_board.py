"""The job board: one run that writes in the project at a time, and beside it any number that only read.

Runs go on threads of their own. What they give waits in a queue and is taken over here, on the GUI thread, ten times a
second at most. What was run, what it said and what it cost is kept with the project.
"""

from __future__ import annotations

import logging
import time
from collections.abc import Callable
from dataclasses import dataclass, field, replace
from typing import Final
from uuid import uuid4

import msgspec
from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from zweistimme.engines.jobs import Job, JobState
from zweistimme.engines.ledger import Bill
from zweistimme.engines.pace import Pace
from zweistimme.messages import tr, tr_act
from zweistimme.project.errors import EditError, ZweistimmeError
from zweistimme.project.findings import Finding
from zweistimme.sentences import sentence_of
from zweistimme.stages.work import Work
from zweistimme.store.document import NOT_UNDONE, Document, Edit
from zweistimme.store.run_log import RunEntry, begun, log_run, stamp
from zweistimme.window.notice import Notice, SoundRead

_EVERY_S: Final = 0.1
_WORTH_A_LINE_S: Final = 5.0
"""A run that only reads stands in the log if it took longer, or said or cost something."""
_CLOSING_S: Final = 0.4
"""Who closes a project does not wait for an engine: what it answers later is kept, and asked for no second time."""

Stage = Callable[[Work], object]


@dataclass(frozen=True, slots=True)
class _Given:
    """An edit from a worker."""

    label: str
    edit: Edit


@dataclass(eq=False)
class Run:
    """One run on the board."""

    name: str
    writes: bool
    entry: RunEntry
    job: Job = field(init=False)
    pace: Pace = field(default_factory=Pace)
    said: list[Finding] = field(default_factory=list)
    bill: Bill = field(default_factory=Bill)
    gesture: str = ""
    quiet: bool = False

    @property
    def words(self) -> str:
        """Its name, in the language of whoever reads it."""
        return tr_act(self.name)

    @property
    def failed(self) -> bool:
        return self.job.state is JobState.FAILED

    @property
    def done(self) -> bool:
        return self.job.state is JobState.DONE

    @property
    def sentences(self) -> list[str]:
        """What it had to say, in sentences."""
        return [sentence_of(finding) for finding in self.said]

    def as_entry(self) -> RunEntry:
        """What is known of it now."""
        return msgspec.structs.replace(
            self.entry, state=self.job.state.value, said=tuple(self.said), why=self.job.why, spent=dict(self.bill.spent)
        )


class JobBoard(QObject):
    """What runs on one project."""

    changed = pyqtSignal()
    """Something began, got further or ended."""
    ended = pyqtSignal(object)
    """A Run, once it is on the board no more and all it gave is taken over."""
    noticed = pyqtSignal(object)
    """A Notice."""
    sound_read = pyqtSignal(list)
    """What has been read since the last time, as SoundRead."""
    _woken = pyqtSignal()

    def __init__(self, document: Document, keep_writing: Callable[[], None], parent: QObject | None = None) -> None:
        """*keep_writing* is called before a run begins that works from the texts as they stand."""
        super().__init__(parent)
        self._document, self._keep_writing = document, keep_writing
        self.runs: list[Run] = []
        self._told = self._closed = False
        self._next = QTimer(self)
        self._next.setSingleShot(True)
        self._next.timeout.connect(self._drain)
        self._drained_s = 0.0
        self._woken.connect(self._wake)

    @property
    def writer(self) -> Run | None:
        """The run that writes in the project, if there is one."""
        return next((run for run in self.runs if run.writes), None)

    @property
    def busy(self) -> bool:
        """Whether a run writes in the project."""
        return self.writer is not None

    def running(self, name: str) -> bool:
        """Whether a run of this name is on the board."""
        return any(run.name == name for run in self.runs)

    def start(self, name: str, stage: Stage) -> bool:
        """Begin a run that may write in the project; False, with a notice, while another one does."""
        writer = self.writer
        if writer is not None:
            self.noticed.emit(
                Notice("note", tr("“{job}” is still running. Wait for it, or stop it.", job=writer.words))
            )
            return False
        self._keep_writing()
        run = Run(name, True, begun(name), gesture=f"{name} {uuid4().hex}")
        log_run(self._document.folder, run.entry)
        self._begin(run, stage)
        return True

    def read(self, name: str, stage: Stage, *, quiet: bool = False) -> None:
        """Begin a run that changes nothing a person could undo, beside whatever else there is. One of the same name
        that still goes on is stopped. What nobody asked for is *quiet*: it stands on the board, and nothing is said."""
        for run in self.runs:
            if run.name == name:
                run.job.cancel()
        self._begin(Run(name, False, begun(name), quiet=quiet), stage)

    def stop(self, run: Run | None = None) -> None:
        """Ask a run to stop, by default the one that writes, else the latest."""
        run = run or self.writer or (self.runs[-1] if self.runs else None)
        if run is not None:
            run.job.cancel()

    def close(self) -> None:
        """Stop everything, and take over what was given until then. What goes on all the same speaks to nobody."""
        if self._closed:
            return
        for run in self.runs:
            run.job.cancel()
        until_s = time.monotonic() + _CLOSING_S
        for run in self.runs:
            run.job.wait(max(0.0, until_s - time.monotonic()))
        self._drain()
        self._closed = True
        self._next.stop()
        self.runs = []

    def _begin(self, run: Run, stage: Stage) -> None:
        work = Work.on(self._document, lambda _label, _edit: None)
        ledger = replace(work.ledger, told=run.bill.add)

        def go(job: Job) -> None:
            stage(
                replace(
                    work,
                    deliver=lambda label, edit: job.give(_Given(label, edit)),
                    report=job.report,
                    say=job.give,
                    show=lambda track, second, peaks: job.give(SoundRead(track, second, peaks)),
                    ledger=ledger,
                )
            )

        run.job = Job(run.name, go, self._tell)
        self.runs.append(run)
        run.job.start()
        self.changed.emit()

    def _tell(self) -> None:
        """On a worker's thread: have it looked at what was given; once, until it has been."""
        if not self._told and not self._closed:
            self._told = True
            self._woken.emit()

    def _wake(self) -> None:
        if not self._closed and not self._next.isActive():
            since_s = time.monotonic() - self._drained_s
            ended = any(run.job.finished for run in self.runs)
            self._next.start(0 if ended else max(0, round((_EVERY_S - since_s) * 1000)))

    def _drain(self) -> None:
        self._told = False  # before looking: what comes from here on is told again
        self._drained_s = time.monotonic()
        ended = [run for run in self.runs if run.job.finished]
        read: list[SoundRead] = []
        for run in list(self.runs):
            run.pace.reached(run.job.progress, self._drained_s)
            for result in run.job.take():
                if isinstance(result, SoundRead):
                    read.append(result)
                else:
                    self._take_over(run, result)
        if read:
            self.sound_read.emit(read)
        self.runs = [run for run in self.runs if run not in ended]
        for run in ended:
            self._log(run)
        self.changed.emit()
        for run in ended:
            self._end(run)

    def _take_over(self, run: Run, given: object) -> None:
        if isinstance(given, Finding):
            run.said.append(given)
            if run.writes:
                self.noticed.emit(Notice("note", sentence_of(given)))
            return
        assert isinstance(given, _Given)
        if not run.writes and given.label != NOT_UNDONE:
            raise RuntimeError(f"{run.name} only reads, and was about to: {given.label}")
        try:
            self._document.apply(given.label, given.edit, gesture=run.gesture)
        except EditError as error:  # the project has moved on while the job ran
            self.noticed.emit(
                Notice("note", tr("One result of “{job}” no longer fits: {error}", job=run.words, error=error))
            )
        except ZweistimmeError as error:  # it cannot be stored: neither can what comes next
            run.job.cancel()
            self.noticed.emit(Notice("error", str(error)))

    def _log(self, run: Run) -> None:
        run.entry = entry = msgspec.structs.replace(run.as_entry(), ended=stamp())
        if run.writes or entry.said or entry.spent or run.failed or (entry.took_s or 0.0) > _WORTH_A_LINE_S:
            log_run(self._document.folder, entry)

    def _end(self, run: Run) -> None:
        if run.failed:
            if not run.quiet:
                self.noticed.emit(Notice("error", run.job.message))
            if run.job.details:
                logging.getLogger("zweistimme").error("%s", run.job.details)
        elif run.writes and not run.done:
            self.noticed.emit(Notice("note", run.job.message))
        elif run.said and not run.writes and not run.quiet:
            self.noticed.emit(Notice("note", " ".join(run.sentences)))
        self.ended.emit(run)
