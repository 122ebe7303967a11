"""``zweistimme check``: what is noticed about the wordings of versions, mended where that is known, or let be."""

from __future__ import annotations

import json
from functools import partial
from pathlib import Path
from typing import Any

import typer

from zweistimme.cli.app import CommandError
from zweistimme.cli.console import out
from zweistimme.cli.desk import opened_project
from zweistimme.cli.options import JsonOption, LineOption, ProjectArgument, ToOption, chosen_tags
from zweistimme.messages import tr
from zweistimme.project.checks import EVERYWHERE, let_be, notice_again
from zweistimme.project.facts import spoken_segments
from zweistimme.project.line_edits import keeps_words
from zweistimme.project.line_edits import mend as mended_line
from zweistimme.project.model import Project
from zweistimme.project.times import SECOND_US, clock
from zweistimme.sentences import KINDS, sentence_of
from zweistimme.stages.check import Checker
from zweistimme.store.document import Document
from zweistimme.store.read_only import project_in

_MOST_MENDED = 20
"""So often a line is looked at again once something in it was mended."""


def register(app: typer.Typer) -> None:
    """Add the command of this file."""
    app.command()(check)


def check(
    project: Path = ProjectArgument,
    to: list[str] = ToOption,
    line: list[int] = LineOption,
    mend: bool = typer.Option(
        False, "--mend", help="Have what can be mended as it should be, where it is neither final nor locked."
    ),
    kind: str = typer.Option(
        "", "--let-be", help="Let be a kind of remark, in the lines given or in all.", metavar="KIND"
    ),
    reason: str = typer.Option("", help="Why it may be so; with --let-be.", metavar="TEXT"),
    again: str = typer.Option("", "--notice", help="Notice a kind again that was let be.", metavar="KIND"),
    as_json: bool = JsonOption,
) -> None:
    """Say what is noticed about the wordings: numbers, names, marks, language, length and the like."""
    for name in filter(None, (kind, again)):
        if name not in KINDS:
            raise CommandError("There is no remark “{kind}”. There is {kinds}.", kind=name, kinds=", ".join(KINDS))
    if mend or kind or again:
        with opened_project(project) as document:
            tags = chosen_tags(to, list(document.project.versions))
            for segment_id in _ids(document.project, line):
                for tag in tags:
                    _change(document, tag, segment_id, kind, reason, again)
            if mend:
                _mend(document, tags, line)
            state = document.project
    else:
        state = project_in(project)
        tags = chosen_tags(to, list(state.versions))
    rows = _rows(state, tags, line)
    if as_json:
        typer.echo(json.dumps(rows, ensure_ascii=False, indent=1))
        return
    for row in rows:
        place = f"{row['version']}  {row['line']:4} {clock(round(row['start_s'] * SECOND_US)):>9}"
        out.print(f"{place}  {row['remark']} [{row['kind']}]")
        out.print(f"{'':{len(place)}}  {row['text']}")
        if row["mended"]:
            out.print(f"{'':{len(place)}}  → {row['mended']}")
    if not rows:
        out.print(tr("Nothing is noticed."))


def _ids(project: Project, lines: list[int]) -> list[str]:
    """Segments of lines by their numbers; without any, all lines together."""
    from zweistimme.cli.line_commands import segment_of

    return [segment_of(project, number).id for number in lines] or [EVERYWHERE]


def _change(document: Document, tag: str, segment_id: str, kind: str, reason: str, again: str) -> None:
    if kind:
        document.apply("Let a remark be", lambda p: let_be(p, tag, segment_id, kind, reason))
    if again:
        document.apply("Notice a remark again", lambda p: notice_again(p, tag, segment_id, again))


def _mend(document: Document, tags: list[str], lines: list[int]) -> None:
    """One thing after the other, since what mends one may move the next."""
    wanted = set(_ids(document.project, lines)) if lines else None
    count, checker = 0, Checker()
    for tag in tags:
        for segment in spoken_segments(document.project):
            if wanted is not None and segment.id not in wanted:
                continue
            for _ in range(_MOST_MENDED):
                found = checker.line(document.project, tag, segment)
                mended = next((one.mended for one in found if one.mended is not None), None)
                if mended is None or keeps_words(document.project.versions[tag].lines[segment.id]):
                    break
                document.apply(
                    "Mend a wording",
                    partial(mended_line, tag=tag, segment_id=segment.id, text=mended),
                    gesture="Mend a wording",
                )
                count += 1
    out.print(tr("{n:thing|things} mended.", n=count))


def _rows(project: Project, tags: list[str], lines: list[int]) -> list[dict[str, Any]]:
    numbers = {segment.id: number for number, segment in enumerate(spoken_segments(project), 1)}
    starts = {segment.id: segment.start_us for segment in project.segments}
    rows = []
    for tag in tags:
        for segment_id, noticed in Checker().version(project, tag).items():
            if lines and numbers[segment_id] not in lines:
                continue
            rows += [
                {
                    "version": tag,
                    "line": numbers[segment_id],
                    "start_s": starts[segment_id] / SECOND_US,
                    "kind": one.code,
                    "remark": sentence_of(one.finding),
                    "figures": dict(one.finding.figures),
                    "text": project.versions[tag].lines[segment_id].text,
                    "start": one.start,
                    "end": one.end,
                    "mended": one.mended,
                }
                for one in noticed
            ]
    return rows
