"""``zweistimme dub``: from a programme to its hand-over in one command. Run again, it goes on where it was."""

from __future__ import annotations

from functools import partial
from pathlib import Path

import typer

from zweistimme.cli.app import CommandError
from zweistimme.cli.console import out
from zweistimme.cli.desk import Parts, run
from zweistimme.cli.engine_commands import use_engines
from zweistimme.cli.intake_commands import intake_from
from zweistimme.cli.options import (
    BedSoundOption,
    EncodingOption,
    EngineOption,
    KeepGoingOption,
    PreferOption,
    RestOption,
    SoundOption,
    StyleOption,
    engine_choices,
    pairs,
)
from zweistimme.cli.steps import run_fit, run_for, run_transcribe
from zweistimme.cli.transcript_commands import run_given
from zweistimme.formats.captions import read_captions
from zweistimme.media.probe import probe, same_file, title_from
from zweistimme.project.edits import add_version
from zweistimme.project.errors import NeverFinished, PartlyDone, StoreError
from zweistimme.project.facts import lines_without_take
from zweistimme.project.languages import language_tag
from zweistimme.project.model import Preference, Project, Style
from zweistimme.project.progress import Step, progress
from zweistimme.stages.advice import listen
from zweistimme.stages.bring_in import bring_in, unfinished
from zweistimme.stages.files import context_of
from zweistimme.stages.handover import hand_over, ready_versions, unworded_stretches
from zweistimme.stages.translate import open_translations, translation_from_file
from zweistimme.stages.voice import import_takes, open_takes
from zweistimme.store.document import Document
from zweistimme.store.names import DATABASE


def register(app: typer.Typer) -> None:
    """Add the command of this file."""
    app.command()(dub)


def dub(
    media: Path = typer.Argument(..., help="The programme: a video or sound file.", metavar="FILE"),
    source: str = typer.Option(..., "--from", help="Its language, such as en-GB.", metavar="TAG"),
    to: list[str] = typer.Option(..., "--to", help="A target language; may be repeated.", metavar="TAG"),
    out_folder: Path = typer.Option(..., "--out", help="Where the hand-over goes.", metavar="DIR"),
    sound: str = SoundOption,
    bed: Path | None = typer.Option(None, help="The programme's sound without speech.", metavar="FILE"),
    bed_sound: str = BedSoundOption,
    rest_as_bed: bool = RestOption,
    captions: Path | None = typer.Option(
        None, help="Its transcript with times instead of recognition: captions, CTM, CSV, our JSON.", metavar="FILE"
    ),
    script: Path | None = typer.Option(
        None, help="Its script instead of recognition; without times it is aligned to the sound.", metavar="FILE"
    ),
    translation: list[str] = typer.Option([], help="Captions in a target language.", metavar="TAG=FILE"),
    encoding: str = EncodingOption,
    takes: list[str] = typer.Option([], help="A folder of clips named by line number.", metavar="TAG=DIR"),
    project: Path | None = typer.Option(None, help="The project folder; default: OUT/project.", metavar="DIR"),
    title: str = typer.Option("", help="The programme's title; default: from the file name.", metavar="TEXT"),
    style: Style = StyleOption,
    prefer: Preference = PreferOption,
    engines: list[str] = EngineOption,
    keep_going: bool = KeepGoingOption,
) -> None:
    """Dub a programme into other languages and hand it over."""
    if captions and script:
        raise CommandError("Give either --captions or --script, not both.")
    source_tag, tags = language_tag(source), [language_tag(tag) for tag in dict.fromkeys(to)]
    translations, folders = pairs(translation, "--translation"), pairs(takes, "--takes")
    for tag in (*translations, *folders):
        if tag not in tags:
            raise CommandError(
                "{tag} is given a file but is not among the --to languages ({names}).", tag=tag, names=", ".join(tags)
            )
    choices = engine_choices(engines)
    probe(media)
    with _project(project or out_folder / "project", media, source_tag, title) as document:
        for tag in tags:
            if tag not in document.project.versions:
                document.apply(f"Add {tag}", partial(add_version, tag=tag, style=style, preference=prefer))
        use_engines(document, choices)
        programme = document.project.programme
        again = unfinished(document.cache, programme) if programme else None
        if programme is None or again is not None:
            intake = again or intake_from(media, source_tag, sound, bed, bed_sound, rest_as_bed=rest_as_bed)
            run(document, "Bring in", bring_in, intake)
            run(document, "Listen", listen, language=False)
        if not document.project.segments:
            _transcript(document, captions, script, encoding)
        parts = Parts(keep_going=keep_going)
        for tag in tags:
            _version(document, tag, translations.get(tag), folders.get(tag), encoding, parts)
        ready, held = ready_versions(document.project, tags)
        files = run(document, "Hand over", hand_over, ready, out_folder) if ready else []
        for error in held:
            with parts.part():
                raise error
        unworded = unworded_stretches(document.project)
    for file in files:
        out.print(str(file))
    parts.end()
    if unworded is not None:
        raise PartlyDone(
            "{stretches} of {all} stretches of speech have no words, so no version says them. Write them, or take them "
            "away, and dub again.",
            **unworded.figures,
        )


def _project(folder: Path, media: Path, source_tag: str, title: str) -> Document:
    """The project to go on with, or a new one. A project of another programme is refused."""
    begun = Project(title or title_from(media), source_tag)
    if not (folder / DATABASE).is_file():
        return Document.create(folder, begun)
    try:
        document = Document.open(folder)
    except NeverFinished:
        return Document.create(folder, begun)
    programme = document.project.programme
    track = programme.sound if programme else None
    if document.project.source_tag != source_tag or (track and not same_file(media, track.size_bytes, track.checksum)):
        document.close()
        raise StoreError(
            "{folder} holds a project of another programme or language. Choose another with --project.", folder=folder
        )
    return document


def _transcript(document: Document, captions: Path | None, script: Path | None, encoding: str) -> None:
    given = captions or script
    if given is None:
        run_transcribe(document)
        return
    run_given(document, given, aligned=script is not None, encoding=encoding)


def _version(
    document: Document, tag: str, translation: Path | None, takes: Path | None, encoding: str, parts: Parts
) -> None:
    """The steps of one version; where one fails in part, the next are tried if *parts* wants that."""
    with parts.part():
        if translation and not document.project.versions[tag].lines:
            reading = read_captions(translation, context_of(document.project, tag, encoding, translation=True))
            run(document, f"Translation {tag}", translation_from_file, tag, reading, translation)
        if open_translations(document.project, tag) and not translation:
            run_for(document, Step.TRANSLATION, tag)
    with parts.part():
        if takes and lines_without_take(document.project, document.project.versions[tag]):
            run(document, f"Import takes {tag}", import_takes, tag, takes, missing_only=True)
    with parts.part():
        if not takes and not progress(document.project, document.project.versions[tag])[Step.CAST].complete:
            run_for(document, Step.CAST, tag)
    with parts.part():
        if not takes and (open_takes(document.project, tag) or not document.project.versions[tag].takes):
            run_for(document, Step.TAKES, tag)
    with parts.part():
        run_fit(document, tag)
