"""Running stages from the command line: progress bars on a terminal, quiet lines otherwise."""

from __future__ import annotations

import sys
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Concatenate, ParamSpec, TypeVar

from rich.progress import BarColumn, Progress, TextColumn, TimeElapsedColumn

from zweistimme.cli.console import err
from zweistimme.project.errors import BudgetReached, EngineError, FormatError, MediaError, MissingVoices, PartlyDone
from zweistimme.project.facts import spoken_segments
from zweistimme.project.findings import Finding
from zweistimme.project.model import Failure, Project
from zweistimme.project.times import clock
from zweistimme.sentences import sentence_of
from zweistimme.stages.work import Report, Work
from zweistimme.store.document import Document, Edit

Arguments = ParamSpec("Arguments")
Result = TypeVar("Result")


@contextmanager
def opened_project(folder: Path) -> Iterator[Document]:
    """The project in *folder*, closed again at the end."""
    document = Document.open(folder)
    try:
        yield document
    finally:
        document.close()


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
        except (EngineError, MissingVoices, FormatError, MediaError) as error:
            if not self._keep_going or isinstance(error, BudgetReached):
                raise
            self._failed.append(str(error))
            err.print(f"  failed: {error}", markup=False)

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
    with reporting(title) as report:
        work = Work.on(
            document,
            lambda label, edit: _applied(document, label, edit),
            report,
            say=say_note,
            fail=lambda _tag, failure: _say_failure(document.project, failure),
        )
        return stage(work, *args, **kwargs)


def say_note(finding: Finding) -> None:
    """Something worth knowing that is no error."""
    err.print(f"  note: {sentence_of(finding)}", markup=False)


def _say_failure(project: Project, failure: Failure) -> None:
    """Why one line could not be made, with its number and its place."""
    for number, segment in enumerate(spoken_segments(project), 1):
        if segment.id == failure.segment_id:
            err.print(f"  line {number} at {clock(segment.start_us)}: {sentence_of(failure.why)}", markup=False)


def _applied(document: Document, label: str, edit: Edit) -> None:
    document.apply(label, edit, gesture=label)


@contextmanager
def reporting(title: str) -> Iterator[Report]:
    """A bar on a terminal, a line elsewhere."""
    if not sys.stderr.isatty():
        err.print(f"{title} …", markup=False)
        yield lambda _share: None
        return
    columns = (TextColumn("{task.description}"), BarColumn(), TimeElapsedColumn())
    with Progress(*columns, console=err, transient=False) as bars:
        task = bars.add_task(title, total=1.0)
        yield lambda share: bars.update(task, completed=share)
        bars.update(task, completed=1.0)
