"""What a step will ask of its engines, and what that will cost, before it is run."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Final

from zweistimme.engines.offers import Cost, EngineInfo, Role, Usage
from zweistimme.engines.voices import split_voice
from zweistimme.formats.ssml import ssml_of
from zweistimme.messages import tr
from zweistimme.project.access import find_version
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

    def left_words(self, usage: Usage) -> str:
        """What is left of a quota, and whether it will not do; empty where there is none, or it is not touched."""
        left = usage.characters_left
        if left is None or not self.cost.characters:
            return ""
        if self.cost.characters <= left:
            return tr("{left:,} characters are left at {engine}.", left=left, engine=self.engine)
        return tr(
            "Only {left:,} of about {characters:,} characters are left at {engine}.",
            left=left,
            characters=self.cost.characters,
            engine=self.engine,
        )


@dataclass(frozen=True, slots=True)
class Spent:
    """What an engine was paid for what a version has now: so many lines and takes, at so much."""

    engine: str
    count: int
    amount: float
    currency: str

    @property
    def sentence(self) -> str:
        """In words.

        >>> Spent("quay", 18, 0.248, "EUR").sentence
        'quay: 18 lines and takes, 0.25 EUR'
        """
        return tr(
            "{engine}: {n:line or take|lines and takes}, {amount:,.2f} {currency}", engine=self.engine, n=self.count,
            amount=self.amount, currency=self.currency,
        )  # fmt: skip


def spent_on(project: Project, tag: str) -> list[Spent]:
    """What each engine was paid for the lines, takes and other takes of a version; free ones are not there."""
    version = find_version(project, tag)
    totals: dict[tuple[str, str], tuple[int, float]] = {}
    makers = [line.maker for line in version.lines.values()] + [take.maker for take in version.takes.values()]
    for maker in makers:
        if maker is not None and maker.amount:
            count, amount = totals.get((maker.engine, maker.currency), (0, 0.0))
            totals[maker.engine, maker.currency] = count + 1, amount + maker.amount
    return [Spent(engine, count, round(amount, 6), currency) for (engine, currency), (count, amount) in totals.items()]


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
