"""What a step will ask of its engines, and what that will cost, before it is run."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Final

from zweistimme.engines.offers import Cost, EngineInfo, Role, Usage
from zweistimme.engines.voices import split_voice
from zweistimme.formats.ssml import ssml_of
from zweistimme.messages import tr
from zweistimme.project.facts import spoken_segments
from zweistimme.project.model import Project, Segment
from zweistimme.project.progress import Step
from zweistimme.project.pronunciations import Pronunciations, pronunciations_of
from zweistimme.stages.engine_choice import engine_for
from zweistimme.stages.transcribe.long_sound import longest_piece_s
from zweistimme.stages.translate import batched, items_of, open_translations
from zweistimme.stages.voice import OpenTake, open_takes, takes_anew


@dataclass(frozen=True, slots=True)
class Estimate:
    """What one engine will be asked: requests, what they use, and the least time its pace allows, in seconds.

    Answers that are remembered from earlier runs are not taken off; those cost nothing again.
    """

    engine: str
    requests: int
    cost: Cost
    least_s: float = 0.0

    @property
    def sentence(self) -> str:
        """The estimate in words.

        >>> Estimate("quay", 18, Cost(1240, 0.0, 0.248, "EUR"), 30.0).sentence
        'quay: 18 requests, 1,240 characters, about 0.25 EUR, at least 30 s'
        """
        parts = [tr("{n:request|requests}", n=self.requests)]
        if self.cost.characters:
            parts.append(tr("{characters:,} characters", characters=self.cost.characters))
        if self.cost.seconds:
            parts.append(tr("{seconds:,.0f} s of sound", seconds=self.cost.seconds))
        if self.cost.amount:
            parts.append(
                tr("about {amount:,.2f} {currency}", amount=self.cost.amount, currency=self.cost.currency).strip()
            )
        if self.least_s >= 1:
            parts.append(tr("at least {least_s:,.0f} s", least_s=self.least_s))
        return f"{self.engine}: {', '.join(parts)}"

    def beyond(self, usage: Usage) -> str:
        """A warning if the quota that is left will not do; else empty."""
        left = usage.characters_left
        if left is None or self.cost.characters <= left:
            return ""
        return tr(
            "Only {left:,} of about {characters:,} characters are left at {engine}.",
            left=left,
            characters=self.cost.characters,
            engine=self.engine,
        )


ASKING: Final = (Step.TRANSCRIPT, Step.TRANSLATION, Step.TAKES)
"""The steps that may cost something."""


Anew = Sequence[str] | None
"""Segments that engines are asked for anew, or None: what is missing or stale."""


def _takes(project: Project, tag: str, anew: Anew) -> list[OpenTake]:
    return open_takes(project, tag) if anew is None else takes_anew(project, tag, anew)


def _translations(project: Project, tag: str, anew: Anew) -> list[Segment]:
    if anew is None:
        return open_translations(project, tag)
    return [segment for segment in spoken_segments(project) if segment.id in set(anew)]


def asked_engines(project: Project, tag: str, step: Step, anew: Anew = None) -> list[str]:
    """The engines a step will ask as things stand."""
    if step is Step.TAKES:
        return list(dict.fromkeys(split_voice(item.voice)[0] for item in _takes(project, tag, anew)))
    if step is Step.TRANSLATION and _translations(project, tag, anew):
        return [engine_for(project, Role.TRANSLATE, tag)]
    if step is Step.TRANSCRIPT and not project.segments:
        return [engine_for(project, Role.RECOGNISE)]
    return []


def estimated(project: Project, tag: str, step: Step, name: str, info: EngineInfo, anew: Anew = None) -> Estimate:
    """What *step* of a version will ask of the engine called *name*."""
    characters, seconds, requests = 0, 0.0, 1
    if step is Step.TRANSCRIPT:
        seconds = project.programme.sound.duration_us / 1e6 if project.programme else 0.0
        requests = max(1, -(-round(seconds) // round(longest_piece_s(info.limits.seconds))))
    elif step is Step.TRANSLATION:
        items = items_of(project, _translations(project, tag, anew))
        requests = len(batched(items, info.limits))
        characters = sum(len(item.text) for item in items)
    else:
        said = pronunciations_of(project, tag)
        return _of_takes(
            tag, name, info, said, [t for t in _takes(project, tag, anew) if split_voice(t.voice)[0] == name]
        )
    return Estimate(name, requests, info.price.of(characters, seconds), _least_s(info, requests))


def _of_takes(tag: str, name: str, info: EngineInfo, said: Pronunciations, takes: list[OpenTake]) -> Estimate:
    return Estimate(name, len(takes), cost_of_takes(tag, info, said, takes), _least_s(info, len(takes)))


def cost_of_takes(tag: str, info: EngineInfo, said: Pronunciations, takes: Iterable[OpenTake]) -> Cost:
    """Takes cost by their characters, mark-up included, each as its voice costs in the tier it is wanted in."""
    cost = Cost()
    for take in takes:
        price = info.price_of_speech(split_voice(take.voice)[1], take.manner.tier)
        cost += price.of(len(ssml_of(take.line.text, tag, said)))
    return cost


def _least_s(info: EngineInfo, requests: int) -> float:
    """What so many requests take at least, in seconds, since no more may be made in a minute."""
    pace = info.limits.requests_a_minute
    return (requests - 1) * 60 / pace if pace else 0.0
