"""Wordings said back in the language of the original, for whoever does not know theirs: asked of a translator, kept
like any answer, and measured against the original."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from itertools import pairwise

from zweistimme.engines.offers import Cost
from zweistimme.engines.protocol import Engine, Translation, TranslationItem, TranslationRequest
from zweistimme.engines.request_queue import ask_all
from zweistimme.messages import msg
from zweistimme.project.access import find_version
from zweistimme.project.errors import EngineError, PartlyDone
from zweistimme.project.facts import spoken_segments
from zweistimme.project.languages import spoken_tag
from zweistimme.project.model import Project
from zweistimme.project.writing import spoken_text
from zweistimme.stages.answers import translated
from zweistimme.stages.engine_choice import pair_known
from zweistimme.stages.translate.asking import Batch, batched
from zweistimme.stages.translate.chrf import chrf
from zweistimme.stages.work import Work


@dataclass(frozen=True, slots=True)
class SaidBack:
    """A wording said back: *text* is the wording it was asked for, *score* how much of the original is in it (chrF, 0
    to 100)."""

    segment_id: str
    number: int
    source: str
    text: str
    back: str
    score: float


def sayable(project: Project, tag: str, segment_ids: Iterable[str] | None = None) -> list[TranslationItem]:
    """Lines with words, of some segments or of all, as they are asked for: without directions."""
    version, wanted = find_version(project, tag), None if segment_ids is None else set(segment_ids)
    return [
        TranslationItem(segment.id, spoken_text(version.lines[segment.id].text))
        for segment in spoken_segments(project)
        if (wanted is None or segment.id in wanted)
        and segment.id in version.lines
        and version.lines[segment.id].text.strip()
    ]


def say_back(
    work: Work,
    engine: Engine,
    tag: str,
    segment_ids: Iterable[str] | None = None,
    took: Callable[[list[SaidBack]], None] = lambda _said: None,
    by: str = "",
) -> list[SaidBack]:
    """Have lines of a version said back, each answer given to *took* as it is there; all of them, the worst first. What
    was said back before is not asked for again. *by* is another language on the way, if wanted. EngineError where the
    engine does not know the way back; PartlyDone where some lines failed."""
    info, source = engine.info(), work.project.source_tag
    way = [spoken_tag(tag), *([spoken_tag(by)] if by else []), source]
    for start, end in pairwise(way):
        if not pair_known(info, start, end):
            raise EngineError(
                "{engine} does not translate {source} back to {tag}.", engine=info.name, source=start, tag=end
            )
    segments = {segment.id: segment for segment in work.project.segments}
    numbers = {segment.id: number for number, segment in enumerate(spoken_segments(work.project), 1)}
    found: list[SaidBack] = []

    def asked(batch: Batch) -> Translation:
        cost = Cost()
        for start, end in pairwise(way):
            answer = translated(work, engine, TranslationRequest(start, end, batch))
            batch = tuple(TranslationItem(item.id, item.texts[0]) for item in answer.items)
            cost += answer.cost
        return Translation(answer.items, cost)

    def taken(batch: Batch, answer: Translation) -> None:
        texts = {item.id: item.text for item in batch}
        said = [
            SaidBack(
                item.id, numbers[item.id], segments[item.id].text, texts[item.id], item.texts[0],
                chrf(item.texts[0], segments[item.id].text),
            )
            for item in answer.items
            if item.id in texts
        ]  # fmt: skip
        found.extend(said)
        took(said)

    batches = batched(sayable(work.project, tag, segment_ids), info.limits)
    failures = ask_all(
        batches, asked, limits=info.limits, took=taken, report=work.report, repeats_cost=info.repeats_cost
    )
    if failures:
        kind = PartlyDone if found else EngineError
        raise kind(
            msg("{n:line|lines} could not be said back. First: {first}"),
            n=sum(len(failure.question) for failure in failures),
            first=str(failures[0].error),
        )
    return sorted(found, key=lambda one: one.score)
