"""The commands of the transcript: made in every way, written, cut anew, searched; wrong input is told plainly."""

from __future__ import annotations

from pathlib import Path

import pytest

from cli.test_cli import refused, run
from zweistimme.demo.script import LINES, MEDIA, data_file
from zweistimme.store.document import Document


@pytest.fixture(scope="module")
def project(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A project with the demo's programme and nothing else."""
    folder = tmp_path_factory.mktemp("transcript") / "p"
    answer = run("new", folder, data_file(MEDIA), "--from", "en-GB", "--to", "de-DE")
    assert answer.returncode == 0, answer.stderr
    return folder


def texts(folder: Path) -> list[str]:
    with Document.open(folder) as document:
        return [segment.text for segment in document.project.segments]


def test_from_a_script_to_a_file_and_back(project: Path, tmp_path: Path) -> None:
    script = tmp_path / "script.md"
    script.write_text("# The Tide Clock\n\n" + "\n\n".join(f"**{line.speaker}:** {line.text}" for line in LINES))
    answer = run("transcribe", project, "--script", script, "--again")
    assert answer.returncode == 0, answer.stderr
    assert "1 heading" in answer.stderr
    assert texts(project) == [line.text for line in LINES]
    for name in ("out.json", "out.ttml", "out.ctm", "out.rttm", "out.csv"):
        assert run("transcript", project, tmp_path / name).returncode == 0
    answer = run("transcribe", project, "--captions", tmp_path / "out.ctm", "--again", "--pause", "0.5")
    assert answer.returncode == 0, answer.stderr
    assert "words were cut into" in answer.stderr
    answer = run("transcribe", project, "--captions", tmp_path / "out.json", "--again")
    assert answer.returncode == 0, answer.stderr
    assert texts(project) == [line.text for line in LINES]


def test_finding_speech_and_cutting_and_replacing(project: Path, tmp_path: Path) -> None:
    answer = run("transcribe", project, "--find-speech", "--speakers", "3", "--again")
    assert "speech by 3 speakers" in answer.stderr
    assert set(texts(project)) == {""}
    rough = tmp_path / "a.csv"
    rough.write_text("start,end,speaker,text\n1,9,Mira,The clock turns. The clock stops and the clock rests.\n")
    assert run("transcribe", project, "--captions", rough, "--again").returncode == 0
    assert "1 segment became 2" in run("recut", project, "--longest", "6").stdout
    seen = run("replace", project, "clock", "wheel", "--same-case")
    assert "3 places in 2 texts found" in seen.stdout
    assert texts(project)[0] == "The clock turns."
    assert "3 places in 2 texts replaced" in run("replace", project, "clock", "wheel", "--apply").stdout
    assert texts(project)[0] == "The wheel turns."


def test_wrong_input_is_told_plainly(project: Path, tmp_path: Path) -> None:
    broken = tmp_path / "broken.srt"
    broken.write_text("1\n00:00:01 -> now\n--> x\n")
    empty = tmp_path / "empty.ttml"
    empty.write_text("<tt xmlns='http://www.w3.org/ns/ttml'/>")
    assert "line 3" in refused("transcribe", project, "--captions", broken, "--again")
    assert "holds no words" in refused("transcribe", project, "--captions", empty, "--again")
    assert "There is no file" in refused("transcribe", project, "--script", tmp_path / "none.docx", "--again")
    assert "Give one of" in refused("transcribe", project, "--find-speech", "--script", broken, "--again")
    assert "goes with a CTM file" in refused("transcribe", project, "--turns", broken, "--again")
    assert "longer than the shortest" in refused("recut", project, "--shortest", "5", "--longest", "2")
    assert "No segment lies" in refused("recut", project, "--start", "500")
    assert "no kind of transcript" in refused("transcript", project, tmp_path / "out.doc")
    assert "There is no folder" in refused("transcript", project, tmp_path / "nowhere" / "out.srt")
    assert "no version fr-FR" in refused("replace", project, "a", "b", "--to", "fr-FR")
    assert "nothing to look for" in refused("replace", project, " ", "b")
    assert not (tmp_path / "out.doc").exists()
