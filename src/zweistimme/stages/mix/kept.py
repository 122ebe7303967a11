"""Figures that were measured for a mix, kept in the cache until what they were measured of is another."""

from __future__ import annotations

from pathlib import Path
from typing import Any, TypeVar

import msgspec

from zweistimme.media.atomic import written_bytes

Kept = TypeVar("Kept")


def kept_figures(file: Path, type_: type[Kept]) -> Kept | None:
    """What is kept in a file, or None where that is nothing of this type."""
    try:
        return msgspec.msgpack.decode(file.read_bytes(), type=type_)
    except (OSError, ValueError):
        return None


def keep_figures(file: Path, figures: Any) -> None:
    """Keep figures in a file, in the place of what is there."""
    written_bytes(file, msgspec.msgpack.encode(figures))
