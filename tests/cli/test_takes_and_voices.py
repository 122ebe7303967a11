"""Casting, takes heard back and pronunciations on the command line."""

from __future__ import annotations

import json
from pathlib import Path

from cli.test_cli import refused, run


def test_voices_are_proposed_with_reasons_and_found(demo_folder: Path) -> None:
    said = run("cast", str(demo_folder), "--to", "de-DE", "--voice", "Mira=gunda", "--anew").stdout
    assert "Mira: gunda" in said
    assert "Tobin: brandt" in said
    assert "number 1 in likeness" in said
    rows = json.loads(run("cast", str(demo_folder), "--to", "de-DE", "--free", "Mira", "--anew", "--json").stdout)
    assert rows["de-DE"]["Mira"]["voice"] == "alva"
    assert not rows["de-DE"]["Mira"]["chosen"]
    listed = run("voices", str(demo_folder), "--to", "de-DE", "--find", "quick").stdout
    assert "8 voices of its own" in listed
    assert "cosma" in listed
    assert "alva" not in listed
    run("voices", str(demo_folder), "--keep", "edda=a nurse")
    assert "edda" in run("voices", str(demo_folder), "--to", "es-ES", "--listed").stdout
    rows = json.loads(run("voices", str(demo_folder), "--to", "es-ES", "--kind", "child", "--json").stdout)
    assert [one["id"] for one in rows["es-ES"]["voices"]] == ["fenn"]
    run("voices", str(demo_folder), "--drop", "edda")
    assert "not on your list" in refused("voices", str(demo_folder), "--drop", "edda", code=2)
    assert "no speaker “Nobody”" in refused("cast", str(demo_folder), "--free", "Nobody", code=2)


def test_takes_are_heard_back(demo_folder: Path) -> None:
    said = run("takes", str(demo_folder), "--to", "de-DE", "--line", "1", "--line", "5").stdout
    assert len([line for line in said.splitlines() if line.strip()[:1].isdigit()]) == 2
    (row,) = json.loads(run("takes", str(demo_folder), "--to", "es-ES", "--line", "2", "--json").stdout)
    assert row["score"] == 100
    assert row["words"][0]["state"] == "clear"
    run("takes", str(demo_folder), "--to", "es-ES", "--line", "2", "--again", "1", "--enough", "10")
    assert "give --again" in refused("takes", str(demo_folder), "--to", "es-ES", "--most", "2", code=2)
    assert "no version fr-FR" in refused("takes", str(demo_folder), "--to", "fr-FR", code=2)


def test_words_are_pronounced_and_kept_as_a_lexicon(demo_folder: Path, tmp_path: Path) -> None:
    project, file = str(demo_folder), tmp_path / "mine.pls"
    assert "your own lexicon has 0 words" in run("pronounce", project, "--to", "de-DE").stdout
    run("pronounce", project, "--to", "de-DE", "--like", "Uhrmacher=Uhrmaher", "--ipa", "Varnholm=/ˈvaʁnhɔlm/", "--own")
    status = json.loads(run("status", project, "--json").stdout)
    assert "Varnholm  /ˈvaʁnhɔlm/" in run("pronounce", project, "--to", "de-DE", "--write", str(file)).stdout
    assert status
    run("pronounce", project, "--to", "de-DE", "--forget", "Varnholm", "--forget", "Uhrmacher")
    assert len(json.loads(run("pronounce", project, "--to", "de-DE", "--read", str(file), "--json").stdout)) == 2
    run("pronounce", project, "--to", "de-DE", "--forget", "Varnholm")
    assert "Varnholm" in run("pronounce", project, "--to", "de-DE", "--use-own").stdout
    assert "wants WORD=HOW" in refused("pronounce", project, "--to", "de-DE", "--ipa", "Varnholm", code=2)
    assert "Nothing is said of “Nobody”" in refused("pronounce", project, "--to", "de-DE", "--forget", "Nobody", code=2)
    assert "not for es-ES" in refused("pronounce", project, "--to", "es-ES", "--read", str(file), code=2)
    file.write_text("<html/>", encoding="utf-8")
    assert "no lexicon in PLS" in refused("pronounce", project, "--to", "de-DE", "--read", str(file), code=1)


def test_directions_are_proposed_and_given(demo_folder: Path) -> None:
    project = str(demo_folder)
    run("line", project, "8", "--to", "de-DE", "--direction", "")
    assert "whispering" in run("directions", project, "--to", "de-DE", "--apply").stdout
    rows = json.loads(run("directions", project, "--to", "de-DE", "--json").stdout)
    assert rows == {"de-DE": []}
    assert "No line is said unlike" in run("directions", project, "--to", "es-ES", "--line", "1").stdout
