"""Phrases as the bundled voice speaks them, kept on disk: they are the same for every programme.

A file for each language in the user's cache, known by the code that makes them; whatever is wrong with it, the phrases
are spoken again.
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
_MOST: Final = 400
"""Phrases kept of a language; the book's own and the names of some projects."""
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
    """The templates of *phrases* in the language of *tag*; *make* speaks those that are not kept yet."""
    file = Path(platformdirs.user_cache_dir("zweistimme")) / f"phrases-{tag}.msgpack"
    kept = _read(file)
    known = {phrase: _unpacked(*kept[phrase]) for phrase in phrases if phrase in kept}
    missing = [phrase for phrase in phrases if phrase not in known]
    if missing:
        known.update(zip(missing, make(missing), strict=True))
        wanted = {phrase: (known[phrase].features.tobytes(), known[phrase].words) for phrase in phrases}
        others = [phrase for phrase in kept if phrase not in wanted][: max(0, _MOST - len(wanted))]
        with suppress(OSError):  # without room for it, it is spoken again the next time
            content = _Kept(_made_by(), {**wanted, **{phrase: kept[phrase] for phrase in others}})
            written_bytes(file, msgspec.msgpack.encode(content))
    return [known[phrase] for phrase in phrases]


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
