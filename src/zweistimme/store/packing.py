"""A project as one file: a zip with a manifest, written whole, and read like any file that a stranger sent.

Described in docs/formats.md. What engines were paid for comes along: clips and answers. Media may.
"""

from __future__ import annotations

import errno
import hashlib
import re
import shutil
import sqlite3
import tempfile
import zipfile
import zlib
from collections.abc import Callable, Iterable, Iterator
from contextlib import closing, contextmanager
from dataclasses import dataclass
from functools import partial
from pathlib import Path
from typing import Final

import msgspec

from zweistimme import __version__
from zweistimme.media.atomic import remove_unfinished, unfinished_folder, written_whole
from zweistimme.media.probe import same_file
from zweistimme.project.edits import move_media
from zweistimme.project.errors import FormatError, StoreError
from zweistimme.project.model import Project
from zweistimme.project.programme import SoundTrack
from zweistimme.store.database import said
from zweistimme.store.document import NOT_UNDONE, Document
from zweistimme.store.names import ANSWERS, CLIPS, DATABASE, PACKED
from zweistimme.store.own_files import files_below

FORMAT: Final = "zweistimme-project"
VERSION: Final = 1
MANIFEST: Final = "manifest.json"
MIMETYPE: Final = "application/x-zweistimme-project"
_BLOCK: Final = 1 << 20
_MOST_FILES: Final = 2_000_000
_LARGEST_MANIFEST: Final = 1 << 30
_INSIDE: Final = re.compile(
    r"project\.sqlite|clips/[0-9a-f]{2}/[0-9a-f]{64}\.flac|answers/[0-9a-f]{2}/[0-9a-f]{64}\.json|media/[0-9]{1,2}/[^/\\\0]+"
)
Report = Callable[[float], None]


@dataclass(frozen=True, slots=True)
class PackedFile:
    """A file of a package: its name there, its size and SHA-256; *was* is where a media file lay."""

    name: str
    size_bytes: int
    sha256: str
    was: str = ""


@dataclass(frozen=True, slots=True)
class _Manifest:
    format: str
    version: int
    made_with: str
    title: str
    files: tuple[PackedFile, ...]


def pack(folder: Path, target: Path, *, media: bool, report: Report = lambda _share: None) -> tuple[Path, ...]:
    """Write the project in *folder* as one file, with its media if wanted; media files that are not where they were,
    or are others now. Nothing else may have the project open, since what is packed is all of one moment."""
    with Document.open(folder) as document:
        return pack_open(folder, document.project, target, media=media, report=report)


def pack_open(
    folder: Path, project: Project, target: Path, *, media: bool, report: Report = lambda _share: None
) -> tuple[Path, ...]:
    """The same of a project that this process has open: *project* is as it stands, the database as last committed."""
    with tempfile.TemporaryDirectory() as place:
        copy = Path(place) / DATABASE
        _copied(folder / DATABASE, copy)
        inside = [(copy, DATABASE, ""), *_kept(folder)]
        there, missing = _media(project) if media else ([], ())
        inside += there
        total = sum(path.stat().st_size for path, _, _ in inside) or 1
        remove_unfinished(target.absolute().parent)
        written_whole(target, partial(_write, inside=inside, title=project.title, total=total, report=report))
    return missing


def _copied(database: Path, copy: Path) -> None:
    """The database as the last commit left it, in one file."""
    with said(database), closing(sqlite3.connect(database)) as source, closing(sqlite3.connect(copy)) as into:
        source.backup(into)
        into.execute("PRAGMA journal_mode = DELETE")


def _kept(folder: Path) -> Iterator[tuple[Path, str, str]]:
    for name in (CLIPS, ANSWERS):
        for path in files_below(folder / name):
            inside = f"{name}/{path.parent.name}/{path.name}"
            if _INSIDE.fullmatch(inside):
                yield path, inside, ""


def _media(project: Project) -> tuple[list[tuple[Path, str, str]], tuple[Path, ...]]:
    there, missing = [], []
    for number, track in enumerate(_tracks(project), 1):
        path = Path(track.path)
        if same_file(path, track.size_bytes, track.checksum):
            there.append((path, f"media/{number}/{path.name}", track.path))
        else:
            missing.append(path)
    return there, tuple(missing)


def _tracks(project: Project) -> Iterable[SoundTrack]:
    programme = project.programme
    tracks = (programme.sound, programme.bed) if programme else ()
    return {track.path: track for track in tracks if track is not None}.values()


def _write(temporary: Path, inside: list[tuple[Path, str, str]], title: str, total: int, report: Report) -> None:
    done, files = 0, []
    with zipfile.ZipFile(temporary, "w", zipfile.ZIP_STORED, allowZip64=True) as package:
        package.writestr("mimetype", MIMETYPE)
        for path, name, was in inside:
            digest, size = hashlib.sha256(), 0
            kind = zipfile.ZIP_DEFLATED if name == DATABASE else zipfile.ZIP_STORED
            entry = zipfile.ZipInfo(name)
            entry.compress_type = kind
            with path.open("rb") as source, package.open(entry, "w", force_zip64=True) as sink:
                while block := source.read(_BLOCK):
                    sink.write(block)
                    digest.update(block)
                    size += len(block)
                    done += len(block)
                    report(min(1.0, done / total))
            files.append(PackedFile(name, size, digest.hexdigest(), was))
        made = _Manifest(FORMAT, VERSION, f"Zweistimme {__version__}", title, tuple(files))
        package.writestr(MANIFEST, msgspec.json.encode(made), zipfile.ZIP_DEFLATED)


def unpack(package: Path, folder: Path, report: Report = lambda _share: None) -> None:
    """Make the project in a package a folder of its own, which must not be there yet. Everything is checked against
    the manifest before the folder gets its name; FormatError says what is wrong."""
    if folder.exists() and (not folder.is_dir() or any(folder.iterdir())):
        raise StoreError(
            "{folder} is already there and not empty. Choose another folder for the project.", folder=folder
        )
    folder.parent.mkdir(parents=True, exist_ok=True)
    with _opened(package) as source, unfinished_folder(folder.parent) as beside:
        manifest = _manifest(source, package)
        total = sum(file.size_bytes for file in manifest.files)
        free = shutil.disk_usage(folder.parent).free
        if total > free:
            raise StoreError(
                "{package} needs {total:,.2f} GB, but only {free:,.2f} GB are free where {folder} is to lie.",
                package=package,
                total=total / 1e9,
                free=free / 1e9,
                folder=folder,
            )
        done = 0
        for file in manifest.files:
            _extracted(source, file, beside / file.name, package)
            done += file.size_bytes
            report(done / max(1, total))
        for name in (CLIPS, ANSWERS):
            (beside / name).mkdir(exist_ok=True)
        media = {file.was: file.name for file in manifest.files if file.was}
        with Document.open(beside) as document:  # whatever is wrong with its rows is said now
            for was, name in media.items():
                document.apply(NOT_UNDONE, partial(move_media, old_path=was, new_path=str(folder.absolute() / name)))
        (beside / "lock").unlink(missing_ok=True)
        if folder.exists():
            folder.rmdir()
        beside.rename(folder)


_SPOILT: Final = (
    zipfile.BadZipFile,
    zipfile.LargeZipFile,
    EOFError,
    NotImplementedError,
    RuntimeError,
    zlib.error,
    UnicodeDecodeError,
)


@contextmanager
def _opened(package: Path) -> Iterator[zipfile.ZipFile]:
    if not package.is_file():
        raise FormatError(
            "There is no file {package}. Give a packed project (*{ending}).", package=package, ending=PACKED
        )
    try:
        with zipfile.ZipFile(package) as source:
            yield source
    except (*_SPOILT, OSError) as error:
        if isinstance(error, OSError) and error.errno != errno.EINVAL:  # a place in the file that cannot be one
            raise
        raise FormatError(
            "{package} is no packed project, or a damaged one ({why}).", package=package, why=error
        ) from error


def _manifest(source: zipfile.ZipFile, package: Path) -> _Manifest:
    """The manifest, which must speak of every file in the package and of nothing else."""
    names = [entry.filename for entry in source.infolist()]
    if len(names) > _MOST_FILES or len(set(names)) != len(names):
        raise FormatError("{package} has too many files, or one of them twice.", package=package)
    try:
        entry = source.getinfo(MANIFEST)
        if entry.file_size > _LARGEST_MANIFEST:
            raise FormatError("{package} has a manifest that is far too large.", package=package)
        made = msgspec.json.decode(source.read(entry), type=_Manifest)
    except KeyError:
        raise FormatError(
            "{package} is no packed project: it has no {manifest}.", package=package, manifest=MANIFEST
        ) from None
    except ValueError as error:
        raise FormatError("{package} has a manifest that cannot be read: {why}.", package=package, why=error) from None
    if made.format != FORMAT or made.version > VERSION:
        raise FormatError(
            "{package} was packed by a newer Zweistimme, or is something else. Unpack it with that one.",
            package=package,
        )
    listed = [file.name for file in made.files]
    strange = next((name for name in listed if not _INSIDE.fullmatch(name) or name.split("/")[-1] in (".", "..")), None)
    if strange is not None or any(file.size_bytes < 0 for file in made.files):
        raise FormatError(
            "{package} holds “{strange}”, which is no part of a project. It was not unpacked.",
            package=package,
            strange=(strange or "")[:80],
        )
    if sorted(listed) != sorted(set(names) - {MANIFEST, "mimetype"}) or DATABASE not in listed:
        raise FormatError("{package} does not hold what its manifest says. Have it packed once more.", package=package)
    return made


def _extracted(source: zipfile.ZipFile, file: PackedFile, path: Path, package: Path) -> None:
    path.parent.mkdir(parents=True, exist_ok=True)
    digest, size = hashlib.sha256(), 0
    with source.open(file.name) as entry, path.open("xb") as sink:
        while size <= file.size_bytes and (block := entry.read(_BLOCK)):
            sink.write(block)
            digest.update(block)
            size += len(block)
    if size != file.size_bytes or digest.hexdigest() != file.sha256:
        raise FormatError(
            "{package}: {file} is damaged. Have it packed or copied once more.", package=package, file=file.name
        )
