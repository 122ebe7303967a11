"""Titles, names and texts from outside are plain text on a terminal and in the window, whatever they hold."""

from __future__ import annotations

import subprocess
import sys
from dataclasses import replace
from pathlib import Path

import pytest
from pytestqt.qtbot import QtBot

from helpers import project_with
from zweistimme.store.document import Document
from zweistimme.window.clipped_text import ClippedText, as_plain

ODD = "[/foo] \x1b]0;mine\x07 [bold]Tide[/bold] :smile: \u202eabc\x9b31m"


@pytest.mark.parametrize("command", ["status", "lines", "versions", "check", "people"])
def test_a_title_and_words_that_a_terminal_would_obey(command: str, tmp_path: Path) -> None:
    project = project_with([(1.0, 2.0, f"So {ODD}")], takes=[0.8])
    version = project.versions["de-DE"]
    lines = {key: replace(line, text=f"Also {ODD}") for key, line in version.lines.items()}
    person = replace(project.speakers["p1"], name=ODD)
    project = replace(project, title=ODD, speakers={"p1": person}, versions={"de-DE": replace(version, lines=lines)})
    Document.create(tmp_path / "p", project).close()
    code = f"import sys; sys.argv = ['zweistimme', {command!r}, {str(tmp_path / 'p')!r}]; "
    code += "from zweistimme.cli.main import main; main()"
    ended = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=False)
    assert ended.returncode in (0, 1, 2), ended.stderr
    assert "defect" not in ended.stderr
    assert not {"\x1b", "\x07", "\x9b", "\u202e"} & set(ended.stdout + ended.stderr)
    if command in ("status", "lines"):
        assert "[/foo]" in ended.stdout
        assert ":smile:" in ended.stdout


def test_a_tooltip_reads_no_mark_up(qtbot: QtBot) -> None:
    assert as_plain("Ebbe & Flut") == "Ebbe & Flut"
    assert as_plain("<b>Ebbe</b>") == "<span>&lt;b&gt;Ebbe&lt;/b&gt;</span>"
    label = ClippedText()
    qtbot.addWidget(label)
    label.setText("<img src='x'> " * 40)
    label.resize(60, 20)
    assert "<img" not in label.toolTip()
