"""Damaged and hostile projects: what is read is compared with its name, and nothing leads out of the folder."""

from __future__ import annotations

import json
import os
import sqlite3
import stat
import subprocess
import sys
from contextlib import closing
from dataclasses import replace
from pathlib import Path

import msgspec
import numpy as np
import pytest

from helpers import project_with, speechlike
from zweistimme.media.atomic import kept_array, remove_unfinished, written_array, written_text
from zweistimme.project.errors import StoreError
from zweistimme.project.model import Pin, Placement
from zweistimme.project.programme import Programme, SoundPick, SoundTrack
from zweistimme.project.terms import Term
from zweistimme.store.bounds import problem_of
from zweistimme.store.clips import ClipStore
from zweistimme.store.document import Document
from zweistimme.store.names import DATABASE
from zweistimme.store.read_only import project_in


def test_a_damaged_clip_is_refused_when_read_and_heals_when_it_is_made_again(tmp_path: Path) -> None:
    clips = ClipStore(tmp_path)
    first, other = clips.put(speechlike(0.5)), clips.put(speechlike(0.5, pitch=90.0))
    clips.path(first).write_bytes(clips.path(other).read_bytes())
    with pytest.raises(StoreError, match="missing or damaged"):
        clips.get(first)
    assert clips.put(speechlike(0.5)) == first
    clips.path(first).write_bytes(b"fLaC and nothing more")
    assert clips.put(speechlike(0.5)) == first
    assert len(clips.get(first)) == 24_000


@pytest.mark.parametrize("name", ["/etc/foo", "../../foo", "a" * 63, "A" * 64, ""])
def test_a_name_that_is_no_checksum_leads_nowhere(name: str, tmp_path: Path) -> None:
    with pytest.raises(StoreError, match="no name of a clip"):
        ClipStore(tmp_path).get(name)


def _problem_of(value: object) -> str:
    return problem_of(type(value))(value)


def test_rows_beyond_all_bounds_are_said_with_their_place() -> None:
    project = project_with([(1.0, 2.0, "So.")], takes=[1.0])
    version = project.versions["de-DE"]
    segment, take, line = project.segments[0], version.takes["t0"], version.lines["s1"]
    placed = Placement("s1", "t0", 0, 5, 1.0, (), "")
    sound = SoundTrack("a.wav", 1, "c", 1_000, 48_000, 1)
    for fine in (segment, take, line, placed, Programme(sound)):
        assert _problem_of(fine) == ""
    for odd in (replace(line, pin=Pin(-5)), replace(placed, start_us=-2), Programme(replace(sound, duration_us=0))):
        assert _problem_of(odd) == ""
    for bad in (
        replace(segment, end_us=10**30),
        replace(segment, end_us=segment.start_us),
        replace(take, clip="/etc/foo"),
        replace(take, speech_end_samples=10**9),
        replace(line, pin=Pin(-(10**30))),
        replace(placed, start_us=10**30),
        replace(placed, length_us=-1),
        replace(placed, tempo=float("inf")),
    ):
        assert _problem_of(bad)


@pytest.mark.parametrize(
    "track",
    [
        SoundTrack("a.wav", 1, "/etc/passwd", 1_000, 48_000, 1),
        SoundTrack("a.wav", 1, "c", 10**30, 48_000, 1),
        SoundTrack("a.wav", 1, "c", 1_000, 48_000, 1, SoundPick((1,), "/../../x")),
    ],
)
def test_a_project_whose_sound_leads_elsewhere_is_opened_without_it(track: SoundTrack, tmp_path: Path) -> None:
    folder = tmp_path / "p"
    Document.create(folder, project_with([(1.0, 2.0, "So.")])).close()
    with closing(sqlite3.connect(folder / DATABASE)) as there, there:
        (body,) = there.execute("SELECT body FROM record WHERE kind = 'project'").fetchone()
        head = json.loads(body) | {"programme": msgspec.to_builtins(Programme(track))}
        there.execute("UPDATE record SET body = ? WHERE kind = 'project'", (json.dumps(head),))
    with Document.open(folder) as document:
        assert document.project.programme is None
        assert document.project.segments
        assert [finding.code for finding in document.repairs] == ["row-repaired"]


def test_random_bytes_in_the_database_are_said(tmp_path: Path) -> None:
    folder = tmp_path / "p"
    Document.create(folder, project_with([(0.1 * k, 0.1 * k + 0.1, "So. " * 40) for k in range(1, 200)])).close()
    data = bytearray((folder / DATABASE).read_bytes())
    random = np.random.default_rng(3)
    for place in random.integers(4096, len(data), 4000):
        data[place] = int(random.integers(0, 256))
    (folder / DATABASE).write_bytes(bytes(data))
    with pytest.raises(StoreError, match=r"damaged|not a readable project"):
        Document.open(folder)


def test_a_full_disk_loses_nothing_and_says_so(tmp_path: Path) -> None:
    folder = tmp_path / "p"
    with Document.create(folder, project_with([(1.0, 2.0, "So.")])) as document:
        pages = document._database._connection.execute("PRAGMA page_count").fetchone()[0]
        document._database._connection.execute(f"PRAGMA max_page_count = {pages}")
        before = document.project
        with pytest.raises(StoreError, match="There is no room left"):
            document.apply("Much", lambda project: replace(project, title="x" * 1_600_000))
        assert document.project is before
    with Document.open(folder) as document:
        assert document.project == before


def test_what_is_damaged_in_the_cache_is_made_again(tmp_path: Path) -> None:
    file = tmp_path / "a.npy"
    assert kept_array(file, np.int8) is None
    written_array(file, np.arange(5, dtype=np.int8))
    kept = kept_array(file, np.int8)
    assert kept is not None
    assert kept.tolist() == [0, 1, 2, 3, 4]
    for damaged in (b"", b"rubbish", file.read_bytes()[:-2]):
        file.write_bytes(damaged)
        assert kept_array(file, np.int8) is None


def test_what_others_are_writing_just_now_stays_and_what_was_left_over_goes(tmp_path: Path) -> None:
    ended = subprocess.run([sys.executable, "-c", "import os; print(os.getpid())"], capture_output=True, check=True)
    (tmp_path / "below").mkdir()
    left = [tmp_path / ".writing-old.wav", tmp_path / f".writing-{int(ended.stdout)}-x.wav"]
    running = tmp_path / f".writing-{os.getpid()}-x.wav"
    below = tmp_path / "below" / ".writing-old.wav"
    for file in (*left, running, below):
        file.touch()
    remove_unfinished(tmp_path)
    assert not any(file.exists() for file in left)
    assert running.exists()
    assert below.exists()
    remove_unfinished(tmp_path, below=True)
    assert not below.exists()


def test_files_are_as_readable_as_the_person_wants_them(tmp_path: Path) -> None:
    code = "import os, sys; os.umask(0o077); from zweistimme.media.atomic import written_text; "
    code += "from pathlib import Path; written_text(Path(sys.argv[1]), 'x')"
    subprocess.run([sys.executable, "-c", code, str(tmp_path / "mine")], check=True)
    assert stat.S_IMODE((tmp_path / "mine").stat().st_mode) == 0o600
    written_text(tmp_path / "all", "x")
    assert stat.S_IMODE((tmp_path / "all").stat().st_mode) & 0o600 == 0o600


def test_a_project_is_looked_at_while_another_desk_has_it_open(tmp_path: Path) -> None:
    folder = tmp_path / "p"
    with Document.create(folder, project_with([(1.0, 2.0, "So.")])) as document:
        document.apply("Terms", lambda project: replace(project, terms={"k": Term("Varnholm")}))
        assert project_in(folder) == document.project
        with pytest.raises(StoreError, match="open"):
            Document.open(folder)


def test_a_project_is_looked_at_where_nothing_may_be_written(tmp_path: Path) -> None:
    folder = tmp_path / "p"
    project = project_with([(1.0, 2.0, "So.")])
    Document.create(folder, project).close()
    before = (folder / DATABASE).read_bytes()
    (folder / DATABASE).chmod(0o444)
    folder.chmod(0o555)
    try:
        assert project_in(folder) == project
        assert (folder / DATABASE).read_bytes() == before
    finally:
        folder.chmod(0o755)
    with pytest.raises(StoreError, match="no Zweistimme project"):
        project_in(tmp_path / "nowhere")
