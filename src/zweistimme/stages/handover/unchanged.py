"""What of an earlier hand-over in the same folder is still what would be written, so that it need not be made again."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

import msgspec

from zweistimme import __version__
from zweistimme.media.probe import file_checksum
from zweistimme.project.findings import Finding
from zweistimme.project.model import Project
from zweistimme.project.progress import delivery_made_from
from zweistimme.stages.handover.manifest import FORMAT, MANIFEST, VERSION, Entry
from zweistimme.stages.mix.gain import HOUSE

_OF_ALL = ("video",)


@dataclass(frozen=True, slots=True)
class Unchanged:
    """Files of some versions, by tag, what was said of these, and the video if it holds just these versions."""

    files: dict[str, list[Entry]]
    notes: tuple[Finding, ...] = ()
    video: Entry | None = None


@dataclass(frozen=True, slots=True)
class _Before:
    format: str
    version: int
    made_with: str
    files: tuple[Entry, ...]
    notes: tuple[Finding, ...] = ()


def unchanged(project: Project, tags: Sequence[str], folder: Path) -> Unchanged:
    """What is still right in *folder*: of versions that were handed over there as they stand now, by this Zweistimme,
    as long as the files are those the manifest speaks of."""
    before = _before(folder)
    if before is None:
        return Unchanged({})
    files = {}
    for tag in tags:
        delivery = project.versions[tag].delivery
        if delivery is None or Path(delivery.folder) != folder:
            continue
        own = [one for one in before.files if one.language == tag and one.kind not in _OF_ALL]
        if own and delivery.made_from == delivery_made_from(project, project.versions[tag]) and _all_there(folder, own):
            files[tag] = own
    notes = tuple(note for note in before.notes if note.figures.get("version") in files)
    mixed = [one.language for one in before.files if one.kind == "mix" and one.measured.get("preset") == HOUSE]
    video = next((one for one in before.files if one.kind in _OF_ALL), None)
    is_same = list(files) == list(tags) == mixed and video is not None and _all_there(folder, [video])
    return Unchanged(files, notes, video if is_same else None)


def _before(folder: Path) -> _Before | None:
    try:
        before = msgspec.json.decode((folder / MANIFEST).read_bytes(), type=_Before)
    except (OSError, ValueError):
        return None
    own = (before.format, before.version, before.made_with) == (FORMAT, VERSION, f"Zweistimme {__version__}")
    return before if own else None


def _all_there(folder: Path, entries: Sequence[Entry]) -> bool:
    for entry in entries:
        path = folder / entry.name
        if Path(entry.name).name != entry.name or not path.is_file() or path.stat().st_size != entry.size_bytes:
            return False
        if file_checksum(path) != entry.sha256:
            return False
    return True
