"""Phrases as the bundled voice speaks them, kept on disk: they are the same for every programme.

A file for each language in the user's cache, known by the code that makes them; whatever is wrong with it, the phrases
are spoken again. Names and terms of projects are not kept: they are nobody else's.
"""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Sequence
from contextlib import suppress
from dataclasses import dataclass
from functools import lru_cache
from importlib.resources import files
from pathlib import Path
from typing import Final

import msgspec
import numpy as np
import platformdirs

from zweistimme.media.atomic import written_bytes
from zweistimme.sound.arrays import Floats

_MADE_BY: Final = ("zweistimme.standin", "zweistimme.sound")
Words = tuple[tuple[str, int, int], ...]


@dataclass(frozen=True, slots=True)
class Template:
    """Cepstra of a phrase, shape ``(k, 12)``, and its words as (text, first state, state after the last)."""

    features: Floats
    words: Words


class _Kept(msgspec.Struct, frozen=True):
    made_by: str
    phrases: dict[str, tuple[bytes, Words]]


def kept_templates(tag: str, phrases: Sequence[str], make: Callable[[Sequence[str]], list[Template]]) -> list[Template]:
    """The templates of the book's own *phrases* in the language of *tag*; *make* speaks what is not kept."""
    file = Path(platformdirs.user_cache_dir("zweistimme")) / f"phrases-{tag}.msgpack"
    kept = _read(file)
    if all(phrase in kept for phrase in phrases):
        return [_unpacked(*kept[phrase]) for phrase in phrases]
    made = make(phrases)
    content = _Kept(
        _made_by(), {phrase: (one.features.tobytes(), one.words) for phrase, one in zip(phrases, made, strict=True)}
    )
    with suppress(OSError):  # without room for it, it is spoken again the next time
        written_bytes(file, msgspec.msgpack.encode(content))
    return made


def _read(file: Path) -> dict[str, tuple[bytes, Words]]:
    try:
        kept = msgspec.msgpack.decode(file.read_bytes(), type=_Kept)
    except (OSError, msgspec.MsgspecError):
        return {}
    return kept.phrases if kept.made_by == _made_by() else {}


def _unpacked(features: bytes, words: Words) -> Template:
    return Template(np.frombuffer(features, dtype=np.float64).reshape(-1, 12), words)


@lru_cache(maxsize=1)
def _made_by() -> str:
    """The code that speaks and measures, so that nothing made by other code is taken for its own."""
    digest = hashlib.sha256()
    for package in _MADE_BY:
        sources = sorted(files(package).iterdir(), key=lambda source: source.name)
        for source in sources:
            if source.name.endswith(".py"):
                digest.update(source.read_bytes())
    return digest.hexdigest()
