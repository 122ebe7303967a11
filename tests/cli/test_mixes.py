"""Fits by hand, mixes, presets and places on the command line."""

from __future__ import annotations

import json
from dataclasses import replace
from pathlib import Path

import soundfile

from cli.test_cli import refused, run
from zweistimme.store.document import Document


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
    assert all(".10.000-" in Path(file).name for file in files), "nobody's whole mix is written over"
    run("presets", project, "--use", "none")
    assert json.loads(run("presets", project, "--json").stdout)["house"]["versions"] == []
    run("presets", project, "--remove", "house")
    assert "no preset house" in refused("mix", project, "--preset", "house", code=2)
    assert "no preset house" in refused("presets", project, "--use", "house")
    assert "Name it with --put" in refused("presets", project, "--loudness", "-20", code=2)
    assert "Name them with --use" in refused("presets", project, "--to", "de-DE", code=2)
    assert "no stretch of a programme" in refused("mix", project, "--from", "90", "--until", "80", code=2)


def test_lines_are_given_places(demo_folder: Path) -> None:
    project = str(demo_folder)
    assert (
        "3 lines are heard: telephone"
        in run("place", project, "telephone", "--from-line", "2", "--to-line", "4").stdout
    )
    assert "1 line is heard: as-seen" in run("place", project, "as-seen", "--line", "3").stdout
    with Document.open(demo_folder) as document:  # a stretch that nobody could put into words is no line
        document.apply("x", lambda p: replace(p, segments=(replace(p.segments[0], text="", words=()), *p.segments[1:])))
    assert "2 lines are heard: far" in run("place", project, "far", "--from-line", "16").stdout
    assert "Which lines" in refused("place", project, "near", code=2)
    assert "no line 99" in refused("place", project, "near", "--line", "99", code=2)


def test_lines_are_fitted_by_hand(demo_folder: Path) -> None:
    project, to = str(demo_folder), ("--to", "de-DE")
    said = run("by-hand", project, *to, "--line", "5", "--tempo", "1.2", "--gain", "-3", "--fade-out", "0.2").stdout
    assert "tempo 1.2" in said
    rows = json.loads(run("fit", project, *to, "--json").stdout)["de-DE"]
    assert rows[4]["tempo"] == 1.2
    said = run("by-hand", project, *to, "--line", "5", "--tempo", "plan", "--word", "3=20.5").stdout
    assert "word 3 = 20.500 s" in said
    assert run("by-hand", project, *to, "--line", "5", "--free").stdout.strip().endswith("as planned")
    said = run("by-hand", project, *to, "--line", "4", "--phrase", "2", "--gain", "3", "--pause-before", "0.3").stdout
    assert "phrase with word 8: pause 0.3 gain-db 3.0" in said
    phrase = ("by-hand", project, *to, "--line", "4", "--phrase", "2")
    assert run(*phrase, "--gain", "0", "--pause-before", "plan").stdout.strip().endswith("as planned")
    assert "has 2 phrases" in refused(*phrase[:-1], "3", "--gain", "1", code=2)
    assert "only a phrase" in refused(*phrase, "--as", "off-screen", code=2)
    assert "such as 3=12.5" in refused("by-hand", project, *to, "--line", "5", "--word", "three", code=2)
    assert "nor “plan”" in refused("by-hand", project, *to, "--line", "5", "--tempo", "fast", code=2)
    before = json.loads(run("fit", project, *to, "--json").stdout)
    assert "words" in refused("by-hand", project, *to, "--line", "5", "--tempo", "1.3", "--word", "99=3")
    assert json.loads(run("fit", project, *to, "--json").stdout) == before, "all of it, or nothing"
    assert "What is to be done" in refused("by-hand", project, *to, "--line", "5", code=2)
    assert "0.4 to 2.5 times" in refused("by-hand", project, *to, "--line", "5", "--tempo", "9")


def test_what_would_help_is_told_and_done(demo_folder: Path) -> None:
    project, to = str(demo_folder), ("--to", "de-DE")
    rows = json.loads(run("remedies", project, *to, "--json").stdout)
    worst = rows[0]
    assert worst["remedies"]
    assert worst["trouble"] == max(row["trouble"] for row in rows)
    number = next(k for k, one in enumerate(worst["remedies"], 1) if one["help"] != "shorter-wording")
    run("remedies", project, *to, "--line", str(worst["line"]), "--take", str(number))
    after = json.loads(run("remedies", project, *to, "--line", str(worst["line"]), "--json").stdout)
    assert not after or after[0]["trouble"] < worst["trouble"]
    assert "no remedy 99" in refused("remedies", project, *to, "--line", "1", "--take", "99", code=2)
    assert "goes with one --line" in refused("remedies", project, "--take", "1", code=2)


def test_limits_are_set_for_a_version(demo_folder: Path) -> None:
    project = str(demo_folder)
    said = run("limits", project, "--to", "de-DE", "--set", "comfort=0.95,1.1", "--set", "least_gap=0.1").stdout
    assert "its own" in said
    rows = json.loads(run("limits", project, "--json").stdout)
    assert rows["de-DE"]["comfort"] == [0.95, 1.1]
    assert rows["es-ES"]["comfort"] == [0.92, 1.15]
    run("limits", project, "--usual")
    assert "its own" not in run("limits", project).stdout
    assert "no limit nearness" in refused("limits", project, "--set", "nearness=1", code=2)
    assert "no limit with its numbers" in refused("limits", project, "--set", "comfort=1", code=2)
    assert "Tempos lie around 1" in refused("limits", project, "--set", "comfort=1.2,1.1")


def test_a_bed_is_composed_and_laid_under(demo_folder: Path) -> None:
    project = str(demo_folder)
    made = run("compose-bed", project, "4:calm:0.4", "3:tense", "--seed", "2")
    file = Path(made.stdout.strip())
    assert file.parent == demo_folder / "beds"
    assert round(soundfile.info(file).duration, 2) == 7.0
    assert "The bed lasts 0:07.0" in made.stderr, "a bed shorter than the programme is said"
    assert run("compose-bed", project, "4:calm:0.4", "3:tense", "--seed", "3").stdout != made.stdout
    assert "“20” is no section" in refused("compose-bed", project, "20", code=2)
    assert "it knows calm" in refused("compose-bed", project, "5:jazz")
    assert "The plan lasts 900 s" in refused("compose-bed", project, "900:calm")
