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
from zweistimme.cli.manners import in_words, set_manners, speaker_called
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
from zweistimme.engines.offers import Role
from zweistimme.engines.registry import engine, find_voice
from zweistimme.engines.voices import voice_ref
from zweistimme.formats.captions import read_captions
from zweistimme.messages import msg_act, tr
from zweistimme.project.edits import allow_substitutes, cast_voice, set_follow
from zweistimme.project.manner_edits import play_together
from zweistimme.project.model import AS_USUAL, Project
from zweistimme.project.progress import Step
from zweistimme.stages.cast import check_cast
from zweistimme.stages.engine_choice import engine_for
from zweistimme.stages.estimate import ASKING
from zweistimme.stages.files import context_of, offset_from
from zweistimme.stages.translate import Only, translation_from_file
from zweistimme.stages.voice import import_takes
from zweistimme.store.document import Document
from zweistimme.store.read_only import project_in


def register(app: typer.Typer) -> None:
    """Add the commands of this file."""
    for command in (translate, cast, voice, estimate):
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


def cast(
    project: Path = ProjectArgument,
    to: list[str] = ToOption,
    voices: list[str] = typer.Option([], "--voice", help="Give a speaker a voice.", metavar="SPEAKER=VOICE"),
    listing: bool = typer.Option(False, "--list", help="List the voices there are."),
    as_json: bool = JsonOption,
    substitutes: bool | None = typer.Option(
        None, "--substitutes/--no-substitutes", help="Whether a voice of a related language may stand in; kept."
    ),
    rate: list[str] = typer.Option([], help="How many times as fast as usual.", metavar="SPEAKER=FACTOR"),
    pitch: list[str] = typer.Option([], help="How many times as high as usual.", metavar="SPEAKER=FACTOR"),
    volume: list[str] = typer.Option([], help="How much louder than usual.", metavar="SPEAKER=DB"),
    tier: list[str] = typer.Option([], help="In which quality, of those the voice has.", metavar="SPEAKER=TIER"),
    together: bool | None = typer.Option(
        None, "--together/--apart", help="Whether lines that answer each other are asked for together; kept."
    ),
) -> None:
    """Cast voices: propose one for everybody who has none, or set them, and how they speak, by hand."""
    if listing:
        _list_voices(project_in(project), as_json=as_json)
        return
    with opened_project(project) as document:
        if substitutes is not None:
            document.apply("Allow substitutes", partial(allow_substitutes, allowed=substitutes))
        tags = chosen_tags(to, list(document.project.versions))
        for value in voices:
            name, _, voice_id = value.partition("=")
            _cast_by_hand(document, tags, name, voice_id)
        for part, values in (("rate", rate), ("pitch", pitch), ("volume_db", volume), ("tier", tier)):
            set_manners(document, tags, part, values)
        for tag in tags:
            if together is not None:
                document.apply("Play together", partial(play_together, tag=tag, together=together))
            run_for(document, Step.CAST, tag)
        state = document.project
    names = {key: speaker.name for key, speaker in state.speakers.items()}
    casts: dict[str, dict[str, str | None]] = {
        tag: {name: state.versions[tag].cast.get(key) for key, name in names.items()} for tag in tags
    }
    if as_json:
        typer.echo(json.dumps(casts, ensure_ascii=False, indent=1))
        return
    for tag, cast_of in casts.items():
        version = state.versions[tag]
        for key, name in names.items():
            manner = in_words(version.manners.get(key, AS_USUAL))
            out.print(f"{tag}  {name}: {cast_of[name] or tr('no voice')}{manner and f' ({manner})'}", markup=False)


def _cast_by_hand(document: Document, tags: list[str], name: str, voice_id: str) -> None:
    speaker = speaker_called(document.project, name)
    find_voice(voice_id)
    for tag in tags:
        document.apply(f"Cast {name}", partial(cast_voice, tag=tag, speaker_id=speaker, voice=voice_id))


def voice(
    project: Path = ProjectArgument,
    to: list[str] = ToOption,
    takes: list[str] = typer.Option([], help="Import clips named by line number.", metavar="TAG=DIR"),
    line: list[int] = LineOption,
    anew: bool = AnewOption,
    keep_going: bool = KeepGoingOption,
) -> None:
    """Make takes for what is missing or stale, other takes of some lines, or import them."""
    folders = pairs(takes, "--takes")
    parts = Parts(keep_going=keep_going)
    with opened_project(project) as document:
        tags = chosen_tags(to or list(folders), list(document.project.versions))
        ids = _asked_anew(document.project, line, anew=anew)
        if not keep_going:
            check_cast(document.project, [tag for tag in tags if tag not in folders])
        for tag in tags:
            with parts.part():
                if tag in folders:
                    run(document, f"Import {tag}", import_takes, tag, folders[tag])
                else:
                    run_for(document, Step.TAKES, tag, ids)
    parts.end()


def _list_voices(project: Project, *, as_json: bool) -> None:
    names = dict.fromkeys(engine_for(project, Role.SPEAK, tag) for tag in ("", *project.versions))
    there = [(voice_ref(name, info.id), info) for name in names for info in engine(name).info().voices]
    if as_json:
        rows = [{**asdict(info), "voice": ref} for ref, info in there]
        typer.echo(json.dumps(rows, ensure_ascii=False, indent=1))
        return
    for ref, info in there:
        pitch = tr("{pitch_hz:.0f} Hz", pitch_hz=info.pitch_hz) if info.pitch_hz else ""
        out.print(f"{ref:10} {tr(info.kind):8} {pitch:8} {', '.join(info.languages)}  {info.about}", markup=False)


def estimate(project: Path = ProjectArgument, to: list[str] = ToOption, as_json: bool = JsonOption) -> None:
    """Say what transcribing, translating and voicing will ask of the engines, and cost."""
    state = project_in(project)
    found = [
        (tag, step, one, warning)
        for tag in chosen_tags(to, list(state.versions))
        for step in ASKING
        for one, warning in estimates(state, step, tag)
    ]
    if as_json:
        rows = [{"version": tag, "step": step.value, **asdict(one), "warning": w} for tag, step, one, w in found]
        typer.echo(json.dumps(rows, ensure_ascii=False, indent=1))
        return
    for tag, step, one, warning in found:
        price = "" if one.cost.amount else ", " + tr("free")
        out.print(f"{tag}  {tr(step.value)}: {one.sentence}{price}. {warning}".rstrip(), markup=False)
