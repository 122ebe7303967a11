"""What stands with a line beside its words: how far it is, where it is from, what is on offer, what was noted."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum


class LineState(StrEnum):
    """How far a line is: the states of XLIFF 2.1 (4.3.1.31). What nobody has looked at yet is *initial*, be it empty or
    a machine's; from *translated* on it is a person's, and no run replaces it."""

    INITIAL = "initial"
    TRANSLATED = "translated"
    REVIEWED = "reviewed"
    FINAL = "final"

    @property
    def settled(self) -> bool:
        """Whether a person has written it or let it stand."""
        return self is not LineState.INITIAL


class OriginKind(StrEnum):
    """Who or what a wording comes from."""

    PERSON = "person"
    ENGINE = "engine"
    MEMORY = "memory"
    IMPORT = "import"
    VERSION = "version"
    """Another version of the same language."""


@dataclass(frozen=True, slots=True)
class Origin:
    """Where a wording comes from. *name* is that of the engine, the file, the version, or the project a match was
    settled in; *percent* is how alike the original of a match is (100: the same)."""

    kind: OriginKind
    name: str = ""
    percent: int = 0


@dataclass(frozen=True, slots=True)
class Offer:
    """A wording on offer for a line."""

    text: str
    origin: Origin | None = None


@dataclass(frozen=True, slots=True)
class LineNote:
    """What somebody noted about a line, from or to a reviewer. *written* is a time as of ISO 8601, in UTC."""

    text: str
    author: str = ""
    written: str = ""
