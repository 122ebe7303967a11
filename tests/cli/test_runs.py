"""What was run on a project, on the command line."""

from __future__ import annotations

import json
from pathlib import Path

import pytest

from cli.test_cli import refused, run
from helpers import project_with
from zweistimme.project.edits import add_version
from zweistimme.project.model import Project
from zweistimme.store.document import Document
from zweistimme.store.run_log import read_runs


@pytest.fixture
def project(tmp_path: Path) -> Path:
    with Document.create(tmp_path / "p", project_with([(1.0, 2.0, "So.")], takes=[1.0])):
        return tmp_path / "p"


def test_runs_of_commands_stand_in_the_log(project: Path) -> None:
    assert "Nothing was run" in run("runs", project).stdout
    run("fit", project)
    (entry,) = read_runs(project)
    assert entry.state == "done"
    assert entry.took_s is not None
    assert f"{entry.name}: done" in run("runs", project).stdout
    assert json.loads(run("runs", project, "--json").stdout)[0]["state"] == "done"


def test_a_run_that_failed_says_why(project: Path, tmp_path: Path) -> None:
    (tmp_path / "file").write_text("x")
    said = refused("handover", project, "--out", tmp_path / "file" / "out")
    (entry,) = read_runs(project)
    assert entry.state == "failed"
    assert entry.why is not None
    shown = run("runs", project).stdout
    assert "failed" in shown
    assert said.splitlines()[-1].split(".")[0][-20:] in shown.replace("\n", " ")


def test_where_there_is_no_project_there_are_no_runs(tmp_path: Path) -> None:
    assert "There is no Zweistimme project" in refused("runs", tmp_path)


def test_without_a_transcript_every_step_says_so(tmp_path: Path) -> None:
    with Document.create(tmp_path / "p", add_version(Project("Tide", "en-GB"), "de-DE")):
        pass
    for command in ("translate", "cast", "voice"):
        assert "There is no transcript yet" in refused(command, tmp_path / "p", code=2)
