"""Mixes, presets and places on the command line."""

from __future__ import annotations

import json
from pathlib import Path

import soundfile

from cli.test_cli import refused, run


def test_mixes_are_set_for_all_or_for_some(demo_folder: Path) -> None:
    project = str(demo_folder)
    run("mix-settings", project, "--depth", "-9", "--hold", "0.5", "--without", "tone")
    run("mix-settings", project, "--to", "de-DE", "--beneath", "room-tone", "--sides", "-6", "--with", "tone")
    rows = json.loads(run("mix-settings", project, "--json").stdout)
    assert [rows[tag]["own"] for tag in ("de-DE", "es-ES")] == [True, False]
    assert (rows["de-DE"]["beneath"], rows["es-ES"]["beneath"]) == ("room-tone", "as-there")
    assert (rows["de-DE"]["giving"]["sides_db"], rows["es-ES"]["giving"]["hold_us"]) == (-6.0, 500_000)
    assert (rows["de-DE"]["treatment"]["tone"], rows["es-ES"]["treatment"]["tone"]) == (True, False)
    run("mix-settings", project, "--bed", "2")
    rows = json.loads(run("mix-settings", project, "--json").stdout)
    assert (rows["de-DE"]["bed_db"], rows["es-ES"]["bed_db"]) == (2.0, 2.0), "what is said of all is said of each"
    said = run("mix-settings", project, "--to", "de-DE", "--usual").stdout
    assert "its own" not in said
    assert "without tone" in said
    assert "between -60 and 24 dB" in refused("mix-settings", project, "--depth", "-90")
    assert "no step echo" in refused("mix-settings", project, "--without", "echo", code=2)
    assert "nor “same”" in refused("mix-settings", project, "--sides", "wide", code=2)


def test_presets_are_made_and_written(demo_folder: Path, tmp_path: Path) -> None:
    project = str(demo_folder)
    run(
        "presets",
        project,
        "--put",
        "house",
        "--like",
        "archive",
        "--loudness",
        "-20",
        "--part",
        "mix",
        "--form",
        "opus",
    )
    run("presets", project, "--to", "de-DE", "--use", "house")
    rows = json.loads(run("presets", project, "--json").stdout)
    assert rows["house"]["versions"] == ["de-DE"]
    assert (rows["house"]["form"], rows["house"]["parts"], rows["house"]["own"]) == ("opus", ["mix"], True)
    assert "house" in run("presets", project).stdout
    stretch = ("--from", "10", "--until", "12.5")
    files = run("mix", project, "--to", "de-DE", "--out", tmp_path, "--preset", "archive", *stretch).stdout.split()
    assert sorted(Path(file).suffix for file in files) == [".flac"] * 6
    assert soundfile.info(files[0]).frames == 120_000
    run("presets", project, "--use", "none")
    assert json.loads(run("presets", project, "--json").stdout)["house"]["versions"] == []
    run("presets", project, "--remove", "house")
    assert "no preset house" in refused("mix", project, "--preset", "house", code=2)
    assert "no preset house" in refused("presets", project, "--use", "house")
    assert "Name it with --put" in refused("presets", project, "--loudness", "-20", code=2)
    assert "no stretch of a programme" in refused("mix", project, "--from", "90", "--until", "80", code=2)


def test_lines_are_given_places(demo_folder: Path) -> None:
    project = str(demo_folder)
    assert (
        "3 lines are heard: telephone"
        in run("place", project, "telephone", "--from-line", "2", "--to-line", "4").stdout
    )
    assert "1 line is heard: as-seen" in run("place", project, "as-seen", "--line", "3").stdout
    assert "Which lines" in refused("place", project, "near", code=2)
    assert "no line 99" in refused("place", project, "near", "--line", "99", code=2)
