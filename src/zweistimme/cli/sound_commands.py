"""The numeric core on its own: stretch a file, measure a file."""

from __future__ import annotations

import json
from pathlib import Path

import numpy as np
import typer

from zweistimme.cli.app import CommandError
from zweistimme.cli.console import err, out
from zweistimme.cli.desk import say_note
from zweistimme.media.decode import decoded_blocks
from zweistimme.media.decode_notes import DecodeNotes
from zweistimme.messages import tr

_LONGEST_STRETCH_S = 1800


def register(app: typer.Typer) -> None:
    """Add the commands of this file."""
    app.command()(stretch)
    app.command()(loudness)


def stretch(
    source: Path = typer.Argument(..., metavar="IN", help="A sound file."),
    target: Path = typer.Argument(..., metavar="OUT", help="The WAV file to write."),
    tempo: float = typer.Option(..., help="How many times faster: 1.1 is a tenth faster.", metavar="FACTOR"),
    even: bool = typer.Option(False, "--even", help="The same tempo throughout, instead of sparing bursts."),
) -> None:
    """Change the tempo of a sound file, keeping its pitch."""
    from zweistimme.media.encode import write_wav
    from zweistimme.sound.stretch import stretch_by_tempo

    if not 0.25 <= tempo <= 4.0:
        raise CommandError("A tempo lies between 0.25 and 4; {tempo:g} does not.", tempo=tempo)
    if target.suffix.lower() != ".wav":
        raise CommandError("{file} must end in .wav; that is what is written.", file=target.name)
    notes = DecodeNotes()
    blocks = []
    for block in decoded_blocks(source, notes):
        blocks.append(block)
        if len(blocks) > _LONGEST_STRETCH_S:
            raise CommandError("{source} is longer than half an hour; stretch it in parts.", source=source)
    for note in notes.notes:
        say_note(note)
    sound = np.concatenate(blocks, axis=1)
    result = stretch_by_tempo(sound, tempo, even=even)
    peak = float(np.abs(result).max())
    if peak > 1.0:
        result = result / peak
        err.print(
            tr("  note: the result went beyond full scale and is {by_db:.1f} dB softer.", by_db=20 * np.log10(peak)),
        )
    write_wav(target, iter([result]), len(result), result.shape[1])
    out.print(
        tr("{file}: {before} samples became {after}.", file=target, before=sound.shape[1], after=result.shape[1]),
    )


def loudness(
    file: Path = typer.Argument(..., help="A sound or video file.", metavar="FILE"),
    as_json: bool = typer.Option(False, "--json", help="Print it as JSON."),
) -> None:
    """Measure integrated loudness, loudness range and true peak (ITU-R BS.1770)."""
    from zweistimme.media.file_loudness import file_loudness

    notes = DecodeNotes()
    result = file_loudness(file, notes)
    for note in notes.notes:
        say_note(note)
    silent = not np.isfinite(result.integrated_lufs)
    figures = {
        "integrated_lufs": None if silent else round(result.integrated_lufs, 2),
        "loudness_range_lu": round(result.range_lu, 2),
        "true_peak_dbtp": round(result.true_peak_dbtp, 2),
        "momentary_max_lufs": round(result.momentary_lufs, 2) if np.isfinite(result.momentary_lufs) else None,
        "short_term_max_lufs": round(result.short_term_lufs, 2) if np.isfinite(result.short_term_lufs) else None,
    }
    if as_json:
        typer.echo(json.dumps(figures))
        return
    loud = tr("silent") if silent else tr("{integrated_lufs:.1f} LUFS", integrated_lufs=result.integrated_lufs)
    out.print(
        tr(
            "{loud}, range {range_lu:.1f} LU, true peak {true_peak_dbtp:.1f} dBTP",
            loud=loud,
            range_lu=result.range_lu,
            true_peak_dbtp=result.true_peak_dbtp,
        ),
    )
