"""A project folder that somebody sent: no link is followed, no pipe waited for, nothing of the person's is touched."""

from __future__ import annotations

import os
from pathlib import Path

import pytest

from helpers import project_with
from zweistimme.project.errors import StoreError
from zweistimme.store.cleaning import removable
from zweistimme.store.document import Document
from zweistimme.store.names import DATABASE, LOCK, RUNS, WRITING_TEXTS
from zweistimme.store.read_only import project_in
from zweistimme.store.run_log import begun, log_run, read_runs
from zweistimme.store.unkept import read_unkept


@pytest.fixture
def folder(tmp_path: Path) -> Path:
    folder = tmp_path / "p"
    Document.create(folder, project_with([(1.0, 2.0, "So.")])).close()
    return folder


@pytest.mark.parametrize("name", [LOCK, RUNS, WRITING_TEXTS, f"{DATABASE}-wal", f"{DATABASE}-journal", DATABASE])
def test_a_link_in_place_of_a_file_is_said_and_not_followed(name: str, folder: Path, tmp_path: Path) -> None:
    mine = tmp_path / "mine.txt"
    mine.write_text("a person's own")
    (folder / name).unlink(missing_ok=True)
    (folder / name).symlink_to(mine)
    for open_ in (Document.open, project_in):
        with pytest.raises(StoreError, match=r"is a link|is not a readable|no Zweistimme project"):
            open_(folder)
    log_run(folder, begun("Fit"))
    assert mine.read_text() == "a person's own"


@pytest.mark.parametrize("name", ["cache", "clips", "answers"])
def test_a_link_in_place_of_a_folder_is_said_and_nothing_in_it_removed(name: str, folder: Path, tmp_path: Path) -> None:
    mine = tmp_path / "mine"
    mine.mkdir()
    (mine / ".writing-old.wav").touch()
    if (folder / name).exists():
        (folder / name).rmdir()
    (folder / name).symlink_to(mine)
    for open_ in (Document.open, project_in, removable):
        with pytest.raises(StoreError, match="is a link that leads elsewhere"):
            open_(folder)
    assert (mine / ".writing-old.wav").exists()


@pytest.mark.parametrize("inside", ["cache/a.npy", "clips/ab/x.flac", "answers/cd/y.json", RUNS, WRITING_TEXTS, LOCK])
def test_a_pipe_is_not_waited_for(inside: str, folder: Path) -> None:
    path = folder / inside
    path.parent.mkdir(parents=True, exist_ok=True)
    path.unlink(missing_ok=True)
    os.mkfifo(path)
    for open_ in (Document.open, project_in, removable):
        with pytest.raises(StoreError, match="neither a file nor a folder"):
            open_(folder)
    log_run(folder, begun("Fit"))
    assert (read_runs(folder) == []) == (inside == RUNS)
    assert read_unkept(folder) == []


def test_a_journal_that_speaks_of_another_file_is_not_rolled_back(folder: Path, tmp_path: Path) -> None:
    mine = tmp_path / "mine.txt"
    mine.write_text("a person's own")
    (folder / f"{DATABASE}-journal").write_bytes(b"x" * 512 + str(mine).encode() + bytes.fromhex("d9d505f920a163d7"))
    with pytest.raises(StoreError, match="speaks of files outside"):
        Document.open(folder)
    assert mine.exists()
