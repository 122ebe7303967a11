"""``zweistimme sample``: a voice made from samples of a person, with consent; and such voices listed and removed."""

from __future__ import annotations

import json
from collections.abc import Sequence
from dataclasses import asdict
from datetime import date
from pathlib import Path
from tempfile import TemporaryDirectory

import typer

from zweistimme.cli.app import CommandError
from zweistimme.cli.console import err, out
from zweistimme.cli.desk import opened_project, run
from zweistimme.cli.manners import speaker_called
from zweistimme.cli.options import JsonOption, ProjectArgument
from zweistimme.messages import tr
from zweistimme.project.facts import spoken_segments
from zweistimme.project.languages import language_tag
from zweistimme.project.model import Project
from zweistimme.sentences import sentence_of
from zweistimme.stages import samples as stage
from zweistimme.stages.samples import MadeFrom, Sample


def register(app: typer.Typer) -> None:
    """Add the command of this file."""
    app.command()(sample)


def sample(
    project: Path = ProjectArgument,
    speaker: str = typer.Option("", "--speaker", help="Whose clean stretches are looked for.", metavar="SPEAKER"),
    files: list[Path] = typer.Option([], "--file", help="Sound or video with the person's voice.", metavar="FILE"),
    folder: Path | None = typer.Option(None, "--out", help="Write the samples as WAV files there.", metavar="FOLDER"),
    called: str = typer.Option("", "--make", help="Have a voice made of them, and call it so.", metavar="NAME"),
    language: list[str] = typer.Option(
        [], "--language", help="What it is to speak; default: the original's language.", metavar="TAG"
    ),
    consent_of: str = typer.Option("", help="Whose voice it is.", metavar="PERSON"),
    consent: str = typer.Option("", help="How that person allowed it, in their words.", metavar="TEXT"),
    purpose: str = typer.Option("", help="What it may be used for.", metavar="TEXT"),
    given_on: str = typer.Option("", help="The day on which it was allowed; default: today.", metavar="DAY"),
    name: str = typer.Option("bundled", "--engine", help="The engine that makes it.", metavar="NAME"),
    remove: str = typer.Option("", "--remove", help="Have a voice that was made removed everywhere.", metavar="VOICE"),
    as_json: bool = JsonOption,
) -> None:
    """Make a voice from samples of a person, with consent: clean stretches of the programme, or files."""
    if remove:
        stage.remove_made_voice(remove)
        out.print(tr("{voice} is removed.", voice=remove))
        return
    with opened_project(project) as document:
        state = document.project
        samples: list[Sample] = []
        if speaker:
            key = speaker_called(state, speaker)
            samples += run(document, "Find clean stretches", stage.clean_stretches, key)
        with TemporaryDirectory() as place:
            for file in files:
                samples += stage.of_file(file, Path(place))
        _print(state, samples, as_json=as_json)
        if folder is not None:
            _write(folder, samples)
        if called:
            tags = [language_tag(one) for one in language] or [state.source_tag]
            allowed = MadeFrom(consent_of, consent, _day(given_on), purpose, 0.0)
            voice = run(
                document, "Make a voice from samples", stage.make_voice, name, called, tags,
                [one for one in samples if not one.poor] or samples, allowed,
            )  # fmt: skip
            out.print(tr("{voice} is made. Give it to somebody with cast --voice.", voice=voice))


def _day(text: str) -> str:
    try:
        return date.fromisoformat(text).isoformat() if text else ""
    except ValueError:
        raise CommandError("“{text}” is no day. Write it as 2026-11-29.", text=text) from None


def _print(state: Project, samples: Sequence[Sample], *, as_json: bool) -> None:
    numbers = {segment.id: number for number, segment in enumerate(spoken_segments(state), 1)}
    kept = stage.consents()
    if as_json:
        rows = [
            {
                "line": numbers.get(one.source), "file": "" if one.source in numbers else one.source,
                "seconds": round(one.seconds, 2), "snr_db": round(one.snr_db, 1), "clipped": one.clipped,
                "tone": one.tone, "text": one.text,
            }
            for one in samples
        ]  # fmt: skip
        made = {voice: asdict(one) for voice, one in kept.items()}
        typer.echo(json.dumps({"samples": rows, "made": made}, ensure_ascii=False, indent=1))
        return
    for one in samples:
        where = numbers.get(one.source, one.source)
        what = tr("{seconds:.1f} s, {snr_db:.0f} dB over what is under it", seconds=one.seconds, snr_db=one.snr_db)
        tone = f" ({tr(one.tone)})" if one.tone else ""
        out.print(f"{where:>4}  {what}{tone}  {one.text}")
    for poor in stage.poor_sets(samples):
        tone = f"{tr(poor.tone)}: " if poor.tone else ""
        err.print(f"  {tone}{sentence_of(poor.why)}")
    if not samples:
        for voice, made_from in kept.items():
            about = f"{made_from.person}, {made_from.given_on}: {made_from.words}"
            out.print(f"{voice}: {about}")


def _write(folder: Path, samples: Sequence[Sample]) -> None:
    from zweistimme.media.encode import write_wav

    folder.mkdir(parents=True, exist_ok=True)
    for number, one in enumerate(samples, 1):
        write_wav(folder / f"sample-{number:03}.wav", [one.samples[None, :]], 1, len(one.samples))
