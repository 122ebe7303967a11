"""A line as it is sent to people who have no desk, and as it comes back."""

from __future__ import annotations

import hashlib
from dataclasses import dataclass, field

from zweistimme.project.findings import Finding
from zweistimme.project.wordings import LineNote, LineState


@dataclass(frozen=True, slots=True)
class ExchangeRow:
    """One line. *number* counts from 1; *letters* is how many fit comfortably, *seconds* what the slot offers.
    ``source_sent`` and ``target_sent`` are marks of the texts as they were sent (``mark_of``), ``state_sent`` is the
    state; empty where a file does not say. What a file that came back does not say is None. *picture* is a JPEG of what
    is seen then, where one is sent along."""

    segment_id: str
    source: str
    target: str
    number: int = 0
    speaker: str = ""
    start_us: int = 0
    end_us: int = 0
    seconds: float = 0.0
    letters: int = 0
    locked: bool = False
    state: LineState | None = None
    notes: tuple[LineNote, ...] | None = None
    source_sent: str = ""
    target_sent: str = ""
    state_sent: str = ""
    picture: bytes = b""


@dataclass(frozen=True, slots=True)
class Exchange:
    """What is sent, or came back: lines between two languages; *said* is what was odd about a file."""

    title: str
    source_tag: str
    target_tag: str
    rows: tuple[ExchangeRow, ...] = ()
    said: tuple[Finding, ...] = field(default=())


def mark_of(text: str) -> str:
    """A short mark by which a text is known again; spaces make no difference.

    >>> mark_of("Ja.  Gut.") == mark_of(" Ja. Gut. "), len(mark_of(""))
    (True, 6)
    """
    return hashlib.sha256(" ".join(text.split()).encode()).hexdigest()[:6]
