"""Texts that are being written and are not part of the project yet, kept beside it in case the process is killed."""

from __future__ import annotations

import os
from collections.abc import Sequence
from pathlib import Path

import msgspec

from zweistimme.media.atomic import written_text
from zweistimme.project.errors import StoreError
from zweistimme.store.names import WRITING_TEXTS
from zweistimme.store.own_files import opened_own


class UnkeptText(msgspec.Struct, frozen=True):
    """What is written, and where it belongs: a kind of text, the key of its segment or speaker, and a version's tag."""

    kind: str
    key: str
    tag: str
    text: str


def write_unkept(folder: Path, texts: Sequence[UnkeptText]) -> None:
    """Keep *texts* beside the project in *folder*, in place of those before; OSError if that is not possible."""
    path = folder / WRITING_TEXTS
    if texts:
        written_text(path, msgspec.json.encode(list(texts)).decode())
    else:
        path.unlink(missing_ok=True)


def read_unkept(folder: Path) -> list[UnkeptText]:
    """What was being written when the process that had the project open ended; nothing where nothing can be read."""
    try:
        with os.fdopen(opened_own(folder / WRITING_TEXTS, os.O_RDONLY), "rb") as file:
            return msgspec.json.decode(file.read(), type=list[UnkeptText])
    except (OSError, ValueError, StoreError):
        return []
