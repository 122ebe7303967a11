"""The document: what is stored, what undo brings back, who may open it."""

from __future__ import annotations

import json
import sqlite3
import subprocess
import sys
from contextlib import suppress
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from helpers import project_with
from zweistimme.project import cast_edits, delivery_edits, edits, line_edits, reshape, transcript
from zweistimme.project.errors import EditError, NeverFinished, StoreError
from zweistimme.project.findings import AS_WRITTEN, Finding
from zweistimme.project.model import Delivery, Pin, Placement, Project
from zweistimme.project.terms import Term
from zweistimme.project.wordings import LineState, Offer, Origin, OriginKind
from zweistimme.sentences import sentences_of
from zweistimme.store.clips import ClipStore
from zweistimme.store.document import NOT_UNDONE, Change, Document
from zweistimme.store.names import DATABASE
from zweistimme.store.read_only import project_in
from zweistimme.store.records import EMPTY, difference, patched
from zweistimme.store.upgrades import SCHEMA, UPGRADES

ROWS = [(1.0, 3.0, "The sea is high."), (4.0, 5.0, "Is it?"), (6.0, 8.0, "It is.")]


@pytest.fixture
def folder(tmp_path: Path) -> Path:
    made = tmp_path / "project"
    Document.create(made, project_with(ROWS, takes=[2, 1, 2])).close()
    return made


def test_a_project_comes_back_as_it_was(folder: Path) -> None:
    with Document.open(folder) as document:
        assert document.project == project_with(ROWS, takes=[2, 1, 2])


def test_undo_and_redo_survive_closing(folder: Path) -> None:
    with Document.open(folder) as document:
        document.apply("One", lambda p: line_edits.set_line_text(p, "de-DE", "s1", "eins"))
        document.apply("Two", lambda p: line_edits.set_line_text(p, "de-DE", "s1", "zwei"))
        assert document.undo() == "Two"
    with Document.open(folder) as document:
        assert document.project.versions["de-DE"].lines["s1"].text == "eins"
        assert (document.undo_label(), document.redo_label()) == ("One", "Two")
        assert document.redo() == "Two"
        assert document.project.versions["de-DE"].lines["s1"].text == "zwei"
        assert document.redo() is None
        assert [document.undo(), document.undo(), document.undo()] == ["Two", "One", None]
        assert document.project == project_with(ROWS, takes=[2, 1, 2])


def test_one_gesture_is_undone_as_one(folder: Path) -> None:
    with Document.open(folder) as document:
        for number in range(5):
            text = f"so {number}"
            document.apply("Write", lambda p, t=text: line_edits.set_line_text(p, "de-DE", "s1", t), gesture="typing")
        document.apply("Other", lambda p: line_edits.set_line_text(p, "de-DE", "s2", "anders"))
        document.undo()
        assert document.undo() == "Write"
        assert document.project.versions["de-DE"].lines["s1"].text == "Zeile 1"
        document.redo()
        assert document.project.versions["de-DE"].lines["s1"].text == "so 4"


def test_a_new_edit_ends_what_could_be_redone(folder: Path) -> None:
    with Document.open(folder) as document:
        document.apply("One", lambda p: line_edits.set_line_text(p, "de-DE", "s1", "eins"))
        document.undo()
        document.apply("Two", lambda p: line_edits.set_line_text(p, "de-DE", "s2", "zwei"))
        assert document.redo() is None


def test_a_refused_edit_changes_nothing(folder: Path) -> None:
    with Document.open(folder) as document:
        before = document.project
        with pytest.raises(EditError):
            document.apply("Bad", lambda p: transcript.retime_segment(p, "s1", 5, 1))
        assert document.project is before
        assert document.undo_label() is None


def test_listeners_hear_each_change_once_and_unchanged_parts_keep_identity(folder: Path) -> None:
    heard: list[Change] = []
    with Document.open(folder) as document:
        stop = document.listen(heard.append)
        document.apply("Same", lambda p: p)
        document.apply("One", lambda p: line_edits.set_line_text(p, "de-DE", "s1", "eins"))
        document.undo()
        stop()
        document.redo()
    assert [change.label for change in heard] == ["One", "One"]
    assert heard[0].before.segments is heard[0].after.segments
    assert heard[1].after.segments is heard[1].before.segments


def test_a_second_process_is_told(folder: Path) -> None:
    code = (
        "import sys; from pathlib import Path; from zweistimme.store.document import Document\n"
        "try: Document.open(Path(sys.argv[1]))\n"
        "except Exception as e: print(type(e).__name__, e)"
    )
    with Document.open(folder):
        answer = subprocess.run([sys.executable, "-c", code, str(folder)], capture_output=True, text=True, check=True)
    assert answer.stdout.startswith("StoreError")
    assert "open already by process" in answer.stdout
    Document.open(folder).close()


def test_folders_that_are_no_projects(tmp_path: Path, folder: Path) -> None:
    with pytest.raises(StoreError, match="no Zweistimme project"):
        Document.open(tmp_path / "nothing")
    with pytest.raises(StoreError, match="not empty"):
        Document.create(folder, Project("x", "en-GB"))
    (folder / DATABASE).write_bytes(b"this is not a database at all" * 40)
    for extra in folder.glob(f"{DATABASE}-*"):
        extra.unlink()
    with pytest.raises(StoreError, match="not a readable project database"):
        Document.open(folder)


def test_a_project_cut_short_while_it_was_made_is_made_anew(tmp_path: Path) -> None:
    folder = tmp_path / "cut"
    folder.mkdir()
    (folder / DATABASE).touch()
    with pytest.raises(NeverFinished):
        Document.open(folder)
    with Document.create(folder, Project("x", "en-GB")) as document:
        assert document.project.title == "x"


def test_a_newer_project_is_refused(folder: Path) -> None:
    with sqlite3.connect(folder / DATABASE) as connection:
        connection.execute(f"PRAGMA user_version = {SCHEMA + 1}")
    connection.close()
    with pytest.raises(StoreError, match="newer Zweistimme"):
        Document.open(folder)


def test_an_older_project_is_brought_up(folder: Path) -> None:
    """Schema 1 knew no gestures: its history is kept all the same."""
    path = folder / DATABASE
    with sqlite3.connect(path) as connection:
        connection.execute("PRAGMA journal_mode = DELETE")
        rows = connection.execute("SELECT kind, key, body FROM record").fetchall()
    connection.close()
    for file in folder.glob(f"{DATABASE}*"):
        file.unlink()
    with sqlite3.connect(path) as connection:
        UPGRADES[0](connection)
        connection.executemany("INSERT INTO record VALUES(?, ?, ?)", rows)
        old = b'{"segment_id":"s1","take_id":"t0","start_us":5,"length_us":7,"tempo":1.0,"reason":"So.","made_from":""}'
        connection.execute("INSERT INTO record VALUES('placement', 'de-DE/s1', ?)", (old,))
        connection.execute("INSERT INTO entry(label, undone) VALUES('Long ago', 0)")
        connection.execute("PRAGMA user_version = 1")
    connection.close()
    looked_at = project_in(folder)  # which touches nothing
    with Document.open(folder) as document:
        assert looked_at == document.project
        placed = Placement("s1", "t0", 5, 7, 1.0, (Finding(AS_WRITTEN, {"text": "So."}),), "")
        made = cast_edits.settle_voice(project_with(ROWS, takes=[2, 1, 2]), "de-DE", "p1", True)
        assert document.project == edits.set_placements(made, "de-DE", [placed]), "whose voice it was nobody knows"
        assert sentences_of(document.project.versions["de-DE"].placements["s1"].why) == "So."
        assert document.undo_label() == "Long ago"


def test_lines_of_an_older_project_say_how_far_they_are(folder: Path) -> None:
    """Also those of its history: a hand's words are a hand's after undo."""
    old = {
        "s1": '{"segment_id":"s1","text":"Ja.","made_from":"","shorter":["J."],"by_hand":true}',
        "s2": '{"segment_id":"s2","text":"Ja.","made_from":"","shorter":["J."],"maker":{"engine":"quay"}}',
    }
    with sqlite3.connect(folder / DATABASE) as connection:
        for key, body in old.items():
            row = (body.encode(), f"de-DE/{key}")
            connection.execute("UPDATE record SET body = ? WHERE kind = 'line' AND key = ?", row)
        entry = connection.execute("INSERT INTO entry(label, undone) VALUES('Write a line', 0)").lastrowid
        connection.execute(
            "INSERT INTO change VALUES(?, 'line', 'de-DE/s2', ?, ?)", (entry, old["s1"].replace("s1", "s2"), old["s2"])
        )
        connection.execute("PRAGMA user_version = 7")
    connection.close()
    with Document.open(folder) as document:
        first, second = (document.project.versions["de-DE"].lines[key] for key in old)
        assert (first.state, first.origin) == (LineState.TRANSLATED, Origin(OriginKind.PERSON))
        assert (second.state, second.offers) == (LineState.INITIAL, (Offer("J.", Origin(OriginKind.ENGINE, "quay")),))
        document.undo()
        assert document.project.versions["de-DE"].lines["s2"].state is LineState.TRANSLATED


def test_terms_of_a_project_from_before_are_rows_of_their_own_in_the_history_too(folder: Path) -> None:
    with sqlite3.connect(folder / DATABASE) as connection:
        (body,) = connection.execute("SELECT body FROM record WHERE kind = 'project'").fetchone()
        before, after = (
            json.dumps({**json.loads(body), "terms": words}).encode() for words in ([], ["Varnholm", "Ida"])
        )
        connection.execute("UPDATE record SET body = ? WHERE kind = 'project'", (after,))
        entry = connection.execute("INSERT INTO entry(label, undone) VALUES('Names and terms', 0)").lastrowid
        connection.execute("INSERT INTO change VALUES(?, 'project', '', ?, ?)", (entry, before, after))
        connection.execute("PRAGMA user_version = 8")
    connection.close()
    with Document.open(folder) as document:
        assert list(document.project.terms.values()) == [Term("Varnholm", kept=True), Term("Ida", kept=True)]
        document.undo()
        assert document.project.terms == {}
        document.redo()
        assert len(document.project.terms) == 2


def test_a_version_is_taken_away_with_all_it_has_and_comes_back(folder: Path) -> None:
    with Document.open(folder) as document:
        before = document.project
        document.apply("Take a version away", lambda project: edits.remove_version(project, "de-DE"))
        assert not document.project.versions
        document.undo()
        assert document.project == before
        document.redo()
    with Document.open(folder) as document:
        assert not document.project.versions
        document.undo()
        assert document.project == before


def test_a_damaged_row_is_named(folder: Path) -> None:
    with sqlite3.connect(folder / DATABASE) as connection:
        connection.execute("UPDATE record SET body = '{\"id\": 5}' WHERE kind = 'segment' AND key = 's2'")
    connection.close()
    with Document.open(folder) as document:
        (said,) = document.repairs
        assert (said.code, said.figures["key"]) == ("row-set-aside", "s2")
        assert all(segment.id != "s2" for segment in document.project.segments)


def test_what_was_handed_over_is_no_step_to_undo(folder: Path) -> None:
    with Document.open(folder) as document:
        document.apply(NOT_UNDONE, lambda p: delivery_edits.set_delivery(p, "de-DE", Delivery("/out", ("a",), "x")))
        assert document.undo_label() is None
    with Document.open(folder) as document:
        assert document.project.versions["de-DE"].delivery == Delivery("/out", ("a",), "x")


EDITS = st.lists(
    st.one_of(
        st.tuples(st.just("text"), st.sampled_from(["s1", "s2", "s3"]), st.text(max_size=8)),
        st.tuples(st.just("pin"), st.sampled_from(["s1", "s2", "s3"]), st.integers(0, 9)),
        st.tuples(st.just("source"), st.sampled_from(["s1", "s2", "s3"]), st.text(max_size=8)),
        st.tuples(st.just("move"), st.sampled_from(["s1", "s2", "s3"]), st.integers(0, 9)),
    ),
    max_size=12,
)


def _edited(project: Project, steps: list[tuple[str, str, str | int]]) -> Project:
    for kind, segment, value in steps:
        if kind == "text":
            project = line_edits.set_line_text(project, "de-DE", segment, str(value))
        elif kind == "pin":
            project = edits.pin_line(project, "de-DE", segment, Pin(int(value) * 1000))
        elif kind == "source":
            project = transcript.set_segment_text(project, segment, str(value))
        else:
            start = int(value) * 500_000
            project = transcript.retime_segment(project, segment, start, start + 700_000)
    return project


@given(EDITS, EDITS)
@settings(max_examples=60, suppress_health_check=[HealthCheck.too_slow])
def test_rows_carry_any_change_both_ways(first: list, second: list) -> None:
    before = _edited(project_with(ROWS, takes=[2, 1, 2]), first)
    after = _edited(before, second)
    rows = difference(before, after)
    assert patched(before, {(r.kind, r.key): r.after for r in rows}) == after
    assert patched(after, {(r.kind, r.key): r.before for r in rows}) == before
    everything = difference(EMPTY, after)
    assert patched(EMPTY, {(r.kind, r.key): r.after for r in everything}) == after


CUTS = st.lists(st.tuples(st.sampled_from(["split", "merge", "delete", "text"]), st.integers(0, 5)), max_size=5)


@given(CUTS, CUTS, st.booleans())
@settings(max_examples=80, suppress_health_check=[HealthCheck.too_slow])
def test_what_rows_know_of_their_changes_finds_the_same_as_looking_through_all(
    first: list, second: list, looked_between: bool
) -> None:
    project = project_with([(k, k + 0.8, f"One two three, line {k}.") for k in range(4)], takes=[1.0] * 4)
    loaded = patched(EMPTY, {(r.kind, r.key): r.after for r in difference(EMPTY, project)})
    assert loaded == project
    before = _cut(loaded, first)
    after = _cut(_cut(before, second[:2]), second[2:]) if looked_between else _cut(before, second)
    plain = replace(
        after,
        versions={
            tag: replace(one, lines=dict(one.lines), takes=dict(one.takes), placements=dict(one.placements))
            for tag, one in after.versions.items()
        },
    )
    assert plain == after
    rows, wanted = difference(before, after), difference(before, plain)
    assert {(r.kind, r.key): r for r in rows} == {(r.kind, r.key): r for r in wanted}
    assert len(rows) == len(wanted)


def _cut(project: Project, steps: list[tuple[str, int]]) -> Project:
    for kind, place in steps:
        here = project.segments[place % len(project.segments)]
        with suppress(EditError):  # what cannot be cut or joined stays
            if kind == "split":
                project = reshape.split_before(project, here.id, 2)
            elif kind == "merge":
                project = reshape.merge_segments(project, [here.id, reshape.next_of_speaker(project, here.id).id])
            elif kind == "delete" and len(project.segments) > 1:
                project = transcript.delete_segments(project, [here.id])
            else:
                project = line_edits.set_line_text(project, "de-DE", here.id, f"Zeile {place}")
    return project


def test_clips_are_kept_once_and_exactly(tmp_path: Path) -> None:
    store = ClipStore(tmp_path / "clips")
    samples = np.sin(np.arange(4800) / 20).astype(np.float32) * 0.5
    name = store.put(samples)
    assert store.put(samples.copy()) == name
    assert len(list((tmp_path / "clips").rglob("*.flac"))) == 1
    assert np.abs(store.get(name) - samples).max() < 2**-23
    store.path(name).write_bytes(b"broken")
    with pytest.raises(StoreError, match="missing or damaged"):
        store.get(name)
    with pytest.raises(StoreError, match="not empty"):
        store.put(np.zeros(0, dtype=np.float32))


def test_a_difference_finds_what_was_changed_put_in_and_taken_out_anywhere() -> None:
    project = project_with([(k, k + 0.5, f"Line {k}.") for k in range(9)])
    version = project.versions["de-DE"]
    keys = list(version.lines)
    for gone, changed, moved in (([], [], False), ([0], [], False), ([4], [6], False), ([8], [0], True)):
        lines = {key: line for place, (key, line) in enumerate(version.lines.items()) if place not in gone}
        for place in changed:
            lines[keys[place]] = replace(lines[keys[place]], text="Anders.")
        if moved:
            lines = {keys[3]: lines.pop(keys[3]), **lines}
        after = replace(project, versions={"de-DE": replace(version, lines=lines)})
        rows = difference(project, after)
        assert {row.key for row in rows} == {f"de-DE/{keys[place]}" for place in (*gone, *changed)}
        patch = {(row.kind, row.key): row.after for row in rows}
        assert patched(project, patch).versions["de-DE"].lines == lines
