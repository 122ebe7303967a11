"""What the window is told, as data: sentences in place, and sound that has just been read."""

from __future__ import annotations

from dataclasses import dataclass

from zweistimme.project.programme import SoundTrack


@dataclass(frozen=True, slots=True)
class Notice:
    """Something to be said in place: kind is "note", "done" or "error"."""

    kind: str
    text: str


@dataclass(frozen=True, slots=True)
class SoundRead:
    """A second of sound that a job has just read: of which track, the how-manieth, and its peaks."""

    track: SoundTrack
    second: int
    peaks: object
