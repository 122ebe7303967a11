"""What was run on a project, kept beside it as lines of JSON that a person can read later.

A run that changes the project writes a line when it begins and one when it ends, so that one that was killed shows as
one without an end. Lines are only ever added; when the file has grown too long, its older half goes.
"""

from __future__ import annotations

import os
from collections.abc import Iterable, Sequence
from contextlib import suppress
from datetime import UTC, datetime
from pathlib import Path
from typing import Final
from uuid import uuid4

import msgspec

from zweistimme.media.atomic import written_text
from zweistimme.project.errors import StoreError
from zweistimme.project.findings import Finding
from zweistimme.store.names import RUNS
from zweistimme.store.own_files import opened_own

_LONGEST_BYTES: Final = 2_000_000


class RunEntry(msgspec.Struct, frozen=True, omit_defaults=True):
    """One run. *began* and *ended* are ISO 8601 in UTC; *state* is ``running``, ``done``, ``failed`` or ``stopped``;
    *said* is what it had to say, *why* the reason of a failure; *spent* what engines charged, by currency."""

    run: str
    name: str
    began: str
    ended: str = ""
    state: str = "running"
    said: Sequence[Finding] = ()
    why: Finding | None = None
    spent: dict[str, float] = {}

    @property
    def took_s(self) -> float | None:
        """How long it took, in seconds; None while it has not ended."""
        if not self.ended:
            return None
        return (datetime.fromisoformat(self.ended) - datetime.fromisoformat(self.began)).total_seconds()


def stamp() -> str:
    """The time now, as entries have it."""
    return datetime.now(UTC).isoformat(timespec="milliseconds")


def begun(name: str) -> RunEntry:
    """A run that begins now."""
    return RunEntry(uuid4().hex[:12], name, stamp())


def log_run(folder: Path, entry: RunEntry) -> None:
    """Add what is known of a run to the log of the project in *folder*. The log is not worth a failure: where it cannot
    be written, it is not."""
    path = folder / RUNS
    with suppress(OSError, StoreError):  # a link is not followed, a pipe not waited for
        _shortened(path)
        with os.fdopen(opened_own(path, os.O_WRONLY | os.O_APPEND | os.O_CREAT), "ab", buffering=0) as file:
            file.write(msgspec.json.encode(entry) + b"\n")


def read_runs(folder: Path, latest: int = 500) -> list[RunEntry]:
    """The *latest* runs of a project, the newest first; lines that cannot be read are left out."""
    path = folder / RUNS
    try:
        with os.fdopen(opened_own(path, os.O_RDONLY), "rb") as file:
            file.seek(max(0, file.seek(0, 2) - _LONGEST_BYTES))
            lines = file.read().splitlines()
    except (OSError, StoreError):
        return []
    runs: dict[str, RunEntry] = {}
    for entry in _entries(lines):
        runs[entry.run] = entry
    return list(runs.values())[-latest:][::-1]


def _entries(lines: Iterable[bytes]) -> Iterable[RunEntry]:
    decoder = msgspec.json.Decoder(RunEntry)
    for line in lines:
        with suppress(ValueError, TypeError):
            entry = decoder.decode(line)
            datetime.fromisoformat(entry.began)
            _ = entry.took_s  # refuses what is no time
            yield entry


def _shortened(path: Path) -> None:
    if path.is_file() and not path.is_symlink() and path.stat().st_size > _LONGEST_BYTES:
        lines = path.read_bytes().splitlines(keepends=True)
        written_text(path, b"".join(lines[len(lines) // 2 :]).decode(errors="replace"))
