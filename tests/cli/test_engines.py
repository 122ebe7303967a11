"""Engines on the command line: connecting, testing, choosing, and serving, as a person does it."""

from __future__ import annotations

import os
import re
import signal
import subprocess
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import pytest

from cli.test_cli import COMMAND, refused, run
from helpers import project_with, with_pitches
from zweistimme.demo.script import MEDIA, data_file
from zweistimme.engines.secrets import variable_for
from zweistimme.project.cast_edits import cast_voice
from zweistimme.project.edits import add_version, choose_engine, remove_version
from zweistimme.store.document import Document

EXAMPLE = Path(__file__).parents[2] / "docs" / "examples" / "little-engine" / "little.toml"
ROWS = [(1.0, 3.0, "Good morning."), (4.0, 6.0, "Please wait a moment."), (7.0, 9.0, "Where are we going?")]


@contextmanager
def served(*arguments: str) -> Iterator[str]:
    """``zweistimme serve`` in a process of its own; its address."""
    command = [*COMMAND, "serve", "--port", "0", *arguments]
    process = subprocess.Popen(command, stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True)
    assert process.stdout is not None
    try:
        line = process.stdout.readline()
        found = re.search(r"http://\S+", line)
        assert found, line
        yield found.group()
    finally:
        process.send_signal(signal.SIGINT)
        process.communicate(timeout=20)


@pytest.fixture
def project(tmp_path: Path) -> Path:
    with Document.create(tmp_path / "p", with_pitches(project_with(ROWS), {"p1": 200.0})):
        return tmp_path / "p"


def test_connecting_testing_and_removing(tmp_path: Path) -> None:
    assert run("engines").stdout.split() == ["bundled", "bundled"]
    added = run("engines", "add", "little", "--program", EXAMPLE).stdout
    assert "little 1 · can recognise, translate, speak" in added
    assert "Voices: Hum (neutral)" in added
    assert "Price: free" in added
    assert "Recognises: English (United Kingdom), German (Germany), Spanish (Spain)" in run("engines", "test").stdout
    away = run("engines", "add", "quay", "--service", "http://127.0.0.1:9")
    assert "quay: nothing answers at http://127.0.0.1:9" in away.stdout.replace("\n", " ")
    assert away.returncode == 1
    assert "quay" in run("engines").stdout
    assert run("engines", "test", "quay").returncode == 1
    assert "little" in run("engines").stdout
    assert run("engines", "remove", "little").returncode == 0
    assert "little" not in run("engines").stdout


def test_wrong_words_about_engines_are_answered_in_a_sentence(tmp_path: Path, project: Path) -> None:
    assert "one of --service URL, --described FILE" in refused("engines", "add", "x")
    assert "no address of a service" in refused("engines", "add", "x", "--service", "quay.example")
    assert "no “/” or “=”" in refused("engines", "add", "a/b", "--service", "http://127.0.0.1:9")
    assert "no connection called x" in refused("engines", "remove", "x")
    assert "no engine called x" in refused("engines", "test", "x")
    assert "no engine called x" in refused("engines", "token", "x")
    assert "cannot be read" in refused("serve", "--token-file", tmp_path / "none")
    assert "no fault “rain”" in refused("serve", "--faults", "rain")
    assert "so a token is needed" in refused("serve", "--address", "0.0.0.0")
    assert "is no role of an engine" in refused(
        "new", tmp_path / "n", data_file(MEDIA), "--from", "en-GB", "--engine", "sing=bundled"
    )
    assert "limit            429" in run("serve", "--faults", "list").stdout


def test_a_service_with_a_token_its_price_and_its_faults(tmp_path: Path, project: Path) -> None:
    token = tmp_path / "token"
    token.write_text("saltmarsh\n")
    with served("--token-file", str(token)) as address:
        refusal = run("engines", "add", "quay", "--service", address).stdout.replace("\n", " ")
        assert "quay does not accept the token" in refusal
        assert variable_for(address) in refusal
        os.environ[variable_for(address)] = "saltmarsh"
        try:
            assert "can recognise, translate, speak, imitate" in run("engines", "test", "quay").stdout
        finally:
            del os.environ[variable_for(address)]
        no_store = refused("engines", "add", "quay", "--service", address, "--token-file", token)
        assert "no secret store" in no_store


PARTLY = """
import sys
lines = sys.stdin.read().splitlines()
if any("Please wait" in line for line in lines):
    sys.exit("I do not know that.")
print("\\n".join(line.upper() for line in lines))
"""


def test_what_is_done_in_part_has_an_exit_code_of_its_own(tmp_path: Path, project: Path) -> None:
    (tmp_path / "partly.py").write_text(PARTLY)
    (tmp_path / "partly.toml").write_text(
        'name = "partly"\nversion = "1"\n[translate]\n'
        'command = ["python3", "{folder}/partly.py"]\npairs = [["en", "de"]]\n'
    )
    assert run("engines", "add", "partly", "--program", tmp_path / "partly.toml").returncode == 0
    with Document.open(project) as document:
        document.apply("Ask it", lambda p: choose_engine(p, "translate", "partly"))
        document.apply("Anew", lambda p: add_version(remove_version(p, "de-DE"), "de-DE"))
    answer = run("translate", project)
    assert answer.returncode == 4, answer
    assert "1 of 3 lines could not be translated" in answer.stderr.replace("\n", " ")
    with Document.open(project) as document:
        assert len(document.project.versions["de-DE"].lines) == 2


def test_lines_that_fail_are_named_on_the_command_line(project: Path) -> None:
    assert run("translate", project).returncode == 0
    with served("--faults", "no-voice") as address:
        run("engines", "add", "quay", "--service", address)
        assert run("cast", project, "--voice", "Ada=quay/alva").returncode == 0
        answer = run("voice", project)
        assert answer.returncode == 1
        assert "line 1 at 0:01.0: quay refused" in answer.stderr
        assert "3 of 3 takes could not be made" in answer.stderr.replace("\n", " ")
    with served() as address:
        run("engines", "add", "quay", "--service", address)
        assert "quay: 3 requests" in run("estimate", project).stdout
        assert run("voice", project).returncode == 0
    with Document.open(project) as document:
        assert len(document.project.versions["de-DE"].takes) == 3


def test_voices_of_a_related_language_stand_in_and_can_be_refused(tmp_path: Path) -> None:
    folder = tmp_path / "g"
    with Document.create(folder, project_with(ROWS, tag="gl-ES")) as document:
        document.apply("Bare", lambda p: cast_voice(with_pitches(p, {"p1": 200.0}), "gl-ES", "p1", None))
    refusal = run("cast", folder, "--no-substitutes")
    assert "Without one: " in refusal.stderr
    assert "no voice" in refusal.stdout
    allowed = run("cast", folder, "--substitutes")
    assert "voices for Spanish (Spain) stand in" in allowed.stderr
    assert "Ada: alva" in allowed.stdout
    again = run("cast", folder, "--no-substitutes").stdout
    assert "no voice" in again
    assert "alva" not in again
    run("cast", folder, "--substitutes", "--voice", "Ada=alva")
    assert "the voice that was chosen does not speak Galician" in run("cast", folder, "--no-substitutes").stderr
    assert "Ada: alva" in run("cast", folder, "--substitutes").stdout
    assert run("voice", folder).returncode == 0
