"""Units of a translation memory: what was said, how it was put in another language, and where that was settled."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Unit:
    """One pair of texts. *context* is a fingerprint of what was said before and after it; *origin* is the title of the
    project or the name of the file it comes from, *made* when it was settled (ISO 8601, UTC), *author* by whom.

    What a project settled is known by *project* and *segment*, so that it changes with it; what a file brought has
    neither. *id* is that of the memory, 0 where it is in none yet.
    """

    source_tag: str
    target_tag: str
    source: str
    target: str
    context: str = ""
    origin: str = ""
    author: str = ""
    made: str = ""
    project: str = ""
    segment: str = ""
    id: int = 0


@dataclass(frozen=True, slots=True)
class Match:
    """What a memory has for a text. *percent* is how alike what was said is: 100 is the same, letter by letter.
    *target* is the wording to use, with numbers and names *exchanged* where they alone were others; *in_context* says
    that the same was said before and after, too."""

    unit: Unit
    percent: int
    target: str
    in_context: bool = False
    exchanged: bool = False
