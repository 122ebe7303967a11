"""What reading refuses, writing refuses; what is broken opens as far as it can, and is kept as it was."""

from __future__ import annotations

import random
import sqlite3
from contextlib import closing
from dataclasses import replace
from pathlib import Path

import pytest

from edit_storm import storm
from helpers import project_with
from zweistimme.project.delivery_edits import set_mix
from zweistimme.project.edits import pin_line, set_cuts, set_programme
from zweistimme.project.errors import EditError, StoreError
from zweistimme.project.findings import Finding
from zweistimme.project.line_edits import set_line_text
from zweistimme.project.mix_settings import MixSettings
from zweistimme.project.model import Pin, Project, Segment, Speaker
from zweistimme.project.programme import Programme, SoundTrack
from zweistimme.project.reshape import merge_segments, recut
from zweistimme.project.segmentation import CutLimits
from zweistimme.project.words import spread
from zweistimme.sentences import sentence_of
from zweistimme.store.document import NOT_UNDONE, Change, Document
from zweistimme.store.names import DATABASE
from zweistimme.store.read_only import project_in
from zweistimme.store.run_log import read_runs

SOUND = SoundTrack("a.wav", 9, "c", 60_000_000, 48_000, 1)


@pytest.fixture
def folder(tmp_path: Path) -> Path:
    folder = tmp_path / "p"
    Document.create(folder, project_with([(1.0, 2.0, "So."), (3.0, 4.0, "No.")], takes=[0.8, 0.9])).close()
    return folder


def _put(folder: Path, kind: str, key: str, body: str) -> None:
    with closing(sqlite3.connect(folder / DATABASE)) as there, there:
        there.execute("UPDATE record SET body = ? WHERE kind = ? AND key = ?", (body, kind, key))


@pytest.mark.parametrize("seed", range(10))
def test_nothing_is_written_that_is_not_read(seed: int, tmp_path: Path) -> None:
    found = storm(tmp_path / "p", 500, seed)
    assert found["wrong"] == []
    assert found["made"] > 100
    assert found["refused"] > 50  # hands go beyond every bound


def test_lines_that_overlap_are_merged_and_cut_anew_and_opened_again(tmp_path: Path) -> None:
    random_ = random.Random(5)
    for number in range(60):
        edges = [sorted(random_.sample(range(0, 12_000_000, 10_000), 2)) for _ in range(2)]
        texts = ["the sea goes. is the", "the high goes. it"]
        parts = tuple(
            Segment(f"s{k}", "p1", a, b, text, spread(text.split(), a, b))
            for k, ((a, b), text) in enumerate(zip(edges, texts, strict=True), 1)
        )
        ordered = tuple(sorted(parts, key=lambda s: (s.start_us, s.id)))
        project = Project("Two", "en-GB", None, {"p1": Speaker("p1", "One")}, ordered)
        merged = merge_segments(project, ["s1", "s2"])
        with Document.create(tmp_path / str(number), merged) as document:
            cut = document.apply("Cut", lambda p: recut(p, [s.id for s in p.segments], CutLimits()))
        with Document.open(tmp_path / str(number)) as document:
            assert document.repairs == ()
            assert document.project.segments == cut.segments
        for segment in cut.segments:
            words = segment.words
            assert all(segment.start_us <= word.start_us <= word.end_us <= segment.end_us for word in words)
        assert sorted(" ".join(s.text for s in cut.segments).split()) == sorted(" ".join(texts).split())


def test_an_edit_that_could_not_be_read_again_is_refused_and_changes_nothing(folder: Path) -> None:
    with Document.open(folder) as document:
        before = document.project
        for edit in (
            lambda p: pin_line(replace(p, programme=None), "de-DE", "s1", Pin(10**13)),
            lambda p: set_line_text(p, "de-DE", "s1", "a\udc80"),
            lambda p: replace(p, segments=(replace(p.segments[0], end_us=0), *p.segments[1:])),
        ):
            with pytest.raises(EditError, match="could not be read again"):
                document.apply("Odd", edit)
            assert document.project is before
        assert document.undo_label() is None


def test_rows_that_break_a_rule_are_put_right_and_said_and_kept_as_they_were(folder: Path) -> None:
    broken = '{"id":"s2","speaker_id":"p1","start_us":9000000,"end_us":4000000,"text":"No."}'
    _put(folder, "segment", "s2", broken)
    _put(folder, "line", "de-DE/s1", '{"segment_id":"s1","text":"Also.","made_from":"","pin":{"start_us":1e30}}')
    _put(folder, "take", "de-DE/t0", '{"id":"t0"}')
    assert [s.start_us for s in project_in(folder).segments] == [1_000_000, 4_000_000]  # looked at, not touched
    with Document.open(folder) as document:
        assert {f.code for f in document.repairs} == {"row-repaired", "row-set-aside"}
        assert all("{" not in sentence_of(finding) for finding in document.repairs)
        assert (document.project.segments[1].start_us, document.project.segments[1].end_us) == (4_000_000, 9_000_000)
        line = document.project.versions["de-DE"].lines["s1"]
        assert (line.text, line.pin) == ("Also.", None)
        assert "t0" not in document.project.versions["de-DE"].takes
    assert read_runs(folder)[0].said
    with closing(sqlite3.connect(folder / DATABASE)) as there:
        aside = {(kind, key): body for kind, key, body in there.execute("SELECT kind, key, body FROM aside")}
    assert aside["segment", "s2"] == broken
    assert aside["take", "de-DE/t0"] == '{"id":"t0"}'
    with Document.open(folder) as document:
        assert document.repairs == ()


def test_facts_are_nobodys_to_undo(folder: Path) -> None:
    with Document.open(folder) as document:
        document.apply(NOT_UNDONE, lambda p: set_programme(p, Programme(SOUND)))
        document.apply("Mix", lambda p: set_mix(p, MixSettings(-16.0)))
        document.apply(NOT_UNDONE, lambda p: set_cuts(p, SOUND, (5, 9)))
        moved = replace(SOUND, path="/elsewhere/a.wav")
        noted = (Finding("not-utf-8", {"encoding": "x"}),)
        document.apply(NOT_UNDONE, lambda p: set_programme(p, replace(p.programme, sound=moved, notes=noted)))
        facts = document.project.programme
        for step in (document.undo, document.redo):
            step()
            assert document.project.programme == facts
        document.undo()
        assert document.project.mix.loudness_lufs != -16.0
    with Document.open(folder) as document:
        assert document.project.programme == facts


def test_a_listener_that_fails_keeps_nobody_from_hearing(folder: Path) -> None:
    heard: list[str] = []

    def fails(_change: Change) -> None:
        raise ValueError("no")

    with Document.open(folder) as document:
        document.listen(fails)
        document.listen(lambda change: heard.append(change.label))
        with pytest.raises(ValueError, match="no"):
            document.apply("Write", lambda p: set_line_text(p, "de-DE", "s1", "Ach."))
        assert heard == ["Write"]
        assert document.project.versions["de-DE"].lines["s1"].text == "Ach."


@pytest.mark.parametrize(
    "statement",
    [
        "CREATE TRIGGER t AFTER UPDATE ON record BEGIN DELETE FROM record WHERE kind = 'line'; END",
        "CREATE VIEW v AS SELECT * FROM record",
        "CREATE TABLE more(x)",
        "CREATE INDEX i ON record(abs(key))",
        "ALTER TABLE entry ADD COLUMN more",
    ],
)
def test_a_database_with_anything_but_our_tables_is_not_opened(statement: str, folder: Path) -> None:
    with closing(sqlite3.connect(folder / DATABASE)) as there, there:
        there.execute(statement)
    for open_ in (Document.open, project_in):
        with pytest.raises(StoreError, match="which no project of ours has"):
            open_(folder)
