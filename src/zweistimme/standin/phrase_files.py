"""The phrases that ship: the stand-ins' own, and those of the demo, which lie with it."""

from __future__ import annotations

from collections.abc import Iterator
from importlib.resources import files

_PLACES = ("zweistimme.demo", "zweistimme.standin")


def phrase_lines(name: str) -> Iterator[str]:
    """The lines of a file of this name, wherever there is one; empty ones and remarks are left out."""
    for place in _PLACES:
        file = files(place) / "data" / name
        if file.is_file():
            lines = (line.strip() for line in file.read_text(encoding="utf-8").splitlines())
            yield from (line for line in lines if line and not line.startswith("#"))
