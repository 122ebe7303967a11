"""Voices from samples on the command line."""

from __future__ import annotations

import json
from pathlib import Path

import pytest
import soundfile

from cli.test_cli import run
from helpers import write_sound

CONSENT = ["--consent-of", "Ida Vess", "--consent", "Yes, for this film."]


def test_a_voice_is_made_listed_cast_and_removed(demo_folder: Path, tmp_path: Path) -> None:
    folder = str(demo_folder)
    found = run("sample", folder, "--speaker", "Mira", "--out", str(tmp_path / "s"))
    assert found.returncode == 0, found.stderr
    assert "dB over what is under it" in found.stdout
    assert soundfile.info(tmp_path / "s" / "sample-001.wav").samplerate == 48_000
    made = run("sample", folder, "--speaker", "Mira", "--make", "Mira", *CONSENT, "--language", "de-DE")
    assert "made-mira is made" in made.stdout, made.stderr
    listed = json.loads(run("sample", folder, "--json").stdout)["made"]["made-mira"]
    assert (listed["person"], listed["words"]) == ("Ida Vess", "Yes, for this film.")
    assert "Ida Vess" in run("sample", folder).stdout
    assert run("cast", folder, "--to", "de-DE", "--voice", "Mira=made-mira").returncode == 0
    assert "is removed" in run("sample", folder, "--remove", "made-mira").stdout
    assert json.loads(run("sample", folder, "--json").stdout)["made"] == {}
    gone = run("voice", folder, "--to", "de-DE")
    assert gone.returncode != 0
    assert "no voice made-mira" in gone.stderr


@pytest.mark.parametrize(("arguments", "sentence"), [
    (["--speaker", "Nobody"], "no speaker “Nobody”"), (["--speaker", "Mira", "--make", "X"], "without consent"),
    (["--make", "X", *CONSENT], "no samples yet"), (["--remove", "alva"], "has made no voice"),
    (["--speaker", "Mira", "--make", "X", *CONSENT, "--given-on", "soon"], "no day"),
    (["--file", "/nowhere.wav"], "nowhere.wav"),
    (["--speaker", "Mira", "--make", "X", *CONSENT, "--engine", "quay"], "no engine called quay"),
])  # fmt: skip
def test_what_makes_no_voice_is_said(demo_folder: Path, arguments: list[str], sentence: str) -> None:
    said = run("sample", str(demo_folder), *arguments)
    assert said.returncode != 0
    assert sentence in said.stderr
    assert "Traceback" not in said.stderr


def test_a_short_file_is_called_a_guess(demo_folder: Path, tmp_path: Path) -> None:
    said = run("sample", str(demo_folder), "--file", str(write_sound(tmp_path / "a.wav", 2.0)))
    assert said.returncode == 0, said.stderr
    assert "make a guess of a voice" in said.stderr
