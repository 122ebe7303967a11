"""Whether a database has our tables and nothing else: a trigger or a view in a project that somebody sent would do what
nobody asked for, and a table with other columns hold what nobody checked."""

from __future__ import annotations

import sqlite3
from contextlib import closing
from functools import cache
from pathlib import Path

from zweistimme.project.errors import StoreError
from zweistimme.store.upgrades import UPGRADES

_Schema = frozenset[tuple[str, str, str]]


def check_schema(connection: sqlite3.Connection, path: Path, version: int) -> None:
    """A StoreError where the schema is not what our own steps to *version* make. A new, empty database is fine."""
    if version > len(UPGRADES):
        return  # a newer desk made it: that is said instead
    there = _schema(connection)
    if strange := sorted(there - _made_by_us(version) - _made_by_us(len(UPGRADES))):
        kind, name, _ = strange[0]
        raise StoreError(
            "{path} holds “{name}” ({kind}), which no project of ours has. It was not opened; ask whoever sent it for a"
            " packed copy made anew.",
            path=path,
            name=name[:80],
            kind=kind,
        )


def _schema(connection: sqlite3.Connection) -> _Schema:
    rows = connection.execute("SELECT type, name, sql FROM sqlite_master").fetchall()
    return frozenset((str(kind), str(name), " ".join(str(sql or "").split())) for kind, name, sql in rows)


@cache
def _made_by_us(version: int) -> _Schema:
    with closing(sqlite3.connect(":memory:", isolation_level=None)) as fresh:
        for number in range(version):
            UPGRADES[number](fresh)
        return _schema(fresh)
