"""Running stages from the command line: progress bars on a terminal, quiet lines otherwise."""

from __future__ import annotations

import sys
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Concatenate, ParamSpec, TypeVar

from rich.console import Console
from rich.progress import BarColumn, Progress, TextColumn, TimeElapsedColumn

from zweistimme.project.findings import Finding
from zweistimme.project.model import Failure, Project
from zweistimme.project.times import clock
from zweistimme.sentences import sentence_of
from zweistimme.stages.work import Report, Work
from zweistimme.store.document import Document, Edit

Arguments = ParamSpec("Arguments")
Result = TypeVar("Result")

out = Console(highlight=False, soft_wrap=True)
err = Console(stderr=True, highlight=False, soft_wrap=True)


@contextmanager
def opened_project(folder: Path) -> Iterator[Document]:
    """The project in *folder*, closed again at the end."""
    document = Document.open(folder)
    try:
        yield document
    finally:
        document.close()


def run(
    document: Document,
    title: str,
    stage: Callable[Concatenate[Work, Arguments], Result],
    *args: Arguments.args,
    **kwargs: Arguments.kwargs,
) -> Result:
    """Run one stage on this thread; every result is stored the moment it is there."""
    with _reporting(title) as report:
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
    for number, segment in enumerate(project.segments, 1):
        if segment.id == failure.segment_id:
            err.print(f"  line {number} at {clock(segment.start_us)}: {sentence_of(failure.why)}", markup=False)


def _applied(document: Document, label: str, edit: Edit) -> None:
    document.apply(label, edit, gesture=label)


@contextmanager
def _reporting(title: str) -> Iterator[Report]:
    if not sys.stderr.isatty():
        err.print(f"{title} …", markup=False)
        yield lambda _share: None
        return
    columns = (TextColumn("{task.description}"), BarColumn(), TimeElapsedColumn())
    with Progress(*columns, console=err, transient=False) as bars:
        task = bars.add_task(title, total=1.0)
        yield lambda share: bars.update(task, completed=share)
        bars.update(task, completed=1.0)
