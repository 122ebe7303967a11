"""A project looked at as it stands, while another desk has it open or where nothing may be written."""

from __future__ import annotations

import sqlite3
from contextlib import closing
from pathlib import Path

from zweistimme.project.errors import NeverFinished, StoreError
from zweistimme.project.model import Project
from zweistimme.store.database import loaded, said, upgraded
from zweistimme.store.names import DATABASE
from zweistimme.store.records import EMPTY


def project_in(folder: Path) -> Project:
    """The project in *folder*, read without a lock; nothing of it is touched. An older one is brought up in memory."""
    path = folder / DATABASE
    if not path.is_file():
        raise StoreError(f"There is no Zweistimme project in {folder}. Give the folder that holds {DATABASE}.")
    with said(path), closing(sqlite3.connect(":memory:", isolation_level=None)) as copy:
        _copied(path, copy)
        upgraded(copy, path)
        project = loaded(copy)
    if project is EMPTY:
        raise NeverFinished(f"The project in {folder} was never finished being made. Make it anew.")
    return project


def _copied(path: Path, copy: sqlite3.Connection) -> None:
    """The database as the last commit left it."""
    try:
        with closing(sqlite3.connect(f"{path.absolute().as_uri()}?mode=ro", uri=True)) as there:
            there.backup(copy)
    except sqlite3.OperationalError:  # where nothing may be written, SQLite cannot take part in others' locks
        with closing(sqlite3.connect(f"{path.absolute().as_uri()}?mode=ro&immutable=1", uri=True)) as there:
            there.backup(copy)
