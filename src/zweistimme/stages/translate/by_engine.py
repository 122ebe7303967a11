"""Lines by an engine."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import replace
from enum import StrEnum

from zweistimme.engines.offers import FREE, Cost, Limits
from zweistimme.engines.protocol import (
    Engine,
    Translation,
    TranslationItem,
    TranslationRequest,
    Wording,
    Wordings,
)
from zweistimme.engines.request_queue import ask_all
from zweistimme.engines.text_pieces import pieces
from zweistimme.messages import msg, tr
from zweistimme.project.access import find_version
from zweistimme.project.errors import EngineError, PartlyDone
from zweistimme.project.facts import line_is_stale, source_fingerprint, spoken_segments
from zweistimme.project.findings import Finding
from zweistimme.project.languages import spoken_tag
from zweistimme.project.line_edits import is_settled, put_translation
from zweistimme.project.model import Failure, Made, Maker, Project, Segment
from zweistimme.project.progress import Mark, marks_of
from zweistimme.project.writing import joined
from zweistimme.stages.answers import cost_of_run, translated
from zweistimme.stages.engine_choice import pair_known
from zweistimme.stages.fit.slot import slot_us
from zweistimme.stages.translate.remembering import recall
from zweistimme.stages.translate.situations import about_of, terms_for, with_situations
from zweistimme.stages.work import Report, Work

Batch = tuple[TranslationItem, ...]


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
    if not pair_known(info, source, tag):
        known = ", ".join(tr("{source} to {targets}", source=a, targets=b) for a, b in info.pairs) or tr("no languages")
        raise EngineError(
            "{engine} does not translate {source} to {tag}; it knows {known}.",
            engine=info.name,
            source=source,
            tag=tag,
            known=known,
        )
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
        self.work, self.engine, self.tag, self._source_tag = work, engine, tag, source_tag
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
            batches, self._answer, limits=info.limits, took=self._took, report=report, repeats_cost=info.repeats_cost
        )
        if final:
            for failure in failures:
                self.give_up(failure.question[0], failure.error)
        return {failure.question: failure.error for failure in failures}

    def give_up(self, item: TranslationItem, error: EngineError) -> None:
        """Say of one line why it has no translation."""
        self.failures[item.id] = f"“{item.text[:40]}”: {error}"
        asked = source_fingerprint(self._segments[item.id])
        self.work.failed(self.tag, Failure(item.id, Made.LINE, error.finding, asked))

    def _answer(self, batch: Batch) -> Translation:
        """One request; an item longer than the engine takes goes alone, in pieces that are joined again."""
        most = self.engine.info().limits.characters
        if most is None or sum(map(_sent, batch)) <= most:
            return self._asked(batch)
        (item,) = batch
        parts = pieces(item.text, lambda piece: len(piece) <= most)
        answers = [self._asked((TranslationItem(item.id, part, situation=item.situation),)) for part in parts]
        if not all(answer.items for answer in answers):
            return Translation((), sum((a.cost for a in answers), Cost()))
        fullest = [answer.items[0].wordings[0] for answer in answers]
        shortest = [answer.items[0].wordings[-1] for answer in answers]
        wordings = tuple(dict.fromkeys((_in_one(fullest), _in_one(shortest))))
        return Translation((Wordings(item.id, wordings),), sum((a.cost for a in answers), Cost()))

    def _asked(self, batch: Batch) -> Translation:
        project, info = self.work.project, self.engine.info()
        terms = terms_for(project, self.tag, (item.text for item in batch), whole=info.situations)
        request = TranslationRequest(
            self._source_tag, spoken_tag(self.tag), batch, terms, about=about_of(project, info)
        )
        return translated(self.work, self.engine, request)

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


def _in_one(wordings: Sequence[Wording]) -> Wording:
    return Wording(joined([w.text for w in wordings]), sum(w.spoken_us for w in wordings))


def items_of(project: Project, todo: Sequence[Segment]) -> list[TranslationItem]:
    """Segments as items, each with its neighbours."""
    spoken = spoken_segments(project)
    place = {segment.id: number for number, segment in enumerate(spoken)}
    items = []
    for segment in todo:
        number = place[segment.id]
        before = spoken[number - 1].text if number else ""
        after = spoken[number + 1].text if number + 1 < len(spoken) else ""
        items.append(TranslationItem(segment.id, segment.text, before, after))
    return items


def _sent(item: TranslationItem) -> int:
    return len(item.text) + len(item.before) + len(item.after)


def batched(items: Sequence[TranslationItem], limits: Limits) -> list[Batch]:
    """Items gathered into requests no larger than the engine takes. One item alone may be larger."""
    batches: list[Batch] = []
    size = 0
    for item in items:
        fits = limits.characters is None or size + _sent(item) <= limits.characters
        if batches and len(batches[-1]) < limits.items and fits:
            batches[-1] += (item,)
            size += _sent(item)
        else:
            batches.append((item,))
            size = _sent(item)
    return batches


def say_stale(work: Work, tag: str) -> None:
    left = sum(1 for s in work.project.segments if _stale_and_settled(work.project, tag, s))
    if left:
        work.say(Finding("stale-by-hand", {"lines": left, "version": tag}))


def _stale_and_settled(project: Project, tag: str, segment: Segment) -> bool:
    line = project.versions[tag].lines.get(segment.id)
    return line is not None and is_settled(line) and line_is_stale(segment, line)
