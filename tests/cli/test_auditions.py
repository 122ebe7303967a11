"""Auditions, lines with voices of their own and thoughts about takes, on the command line."""

from __future__ import annotations

import json
from pathlib import Path

import pytest
import soundfile

from cli.test_cli import run

TAG = "de-DE"


def test_voices_are_auditioned_and_compared(demo_folder: Path, tmp_path: Path) -> None:
    where = tmp_path / "heard"
    mira = ["--speaker", "Mira"]
    said = run(
        "audition", str(demo_folder), "--to", TAG, *mira, "--voice", "edda", "--voice", "brandt", "--out", str(where)
    )
    assert said.returncode == 0, said.stderr
    assert "edda: 3 lines" in said.stdout
    assert [file.name for file in sorted(where.iterdir())][:3] == [
        "0005-brandt.wav", "0005-edda.wav", "0005-original.wav"
    ]  # fmt: skip
    assert soundfile.info(where / "0005-edda.wav").duration > 3
    again = run(
        "audition", str(demo_folder), "--to", TAG, *mira, "--score", "5:edda=4", "--prefer", "5:edda,brandt", "--json"
    )
    found = json.loads(again.stdout)
    assert found["voices"][0] == {"voice": "edda", "auditions": 3, "won": 1, "compared": 1, "score": 4.0}
    assert {row["line"] for row in found["auditions"]} == {5, 9, 18}
    assert run("audition", str(demo_folder), "--to", TAG, "--drop", "brandt").returncode == 0
    assert "brandt" not in run("audition", str(demo_folder), "--to", TAG).stdout


def test_a_scene_is_heard_in_a_proposed_cast(demo_folder: Path, tmp_path: Path) -> None:
    scene = ["--scene", "9", "--voice", "Mira=edda", "--out", str(tmp_path / "scene")]
    said = run("audition", str(demo_folder), "--to", TAG, *scene)
    assert said.returncode == 0, said.stderr
    assert soundfile.info(tmp_path / "scene" / "scene.wav").duration > 15
    assert "cosma: 2 lines" in said.stdout


@pytest.mark.parametrize(("arguments", "sentence"), [
    (["--voice", "edda"], "Say whose lines"), (["--line", "99", "--voice", "edda"], "no line 99"),
    (["--speaker", "Nobody", "--voice", "edda"], "no speaker “Nobody”"), (["--score", "9=2"], "names no audition"),
    (["--score", "9:edda=x"], "names no score"), (["--score", "9:fenn=2"], "not been heard in fenn"),
    (["--speaker", "Mira", "--voice", "nobody"], "no voice nobody"), (["--scene", "9", "--voice", "x"], "no speaker"),
])  # fmt: skip
def test_what_cannot_be_auditioned_is_said(demo_folder: Path, arguments: list[str], sentence: str) -> None:
    said = run("audition", str(demo_folder), "--to", TAG, *arguments)
    assert said.returncode != 0
    assert sentence in said.stderr
    assert "Traceback" not in said.stderr


def test_a_line_has_a_voice_and_its_take_a_score(demo_folder: Path) -> None:
    folder = str(demo_folder)
    assert run("line", folder, "2", "--to", TAG, "--score", "5", "--take-note", "just so").returncode == 0
    assert run("line", folder, "3", "--to", TAG, "--voice", "brandt", "--seed", "4").returncode == 0
    rows = json.loads(run("lines", folder, "--json").stdout)[TAG]
    assert [(take["score"], take["note"]) for take in rows[1]["takes"] if take["chosen"]] == [(5, "just so")]
    assert (rows[2]["voice"], rows[2]["manner"]["seed"]) == ("brandt", 4)
    assert rows[2]["state"] == "the take says something older"
    assert "in the voice brandt" in run("lines", folder, "--to", TAG).stdout
    assert run("line", folder, "3", "--to", TAG, "--voice", "", "--seed", "0").returncode == 0
    assert json.loads(run("lines", folder, "--json").stdout)[TAG][2]["state"] == "voiced"
    for wrong in (["--voice", "nobody"], ["--score", "7"]):
        assert run("line", folder, "3", "--to", TAG, *wrong).returncode != 0


def test_a_related_language_is_refused_alone(demo_folder: Path) -> None:
    folder = str(demo_folder)
    assert run("versions", folder, "--add", "gl-ES").returncode == 0
    assert run("cast", folder, "--to", "gl-ES", "--refuse", "es").returncode == 0
    found = json.loads(run("voices", folder, "--to", "gl-ES", "--json").stdout)["gl-ES"]
    assert (found["related"], found["refused"], found["voices"]) == ({"es": 8}, ["es"], [])
    assert run("cast", folder, "--to", "gl-ES", "--accept", "es").returncode == 0
    assert len(json.loads(run("voices", folder, "--to", "gl-ES", "--json").stdout)["gl-ES"]["voices"]) == 8
    assert "no language whose voices stand in" in run("cast", folder, "--to", TAG, "--refuse", "es").stderr
