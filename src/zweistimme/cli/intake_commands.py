"""What a file holds, what of it is used, and changing that later."""

from __future__ import annotations

import json
from dataclasses import replace
from pathlib import Path

import typer
from rich.table import Table

from zweistimme.cli.app import CommandError
from zweistimme.cli.console import err, out
from zweistimme.cli.desk import opened_project, run
from zweistimme.cli.options import BedSoundOption, ProjectArgument, RestOption, SoundOption
from zweistimme.engines.connections import BUNDLED
from zweistimme.media.probe import TrackInfo
from zweistimme.messages import tr
from zweistimme.project.picks import pick_from, pick_text
from zweistimme.project.programme import SoundPick
from zweistimme.project.times import SECOND_US, clock
from zweistimme.stages.advice import listen as listen_stage
from zweistimme.stages.bring_in import bring_in, bring_in_bed
from zweistimme.stages.composed_bed import compose_bed as compose
from zweistimme.stages.composed_bed import section_of
from zweistimme.stages.intake import Intake, Proposal, check, propose, with_rest_as_bed


def register(app: typer.Typer) -> None:
    """Add the commands of this file."""
    app.command()(media)
    app.command("bring-in")(bring_in_again)
    app.command("compose-bed")(compose_bed)
    app.command()(listen)


def intake_from(
    file: Path, source_tag: str, sound: str, bed: Path | None, bed_sound: str, *, rest_as_bed: bool
) -> Intake:
    """What the options of a command say, else the proposal; what a proposal chose among several is said."""
    if sound:
        intake = Intake(file, pick_from(sound), bed)
    else:
        proposal = propose(file, source_tag, bed)
        intake = proposal.intake
        if proposal.candidates:
            err.print(
                tr(
                    "  note: sound {sound} is taken for the dialogue, {bed} for the bed; choose another with --sound "
                    "(zweistimme media {file} lists them).",
                    sound=pick_text(intake.sound),
                    bed=pick_text(intake.bed_sound),
                    file=file,
                )
                if intake.bed == file
                else tr(
                    "  note: sound {sound} is taken for the dialogue; choose another with --sound (zweistimme media "
                    "{file} lists them).",
                    sound=pick_text(intake.sound),
                    file=file,
                ),
            )
    if rest_as_bed:
        if bed is not None:
            raise CommandError("Give either --bed or --rest-as-bed, not both.")
        intake = with_rest_as_bed(intake)
    elif bed_sound:
        intake = replace(intake, bed=bed or file, bed_sound=pick_from(bed_sound))
    check(intake)
    return intake


def media(
    file: Path = typer.Argument(..., help="A video or sound file.", metavar="FILE"),
    source: str = typer.Option("", "--from", help="Its language, to tell tracks in several languages.", metavar="TAG"),
    as_json: bool = typer.Option(False, "--json", help="Print it as JSON."),
) -> None:
    """Say what a file holds, and which of its sound would be used."""
    proposal = propose(file, source)
    if as_json:
        typer.echo(json.dumps(_as_data(proposal), ensure_ascii=False, indent=1))
        return
    info = proposal.info
    parts = [
        info.container,
        clock(info.duration_us),
        tr("timecode {timecode}", timecode=info.timecode) if info.timecode else "",
    ]
    out.print(" · ".join(filter(None, parts)))
    if info.picture:
        p = info.picture
        rate = p.rate_numerator / p.rate_denominator
        turned = tr(", turned by {rotation}°", rotation=p.rotation) if p.rotation else ""
        out.print(
            tr("Picture: {width}x{height}, {rate:.5g} a second", width=p.width, height=p.height, rate=rate)
            + (tr(", interlaced") if p.interlaced else "")
            + turned,
        )
    table = Table(tr("Sound"), tr("Kind"), tr("Language"), tr("Channels"), tr("Title"), tr("Level"), tr("Speech"), "")
    heard = {pick_text(one.pick): one for one in proposal.candidates}
    for text, track in _offers(proposal):
        one = heard.get(text)
        used = tr("dialogue") if text == pick_text(proposal.intake.sound) else ""
        level, speech = (tr("{level_db:.0f} dB", level_db=one.level_db), f"{one.speech:.2f}") if one else ("", "")
        channels = text.partition(":")[2] or " ".join(track.channels)
        table.add_row(text, track.codec, track.language, channels, track.title, level, speech, used)
    out.print(table)
    for track in info.captions:
        out.print(
            tr(
                "Captions {number}: {codec} {language} {title}",
                number=track.number,
                codec=track.codec,
                language=track.language,
                title=track.title,
            ).rstrip(),
        )
    for chapter in info.chapters:
        out.print(tr("Chapter at {time}: {title}", time=clock(chapter.start_us), title=chapter.title))


def _offers(proposal: Proposal) -> list[tuple[str, TrackInfo]]:
    if proposal.candidates:
        return [(pick_text(one.pick), one.track) for one in proposal.candidates]
    return [(str(track.number), track) for track in proposal.info.sounds]


def _as_data(proposal: Proposal) -> dict[str, object]:
    info = proposal.info
    return {
        "container": info.container,
        "duration_s": info.duration_us / SECOND_US,
        "timecode": info.timecode,
        "tracks": [
            {"kind": t.kind, "number": t.number, "codec": t.codec, "language": t.language, "title": t.title,
             "default": t.default, "channels": list(t.channels), "rate": t.rate} for t in info.tracks
        ],
        "chapters": [{"start_s": c.start_us / SECOND_US, "title": c.title} for c in info.chapters],
        "candidates": [
            {"sound": pick_text(c.pick), "level_db": round(c.level_db, 1), "speech": round(c.speech, 3)}
            for c in proposal.candidates
        ],
        "proposed": pick_text(proposal.intake.sound),
    }  # fmt: skip


def bring_in_again(
    project: Path = ProjectArgument,
    file: Path | None = typer.Argument(None, metavar="[MEDIA]", help="The programme; default: the one it has."),
    sound: str = SoundOption,
    bed: Path | None = typer.Option(None, help="The programme's sound without speech.", metavar="FILE"),
    bed_sound: str = BedSoundOption,
    rest_as_bed: bool = RestOption,
    no_bed: bool = typer.Option(False, "--no-bed", help="Take the bed away."),
) -> None:
    """Bring the programme in again, use another of its tracks, or give it a bed. Segments and lines stay."""
    with opened_project(project) as document:
        programme = document.project.programme
        new_sound = file is not None or bool(sound) or rest_as_bed or programme is None
        if no_bed and (bed or bed_sound or rest_as_bed):
            raise CommandError("Give either a bed or --no-bed, not both.")
        if not (new_sound or bed or bed_sound or no_bed):
            raise CommandError("Say what is to change: MEDIA, --sound, --bed, --bed-sound, --rest-as-bed or --no-bed.")
        source = file or (Path(programme.sound.path) if programme else None)
        if source is None:
            raise CommandError("This project has no programme yet. Give the file.")
        if not new_sound:
            chosen = bed or (source if bed_sound else None)
            run(document, "Bring in the bed", bring_in_bed, chosen, pick_from(bed_sound) if bed_sound else SoundPick())
            return
        intake = intake_from(source, document.project.source_tag, sound, bed, bed_sound, rest_as_bed=rest_as_bed)
        if intake.bed is None and programme is not None and programme.bed is not None and not no_bed:
            intake = replace(intake, bed=Path(programme.bed.path), bed_sound=programme.bed.pick)
        run(document, "Bring in", bring_in, intake)


def compose_bed(
    project: Path = ProjectArgument,
    sections: list[str] = typer.Argument(
        ..., help="SECONDS:MOOD, or SECONDS:MOOD:ENERGY with an energy from 0 to 1.", metavar="SECTION"
    ),
    seed: int = typer.Option(0, min=0, help="Another number gives another bed.", metavar="NUMBER"),
    name: str = typer.Option(BUNDLED, "--engine", help="The engine that composes.", metavar="NAME"),
) -> None:
    """Have a bed composed by a plan of sections, and lay it under the programme."""
    plan = []
    for text in sections:
        section = section_of(text)
        if section is None:
            raise CommandError("“{text}” is no section. Write SECONDS:MOOD:ENERGY, such as 20:calm:0.4.", text=text)
        plan.append(section)
    with opened_project(project) as document:
        out.print(str(run(document, "Compose a bed", compose, name, plan, seed)))


def listen(project: Path = ProjectArgument) -> None:
    """Listen to the programme and say what will hurt: level, noise, clipping, another language than was said."""
    with opened_project(project) as document:
        said = len(document.project.programme.notes) if document.project.programme else 0
        run(document, "Listen", listen_stage)
        after = len(document.project.programme.notes) if document.project.programme else 0
    if said == after:
        out.print(tr("Nothing new was found that would hurt."))
