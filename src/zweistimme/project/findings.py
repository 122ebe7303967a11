"""What the machine has to say, as data: a code, with its figures. It becomes a sentence at the edge (``sentences``)."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

Figure = str | int | float


@dataclass(frozen=True, slots=True)
class Finding:
    """One thing to be said. *code* is listed in the catalogue of sentences; *figures* have their units in their names;
    *place* is a file, or where in it.

    >>> Finding("late", {"by_s": 0.4}).figures["by_s"]
    0.4
    """

    code: str
    figures: Mapping[str, Figure] = field(default_factory=dict)
    place: str = ""


AS_WRITTEN = "as-written"
"""A sentence that an older Zweistimme kept as it was; its text is the figure *text*."""
