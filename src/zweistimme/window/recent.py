"""Projects opened lately, and where the desk keeps its own files."""

from __future__ import annotations

import json
from pathlib import Path

import platformdirs

from zweistimme.media.atomic import written_text
from zweistimme.store.names import DATABASE
from zweistimme.store.settings import PROJECTS, read_settings

_MOST = 8


def _file() -> Path:
    return Path(platformdirs.user_state_dir("zweistimme")) / "recent.json"


def recent_projects() -> list[Path]:
    """Folders of projects that are still there, the latest first."""
    try:
        names = json.loads(_file().read_text(encoding="utf-8"))
    except (OSError, ValueError):
        return []
    paths = [Path(name) for name in names if isinstance(name, str)] if isinstance(names, list) else []
    return [path for path in paths if (path / DATABASE).is_file()]


def remember(folder: Path) -> None:
    """Put a project first."""
    folder = folder.resolve()
    paths = [folder, *(path for path in recent_projects() if path != folder)][:_MOST]
    try:
        written_text(_file(), json.dumps([str(path) for path in paths]))
    except OSError:
        return  # a list of recent projects is a comfort, not worth an error


def projects_folder() -> Path:
    """Where new projects go unless a person says otherwise."""
    chosen = read_settings().text(PROJECTS)
    return Path(chosen).expanduser() if chosen else Path(platformdirs.user_documents_dir()) / "Zweistimme"


def free_folder(name: str) -> Path:
    """A folder for a new project that is not there yet."""
    base = projects_folder() / name
    folder, number = base, 2
    while folder.exists():
        folder, number = base.with_name(f"{name} {number}"), number + 1
    return folder
