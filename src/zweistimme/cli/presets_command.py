"""``zweistimme presets``: the forms in which sound is handed over."""

from __future__ import annotations

import json
from dataclasses import asdict, replace
from functools import partial
from pathlib import Path
from typing import Any

import typer

from zweistimme.cli.app import CommandError
from zweistimme.cli.console import out
from zweistimme.cli.desk import opened_project
from zweistimme.cli.options import JsonOption, ProjectArgument, ToOption, chosen_tags
from zweistimme.messages import tr
from zweistimme.project.delivery_edits import choose_presets, put_preset, remove_preset
from zweistimme.project.model import Project
from zweistimme.project.sound_delivery import (
    Channels,
    LoudnessOf,
    Part,
    SoundForm,
    SoundPreset,
    presets_of,
)
from zweistimme.store.read_only import project_in


def register(app: typer.Typer) -> None:
    """Add the command of this file."""
    app.command()(presets)


def presets(
    project: Path = ProjectArgument,
    to: list[str] = ToOption,
    use: list[str] = typer.Option(
        [], help="Hand the versions over in this preset too; may be repeated. “none”: in none.", metavar="NAME"
    ),
    put: str = typer.Option("", help="Make this preset, or change it.", metavar="NAME"),
    remove: str = typer.Option("", help="Take this preset of the project's own away.", metavar="NAME"),
    like: str = typer.Option("", help="With --put: begin with this one.", metavar="NAME"),
    loudness: float | None = typer.Option(None, help="Loudness in LUFS.", metavar="LUFS"),
    loudness_of: LoudnessOf | None = typer.Option(None, "--of", help="What is as loud as that."),
    true_peak: float | None = typer.Option(None, help="Highest true peak in dBTP.", metavar="DBTP"),
    most_range: float | None = typer.Option(
        None, "--range", help="Say so where the loudness range is wider, in LU; 0: never.", metavar="LU"
    ),
    channels: Channels | None = typer.Option(None, help="Its channels."),
    rate: int | None = typer.Option(None, help="Samples a second: 44100, 48000, 96000.", metavar="HZ"),
    bits: int | None = typer.Option(None, help="Bits of a sample: 16, 24.", metavar="N"),
    form: SoundForm | None = typer.Option(None, help="The form of its files."),
    bit_rate: int | None = typer.Option(
        None, help="Of a coded form, in kbit a second; 0: as it usually has.", metavar="KBIT"
    ),
    part: list[Part] = typer.Option([], help="What it has in files; may be repeated."),
    as_json: bool = JsonOption,
) -> None:
    """List the forms in which sound is handed over; make or change one, or say which versions are handed over so."""
    said: dict[str, Any] = {
        "loudness_lufs": loudness, "loudness_of": loudness_of, "true_peak_dbtp": true_peak, "channels": channels,
        "rate": rate, "bits": bits, "form": form, "bit_rate_kbit": bit_rate, "parts": tuple(part) or None,
    }  # fmt: skip
    said = {name: value for name, value in said.items() if value is not None}
    said |= {} if most_range is None else {"most_range_lu": most_range or None}
    if said and not put:
        raise CommandError("Which preset is to be so? Name it with --put.")
    if to and not use:
        raise CommandError("In which presets are these versions handed over? Name them with --use.")
    if put or remove or use:
        with opened_project(project) as document:
            if put:
                made = replace(_begun(document.project, put, like), **said)
                document.apply("Set a preset", partial(put_preset, name=put, preset=made))
            if remove:
                document.apply("Remove a preset", partial(remove_preset, name=remove))
            for tag in chosen_tags(to, list(document.project.versions)) if use else []:
                names = () if use == ["none"] else (*document.project.versions[tag].presets, *use)
                document.apply("Choose presets", partial(choose_presets, tag=tag, names=names))
    _list(project_in(project), as_json=as_json)


def _begun(project: Project, name: str, like: str) -> SoundPreset:
    """What a preset is made or changed from."""
    known = presets_of(project.presets)
    if like and like not in known:
        raise CommandError("There is no preset {name}. There are: {names}.", name=like, names=", ".join(known))
    return known[like] if like else known.get(name, SoundPreset())


def _list(project: Project, *, as_json: bool) -> None:
    known = presets_of(project.presets)
    used = {name: [tag for tag, version in project.versions.items() if name in version.presets] for name in known}
    if as_json:
        rows = {
            name: {**asdict(preset), "own": name in project.presets, "versions": used[name]}
            for name, preset in known.items()
        }
        typer.echo(json.dumps(rows, ensure_ascii=False, indent=1))
        return
    for name, preset in known.items():
        words = preset_in_words(preset)
        words += "; " + tr("the project's own") if name in project.presets else ""
        words += "; " + tr("for {versions}", versions=", ".join(used[name])) if used[name] else ""
        out.print(f"{name:14} {words}")


def preset_in_words(preset: SoundPreset) -> str:
    """A preset as people read it."""
    words = tr(
        "{loudness:.1f} LUFS ({of}), {peak:.1f} dBTP, {channels}, {form}, {rate} Hz",
        loudness=preset.loudness_lufs,
        of=preset.loudness_of.value,
        peak=preset.true_peak_dbtp,
        channels=preset.channels.value,
        form=preset.form.value,
        rate=preset.rate,
    )
    words += ", " + tr("{bits} bits", bits=preset.bits) if preset.form.is_exact else ""
    words += ", " + tr("{rate} kbit/s", rate=preset.bit_rate_kbit) if preset.bit_rate_kbit else ""
    wide = preset.most_range_lu
    words += ", " + tr("range up to {range:.0f} LU", range=wide) if wide is not None else ""
    return words + ": " + ", ".join(one.value for one in preset.parts)
