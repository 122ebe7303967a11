"""Lines by an engine."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import replace
from enum import StrEnum

from zweistimme.engines.offers import FREE, Cost
from zweistimme.engines.protocol import (
    Engine,
    Translation,
    TranslationItem,
)
from zweistimme.engines.request_queue import ask_all
from zweistimme.messages import msg
from zweistimme.project.access import find_version
from zweistimme.project.errors import EngineError, PartlyDone
from zweistimme.project.facts import line_is_stale, source_fingerprint, spoken_segments
from zweistimme.project.findings import Finding
from zweistimme.project.line_edits import is_settled, put_translation
from zweistimme.project.model import Failure, Made, Maker, Project, Segment
from zweistimme.project.progress import Mark, marks_of
from zweistimme.stages.answers import cost_of_run
from zweistimme.stages.fit.slot import slot_us
from zweistimme.stages.translate.asking import Asking, Batch, batched, check_pair, items_of
from zweistimme.stages.translate.remembering import recall
from zweistimme.stages.translate.situations import with_situations
from zweistimme.stages.work import Report, Work


class Only(StrEnum):
    """Which of the lines that are open are translated."""

    MISSING = "missing"
    STALE = "stale"


def open_translations(project: Project, tag: str, only: Only | None = None) -> list[Segment]:
    """Segments whose line is missing, empty or stale, or one of these *only*. A stale one that a person has settled is
    left to the person."""
    wanted = [(s, marks) for s, marks in marks_of(project, find_version(project, tag)) if marks & Mark.TO_TRANSLATE]
    stale = only is Only.STALE
    lines = find_version(project, tag).lines
    return [s for s, _ in wanted if only is None or bool(s.id in lines and lines[s.id].text.strip()) is stale]


def translate(
    work: Work, engine: Engine, tag: str, segment_ids: Iterable[str] | None = None, only: Only | None = None
) -> None:
    """Translate what is missing or stale, or one of these *only*, or some lines anew; each answer is kept the moment it
    is there. A line that fails does not stop the others: what failed is said of that line, and once more at the end."""
    if segment_ids is None:
        todo = recall(work, tag, open_translations(work.project, tag, only))
    else:
        wanted = set(segment_ids)
        work, todo = replace(work, anew=True), [s for s in spoken_segments(work.project) if s.id in wanted]
    if not todo:
        say_stale(work, tag)
        return
    info = engine.info()
    source = work.project.source_tag
    check_pair(info, source, tag)
    version = find_version(work.project, tag)
    slots = {segment.id: slot_us(work.project, version, segment) for segment in todo}
    items = [replace(item, longest_us=slots[item.id]) for item in items_of(work.project, todo)]
    ask_for_lines(LinesRun(work, engine, tag, source), with_situations(work, tag, items, info))


def ask_for_lines(run: LinesRun, items: Sequence[TranslationItem]) -> None:
    """Ask for all items, those of a failed request one by one, and say what could not be had."""
    work, tag, info = run.work, run.tag, run.engine.info()
    batches = batched(items, info.limits)
    failed = run.ask(batches, work.part(0, 0.9))
    # a batch that failed is asked again item by item, so that one bad line costs no other; but not what may have been
    # paid for as it is: under other keys it would be paid for once more
    singles: list[Batch] = [(item,) for item in run.left_out]
    for batch, error in failed.items():
        if len(batch) == 1 or (info.price != FREE and error.may_have_cost):
            for item in batch:
                run.give_up(item, error)
        else:
            singles += [(item,) for item in batch]
    run.left_out.clear()
    run.ask(singles, work.part(0.9, 1.0), final=True)
    for item in run.left_out:
        run.give_up(item, EngineError("{engine} leaves this text out of its answers.", engine=info.name))
    for finding in cost_of_run(info.name, run.cost):
        work.say(finding)
    say_stale(work, tag)
    if run.failures:
        first = next(iter(run.failures.values()))
        kind = PartlyDone if len(run.failures) < len(items) else EngineError
        raise kind(
            msg(
                "{failed} of {all:line|lines} could not be translated into {version}; the others are kept. First: "
                "{first}"
            ),
            failed=len(run.failures),
            all=len(items),
            version=tag,
            first=first,
        )


class LinesRun:
    """One run over one version."""

    def __init__(self, work: Work, engine: Engine, tag: str, source_tag: str) -> None:
        self.work, self.engine, self.tag = work, engine, tag
        self._asking = Asking(work, engine, tag, source_tag)
        self._segments = {segment.id: segment for segment in work.project.segments}
        self.failures: dict[str, str] = {}
        self.cost = Cost()
        self.left_out: list[TranslationItem] = []
        """What was asked for and is not in the answer."""

    def ask(self, batches: Sequence[Batch], report: Report, *, final: bool = False) -> dict[Batch, EngineError]:
        """Ask for every batch; those that failed."""
        if not batches:
            return {}
        info = self.engine.info()
        failures = ask_all(
            batches, self._asking.answer, limits=info.limits, took=self._took, report=report,
            repeats_cost=info.repeats_cost,
        )  # fmt: skip
        if final:
            for failure in failures:
                self.give_up(failure.question[0], failure.error)
        return {failure.question: failure.error for failure in failures}

    def give_up(self, item: TranslationItem, error: EngineError) -> None:
        """Say of one line why it has no translation."""
        self.failures[item.id] = f"“{item.text[:40]}”: {error}"
        asked = source_fingerprint(self._segments[item.id])
        self.work.failed(self.tag, Failure(item.id, Made.LINE, error.finding, asked))

    def _took(self, batch: Batch, answer: Translation) -> None:
        self.cost += answer.cost
        tag = self.tag
        there = {item.id for item in answer.items}
        self.left_out += [item for item in batch if item.id not in there]
        empty = {item.id for item in answer.items if not item.texts[0].strip()}
        for item in (item for item in batch if item.id in empty):
            self.give_up(
                item, EngineError("{engine_name} answered with an empty text.", engine_name=self.engine.info().name)
            )

        asked, lines = self._segments, find_version(self.work.project, tag).lines

        makers = self._makers(batch, answer)

        def edit(project: Project) -> Project:
            for item in answer.items:
                if item.id not in empty:
                    project = put_translation(
                        project, tag, item.id, item.texts, source=asked[item.id], instead_of=lines.get(item.id),
                        maker=makers[item.id],
                    )  # fmt: skip
            return project

        self.work.deliver(f"Translate into {tag}", edit)

    def _makers(self, batch: Batch, answer: Translation) -> dict[str, Maker]:
        """Who worded each text, with its share of what all of them cost."""
        info, cost = self.engine.info(), answer.cost
        whole = sum(len(item.text) for item in batch) or 1
        return {
            item.id: Maker(
                self.engine.name, info.version, "", round(cost.amount * len(item.text) / whole, 6), cost.currency
            )
            for item in batch
        }


def say_stale(work: Work, tag: str) -> None:
    left = sum(1 for s in work.project.segments if _stale_and_settled(work.project, tag, s))
    if left:
        work.say(Finding("stale-by-hand", {"lines": left, "version": tag}))


def _stale_and_settled(project: Project, tag: str, segment: Segment) -> bool:
    line = project.versions[tag].lines.get(segment.id)
    return line is not None and is_settled(line) and line_is_stale(segment, line)
