"""What can go wrong, as a tree. Every error carries one plain sentence: what happened, where, what to do.

ZweistimmeError
├── EditError            an edit that makes no sense on this project
│   └── TagError         what should name a language names none
├── MediaError           a sound or video file that cannot be used
├── FormatError          a caption, script or project file that cannot be read
├── EngineError          an engine that did not do what it was asked
│   ├── EngineAway       it was not reached
│   ├── EngineRefused    it will answer nothing more until a person acts: token, rights, quota
│   ├── EngineBusy       it asks to wait
│   ├── EngineFault      it failed, which may pass
│   │   └── EngineCutOff its answer did not arrive
│   ├── EngineTooSlow    a program that took too long
│   ├── BudgetReached    no more may be spent on it
│   ├── BadAnswer        what it answered cannot be used
│   └── PartlyDone       some of what it was asked for
├── StoreError           the project folder: in use, damaged, too new
│   └── NeverFinished    a project whose making was cut short
├── NotReady             a version that cannot be handed over yet
├── MissingVoices        speakers without a voice, found before synthesis
└── Cancelled            a person stopped a job
"""

from __future__ import annotations

from zweistimme.messages import msg, tr
from zweistimme.project.findings import AS_WRITTEN, Figure, Finding, cause


class ZweistimmeError(Exception):
    """Base of all errors whose text is meant for a person: one sentence, with places for its *figures* as for
    ``str.format``. What is refused is known by its English sentence, which is what translations go by.

    >>> str(ZweistimmeError("There is no file {path}.", path="a.wav"))
    'There is no file a.wav.'
    """

    def __init__(self, sentence: str = "", **figures: object) -> None:
        super().__init__(sentence)
        self.finding = (
            Finding(sentence, {name: _figure(value) for name, value in figures.items()})
            if figures or "{" not in sentence
            else Finding(AS_WRITTEN, {"text": sentence})
        )
        """What is said, as data: to be kept, or said in another language."""

    def __str__(self) -> str:
        """What is said, in the language of the desk."""
        return str(self.finding)


def _figure(value: object) -> Figure:
    if isinstance(value, ZweistimmeError):
        return value.finding
    if isinstance(value, Exception) and hasattr(value, "strerror"):
        return cause(value)
    return value if isinstance(value, str | int | float | Finding) else str(value)


class EditError(ZweistimmeError):
    """The edit does not fit the project it was given."""


class TagError(EditError):
    """What should name a language names none."""


class MediaError(ZweistimmeError):
    """A sound or video file that cannot be used as asked."""


class FormatError(ZweistimmeError):
    """A text file (captions, script, project data) that cannot be read."""


class EngineError(ZweistimmeError):
    """An engine could not do what it was asked.

    *tries* is how often the same question may be asked in all; *ends_run* says that every other question would
    fail alike; *may_have_cost* that the engine may have done, and charged for, what did not arrive.
    """

    tries = 1
    ends_run = False
    may_have_cost = False


class EngineAway(EngineError):
    """An engine was not reached."""

    tries = 3
    ends_run = True


class EngineRefused(EngineError):
    """An engine answers nothing more until a person acts."""

    ends_run = True


class EngineBusy(EngineError):
    """An engine asks to wait, *after_s* seconds if it says how long."""

    tries = 30

    def __init__(self, sentence: str, after_s: float | None = None, **figures: object) -> None:
        super().__init__(sentence, **figures)
        self.after_s = after_s


class EngineFault(EngineError):
    """An engine failed."""

    tries = 5


class EngineCutOff(EngineFault):
    """An engine was asked, and its answer did not arrive."""

    may_have_cost = True


class EngineTooSlow(EngineError):
    """A program took longer than its description says; it would again."""


class BudgetReached(EngineError):
    """What a person is willing to spend on an engine is spent."""

    ends_run = True


class BadAnswer(EngineError):
    """An engine answered with something that cannot be used."""

    tries = 3
    may_have_cost = True


class PartlyDone(EngineError):
    """Some of what an engine was asked for could not be had; the rest is kept."""


class StoreError(ZweistimmeError):
    """The project folder cannot be opened or written."""


class NeverFinished(StoreError):
    """The making of this project was cut short; there is nothing in it."""


class NotReady(ZweistimmeError):
    """A version cannot be handed over as it is."""


class MissingVoices(ZweistimmeError):
    """Some speakers have no voice in some version.

    *missing* holds (version tag, speaker name, number of lines).
    """

    def __init__(self, missing: list[tuple[str, str, int]]) -> None:
        self.missing = missing
        rows = "; ".join(
            tr("{speaker} in {version} ({n:line|lines})", speaker=speaker, version=tag, n=count)
            for tag, speaker, count in missing
        )
        super().__init__(msg("No voice is cast for: {rows}. Cast one for each before voicing."), rows=rows)


class Cancelled(ZweistimmeError):
    """The job was stopped by a person; what was finished is kept."""

    def __init__(self) -> None:
        super().__init__(msg("Stopped. Everything finished so far is kept."))
