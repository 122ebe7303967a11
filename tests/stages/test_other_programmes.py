"""Transcribing what is nothing like the demo: a German weather report that is in nobody's book."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import pytest

from helpers import spoken_programme, work_on
from zweistimme.formats.prose import read_prose
from zweistimme.formats.transcripts import read_transcript, written_transcript
from zweistimme.project.model import Project
from zweistimme.project.words import spoken_words
from zweistimme.stages.advice import listen
from zweistimme.stages.bring_in import bring_in
from zweistimme.stages.intake import Intake
from zweistimme.stages.transcribe import align_script, find_speech, transcript_from_file
from zweistimme.store.document import Document

LINES = (
    "Guten Abend, hier spricht der Wetterdienst.",
    "Über Nacht zieht ein Sturm von Westen auf.",
    "Die Fähren bleiben im Hafen.",
    "Morgen wird es wieder ruhig, sagt die Station.",
)
NEVER = "Das sagt niemand in dieser Sendung."


def brought_in(tmp_path: Path, voices: tuple[str, str], tag: str = "de-DE") -> tuple[Document, list[str]]:
    """The report said by two voices in turn, and what was said of it on bringing it in."""
    lines = [(voices[k % 2], text) for k, text in enumerate(LINES)]
    said: list[str] = []
    document = Document.create(tmp_path / "project", Project("Wetter", tag))
    bring_in(work_on(document, said), Intake(spoken_programme(tmp_path / "report.wav", lines, "de-DE")))
    return document, said


@pytest.fixture
def report(tmp_path: Path) -> Iterator[Document]:
    document, said = brought_in(tmp_path, ("brandt", "cosma"))
    assert said == []
    with document:
        yield document


def test_two_people_are_told_apart_in_twelve_seconds(report: Document) -> None:
    find_speech(work_on(report))
    owners = [segment.speaker_id for segment in report.project.segments]
    assert owners == ["p1", "p2", "p1", "p2"]
    assert [one.name for one in report.project.speakers.values()] == ["Speaker A", "Speaker B"]


def test_fewer_people_than_were_said_to_speak_are_told(tmp_path: Path) -> None:
    document, _ = brought_in(tmp_path, ("hale", "hale"))
    with document:
        said: list[str] = []
        find_speech(work_on(document, said), 2)
        assert "by 1 speaker." in said[0]
        assert said[1].startswith("2 people were said to speak; their voices are too much alike.")


def test_another_language_than_was_said_is_heard(tmp_path: Path) -> None:
    document, said = brought_in(tmp_path, ("hale", "edda"), "en-GB")
    with document:
        listen(work_on(document, said))
    assert said == [
        "The speech sounds like German (Germany), not English (United Kingdom). Check the language of the programme."
    ]


def test_a_script_in_markdown_finds_its_places_and_says_what_is_not_heard(report: Document, tmp_path: Path) -> None:
    script = tmp_path / "wetter.md"
    names = ("Holm", "Rike", "Holm", "Rike", "Rike")
    lines = [f"**{name}:** {text}" for name, text in zip(names, (*LINES, NEVER), strict=True)]
    script.write_text("# Wetter\n\n" + "\n\n".join(lines), encoding="utf-8")
    said: list[str] = []
    align_script(work_on(report, said), read_prose(script), script)
    project = report.project
    assert [s.text for s in project.segments] == list(LINES)
    assert [project.speakers[s.speaker_id].name for s in project.segments] == list(names[:4])
    assert any(NEVER in sentence and "not heard" in sentence for sentence in said)
    gaps = [b.start_us - a.end_us for a, b in zip(project.segments, project.segments[1:], strict=False)]
    assert all(400_000 < gap < 1_300_000 for gap in gaps), "the pauses of 0.7 s, and the silence around each line"


@pytest.mark.parametrize("kind", [".srt", ".vtt", ".ttml", ".csv", ".json"])
def test_what_was_aligned_goes_out_and_comes_back(report: Document, tmp_path: Path, kind: str) -> None:
    script = tmp_path / "wetter.txt"
    script.write_text("\n\n".join(LINES), encoding="utf-8")
    align_script(work_on(report), read_prose(script), script)
    before = report.project
    file = tmp_path / f"wetter{kind}"
    file.write_bytes(written_transcript(before, kind)[0])
    transcript_from_file(work_on(report), read_transcript(file), file)
    after = report.project
    assert [s.text for s in after.segments] == [s.text for s in before.segments]
    for now, was in zip(after.segments, before.segments, strict=True):
        assert abs(now.start_us - was.start_us) < 1000
        assert abs(now.end_us - was.end_us) < 1000
    if kind in (".vtt", ".json"):
        times = [[w.start_us for s in p.segments for w in spoken_words(s)] for p in (before, after)]
        assert all(abs(a - b) < 1000 for a, b in zip(*times, strict=True))
