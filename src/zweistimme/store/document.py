"""The open project: current state, history, listeners, and the folder it lives in.

A project folder holds ``project.sqlite``, ``clips/`` and ``answers/`` (kept), ``cache/`` (can be made
again) and ``lock``.
"""

from __future__ import annotations

import fcntl
import os
from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass
from functools import partial
from pathlib import Path
from typing import IO

from msgspec import structs

from zweistimme.media.atomic import remove_unfinished
from zweistimme.messages import msg, tr
from zweistimme.project.errors import NeverFinished, StoreError
from zweistimme.project.findings import Finding
from zweistimme.project.model import Project
from zweistimme.project.progress import forget
from zweistimme.store.answers import AnswerStore
from zweistimme.store.clips import ClipStore
from zweistimme.store.database import Database, HistoryStep
from zweistimme.store.names import ANSWERS, CACHE, CLIPS, DATABASE, FOLDERS, LOCK
from zweistimme.store.own_files import check_folder, opened_own
from zweistimme.store.own_projects import Whose, set_whose
from zweistimme.store.records import EMPTY, difference, patched, with_facts_of
from zweistimme.store.run_log import begun, log_run, stamp

NOT_UNDONE = ""
_BEGUN = (DATABASE, f"{DATABASE}-wal", f"{DATABASE}-shm", f"{DATABASE}-journal", LOCK)


@dataclass(frozen=True, slots=True)
class Change:
    """What listeners are told."""

    before: Project
    after: Project
    label: str


Edit = Callable[[Project], Project]
Listener = Callable[[Change], None]


class Document:
    """An open project. One thread owns it; one process at a time has it open."""

    def __init__(self, folder: Path, lock: IO[str]) -> None:
        self.folder = folder
        self._lock = lock
        try:
            self._database = Database(folder / DATABASE)
        except StoreError:
            lock.close()
            raise
        try:
            self.id, self._project = self._database.id(), self._database.load()
        except StoreError:
            self.close()
            raise
        self._listeners: list[Listener] = []
        self.clips = ClipStore(folder / CLIPS, self._check_place)
        self.answers = AnswerStore(folder / ANSWERS, self._check_place)

    @classmethod
    def create(cls, folder: Path, project: Project) -> Document:
        """A new project in *folder*, which must be empty, not there yet, or hold a project that was never finished."""
        taken = StoreError(
            "{folder} is already there and not empty. Choose another folder for the project.", folder=folder
        )
        if folder.exists() and (not folder.is_dir() or any(file.name not in _BEGUN for file in folder.iterdir())):
            raise taken
        try:
            folder.mkdir(parents=True, exist_ok=True)
        except OSError as error:
            raise StoreError(
                "{folder} cannot be made: {why}. Choose another place.", folder=folder, why=error
            ) from error
        document = cls(folder, _locked(folder))
        if document._project is not EMPTY:
            document.close()
            raise taken
        document._store(project, "New project", keep_history=False)
        with suppress(StoreError):  # where it cannot be kept, the person is asked later
            set_whose(document.id, folder, Whose.OWN)
        return document

    @classmethod
    def open(cls, folder: Path) -> Document:
        """The project in *folder*."""
        if not (folder / DATABASE).is_file():
            raise StoreError(
                "There is no Zweistimme project in {folder}. Give the folder that holds {database}.",
                folder=folder,
                database=DATABASE,
            )
        document = cls(folder, _locked(folder))
        if document._project is EMPTY:
            document.close()
            raise NeverFinished("The project in {folder} was never finished being made. Make it anew.", folder=folder)
        for name in FOLDERS:
            remove_unfinished(folder / name, below=True)
        if document.repairs:  # kept beside the project, for whoever opens it later
            log_run(folder, structs.replace(begun(msg("Repair")), ended=stamp(), state="done", said=document.repairs))
        return document

    def close(self) -> None:
        """Let others open the project."""
        forget()
        self._database.close()
        self._lock.close()

    def __enter__(self) -> Document:
        return self

    def __exit__(self, *_: object) -> None:
        self.close()

    @property
    def repairs(self) -> tuple[Finding, ...]:
        """What had to be put right for the project to be opened."""
        return self._database.repairs

    @property
    def project(self) -> Project:
        """The current state."""
        return self._project

    @property
    def cache(self) -> Path:
        """A folder for what can be made again."""
        self._check_place()
        folder = self.folder / CACHE
        folder.mkdir(exist_ok=True)
        return folder

    def _check_place(self) -> None:
        """A StoreError where the folder was moved away under the open project: what is written at its old path would
        be lost to it."""
        try:
            there = (self.folder / LOCK).stat()
        except OSError:
            there = None
        if there is None or not os.path.samestat(there, os.fstat(self._lock.fileno())):
            raise StoreError(
                "{folder} was moved or renamed while it was open. What came before is kept there; open it"
                " at its new place and go on.",
                folder=self.folder,
            )

    def listen(self, listener: Listener) -> Callable[[], None]:
        """Have *listener* told of every change; call what is returned to stop."""
        self._listeners.append(listener)
        return lambda: self._listeners.remove(listener)

    def apply(self, label: str, edit: Edit, gesture: str = "") -> Project:
        """Apply an edit in one transaction; edits with the same *gesture* in a row are undone together.

        The label NOT_UNDONE is for facts that are nobody's to undo, such as what was handed over.
        """
        return self._store(edit(self._project), label, gesture, keep_history=label != NOT_UNDONE)

    def undo(self) -> str | None:
        """Take the last gesture back; its label, or None if there is nothing to undo."""
        return self.go_in_history(-1)

    def redo(self) -> str | None:
        """Do again what was undone."""
        return self.go_in_history(1)

    def undo_label(self) -> str | None:
        return self._database.next_label(back=True)

    def redo_label(self) -> str | None:
        return self._database.next_label(back=False)

    def history(self, most: int = 200) -> list[HistoryStep]:
        """The latest steps that can be undone or done again, the newest first."""
        return self._database.steps(most)

    def _store(self, after: Project, label: str, gesture: str = "", *, keep_history: bool = True) -> Project:
        before = self._project
        rows = difference(before, after)
        if rows:
            self._database.commit(label, rows, gesture, keep_history=keep_history)
            self._project = after
            self._announce(Change(before, after, label))
        return self._project

    def go_in_history(self, by: int) -> str | None:
        """Take so many gestures back if *by* is negative, else do so many again; the label of the last one, or None if
        there was nothing to do. Listeners hear of it once."""
        before, label = self._project, None
        for _ in range(abs(by)):
            step = self._database.step(back=by < 0, kept=partial(with_facts_of, self._project))
            if step is None:
                break
            label, rows = step
            self._project = patched(self._project, rows)
        if label is not None:
            self._announce(Change(before, self._project, label))
        return label

    def _announce(self, change: Change) -> None:
        """Tell everybody, also those behind one that fails: what is stored has changed for all of them."""
        failed: Exception | None = None
        for listener in list(self._listeners):
            try:
                listener(change)
            except Exception as error:
                failed = failed or error
        if failed is not None:
            raise failed


def _locked(folder: Path) -> IO[str]:
    """The folder's lock, held until closed or until the process ends, however it ends. What else lies in the folder is
    looked at first."""
    check_folder(folder)
    lock = os.fdopen(opened_own(folder / LOCK, os.O_RDWR | os.O_APPEND | os.O_CREAT), "a+", encoding="utf-8")
    try:
        fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError as error:
        lock.seek(0)
        holder = lock.read().strip()
        lock.close()
        who = tr(" by process {holder}", holder=holder) if holder else ""
        raise StoreError(
            "{folder} is open already{who}. Close it there first; nothing was changed.", folder=folder, who=who
        ) from error
    lock.truncate(0)
    lock.write(str(os.getpid()))
    lock.flush()
    return lock
