"""The truth of a memory: units in one SQLite file among the desk's own data, which all projects and processes share.

``unit`` holds pairs of texts; ``mute`` which of them are not to be offered in which project; ``about`` which generation
of the index there is and up to which id it goes. A unit whose source changes gets another id, so that an index that
knows the old one finds nothing under it.
"""

from __future__ import annotations

import sqlite3
from collections.abc import Iterable, Iterator, Sequence
from functools import lru_cache
from pathlib import Path
from typing import Final

import langcodes

from zweistimme.memory.likeness import exact_key
from zweistimme.project.errors import StoreError
from zweistimme.project.units import Unit

_TABLES: Final = """
CREATE TABLE IF NOT EXISTS unit(
    id INTEGER PRIMARY KEY AUTOINCREMENT, source_tag TEXT NOT NULL, target_tag TEXT NOT NULL, source TEXT NOT NULL,
    target TEXT NOT NULL, context TEXT NOT NULL, origin TEXT NOT NULL, author TEXT NOT NULL, made TEXT NOT NULL,
    project TEXT NOT NULL, segment TEXT NOT NULL, family TEXT NOT NULL, exact INTEGER NOT NULL, pair INTEGER NOT NULL);
CREATE INDEX IF NOT EXISTS unit_exact ON unit(exact);
CREATE UNIQUE INDEX IF NOT EXISTS unit_own ON unit(project, target_tag, segment) WHERE project <> '';
CREATE UNIQUE INDEX IF NOT EXISTS unit_brought ON unit(pair) WHERE project = '';
CREATE INDEX IF NOT EXISTS unit_pair ON unit(pair);
CREATE TABLE IF NOT EXISTS mute(unit INTEGER, project TEXT, PRIMARY KEY(unit, project));
CREATE TABLE IF NOT EXISTS about(name TEXT PRIMARY KEY, value TEXT NOT NULL);
"""
_COLUMNS: Final = (
    "source_tag, target_tag, source, target, context, origin, author, made, project, segment, family, exact, pair"
)
_READ: Final = (
    "SELECT source_tag, target_tag, source, target, context, origin, author, made, project, segment, id FROM unit"
)
_WAIT_S: Final = 20.0
_AT_ONCE: Final = 500
_FIELDS: Final = 13


@lru_cache(maxsize=2_000)
def family_of(source_tag: str, target_tag: str) -> str:
    """Languages and scripts of a pair, regions left out.

    >>> family_of("en-GB", "de-AT-x-kids"), family_of("en", "zh-TW")
    ('en-Latn>de-Latn', 'en-Latn>zh-Hant')
    """
    return ">".join(map(_language_and_script, (source_tag, target_tag)))


def _language_and_script(tag: str) -> str:
    try:
        full = langcodes.Language.get(tag).maximize()
    except ValueError:  # not a tag at all, as a file may have it
        return tag.lower()
    return f"{full.language}-{full.script}"


class UnitStore:
    """One connection to the file; whoever has it sees that it is used by one thread at a time."""

    def __init__(self, file: Path) -> None:
        self.file = file
        try:
            file.parent.mkdir(parents=True, exist_ok=True)
            self._connection = sqlite3.connect(file, timeout=_WAIT_S, isolation_level=None, check_same_thread=False)
            self._connection.executescript(f"PRAGMA journal_mode = WAL; PRAGMA synchronous = NORMAL; {_TABLES}")
        except (sqlite3.Error, OSError) as error:
            raise self._unusable(error) from error

    def close(self) -> None:
        self._connection.close()

    def interrupt(self) -> None:
        """End what is being read, from another thread."""
        self._connection.interrupt()

    def _unusable(self, error: Exception) -> StoreError:
        return StoreError(
            "The translation memory, {file}, cannot be used ({why}). Mend its folder, or move the file away to begin a "
            "new one.",
            file=self.file,
            why=error,
        )

    # reading

    def of_ids(self, ids: Sequence[int], project: str = "") -> list[Unit]:
        """Units by their ids, as far as they are there and not muted for a project; in the order of *ids*."""
        found: dict[int, Unit] = {}
        for start in range(0, len(ids), _AT_ONCE):
            some = ids[start : start + _AT_ONCE]
            query = f"{_READ} WHERE id IN ({','.join('?' * len(some))})"
            found |= {unit.id: unit for unit in self._read(query, some)}
        muted = self._muted(project)
        return [found[one] for one in ids if one in found and one not in muted]

    def sources_of(self, ids: Sequence[int], project: str = "") -> list[tuple[int, str]]:
        """Ids and sources of units that are there and not muted for a project."""
        found: list[tuple[int, str]] = []
        for start in range(0, len(ids), _AT_ONCE):
            some = ids[start : start + _AT_ONCE]
            found += self._rows(f"SELECT id, source FROM unit WHERE id IN ({','.join('?' * len(some))})", some)
        muted = self._muted(project)
        return [row for row in found if row[0] not in muted] if muted else found

    def same(self, text: str, family: str, project: str = "") -> list[Unit]:
        """Units whose source is this text, the latest first."""
        query = f"{_READ} WHERE exact = ? AND family = ? ORDER BY made DESC, id DESC LIMIT 100"
        muted = self._muted(project)
        said = text.strip()
        return [
            one
            for one in self._read(query, (exact_key(text), family))
            if one.source.strip() == said and one.id not in muted
        ]

    def beyond(self, last_id: int) -> list[tuple[int, str, str]]:
        """Id, source and family of the units that came after one."""
        return self._rows("SELECT id, source, family FROM unit WHERE id > ? ORDER BY id", (last_id,))

    def count_beyond(self, last_id: int, most: int) -> int:
        """How many units came after one; no more than *most* are counted."""
        query = "SELECT count(*) FROM (SELECT 1 FROM unit WHERE id > ? LIMIT ?)"
        return int(self._rows(query, (last_id, most))[0][0])

    def sources(self, until: int) -> Iterator[tuple[int, str, str]]:
        """Id, source and family of every unit up to an id, one after the other."""
        try:
            yield from self._connection.execute(
                "SELECT id, source, family FROM unit WHERE id <= ? ORDER BY id", (until,)
            )
        except sqlite3.Error as error:
            raise self._unusable(error) from error

    def last_id(self) -> int:
        """The highest id there is; 0 where there is none."""
        return int(self._rows("SELECT coalesce(max(id), 0) FROM unit", ())[0][0])

    def holding(self, text: str, *, family: str = "", most: int = 200) -> list[Unit]:
        """Units that have a stretch of text in either language, without regard to case; the latest first."""
        needle = text.casefold()
        if needle.isascii():
            pattern = "%" + "".join(f"\\{sign}" if sign in "%_\\" else sign for sign in needle) + "%"
            where, given = "(source LIKE ?1 ESCAPE '\\' OR target LIKE ?1 ESCAPE '\\')", pattern
        else:
            self._connection.create_function("folded", 1, str.casefold, deterministic=True)
            where, given = "(instr(folded(source), ?1) OR instr(folded(target), ?1))", needle
        query = f"{_READ} WHERE {where} AND (?2 = '' OR family = ?2) ORDER BY id DESC LIMIT ?3"
        return list(self._read(query, (given, family, most)))

    def all_of(self, *, source_tag: str = "", target_tag: str = "") -> Iterator[Unit]:
        """Every unit, one after the other, of a pair of tags if wanted."""
        query = f"{_READ} WHERE (?1 = '' OR source_tag = ?1) AND (?2 = '' OR target_tag = ?2) ORDER BY id"
        return self._read(query, (source_tag, target_tag))

    def of_project(self, project: str) -> dict[tuple[str, str], Unit]:
        """What a project settled, by target tag and segment."""
        return {(one.target_tag, one.segment): one for one in self._read(f"{_READ} WHERE project = ?", (project,))}

    def counts(self) -> list[tuple[str, str, int]]:
        """How many units there are of each pair of tags."""
        query = "SELECT source_tag, target_tag, count(*) FROM unit GROUP BY 1, 2 ORDER BY 3 DESC, 1, 2"
        return self._rows(query, ())

    def about(self, name: str) -> str:
        """A value the memory keeps of itself; empty where there is none."""
        rows = self._rows("SELECT value FROM about WHERE name = ?", (name,))
        return str(rows[0][0]) if rows else ""

    def _muted(self, project: str) -> set[int]:
        return (
            {row[0] for row in self._rows("SELECT unit FROM mute WHERE project = ?", (project,))} if project else set()
        )

    def _read(self, query: str, given: Sequence[object]) -> Iterator[Unit]:
        try:
            for row in self._connection.execute(query, given):
                yield Unit(*row)
        except sqlite3.Error as error:
            raise self._unusable(error) from error

    def _rows(self, query: str, given: Sequence[object]) -> list[tuple]:  # type: ignore[type-arg]
        try:
            return self._connection.execute(query, given).fetchall()
        except sqlite3.Error as error:
            raise self._unusable(error) from error

    # writing

    def put(self, units: Iterable[Unit]) -> int:
        """Take units in, in one transaction; how many were new or others than before. What a project settled takes the
        place of what it had settled there; what a file brings is there once."""
        marks = ",".join("?" * _FIELDS)
        changed = 0
        with self._transaction():
            for unit in units:
                if unit.project:
                    key = (unit.project, unit.target_tag, unit.segment)
                    where = "project = ? AND target_tag = ? AND segment = ?"
                    self._connection.execute(f"DELETE FROM unit WHERE {where}", key)
                row = _row(unit)
                if (
                    not unit.project
                    and self._connection.execute("SELECT 1 FROM unit WHERE pair = ?", row[-1:]).fetchone()
                ):
                    continue  # a project has settled just that, or a file brought it
                query = f"INSERT OR IGNORE INTO unit({_COLUMNS}) VALUES({marks})"
                changed += self._connection.execute(query, row).rowcount
        return changed

    def set_target(self, unit_id: int, target: str) -> bool:
        """Give a unit another wording; whether it is there."""
        with self._transaction():
            row = self._connection.execute(f"{_READ} WHERE id = ?", (unit_id,)).fetchone()
            if row is None:
                return False
            unit = Unit(*row)
            pair = _pair_key(unit.source_tag, unit.target_tag, unit.source, target)
            query = "UPDATE OR REPLACE unit SET target = ?, pair = ? WHERE id = ?"
            self._connection.execute(query, (target, pair, unit_id))
        return True

    def remove(self, ids: Iterable[int]) -> int:
        """Take units away; how many were there."""
        with self._transaction():
            gone = sum(self._connection.execute("DELETE FROM unit WHERE id = ?", (one,)).rowcount for one in ids)
            self._connection.execute("DELETE FROM mute WHERE unit NOT IN (SELECT id FROM unit)")
        return gone

    def mute(self, ids: Iterable[int], project: str, *, muted: bool) -> None:
        """Do not offer units in a project, or offer them again."""
        query = (
            "INSERT OR IGNORE INTO mute VALUES(?, ?)" if muted else "DELETE FROM mute WHERE unit = ? AND project = ?"
        )
        with self._transaction():
            self._connection.executemany(query, [(one, project) for one in ids])

    def note(self, **values: str) -> None:
        """Keep values the memory keeps of itself, all at once."""
        with self._transaction():
            self._connection.executemany("INSERT OR REPLACE INTO about VALUES(?, ?)", list(values.items()))

    def _transaction(self) -> _Transaction:
        return _Transaction(self._connection, self._unusable)


class _Transaction:
    """BEGIN … COMMIT, or ROLLBACK; what SQLite cannot do is said in a sentence."""

    def __init__(self, connection: sqlite3.Connection, unusable: object) -> None:
        self._connection, self._unusable = connection, unusable

    def __enter__(self) -> None:
        try:
            self._connection.execute("BEGIN IMMEDIATE")
        except sqlite3.Error as error:
            raise self._unusable(error) from error  # type: ignore[operator]

    def __exit__(self, kind: type[BaseException] | None, error: BaseException | None, _trace: object) -> None:
        if kind is None:
            try:
                self._connection.execute("COMMIT")
            except sqlite3.Error as failed:
                raise self._unusable(failed) from failed  # type: ignore[operator]
            return
        if self._connection.in_transaction:
            self._connection.execute("ROLLBACK")
        if isinstance(error, sqlite3.Error):
            raise self._unusable(error) from error  # type: ignore[operator]


def _row(unit: Unit) -> tuple[object, ...]:
    family = family_of(unit.source_tag, unit.target_tag)
    pair = _pair_key(unit.source_tag, unit.target_tag, unit.source, unit.target)
    return (
        unit.source_tag, unit.target_tag, unit.source, unit.target, unit.context, unit.origin, unit.author, unit.made,
        unit.project, unit.segment, family, exact_key(unit.source), pair,
    )  # fmt: skip


def _pair_key(*parts: str) -> int:
    return exact_key("\x1f".join(part.strip() for part in parts))
