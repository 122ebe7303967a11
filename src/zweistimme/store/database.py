"""The project database: rows and history in SQLite, one transaction an edit.

Tables: ``record(kind, key, body)`` holds the current project; ``entry`` and ``change`` hold its history; ``about`` its
id. An entry with ``undone = 1`` can be redone. The schema's number stands in ``PRAGMA user_version``; older projects
are brought up step by step, newer ones are refused.
"""

from __future__ import annotations

import gc
import sqlite3
from collections.abc import Callable, Iterator, Mapping, Sequence
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import Any, Final

from zweistimme.messages import tr
from zweistimme.project.errors import StoreError
from zweistimme.project.findings import Finding
from zweistimme.project.model import Project
from zweistimme.store.records import EMPTY, patched_by_kind
from zweistimme.store.rows import TYPES, Row, RowKey, decode, decode_many, decoded_as_far_as_can_be, encode, written
from zweistimme.store.schema import check_schema
from zweistimme.store.upgrades import SCHEMA, UPGRADES


@dataclass(frozen=True, slots=True)
class HistoryStep:
    """One step of the history: what it did, and whether it is undone now."""

    label: str
    undone: bool


class Database:
    """One open project database. All calls come from one thread, the owner's."""

    def __init__(self, path: Path) -> None:
        self._path = path
        self.repairs: tuple[Finding, ...] = ()
        """What was put right when the project was loaded."""
        with said(path):
            self._connection = sqlite3.connect(path, isolation_level=None)
        try:
            with said(path):
                self._connection.execute("PRAGMA trusted_schema = OFF")
                upgraded(self._connection, path)
                for setting in ("foreign_keys = ON", "journal_mode = WAL", "synchronous = FULL"):
                    self._connection.execute(f"PRAGMA {setting}")
        except StoreError:
            self._connection.close()
            raise

    def close(self) -> None:
        self._connection.close()

    def id(self) -> str:
        """What the project is known by, wherever its folder lies."""
        with said(self._path):
            row = self._connection.execute("SELECT value FROM about WHERE name = 'id'").fetchone()
        return str(row[0]) if row else ""

    def load(self) -> Project:
        """The project as it stands."""
        with said(self._path):
            project, repairs = loaded(self._connection)
            if repairs:
                self._set_aside(repairs)
        self.repairs = tuple(repair.said for repair in repairs)
        return project

    def _set_aside(self, repairs: Sequence[Repair]) -> None:
        """What was made of damaged rows takes their place; they stay beside it."""
        with _transaction(self._connection):
            where = [(repair.kind, repair.key) for repair in repairs]
            self._connection.executemany(
                "INSERT INTO aside SELECT kind, key, body FROM record WHERE kind = ? AND key = ?", where
            )
            self._write({(repair.kind, repair.key): encode(repair.value) for repair in repairs})

    def commit(self, label: str, rows: list[Row], gesture: str = "", *, keep_history: bool = True) -> None:
        """Store an edit and its history entry in one transaction. What was undone can no longer be redone."""
        bodies = {(row.kind, row.key): written(row) for row in rows}
        with said(self._path), _transaction(self._connection):
            self._write(bodies)
            if not keep_history:
                return
            self._connection.execute("DELETE FROM entry WHERE undone = 1")
            entry = self._connection.execute(
                "INSERT INTO entry(label, undone, gesture) VALUES(?, 0, ?)", (label, gesture)
            ).lastrowid
            self._connection.executemany(
                "INSERT INTO change VALUES(?, ?, ?, ?, ?)",
                [(entry, row.kind, row.key, encode(row.before), bodies[row.kind, row.key]) for row in rows],
            )

    def step(
        self, *, back: bool, kept: Callable[[RowKey, Any], Any] = lambda _place, value: value
    ) -> tuple[str, dict[RowKey, Any]] | None:
        """Undo (*back*) or redo one gesture: its label and the rows put in place, or None if there is none. *kept*
        makes of what a row was what is put in place: facts are nobody's to undo."""
        entries = self._gesture(back=back)
        if not entries:
            return None
        column = "before" if back else "after"
        bodies: dict[RowKey, bytes | None] = {}
        for entry, _ in entries:
            order = "DESC" if back else "ASC"
            query = f"SELECT kind, key, {column} FROM change WHERE entry = ? ORDER BY rowid {order}"
            for kind, key, body in self._connection.execute(query, (entry,)):
                bodies[kind, key] = body
        # all of it is read before anything is written
        rows = {place: kept(place, decode(*place, body)) for place, body in bodies.items()}
        with said(self._path), _transaction(self._connection):
            self._write({place: encode(value) for place, value in rows.items()})
            self._connection.executemany(
                "UPDATE entry SET undone = ? WHERE id = ?", [(int(back), entry) for entry, _ in entries]
            )
        return entries[0][1], rows

    def next_label(self, *, back: bool) -> str | None:
        """What the next undo or redo would say; asked after every edit, so it looks at the end of the history alone."""
        done = "SELECT id, label FROM entry WHERE undone = 0 ORDER BY id DESC LIMIT 1"
        row = self._connection.execute(done).fetchone()
        if not back:
            query = "SELECT id, label FROM entry WHERE id > ? ORDER BY id LIMIT 1"
            row = self._connection.execute(query, (row[0] if row else 0,)).fetchone()
        return str(row[1]) if row else None

    def steps(self, most: int) -> list[HistoryStep]:
        """The latest *most* steps of the history, the newest first; neighbours with the same gesture are one."""
        query = "SELECT label, undone, gesture FROM entry ORDER BY id DESC"
        found: list[HistoryStep] = []
        latest: tuple[int, str] | None = None
        for label, undone, gesture in self._connection.execute(query):
            if gesture and latest == (undone, gesture):
                continue
            if len(found) == most:
                break
            latest = (undone, gesture)
            found.append(HistoryStep(label, bool(undone)))
        return found

    def _gesture(self, *, back: bool) -> list[tuple[int, str]]:
        """Entries that the next step takes, in the order in which they are applied."""
        order = "DESC" if back else "ASC"
        query = f"SELECT id, label, gesture FROM entry WHERE undone = ? ORDER BY id {order}"
        entries: list[tuple[int, str]] = []
        wanted: str | None = None
        for entry, label, gesture in self._connection.execute(query, (int(not back),)):
            if entries and (not gesture or gesture != wanted):
                break
            wanted = gesture
            entries.append((entry, label))
        return entries

    def _write(self, bodies: Mapping[RowKey, bytes | None]) -> None:
        gone = [place for place, body in bodies.items() if body is None]
        kept = [(*place, body) for place, body in bodies.items() if body is not None]
        self._connection.executemany("DELETE FROM record WHERE kind = ? AND key = ?", gone)
        self._connection.executemany(
            "INSERT INTO record(kind, key, body) VALUES(?, ?, ?)"
            " ON CONFLICT(kind, key) DO UPDATE SET body = excluded.body",
            kept,
        )


def upgraded(connection: sqlite3.Connection, path: Path) -> None:
    """Bring a database up to today's schema; a StoreError where a newer desk made it."""
    version = _version_of(connection)
    if version > SCHEMA:
        raise StoreError(
            "{parent} was made by a newer Zweistimme (schema {version}, this one reads up to "
            "{schema}). Open it with that one.",
            parent=path.parent,
            version=version,
            schema=SCHEMA,
        )
    check_schema(connection, path, version)
    while version < SCHEMA:
        with _transaction(connection):
            UPGRADES[version](connection)
            version += 1
            connection.execute(f"PRAGMA user_version = {version}")


def _version_of(connection: sqlite3.Connection) -> int:
    (version,) = connection.execute("PRAGMA user_version").fetchone()
    return int(version)


@dataclass(frozen=True, slots=True)
class Repair:
    """A row that broke a rule, what was made of it (None: nothing could be), and what is to be said of it."""

    kind: str
    key: str
    value: Any
    said: Finding


def loaded(connection: sqlite3.Connection) -> tuple[Project, list[Repair]]:
    """The project that the rows of a database make, as far as they can be read, and what was put right for it."""
    bodies: dict[str, dict[str, bytes]] = {}
    with _nothing_collected():
        try:
            rows = connection.execute("SELECT kind, key, body FROM record ORDER BY rowid")
            for kind, key, body in rows:
                if kind in bodies:
                    bodies[kind][key] = body
                else:
                    bodies[kind] = {key: body}
        except UnicodeDecodeError as error:  # in the name of a row
            raise StoreError("The project is damaged: {why}. Restore it from a copy.", why=error) from error
        decoded, repairs = dict[str, dict[str, Any]](), list[Repair]()
        for kind, of_kind in bodies.items():
            decoded[kind], mended = _read(kind, of_kind)
            repairs += mended
        return (patched_by_kind(EMPTY, decoded) if decoded else EMPTY), repairs


def _read(kind: str, bodies: Mapping[str, bytes]) -> tuple[dict[str, Any], list[Repair]]:
    """The rows of a kind. A project without its head is none; any other row may be missing."""
    try:
        return decode_many(kind, bodies), []
    except StoreError:
        if kind not in TYPES:
            raise
    values, repairs = dict[str, Any](), list[Repair]()
    for key, body in bodies.items():
        value, why = decoded_as_far_as_can_be(kind, key, body)
        if value is None and kind == "project":
            decode(kind, key, body)  # says what is wrong
        if why:
            code = "row-repaired" if value is not None else "row-set-aside"
            repairs.append(Repair(kind, key, value, Finding(code, {"kind": kind, "key": key, "why": why})))
        if value is not None:
            values[key] = value
    return values, repairs


@contextmanager
def _nothing_collected() -> Iterator[None]:
    """Hundreds of thousands of rows are made that hold no cycles: looking through them again and again for garbage
    takes half as long as reading them."""
    collects = gc.isenabled()
    gc.disable()
    try:
        yield
    finally:
        if collects:
            gc.enable()


@contextmanager
def _transaction(connection: sqlite3.Connection) -> Iterator[None]:
    """BEGIN … COMMIT, or ROLLBACK when anything goes wrong; SQLite may have rolled back itself, as on a full disk."""
    connection.execute("BEGIN IMMEDIATE")
    try:
        yield
        connection.execute("COMMIT")
    except BaseException:
        if connection.in_transaction:
            connection.execute("ROLLBACK")
        raise


_UNREADABLE: Final = "Could not decode"
"""How what is no text where text should be is told: as if SQLite were not ready."""


@contextmanager
def said(path: Path) -> Iterator[None]:
    """What SQLite cannot do, as a sentence."""
    try:
        yield
    except sqlite3.DatabaseError as error:
        if isinstance(error, sqlite3.OperationalError) and _UNREADABLE not in str(error):
            raise StoreError(_unwritten(path, str(error))) from error
        raise StoreError(
            "{path} is not a readable project database ({why}). Restore the folder from a copy.", path=path, why=error
        ) from error


def _unwritten(path: Path, error: str) -> str:
    if "full" in error:
        return tr(
            "There is no room left where {folder} lies. What came before is kept; make room and try again.",
            folder=path.parent,
        )
    if "readonly" in error:
        return tr("{folder} cannot be written to. Open a copy of it, or change its permissions.", folder=path.parent)
    return tr(
        "{file} cannot be used just now ({error}). What came before is kept; look after the disk and try again.",
        file=path,
        error=error,
    )
