"""What is known of the takes of lines: how they were heard, and what is wrong with their sound."""

from __future__ import annotations

from dataclasses import dataclass

from zweistimme.sound.word_check import WordState
from zweistimme.stages.voice.heard_back import TakeHeard
from zweistimme.stages.voice.looked_at import TakeLooked


@dataclass(frozen=True, slots=True)
class KnownTake:
    """What is known of a line's take."""

    heard: TakeHeard | None = None
    looked: TakeLooked | None = None

    @property
    def take_id(self) -> str:
        one = self.heard or self.looked
        return one.take_id if one else ""

    @property
    def rank(self) -> tuple[float, int]:
        """Where it stands: the worst heard first, then by how many faults its sound has."""
        return self.heard.score if self.heard else 100.0, -len(self.looked.faults) if self.looked else 0


def is_wanted(one: KnownTake, wanted: str, speaker: str) -> bool:
    """Whether a take is among those somebody wants to see: ``any`` with findings, or ``speaker``, ``word`` or ``sound``
    and which; empty for all."""
    part, _, value = wanted.partition(" ")
    if part == "speaker":
        return speaker == value
    faults = one.looked.faults if one.looked else ()
    words = one.heard.faults if one.heard else ()
    if part == "word":
        return WordState(value) in {word.state for word in words}
    if part == "sound":
        return value in {fault.kind for fault in faults}
    return part != "any" or bool(words or faults)
