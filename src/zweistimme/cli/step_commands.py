"""The steps from transcript to takes, each alone, on a project."""

from __future__ import annotations

from functools import partial
from pathlib import Path

import typer

from zweistimme.cli.desk import opened_project, out, run
from zweistimme.cli.options import EncodingOption, OffsetOption, ProjectArgument, ToOption, chosen_tags, pairs
from zweistimme.cli.steps import estimates, run_for
from zweistimme.engines.offers import Role
from zweistimme.engines.registry import engine, find_voice
from zweistimme.engines.voices import voice_ref
from zweistimme.formats.captions import read_captions
from zweistimme.project.edits import allow_substitutes, cast_voice
from zweistimme.project.errors import ZweistimmeError
from zweistimme.project.model import Project
from zweistimme.project.progress import Step
from zweistimme.stages.cast import check_cast
from zweistimme.stages.engine_choice import engine_for
from zweistimme.stages.estimate import ASKING
from zweistimme.stages.files import context_of, offset_from
from zweistimme.stages.translate import translation_from_file
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
) -> None:
    """Translate what is missing or stale."""
    given = pairs(translation, "--translation")
    with opened_project(project) as document:
        for tag in chosen_tags(to or list(given), list(document.project.versions)):
            file = given.get(tag)
            if file is None:
                run_for(document, Step.TRANSLATION, tag)
                continue
            reading = read_captions(file, context_of(document.project, tag, encoding, translation=True))
            by_us = offset_from(offset, document.project) if offset else None
            run(document, f"Translation {tag}", translation_from_file, tag, reading, file, by_us)


def cast(
    project: Path = ProjectArgument,
    to: list[str] = ToOption,
    voices: list[str] = typer.Option([], "--voice", help="Give a speaker a voice.", metavar="SPEAKER=VOICE"),
    listing: bool = typer.Option(False, "--list", help="List the voices there are."),
    substitutes: bool | None = typer.Option(
        None, "--substitutes/--no-substitutes", help="Whether a voice of a related language may stand in; kept."
    ),
) -> None:
    """Cast voices: propose one for everybody who has none, or set them by hand."""
    if listing:
        _list_voices(project_in(project))
        return
    with opened_project(project) as document:
        if substitutes is not None:
            document.apply("Allow substitutes", partial(allow_substitutes, allowed=substitutes))
        tags = chosen_tags(to, list(document.project.versions))
        for value in voices:
            name, _, voice_id = value.partition("=")
            _cast_by_hand(document, tags, name, voice_id)
        for tag in tags:
            run_for(document, Step.CAST, tag)
            version = document.project.versions[tag]
            for key, speaker in document.project.speakers.items():
                out.print(f"{tag}  {speaker.name}: {version.cast.get(key, 'no voice')}", markup=False)


def _cast_by_hand(document: Document, tags: list[str], name: str, voice_id: str) -> None:
    speakers = document.project.speakers
    speaker = next((key for key, s in speakers.items() if name in (s.name, key)), None)
    if speaker is None:
        there = ", ".join(s.name for s in speakers.values()) or "none yet"
        raise ZweistimmeError(f"There is no speaker “{name}”. Speakers: {there}.")
    find_voice(voice_id)
    for tag in tags:
        document.apply(f"Cast {name}", partial(cast_voice, tag=tag, speaker_id=speaker, voice=voice_id))


def voice(
    project: Path = ProjectArgument,
    to: list[str] = ToOption,
    takes: list[str] = typer.Option([], help="Import clips named by line number.", metavar="TAG=DIR"),
) -> None:
    """Make takes for what is missing or stale, or import them."""
    folders = pairs(takes, "--takes")
    with opened_project(project) as document:
        tags = chosen_tags(to or list(folders), list(document.project.versions))
        check_cast(document.project, [tag for tag in tags if tag not in folders])
        for tag in tags:
            folder = folders.get(tag)
            if folder is None:
                run_for(document, Step.TAKES, tag)
            else:
                run(document, f"Import {tag}", import_takes, tag, folder)


def _list_voices(project: Project) -> None:
    for name in dict.fromkeys(engine_for(project, Role.SPEAK, tag) for tag in ("", *project.versions)):
        for info in engine(name).info().voices:
            pitch = f"{info.pitch_hz:.0f} Hz" if info.pitch_hz else ""
            ref, languages = voice_ref(name, info.id), ", ".join(info.languages)
            out.print(f"{ref:10} {info.kind:8} {pitch:8} {languages}  {info.about}", markup=False)


def estimate(project: Path = ProjectArgument, to: list[str] = ToOption) -> None:
    """Say what transcribing, translating and voicing will ask of the engines, and cost."""
    state = project_in(project)
    for tag in chosen_tags(to, list(state.versions)):
        for step in ASKING:
            for one, warning in estimates(state, step, tag):
                price = "" if one.cost.amount else ", free"
                out.print(f"{tag}  {step}: {one.sentence}{price}. {warning}".rstrip(), markup=False)
