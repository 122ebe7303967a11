"""A project looked at as it stands, while another desk has it open or where nothing may be written."""

from __future__ import annotations

import sqlite3
from contextlib import closing
from pathlib import Path

from zweistimme.project.errors import NeverFinished, StoreError
from zweistimme.project.model import Project
from zweistimme.store.database import loaded, said, upgraded
from zweistimme.store.names import DATABASE
from zweistimme.store.own_files import check_folder
from zweistimme.store.records import EMPTY
from zweistimme.store.schema import check_schema
from zweistimme.store.upgrades import SCHEMA


def project_in(folder: Path) -> Project:
    """The project in *folder*, read without a lock; nothing of it is touched. An older one is brought up in memory."""
    path = folder / DATABASE
    if not path.is_file():
        raise StoreError(
            "There is no Zweistimme project in {folder}. Give the folder that holds {database}.",
            folder=folder,
            database=DATABASE,
        )
    check_folder(folder)
    with said(path):
        try:
            project = _read(path, "mode=ro")
        except sqlite3.OperationalError:  # where nothing may be written, SQLite cannot take part in others' locks
            project = _read(path, "mode=ro&immutable=1")
    if project is EMPTY:
        raise NeverFinished("The project in {folder} was never finished being made. Make it anew.", folder=folder)
    return project


def _read(path: Path, how: str) -> Project:
    """The project as the last commit left it. Only an older one is copied, with all its history, to be brought up."""
    with closing(sqlite3.connect(f"{path.absolute().as_uri()}?{how}", uri=True)) as there:
        there.execute("PRAGMA trusted_schema = OFF")
        if there.execute("PRAGMA user_version").fetchone() == (SCHEMA,):
            check_schema(there, path, SCHEMA)
            return loaded(there)[0]
        with closing(sqlite3.connect(":memory:", isolation_level=None)) as copy:
            there.backup(copy)
            upgraded(copy, path)
            return loaded(copy)[0]


def id_of(folder: Path) -> str:
    """What the project in *folder* is known by, wherever it lies; empty for one that an older desk made."""
    project_in(folder)
    with (
        said(folder / DATABASE),
        closing(sqlite3.connect(f"{(folder / DATABASE).absolute().as_uri()}?mode=ro", uri=True)) as there,
    ):
        try:
            row = there.execute("SELECT value FROM about WHERE name = 'id'").fetchone()
        except sqlite3.OperationalError:
            return ""
    return str(row[0]) if row else ""
