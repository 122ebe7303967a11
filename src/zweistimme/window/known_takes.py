"""What is known of the takes of lines: how they were heard, and what is wrong with their sound."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from zweistimme.messages import tr
from zweistimme.project.model import Speaker
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


def filters(
    known: Mapping[str, KnownTake], who: Mapping[str, str], people: Mapping[str, Speaker]
) -> list[tuple[str, str]]:
    """Whose takes, and with which findings, can be looked at: in words, and as ``is_wanted`` takes it. *who* speaks
    each segment."""
    speakers = dict.fromkeys(who[key] for key in known if who.get(key) in people)
    kinds = dict.fromkeys(f.kind for one in known.values() if one.looked for f in one.looked.faults)
    states = dict.fromkeys(w.state for one in known.values() if one.heard for w in one.heard.faults)
    found = [(tr("all takes"), ""), (tr("with findings"), "any")]
    found += [(people[key].name, f"speaker {key}") for key in speakers]
    found += [(tr("with a word {state}", state=tr(state.value)), f"word {state.value}") for state in states]
    return found + [(tr("sound: {kind}", kind=tr(kind)), f"sound {kind}") for kind in kinds]
