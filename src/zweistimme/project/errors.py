"""What can go wrong, as a tree. Every error carries one plain sentence: what happened, where, what to do.

ZweistimmeError
├── EditError            an edit that makes no sense on this project
├── MediaError           a sound or video file that cannot be used
├── FormatError          a caption, script or project file that cannot be read
├── EngineError          an engine that did not do what it was asked
├── StoreError           the project folder: in use, damaged, too new
│   └── NeverFinished    a project whose making was cut short
├── MissingVoices        speakers without a voice, found before synthesis
└── Cancelled            a person stopped a job
"""

from __future__ import annotations


class ZweistimmeError(Exception):
    """Base of all errors whose text is meant for a person."""


class EditError(ZweistimmeError):
    """The edit does not fit the project it was given."""


class MediaError(ZweistimmeError):
    """A sound or video file that cannot be used as asked."""


class FormatError(ZweistimmeError):
    """A text file (captions, script, project data) that cannot be read."""


class EngineError(ZweistimmeError):
    """An engine could not do what it was asked."""


class StoreError(ZweistimmeError):
    """The project folder cannot be opened or written."""


class NeverFinished(StoreError):
    """The making of this project was cut short; there is nothing in it."""


class MissingVoices(ZweistimmeError):
    """Some speakers have no voice in some version.

    *missing* holds (version tag, speaker name, number of lines).
    """

    def __init__(self, missing: list[tuple[str, str, int]]) -> None:
        self.missing = missing
        rows = "; ".join(
            f"{speaker} in {tag} ({count} line{'s' if count != 1 else ''})" for tag, speaker, count in missing
        )
        super().__init__(f"No voice is cast for: {rows}. Cast one for each before voicing.")


class Cancelled(ZweistimmeError):
    """The job was stopped by a person; what was finished is kept."""

    def __init__(self) -> None:
        super().__init__("Stopped. Everything finished so far is kept.")
