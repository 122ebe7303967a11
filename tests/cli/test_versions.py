"""Versions, undo and redo on the command line."""

from __future__ import annotations

import json
import subprocess
import sys
from pathlib import Path

import pytest

from cli.test_cli import refused, run
from helpers import project_with
from zweistimme.project import edits
from zweistimme.store.document import Document


@pytest.fixture
def project(tmp_path: Path) -> Path:
    with Document.create(tmp_path / "p", project_with([(1.0, 2.0, "So.")], takes=[1.0])):
        return tmp_path / "p"


def test_versions_are_added_restyled_removed_and_brought_back(project: Path) -> None:
    assert json.loads(run("versions", project, "--json").stdout) == {
        "de-DE": {"style": "phrase-sync", "prefer": "balanced", "lines": 1, "left_out": False, "basis": ""}
    }
    assert "voice-over" in run("versions", project, "--add", "es-ES", "--style", "voice-over").stdout
    assert "already has a version es-ES" in refused("versions", project, "--add", "es-ES")
    restyled = run("versions", project, "--style", "lip-sync", "--to", "de-DE").stdout
    assert restyled.split() == ["de-DE", "lip-sync", "balanced", "es-ES", "voice-over", "balanced"]
    assert run("versions", project, "--remove", "de-DE").stdout.startswith("es-ES")
    assert run("undo", project).stdout == "Taken back: Remove de-DE.\n"
    with Document.open(project) as document:
        assert document.project.versions["de-DE"].lines
    assert "Done again: Remove de-DE." in run("redo", project).stdout
    assert "nothing to do again" in refused("redo", project)
    assert "no version fr-FR" in refused("versions", project, "--remove", "fr-FR")


def test_a_version_is_left_out_of_hand_overs_and_taken_in_again(project: Path, tmp_path: Path) -> None:
    assert run("versions", project, "--leave-out", "de-DE").stdout.endswith("not handed over\n")
    assert "Every version is left out" in refused("handover", project, "--out", tmp_path / "out")
    assert "not handed over" not in run("versions", project, "--take-in", "de-DE").stdout
    assert run("undo", project).stdout == "Taken back: Take in de-DE.\n"
    assert "no version fr-FR" in refused("versions", project, "--leave-out", "fr-FR")


def test_captions_are_held_to_what_is_set_and_to_what_is_usual_again(project: Path) -> None:
    usual = run("captions", project).stdout
    assert "2 lines of 42 letters, 20 letters a second" in usual
    set_ = run("captions", project, "--to", "de-DE", "--lines", "1", "--letters", "37", "--gap", "0.12").stdout
    assert "1 line of 37 letters" in set_
    assert "0.12 s apart" in set_
    rules = json.loads(run("captions", project, "--json").stdout)
    assert (rules["de-DE"]["line_letters"], rules["en-GB"]["line_letters"]) == (37.0, 42.0)
    assert "one line or two" in refused("captions", project, "--lines", "3")
    assert "longer than the longest" in refused("captions", project, "--shortest", "4", "--longest", "2")
    assert "no version fr-FR" in refused("captions", project, "--to", "fr-FR")
    assert "cannot be had at once" in refused("captions", project, "--usual", "--lines", "1")
    assert run("captions", project, "--usual").stdout == usual


def test_a_command_that_is_told_to_end_says_so() -> None:
    code = "import signal, sys; from zweistimme.cli import main as m; sys.argv = ['zweistimme', 'status', 'x']; "
    code += "m._commands = lambda: {'status'}; m.app = lambda *a, **k: signal.raise_signal(signal.SIGTERM); m.main()"
    ended = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=False)
    assert ended.returncode == 130
    assert "Stopped. Everything finished so far is kept" in ended.stderr


def test_looking_needs_no_lock(project: Path) -> None:
    with Document.open(project):
        for command in (("status", project), ("versions", project), ("voices", project), ("estimate", project)):
            assert run(*command).returncode == 0, command
        assert "open" in refused("undo", project)


def test_a_version_has_its_words_from_another_of_its_language(tmp_path: Path) -> None:
    project = tmp_path / "p"
    with Document.create(project, edits.add_version(project_with([(1.0, 2.0, "Good morning.")]), "es-ES")):
        pass
    run("line", project, "1", "--to", "es-ES", "--text", "Buenos días.")
    assert "from es-ES" in run("versions", project, "--add", "es-MX", "--basis", "es-MX=es-ES").stdout
    run("translate", project, "--to", "es-MX")
    assert "Buenos días." in run("lines", project, "--to", "es-MX").stdout
    assert "names no basis" in refused("versions", project, "--basis", "es-MX")
    assert "same language" in refused("versions", project, "--basis", "es-MX=de-DE")
