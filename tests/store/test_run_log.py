"""The log of runs beside a project."""

from __future__ import annotations

import os
from pathlib import Path

import msgspec
import pytest

from zweistimme.project.findings import Finding
from zweistimme.store import run_log
from zweistimme.store.names import RUNS
from zweistimme.store.run_log import RunEntry, begun, log_run, read_runs, stamp


def test_a_run_is_one_entry_the_newest_first(tmp_path: Path) -> None:
    first, second = begun("Translate"), begun("Voice")
    for entry in (first, second):
        log_run(tmp_path, entry)
    ended = msgspec.structs.replace(first, ended=stamp(), state="done", said=[Finding("late", {"by_s": 0.4})])
    log_run(tmp_path, ended)
    runs = read_runs(tmp_path)
    assert [run.name for run in runs] == ["Voice", "Translate"]
    assert runs[0].took_s is None
    assert runs[1] == ended


def test_lines_of_strangers_are_left_out(tmp_path: Path) -> None:
    log_run(tmp_path, begun("Translate"))
    with (tmp_path / RUNS).open("ab") as file:
        file.write(b'{"run": 3}\n\xff\xfe\nnot JSON\n{"run":"a","name":"b","began":"soon"}\n')
        file.write(b'{"run":"a","name":"b","began":"2026-01-01","ended":"2026-01-01T00:00:00+00:00"}\n')
    log_run(tmp_path, begun("Voice"))
    assert [run.name for run in read_runs(tmp_path)] == ["Voice", "Translate"]


def test_what_is_no_file_is_neither_read_nor_waited_for(tmp_path: Path) -> None:
    os.mkfifo(tmp_path / RUNS)
    log_run(tmp_path, begun("Voice"))
    assert read_runs(tmp_path) == []


def test_a_log_that_has_grown_loses_its_older_half(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(run_log, "_LONGEST_BYTES", 5_000)
    for number in range(200):
        log_run(tmp_path, RunEntry(f"run{number}", f"Run {number}", stamp()))
    assert (tmp_path / RUNS).stat().st_size < 6_000
    assert read_runs(tmp_path)[0].name == "Run 199"


def test_a_folder_that_cannot_be_written_to_costs_the_log_alone(tmp_path: Path) -> None:
    log_run(tmp_path / "gone", begun("Voice"))
    assert read_runs(tmp_path / "gone") == []
