"""Each stage alone, on a project."""

from __future__ import annotations

import json
from dataclasses import replace
from functools import partial
from pathlib import Path

import typer
from rich.table import Table

from zweistimme.cli.desk import opened_project, out, run
from zweistimme.cli.engine_commands import use_engines
from zweistimme.cli.options import (
    EngineOption,
    PreferOption,
    ProjectArgument,
    StyleOption,
    ToOption,
    chosen_tags,
    engine_choices,
    hints_from,
    pairs,
)
from zweistimme.engines.protocol import Role
from zweistimme.engines.registry import engine, find_voice
from zweistimme.engines.voices import voice_ref
from zweistimme.formats.captions import read_captions
from zweistimme.formats.script import read_script
from zweistimme.media.probe import probe, title_from
from zweistimme.project.edits import add_version, allow_substitutes, cast_voice, set_mix
from zweistimme.project.errors import ZweistimmeError
from zweistimme.project.facts import progress
from zweistimme.project.languages import language_tag
from zweistimme.project.model import Preference, Project, Style
from zweistimme.project.times import SECOND_US, samples_to_us
from zweistimme.stages import cast as casting
from zweistimme.stages.asked import engine_for
from zweistimme.stages.bring_in import bring_in
from zweistimme.stages.fit import fit as fit_stage
from zweistimme.stages.handover import hand_over
from zweistimme.stages.handover.deliver import slug
from zweistimme.stages.mix import write_mix
from zweistimme.stages.transcribe import transcribe as transcribe_stage
from zweistimme.stages.transcribe import transcript_from_cues
from zweistimme.stages.translate import translate as translate_stage
from zweistimme.stages.translate import translation_from_cues
from zweistimme.stages.voice import import_takes
from zweistimme.stages.voice import voice as voice_stage
from zweistimme.store.document import Document


def register(app: typer.Typer) -> None:
    """Add the commands of this file."""
    for command in (new, transcribe, translate, cast, voice, fit, mix, handover, status):
        app.command()(command)


def new(
    project: Path = ProjectArgument,
    media: Path = typer.Argument(..., help="The programme: a video or sound file."),
    source: str = typer.Option(..., "--from", help="Its language, such as en-GB.", metavar="TAG"),
    to: list[str] = typer.Option([], "--to", help="A target language; may be repeated.", metavar="TAG"),
    bed: Path | None = typer.Option(None, help="The programme's sound without speech.", metavar="FILE"),
    title: str = typer.Option("", help="The programme's title; default: from the file name."),
    style: Style = StyleOption,
    prefer: Preference = PreferOption,
    engines: list[str] = EngineOption,
) -> None:
    """Make a project and bring in its programme."""
    begun = Project(title or title_from(media), language_tag(source))
    for tag in dict.fromkeys(to):
        begun = add_version(begun, tag, style, prefer)
    for file in filter(None, (media, bed)):
        probe(file)
    choices = engine_choices(engines)
    with Document.create(project, begun) as document:
        use_engines(document, choices)
        run(document, "Bring in", bring_in, media, bed)
    out.print(f"{project} is ready. Next: zweistimme transcribe {project}", markup=False)


def transcribe(
    project: Path = ProjectArgument,
    captions: Path | None = typer.Option(None, help="Captions (SRT or WebVTT) instead of recognition.", metavar="FILE"),
    script: Path | None = typer.Option(None, help="A script with times instead of recognition.", metavar="FILE"),
    again: bool = typer.Option(False, "--again", help="Replace a transcript that is there; its lines and takes go."),
    candidates: list[str] = typer.Option(
        [], "--maybe", help="Another language it may be in; may be repeated.", metavar="TAG"
    ),
    hints: Path | None = typer.Option(None, help="Names, terms and sentences that are said, one a line."),
    speakers: int | None = typer.Option(None, min=1, max=100, help="How many people speak, if that is known."),
) -> None:
    """Make the transcript."""
    with opened_project(project) as document:
        if document.project.segments and not again:
            raise ZweistimmeError(
                "This project has a transcript. Use --again to replace it; its lines and takes go with it."
            )
        given = captions or script
        if given is None:
            asked = engine(engine_for(document.project, Role.RECOGNISE))
            run(
                document, "Transcribe", transcribe_stage, asked,
                candidates=tuple(map(language_tag, candidates)), hints=hints_from(hints), speakers=speakers,
            )  # fmt: skip
        else:
            cues = read_captions(given) if captions else read_script(given)
            run(document, "Transcript", transcript_from_cues, cues, given)


def translate(
    project: Path = ProjectArgument,
    to: list[str] = ToOption,
    translation: list[str] = typer.Option([], help="Captions in a target language.", metavar="TAG=FILE"),
) -> None:
    """Translate what is missing or stale."""
    given = pairs(translation, "--translation")
    with opened_project(project) as document:
        for tag in chosen_tags(to or list(given), list(document.project.versions)):
            file = given.get(tag)
            if file is None:
                asked = engine(engine_for(document.project, Role.TRANSLATE, tag))
                run(document, f"Translate {tag}", translate_stage, asked, tag)
                continue
            cues = read_captions(file)
            run(document, f"Translation {tag}", translation_from_cues, tag, cues, file)


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
        with opened_project(project) as document:
            state = document.project
        for name in dict.fromkeys(engine_for(state, Role.SPEAK, tag) for tag in ("", *state.versions)):
            for info in engine(name).info().voices:
                pitch = f"{info.pitch_hz:.0f} Hz" if info.pitch_hz else ""
                ref, languages = voice_ref(name, info.id), ", ".join(info.languages)
                out.print(f"{ref:10} {info.kind:8} {pitch:8} {languages}  {info.about}", markup=False)
        return
    with opened_project(project) as document:
        if substitutes is not None:
            document.apply("Allow substitutes", partial(allow_substitutes, allowed=substitutes))
        tags = chosen_tags(to, list(document.project.versions))
        for value in voices:
            name, _, voice_id = value.partition("=")
            _cast_by_hand(document, tags, name, voice_id)
        for tag in tags:
            engine_name = engine_for(document.project, Role.SPEAK, tag)
            run(document, f"Cast {tag}", casting.cast, engine(engine_name), tag, engine_name)
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
        casting.check_cast(document.project, [tag for tag in tags if tag not in folders])
        for tag in tags:
            folder = folders.get(tag)
            if folder is None:
                run(document, f"Voice {tag}", voice_stage, tag)
            else:
                run(document, f"Import {tag}", import_takes, tag, folder)


def fit(
    project: Path = ProjectArgument,
    to: list[str] = ToOption,
    as_json: bool = typer.Option(False, "--json", help="Print every placement as JSON."),
) -> None:
    """Fit all takes to the timeline."""
    with opened_project(project) as document:
        tags = chosen_tags(to, list(document.project.versions))
        for tag in tags:
            run(document, f"Fit {tag}", fit_stage, tag)
        rows = {tag: _placements(document.project, tag) for tag in tags}
    if as_json:
        typer.echo(json.dumps(rows, ensure_ascii=False, indent=1))
        return
    for tag in tags:
        over = [row for row in rows[tag] if row["overflow_s"]]
        out.print(f"{tag}: {len(rows[tag])} lines placed, {len(over)} too long.", markup=False)
        for row in over:
            out.print(f"  line {row['line']}: {row['reason']}", markup=False)


def _placements(project: Project, tag: str) -> list[dict[str, object]]:
    version = project.versions[tag]
    rows: list[dict[str, object]] = []
    for number, segment in enumerate(project.segments, 1):
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
                "reason": placement.reason,
            }
        )
    return rows


def mix(
    project: Path = ProjectArgument,
    to: list[str] = ToOption,
    out_folder: Path | None = typer.Option(None, "--out", help="Where it goes; default: PROJECT/mixes.", metavar="DIR"),
    loudness: float | None = typer.Option(
        None, min=-40, max=-8, help="Loudness to reach in LUFS, kept (-23 at first)."
    ),
    true_peak: float | None = typer.Option(None, min=-12, max=0, help="Highest true peak in dBTP, kept (-1 at first)."),
) -> None:
    """Write the mix and the voice stem of each version."""
    with opened_project(project) as document:
        settings = document.project.mix
        if loudness is not None:
            settings = replace(settings, loudness_lufs=loudness)
        if true_peak is not None:
            settings = replace(settings, true_peak_dbtp=true_peak)
        document.apply("Set the loudness", partial(set_mix, mix=settings))
        folder = out_folder or project / "mixes"
        for tag in chosen_tags(to, list(document.project.versions)):
            name = f"{slug(document.project.title)}.{tag}"
            paths = folder / f"{name}.mix.wav", folder / f"{name}.voice.wav"
            run(document, f"Mix {tag}", write_mix, tag, *paths)
            for path in paths:
                out.print(str(path), markup=False)


def handover(
    project: Path = ProjectArgument,
    to: list[str] = ToOption,
    out_folder: Path = typer.Option(..., "--out", help="Where it goes.", metavar="DIR"),
) -> None:
    """Write everything a client gets."""
    with opened_project(project) as document:
        tags = chosen_tags(to, list(document.project.versions))
        files = run(document, "Hand over", hand_over, tags, out_folder)
    for file in files:
        out.print(str(file), markup=False)


def status(
    project: Path = ProjectArgument,
    as_json: bool = typer.Option(False, "--json", help="Print it as JSON."),
) -> None:
    """Say how far every step of every version is."""
    with opened_project(project) as document:
        state = document.project
    rows = {
        tag: {step.value: (p.done, p.stale, p.missing) for step, p in progress(state, version).items()}
        for tag, version in state.versions.items()
    }
    if as_json:
        named = {
            tag: {k: dict(zip(("done", "stale", "missing"), v, strict=True)) for k, v in r.items()}
            for tag, r in rows.items()
        }
        typer.echo(json.dumps({"title": state.title, "versions": named}, ensure_ascii=False, indent=1))
        return
    table = Table("Version", "Step", "Done", "Stale", "Missing", title=state.title)
    for tag, steps in rows.items():
        for step, counts in steps.items():
            table.add_row(tag, step, *map(str, counts))
    out.print(table if rows else f"{state.title}: no target version yet.")
