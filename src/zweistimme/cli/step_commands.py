"""The steps from transcript to takes, each alone, on a project."""

from __future__ import annotations

import json
from dataclasses import asdict
from functools import partial
from pathlib import Path

import typer

from zweistimme.cli.app import CommandError
from zweistimme.cli.console import out
from zweistimme.cli.desk import Parts, opened_project, run
from zweistimme.cli.line_commands import segment_of
from zweistimme.cli.options import (
    AnewOption,
    EncodingOption,
    JsonOption,
    KeepGoingOption,
    LineOption,
    OffsetOption,
    ProjectArgument,
    ToOption,
    chosen_tags,
    pairs,
)
from zweistimme.cli.steps import estimates, run_for
from zweistimme.formats.captions import read_captions
from zweistimme.messages import msg_act, tr
from zweistimme.project.edits import set_follow
from zweistimme.project.model import Project
from zweistimme.project.progress import Step
from zweistimme.stages.cast import check_cast
from zweistimme.stages.estimate import ASKING, spent_on
from zweistimme.stages.files import context_of, offset_from
from zweistimme.stages.translate import Only, translation_from_file
from zweistimme.stages.voice import import_takes
from zweistimme.store.read_only import project_in


def register(app: typer.Typer) -> None:
    """Add the commands of this file."""
    for command in (translate, voice, estimate):
        app.command()(command)


def translate(
    project: Path = ProjectArgument,
    to: list[str] = ToOption,
    translation: list[str] = typer.Option([], help="Captions in a target language.", metavar="TAG=FILE"),
    encoding: str = EncodingOption,
    offset: str = OffsetOption,
    line: list[int] = LineOption,
    anew: bool = AnewOption,
    only: Only | None = typer.Option(None, "--only", help="Only what is missing, or only what is stale."),
    follow: bool | None = typer.Option(
        None,
        "--follow/--hold",
        help="From now on, in the window: translate again what nobody has settled once its original was corrected, or "
        "wait until somebody asks.",
    ),
    keep_going: bool = KeepGoingOption,
) -> None:
    """Translate what is missing or stale, or some lines anew."""
    given = pairs(translation, "--translation")
    parts = Parts(keep_going=keep_going)
    with opened_project(project) as document:
        if follow is not None:
            label = msg_act("Follow the original") if follow else msg_act("Hold the translation")
            document.apply(label, partial(set_follow, follow=follow))
        ids = _asked_anew(document.project, line, anew=anew)
        for tag in chosen_tags(to or list(given), list(document.project.versions)):
            with parts.part():
                file = given.get(tag)
                if file is None:
                    run_for(document, Step.TRANSLATION, tag, ids, only)
                    continue
                reading = read_captions(file, context_of(document.project, tag, encoding, translation=True))
                by_us = offset_from(offset, document.project) if offset else None
                run(document, f"Translation {tag}", translation_from_file, tag, reading, file, by_us)
    parts.end()


def _asked_anew(project: Project, numbers: list[int], *, anew: bool) -> list[str] | None:
    """The segments of lines that are asked for anew, or None."""
    if anew != bool(numbers):
        raise CommandError("--anew and --line go together: say which lines are to be asked for anew.")
    return [segment_of(project, number).id for number in numbers] if anew else None


def voice(
    project: Path = ProjectArgument,
    to: list[str] = ToOption,
    takes: list[str] = typer.Option([], help="Import clips named by line number.", metavar="TAG=DIR"),
    line: list[int] = LineOption,
    anew: bool = AnewOption,
    each: int = typer.Option(1, "--each", min=1, max=20, help="With --anew: so many takes of each line."),
    by_hearing: bool = typer.Option(
        False, "--by-hearing", help="With --takes: clips without a number go to the line that is heard in them."
    ),
    keep_going: bool = KeepGoingOption,
) -> None:
    """Make takes for what is missing or stale, other takes of some lines, or import them."""
    folders = pairs(takes, "--takes")
    parts = Parts(keep_going=keep_going)
    with opened_project(project) as document:
        tags = chosen_tags(to or list(folders), list(document.project.versions))
        ids = _asked_anew(document.project, line, anew=anew)
        if each > 1 and ids is None:
            raise CommandError("--each goes with --anew: say which lines are to be asked for anew.")
        ids = ids * each if ids else None
        if not keep_going:
            check_cast(document.project, [tag for tag in tags if tag not in folders])
        for tag in tags:
            with parts.part():
                if tag in folders:
                    run(document, f"Import {tag}", import_takes, tag, folders[tag], by_hearing=by_hearing)
                else:
                    run_for(document, Step.TAKES, tag, ids)
    parts.end()


def estimate(project: Path = ProjectArgument, to: list[str] = ToOption, as_json: bool = JsonOption) -> None:
    """Say what transcribing, translating and voicing will ask of the engines, and cost."""
    state = project_in(project)
    tags = chosen_tags(to, list(state.versions))
    spent = {tag: spent_on(state, tag) for tag in tags}
    found = [
        (tag, step, one, warning) for tag in tags for step in ASKING for one, warning in estimates(state, step, tag)
    ]
    if as_json:
        rows = [{"version": tag, "step": step.value, **asdict(one), "warning": w} for tag, step, one, w in found]
        rows += [{"version": tag, "spent": [asdict(one) for one in some]} for tag, some in spent.items() if some]
        typer.echo(json.dumps(rows, ensure_ascii=False, indent=1))
        return
    if not found:
        out.print(tr("Nothing is missing, so no engine will be asked."))
    for tag, step, one, warning in found:
        price = "" if one.cost.amount else ", " + tr("free")
        out.print(f"{tag}  {tr(step.value)}: {one.sentence}{price}. {warning}".rstrip())
    for tag, some in spent.items():
        for one_spent in some:
            out.print(f"{tag}  " + tr("paid so far: {spent}", spent=one_spent.sentence))
