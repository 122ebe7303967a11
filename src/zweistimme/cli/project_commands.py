"""Each stage alone, on a project."""

from __future__ import annotations

import json
from pathlib import Path

import typer

from zweistimme.cli.app import CommandError
from zweistimme.cli.console import out
from zweistimme.cli.desk import opened_project, run, say_note
from zweistimme.cli.engine_commands import use_engines
from zweistimme.cli.intake_commands import intake_from
from zweistimme.cli.options import (
    BedSoundOption,
    EngineOption,
    JsonOption,
    PreferOption,
    ProjectArgument,
    RestOption,
    SoundOption,
    StyleOption,
    ToOption,
    chosen_tags,
    engine_choices,
)
from zweistimme.cli.steps import run_fit
from zweistimme.media.probe import title_from
from zweistimme.messages import tr
from zweistimme.project.edits import add_version
from zweistimme.project.errors import PartlyDone
from zweistimme.project.facts import spoken_segments
from zweistimme.project.languages import language_tag
from zweistimme.project.model import Preference, Project, Style
from zweistimme.project.placed_time import behind_end_us
from zweistimme.project.times import SECOND_US, samples_to_us
from zweistimme.sentences import sentences_of
from zweistimme.stages.advice import listen
from zweistimme.stages.bring_in import bring_in
from zweistimme.stages.handover import hand_over, ready_versions
from zweistimme.store.document import Document


def register(app: typer.Typer) -> None:
    """Add the commands of this file."""
    for command in (new, fit, handover):
        app.command()(command)


def new(
    project: Path = ProjectArgument,
    media: Path = typer.Argument(..., help="The programme: a video or sound file.", metavar="FILE"),
    source: str = typer.Option(..., "--from", help="Its language, such as en-GB.", metavar="TAG"),
    to: list[str] = typer.Option([], "--to", help="A target language; may be repeated.", metavar="TAG"),
    sound: str = SoundOption,
    bed: Path | None = typer.Option(None, help="The programme's sound without speech.", metavar="FILE"),
    bed_sound: str = BedSoundOption,
    rest_as_bed: bool = RestOption,
    title: str = typer.Option("", help="The programme's title; default: from the file name.", metavar="TEXT"),
    style: Style = StyleOption,
    prefer: Preference = PreferOption,
    engines: list[str] = EngineOption,
) -> None:
    """Make a project and bring in its programme."""
    begun = Project(title or title_from(media), language_tag(source))
    for tag in dict.fromkeys(to):
        begun = add_version(begun, tag, style, prefer)
    intake = intake_from(media, source, sound, bed, bed_sound, rest_as_bed=rest_as_bed)
    choices = engine_choices(engines)
    with Document.create(project, begun) as document:
        use_engines(document, choices)
        run(document, "Bring in", bring_in, intake)
        run(document, "Listen", listen, language=False)
    out.print(tr("{project} is ready. Next: zweistimme transcribe {project}", project=project))


def fit(
    project: Path = ProjectArgument,
    to: list[str] = ToOption,
    as_json: bool = typer.Option(False, "--json", help="Print every placement as JSON."),
) -> None:
    """Fit all takes to the timeline."""
    with opened_project(project) as document:
        tags = chosen_tags(to, list(document.project.versions))
        for tag in tags:
            run_fit(document, tag)
        rows = {tag: _placements(document.project, tag) for tag in tags}
    if as_json:
        typer.echo(json.dumps(rows, ensure_ascii=False, indent=1))
        return
    for tag in tags:
        over = [row for row in rows[tag] if row["overflow_s"]]
        heard_badly = [row for row in rows[tag] if row["overflow_s"] or row["clash_s"] or row["behind_end_s"]]
        out.print(
            tr("{tag}: {n:line|lines} placed, {over} too long.", tag=tag, n=len(rows[tag]), over=len(over)),
        )
        for row in heard_badly:
            out.print(tr("  line {line}: {reason}", line=row["line"], reason=row["reason"]))


def _placements(project: Project, tag: str) -> list[dict[str, object]]:
    version = project.versions[tag]
    rows: list[dict[str, object]] = []
    for number, segment in enumerate(spoken_segments(project), 1):
        placement = version.placements.get(segment.id)
        if placement is None:
            continue
        take = version.takes[placement.take_id]
        rows.append(
            {
                "line": number,
                "segment": segment.id,
                "segment_start_s": segment.start_us / SECOND_US,
                "segment_end_s": segment.end_us / SECOND_US,
                "take_s": samples_to_us(take.length_samples) / SECOND_US,
                "speech_s": samples_to_us(take.speech_end_samples - take.speech_start_samples) / SECOND_US,
                "start_s": placement.start_us / SECOND_US,
                "length_s": placement.length_us / SECOND_US,
                "tempo": placement.tempo,
                "pauses_cut_s": placement.pauses_cut_us / SECOND_US,
                "overflow_s": placement.overflow_us / SECOND_US,
                "clash_s": placement.clash_us / SECOND_US,
                "behind_end_s": behind_end_us(placement, project.programme) / SECOND_US,
                "phrases": [
                    {
                        "start_s": one.start_us / SECOND_US,
                        "length_s": one.length_us / SECOND_US,
                        "take_from_s": samples_to_us(one.take_start_samples) / SECOND_US,
                        "take_to_s": samples_to_us(one.take_end_samples) / SECOND_US,
                    }
                    for one in placement.phrases
                ],
                "why": [{"code": one.code, **one.figures} for one in placement.why],
                "reason": sentences_of(placement.why),
            }
        )
    return rows


def handover(
    project: Path = ProjectArgument,
    to: list[str] = ToOption,
    out_folder: Path = typer.Option(..., "--out", help="Where it goes.", metavar="DIR"),
    as_json: bool = JsonOption,
) -> None:
    """Write everything a client gets."""
    with opened_project(project) as document:
        versions = document.project.versions
        tags = chosen_tags(to, list(versions))
        if not to:
            tags = [tag for tag in tags if not versions[tag].left_out]
        if not tags:
            raise CommandError(
                "Every version is left out of hand-overs. Name one with --to, or take one in: "
                "zweistimme versions PROJECT --take-in TAG"
            )
        ready, held = ready_versions(document.project, tags)
        files = run(document, "Hand over", hand_over, ready or tags, out_folder)  # where none is, it says why
    if as_json:
        typer.echo(files[-1].read_text(encoding="utf-8"))
    else:
        for file in files:
            out.print(str(file))
    if held:
        for error in held[1:]:
            say_note(error.finding)
        raise PartlyDone("{n:version is|versions are} handed over; not: {why}", n=len(ready), why=held[0].finding)
