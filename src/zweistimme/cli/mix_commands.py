"""``zweistimme mix``, ``mix-settings`` and ``place``: how a version is mixed, and the mix."""

from __future__ import annotations

import json
from dataclasses import asdict, replace
from functools import partial
from pathlib import Path
from typing import Any

import typer

from zweistimme.cli.app import CommandError
from zweistimme.cli.console import out
from zweistimme.cli.desk import opened_project, run
from zweistimme.cli.line_commands import segment_of
from zweistimme.cli.options import JsonOption, ProjectArgument, ToOption, chosen_tags
from zweistimme.messages import tr
from zweistimme.project.access import find_version
from zweistimme.project.delivery_edits import mix_as_project, set_mix
from zweistimme.project.facts import mix_of, spoken_segments
from zweistimme.project.mix_settings import Beneath, MixSettings, Place, Treatment
from zweistimme.project.model import Project, Version
from zweistimme.project.sound_delivery import presets_of
from zweistimme.project.times import SECOND_US, us_to_samples
from zweistimme.project.transcript import set_place
from zweistimme.stages.file_names import slug
from zweistimme.stages.files import offset_from
from zweistimme.stages.mix import write_sounds
from zweistimme.stages.mix.examples import write_fit_examples
from zweistimme.stages.mix.outputs import Wanted
from zweistimme.stages.mix.wanted_files import house_files, preset_files
from zweistimme.stages.mix.write import name_with_span
from zweistimme.store.document import Document
from zweistimme.store.read_only import project_in

_STEPS = {
    "levels": "line_levels", "tone": "tone", "room": "room", "high-pass": "high_pass", "de-ess": "de_ess",
    "even": "even_out",
}  # fmt: skip


def register(app: typer.Typer) -> None:
    """Add the commands of this file."""
    app.command()(mix)
    app.command("mix-settings")(mix_settings)
    app.command()(place)
    app.command("heard-fits")(heard_fits)


def mix(
    project: Path = ProjectArgument,
    to: list[str] = ToOption,
    out_folder: Path | None = typer.Option(None, "--out", help="Where it goes; default: PROJECT/mixes.", metavar="DIR"),
    loudness: float | None = typer.Option(
        None, min=-40, max=-8, help="Loudness to reach in LUFS, kept (-23 at first).", metavar="LUFS"
    ),
    true_peak: float | None = typer.Option(
        None, min=-12, max=0, help="Highest true peak in dBTP, kept (-1 at first).", metavar="DBTP"
    ),
    preset: list[str] = typer.Option(
        [], "--preset", help="Write it in this preset instead (see “presets”); may be repeated.", metavar="NAME"
    ),
    start: str = typer.Option("", "--from", help="Only from here on: seconds, or a timecode.", metavar="TIME"),
    until: str = typer.Option("", "--until", help="Only up to here.", metavar="TIME"),
) -> None:
    """Write the mix and the voice stem of each version."""
    with opened_project(project) as document:
        held = {"loudness_lufs": loudness, "true_peak_dbtp": true_peak}
        _set(document, to, {name: value for name, value in held.items() if value is not None})
        known = presets_of(document.project.presets)
        for name in preset:
            if name not in known:
                raise CommandError("There is no preset {name}. There are: {names}.", name=name, names=", ".join(known))
        span = _span(document.project, start, until)
        folder = out_folder or project / "mixes"
        for tag in chosen_tags(to, list(document.project.versions)):
            wanted = _wanted(document.project, tag, folder, preset, span)
            run(document, f"Mix {tag}", write_sounds, tag, wanted, span)
            for one in wanted:
                out.print(str(one.path))


def _wanted(project: Project, tag: str, folder: Path, presets: list[str], span: tuple[int, int] | None) -> list[Wanted]:
    version, name = find_version(project, tag), name_with_span(slug(project.title), span)
    if presets:
        chosen = replace(version, presets=tuple(dict.fromkeys(presets)))
        return preset_files(project, chosen, folder, name, span[0] if span else 0)
    paths = (folder / f"{name}.{tag}.{kind}.wav" for kind in ("mix", "voice"))
    return house_files(project, version, *paths)


def _span(project: Project, start: str, until: str) -> tuple[int, int] | None:
    """The samples that are wanted; None for all."""
    if not start and not until:
        return None
    duration_us = project.programme.sound.duration_us if project.programme else 0
    first_us = offset_from(start, project) if start else 0
    last_us = offset_from(until, project) if until else duration_us
    if not 0 <= first_us < last_us <= duration_us:
        raise CommandError(
            "From {start} until {until} is no stretch of a programme of {seconds:.1f} s.",
            start=start or "0",
            until=until or tr("the end"),
            seconds=duration_us / SECOND_US,
        )
    return us_to_samples(first_us), us_to_samples(last_us)


def heard_fits(
    project: Path = ProjectArgument,
    to: list[str] = ToOption,
    out_folder: Path = typer.Option(..., "--out", help="Where it goes.", metavar="DIR"),
    room: float | None = typer.Option(
        None, min=0.2, max=3.0, help="Seconds the room rings; default: as the original's does.", metavar="S"
    ),
) -> None:
    """Write a version in several fits to listen to: stretched to its slots, by line, by phrase; dry and in the room."""
    with opened_project(project) as document:
        for tag in chosen_tags(to, list(document.project.versions)):
            for path in run(document, f"Mix {tag}", write_fit_examples, tag, out_folder, room):
                out.print(str(path))


def mix_settings(
    project: Path = ProjectArgument,
    to: list[str] = ToOption,
    beneath: Beneath | None = typer.Option(None, help="What lies under the dub."),
    bed: float | None = typer.Option(None, help="How much louder the bed is than in its file, in dB.", metavar="DB"),
    depth: float | None = typer.Option(None, help="How far the original goes down, in dB.", metavar="DB"),
    over_depth: float | None = typer.Option(
        None, "--voice-over-depth", help="The same under a voice-over.", metavar="DB"
    ),
    sides: str = typer.Option("", help="How far its sides go down, in dB; “same”: as far as its middle.", metavar="DB"),
    ahead: float | None = typer.Option(None, "--look-ahead", help="Seconds it is down before speech.", metavar="S"),
    attack: float | None = typer.Option(None, help="Seconds it takes to go down.", metavar="S"),
    hold: float | None = typer.Option(None, help="Seconds of a pause over which it stays down.", metavar="S"),
    release: float | None = typer.Option(None, help="Seconds it takes to come back.", metavar="S"),
    room: float | None = typer.Option(None, help="More or less of the original's room, in dB.", metavar="DB"),
    without: list[str] = typer.Option(
        [], help="Leave out: levels, tone, room, high-pass, de-ess, even; may be repeated.", metavar="STEP"
    ),
    using: list[str] = typer.Option([], "--with", help="Take in again what was left out.", metavar="STEP"),
    usual: bool = typer.Option(False, "--usual", help="Mix these versions as the project says again."),
    as_json: bool = JsonOption,
) -> None:
    """Say how versions are mixed, or set it: for all of them, or with --to for some alone."""
    said: dict[str, Any] = {"bed_db": bed, "duck_db": depth, "voice_over_duck_db": over_depth}
    said |= {"room_db": room, "beneath": beneath}
    times = {"look_ahead_us": ahead, "attack_us": attack, "hold_us": hold, "release_us": release}
    giving: dict[str, Any] = {k: round(s * SECOND_US) for k, s in times.items() if s is not None}
    giving |= {"sides_db": _sides_db(sides)} if sides else {}
    steps = _steps(without, using)
    said = {name: value for name, value in said.items() if value is not None}
    if said or giving or steps or usual:
        with opened_project(project) as document:
            if usual:
                for tag in chosen_tags(to, list(document.project.versions)):
                    document.apply("Set the mix", partial(mix_as_project, tag=tag))
            _set(document, to, said, giving, steps)
    _list(project_in(project), to, as_json=as_json)


def _sides_db(text: str) -> float | None:
    if text.strip().lower() == "same":
        return None
    try:
        return float(text)
    except ValueError:
        raise CommandError("“{text}” is no number of dB, nor “same”.", text=text) from None


def _steps(without: list[str], using: list[str]) -> dict[str, bool]:
    for name in (*without, *using):
        if name not in _STEPS:
            raise CommandError("There is no step {name}. There are: {names}.", name=name, names=", ".join(_STEPS))
    return {_STEPS[name]: False for name in without} | {_STEPS[name]: True for name in using}


def _set(
    document: Document,
    to: list[str],
    said: dict[str, Any],
    giving: dict[str, Any] | None = None,
    steps: dict[str, bool] | None = None,
) -> None:
    """Change what was said, of the project, or of some versions alone."""

    def changed(before: MixSettings) -> MixSettings:
        return replace(
            before,
            **said,
            giving=replace(before.giving, **(giving or {})),
            treatment=replace(before.treatment, **(steps or {})),
        )

    if not (said or giving or steps):
        return
    if not to:
        mix = changed(document.project.mix)
        document.apply("Set the mix", partial(set_mix, mix=mix))
    versions = document.project.versions
    # what versions say themselves is changed too where all are meant
    own = chosen_tags(to, list(versions)) if to else [tag for tag, one in versions.items() if one.mix is not None]
    for tag in own:
        mix = changed(mix_of(document.project, versions[tag]))
        document.apply("Set the mix", partial(set_mix, mix=mix, tag=tag))


def _list(project: Project, to: list[str], *, as_json: bool) -> None:
    versions = [project.versions[tag] for tag in chosen_tags(to, list(project.versions))]
    if as_json:
        rows = {one.tag: {**asdict(mix_of(project, one)), "own": one.mix is not None} for one in versions}
        typer.echo(json.dumps(rows, ensure_ascii=False, indent=1))
        return
    for version in versions:
        out.print(f"{version.tag:12} {_in_words(project, version)}")


def _in_words(project: Project, version: Version) -> str:
    mix = mix_of(project, version)
    giving = mix.giving
    words = tr(
        "under it: {beneath}; {loudness:.1f} LUFS, {peak:.1f} dBTP; bed {bed:+.1f} dB, the original {depth:.1f} dB "
        "({over:.1f} in a voice-over), {ahead:.2f} s ahead, attack {attack:.2f} s, hold {hold:.2f} s, release "
        "{release:.2f} s; room {room:+.1f} dB",
        beneath=mix.beneath.value,
        loudness=mix.loudness_lufs,
        peak=mix.true_peak_dbtp,
        bed=mix.bed_db,
        depth=mix.duck_db,
        over=mix.voice_over_duck_db,
        ahead=giving.look_ahead_us / SECOND_US,
        attack=giving.attack_us / SECOND_US,
        hold=giving.hold_us / SECOND_US,
        release=giving.release_us / SECOND_US,
        room=mix.room_db,
    )
    left = [name for name, field in _STEPS.items() if not getattr(mix.treatment, field)]
    words += "; " + tr("sides {sides:.1f} dB", sides=giving.sides_db) if giving.sides_db is not None else ""
    words += "; " + tr("without {steps}", steps=", ".join(left)) if mix.treatment != Treatment() else ""
    return words + ("; " + tr("its own") if version.mix is not None else "")


def place(
    project: Path = ProjectArgument,
    where: Place = typer.Argument(..., help="Where they are heard.", metavar="PLACE"),
    line: list[int] = typer.Option([], "--line", min=1, help="This line; may be repeated.", metavar="LINE"),
    first: int | None = typer.Option(None, "--from-line", min=1, help="All lines from this one on.", metavar="LINE"),
    last: int | None = typer.Option(None, "--to-line", min=1, help="All lines up to this one.", metavar="LINE"),
) -> None:
    """Say where lines are heard: as-seen, near, far, telephone, loudspeaker; in every version."""
    if not line and first is None and last is None:
        raise CommandError("Which lines? Name them with --line, or with --from-line and --to-line.")
    with opened_project(project) as document:
        numbers = list(line)
        if first is not None or last is not None:
            numbers += range(first or 1, (last or len(spoken_segments(document.project))) + 1)
        ids = [segment_of(document.project, number).id for number in dict.fromkeys(numbers)]
        document.apply("Set the place", partial(set_place, segment_ids=ids, place=where))
    out.print(tr("{lines:line is|lines are} heard: {place}.", lines=len(ids), place=where.value))
