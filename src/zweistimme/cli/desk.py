"""Running stages from the command line: progress bars on a terminal, quiet lines otherwise."""

from __future__ import annotations

import sys
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Concatenate, ParamSpec, TypeVar

import msgspec
from rich.progress import BarColumn, Progress, TextColumn, TimeElapsedColumn, TimeRemainingColumn

from zweistimme.cli.console import err, plain
from zweistimme.engines.ledger import Bill
from zweistimme.messages import tr, tr_act
from zweistimme.project.errors import (
    BudgetReached,
    EngineError,
    FormatError,
    MediaError,
    MissingVoices,
    NotReady,
    PartlyDone,
    StoreError,
    ZweistimmeError,
)
from zweistimme.project.facts import spoken_segments
from zweistimme.project.findings import AS_WRITTEN, Finding
from zweistimme.project.model import Failure, Project
from zweistimme.project.times import clock
from zweistimme.sentences import sentence_of
from zweistimme.stages.work import Report, Work
from zweistimme.store.document import Document, Edit
from zweistimme.store.run_log import begun, log_run, stamp

Arguments = ParamSpec("Arguments")
Result = TypeVar("Result")


@contextmanager
def opened_project(folder: Path) -> Iterator[Document]:
    """The project in *folder*, closed again at the end; what was settled meanwhile goes into the memory."""
    document = Document.open(folder)
    for finding in document.repairs:
        say_note(finding)
    before = document.project
    try:
        yield document
        if document.project.versions is not before.versions:
            _remember(document, before)
    finally:
        document.close()


def _remember(document: Document, before: Project) -> None:
    from zweistimme.stages.translate.remembering import kept_out, remember

    try:
        remember(document.project, document.id, document.folder, before.versions)
        for finding in kept_out(document.project, document.id, document.folder, before.versions):
            say_note(finding)
    except StoreError as error:
        say_note(error.finding)


class Parts:
    """Parts of a command, each tried: what could not be done is said, and, if somebody wants that, the rest is done
    all the same."""

    def __init__(self, *, keep_going: bool) -> None:
        self._keep_going = keep_going
        self._failed: list[str] = []

    @contextmanager
    def part(self) -> Iterator[None]:
        """One part. What stops everything else (a person, a full disk, a budget) stops it here too."""
        try:
            yield
        except (EngineError, MissingVoices, FormatError, MediaError, NotReady) as error:
            if not self._keep_going or isinstance(error, BudgetReached):
                raise
            self._failed.append(str(error))
            err.print(tr("  failed: {error}", error=error))

    def end(self) -> None:
        """PartlyDone if a part failed."""
        if self._failed:
            count = len(self._failed)
            raise PartlyDone(
                "What could not be done: {count}, the rest is. First: {failed}",
                count=count,
                failed=self._failed[0],
            )


def run(
    document: Document,
    title: str,
    stage: Callable[Concatenate[Work, Arguments], Result],
    *args: Arguments.args,
    **kwargs: Arguments.kwargs,
) -> Result:
    """Run one stage on this thread; every result is stored the moment it is there."""
    with logged(document, title) as entry, reporting(title) as report:

        def say(finding: Finding) -> None:
            entry.said.append(finding)
            say_note(finding)

        work = Work.on(
            document,
            lambda label, edit: _applied(document, label, edit),
            report,
            say=say,
            fail=lambda _tag, failure: _say_failure(document.project, failure),
        )
        return stage(replace(work, ledger=replace(work.ledger, told=entry.bill.add)), *args, **kwargs)


@dataclass
class _Logged:
    """What a run said and cost so far."""

    said: list[Finding] = field(default_factory=list)
    bill: Bill = field(default_factory=Bill)


@contextmanager
def logged(document: Document, title: str) -> Iterator[_Logged]:
    """A run that stands in the project's log, however it ends."""
    entry, what = begun(title), _Logged()
    log_run(document.folder, entry)
    state, why = "stopped", None
    try:
        yield what
        state = "done"
    except ZweistimmeError as error:
        state, why = "failed", error.finding
        raise
    except Exception as error:
        state, why = "failed", Finding(AS_WRITTEN, {"text": f"{type(error).__name__}: {error}"})
        raise
    finally:
        known = {"ended": stamp(), "state": state, "said": tuple(what.said), "why": why, "spent": what.bill.spent}
        log_run(document.folder, msgspec.structs.replace(entry, **known))


def say_note(finding: Finding) -> None:
    """Something worth knowing that is no error."""
    err.print(tr("  note: {sentence}", sentence=sentence_of(finding)))


def _say_failure(project: Project, failure: Failure) -> None:
    """Why one line could not be made, with its number and its place."""
    for number, segment in enumerate(spoken_segments(project), 1):
        if segment.id == failure.segment_id:
            err.print(
                tr(
                    "  line {number} at {time}: {sentence}",
                    number=number,
                    time=clock(segment.start_us),
                    sentence=sentence_of(failure.why),
                ),
            )


def _applied(document: Document, label: str, edit: Edit) -> None:
    document.apply(label, edit, gesture=label)


@contextmanager
def reporting(title: str) -> Iterator[Report]:
    """A bar on a terminal, a line elsewhere."""
    if not sys.stderr.isatty():
        err.print(f"{tr_act(title)} …")
        yield lambda _share: None
        return
    columns = (
        TextColumn("{task.description}", markup=False),
        BarColumn(),
        TimeElapsedColumn(),
        TextColumn(tr("left")),
        TimeRemainingColumn(),
    )
    with Progress(*columns, console=err, transient=False) as bars:
        task = bars.add_task(plain(tr_act(title)), total=1.0)
        yield lambda share: bars.update(task, completed=share)
        bars.update(task, completed=1.0)
