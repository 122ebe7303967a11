"""The same lines by several engines: what each says, how long that is, what checks notice, what it cost and took."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, replace

from zweistimme.engines.offers import Cost
from zweistimme.engines.protocol import Engine, Translation
from zweistimme.engines.request_queue import ask_all
from zweistimme.messages import msg
from zweistimme.project.access import find_version, put_version
from zweistimme.project.errors import EngineError, PartlyDone
from zweistimme.project.facts import spoken_segments
from zweistimme.project.line_edits import is_settled, keeps_words, taken_line
from zweistimme.project.model import Line, Project, Segment, Version
from zweistimme.project.times import SECOND_US
from zweistimme.project.wordings import Origin, OriginKind
from zweistimme.stages.check import Checker
from zweistimme.stages.fit.slot import measured_length, slot_us
from zweistimme.stages.translate.asking import Asking, Batch, batched, check_pair, items_of
from zweistimme.stages.translate.chrf import chrf
from zweistimme.stages.translate.situations import with_situations
from zweistimme.stages.work import Work


@dataclass(frozen=True, slots=True)
class Candidate:
    """What an engine says for a line: seconds it will take and how much of the comfortable time that is (*share*), how
    many things checks notice, and how *alike* it is (chrF, 0 to 100) to what somebody has settled, or else to what the
    others say."""

    engine: str
    text: str
    spoken_s: float
    share: float
    remarks: int
    alike: float = 0.0


@dataclass(frozen=True, slots=True)
class Compared:
    """A line as several engines put it; *settled* is what a person has let stand, if anybody has."""

    segment_id: str
    number: int
    source: str
    present: str
    settled: bool
    candidates: tuple[Candidate, ...]


@dataclass(frozen=True, slots=True)
class Asked:
    """What asking one engine cost, and how long it took; what was answered before costs nothing and takes no time."""

    engine: str
    cost: Cost
    seconds: float


@dataclass(frozen=True, slots=True)
class Comparison:
    """All lines, and what was spent on each engine."""

    lines: tuple[Compared, ...]
    asked: tuple[Asked, ...]


def compare(
    work: Work,
    engines: Sequence[Engine],
    tag: str,
    segment_ids: Iterable[str] | None = None,
    took: Callable[[Comparison], None] = lambda _comparison: None,
) -> Comparison:
    """Have lines put by several engines, one engine after the other; *took* is told after each. EngineError where one
    does not know the languages, or all lines failed; PartlyDone where some did."""
    project, version = work.project, find_version(work.project, tag)
    for engine in engines:
        check_pair(engine.info(), project.source_tag, tag)
    wanted = None if segment_ids is None else set(segment_ids)
    todo = [segment for segment in spoken_segments(project) if wanted is None or segment.id in wanted]
    texts: dict[str, dict[str, str]] = {segment.id: {} for segment in todo}
    asked, failed = list[Asked](), list[str]()
    noticed: dict[str, dict[str, int]] = {}
    comparison = Comparison((), ())
    for number, engine in enumerate(engines):
        run = _Run(work, engine, tag, texts)
        failed += run.ask(todo, version, number / len(engines), (number + 1) / len(engines))
        asked.append(run.asked)
        theirs = {key: said[engine.name] for key, said in texts.items() if engine.name in said}
        noticed[engine.name] = _noticed(project, version, todo, theirs)
        comparison = Comparison(_compared(project, version, todo, texts, noticed), tuple(asked))
        took(comparison)
    if failed:
        kind = PartlyDone if any(texts.values()) else EngineError
        raise kind(msg("{n:answer is|answers are} missing. First: {first}"), n=len(failed), first=failed[0])
    return comparison


class _Run:
    """Asks one engine for all lines."""

    def __init__(self, work: Work, engine: Engine, tag: str, texts: dict[str, dict[str, str]]) -> None:
        self._work, self._engine, self._tag, self._texts = work, engine, tag, texts
        self._cost, self._seconds = Cost(), 0.0

    @property
    def asked(self) -> Asked:
        return Asked(self._engine.name, self._cost, round(self._seconds, 3))

    def ask(self, todo: Sequence[Segment], version: Version, start: float, end: float) -> list[str]:
        """Sentences for what failed."""
        work, info = self._work, self._engine.info()
        items = [
            replace(item, longest_us=slot_us(work.project, version, segment))
            for item, segment in zip(items_of(work.project, todo), todo, strict=True)
        ]
        asking = Asking(work, self._engine, self._tag, work.project.source_tag)
        began = time.perf_counter()
        failures = ask_all(
            batched(with_situations(work, self._tag, items, info), info.limits), asking.answer, limits=info.limits,
            took=self._took, report=work.part(start, end), repeats_cost=info.repeats_cost,
        )  # fmt: skip
        self._seconds = time.perf_counter() - began
        return [f"{self._engine.name}: {failure.error}" for failure in failures]

    def _took(self, batch: Batch, answer: Translation) -> None:
        self._cost += answer.cost
        for item in answer.items:
            if item.id in self._texts and item.texts[0].strip():
                self._texts[item.id][self._engine.name] = item.texts[0].strip()


def _compared(
    project: Project,
    version: Version,
    todo: Sequence[Segment],
    texts: dict[str, dict[str, str]],
    noticed: dict[str, dict[str, int]],
) -> tuple[Compared, ...]:
    numbers = {segment.id: number for number, segment in enumerate(spoken_segments(project), 1)}
    found = []
    for segment in todo:
        line = version.lines.get(segment.id)
        settled = line is not None and is_settled(line) and bool(line.text.strip())
        said = texts[segment.id]
        candidates = []
        for name, text in said.items():
            others = [line.text] if settled and line is not None else [t for n, t in said.items() if n != name]
            alike = sum(chrf(text, other) for other in others) / len(others) if others else 0.0
            length = measured_length(project, version, segment, text)
            remarks = noticed[name][segment.id]
            candidates.append(
                Candidate(name, text, length.spoken_us / SECOND_US, round(length.share, 3), remarks, round(alike, 1))
            )
        present = line.text if line is not None else ""
        found.append(Compared(segment.id, numbers[segment.id], segment.text, present, settled, tuple(candidates)))
    return tuple(found)


def _noticed(project: Project, version: Version, todo: Sequence[Segment], texts: dict[str, str]) -> dict[str, int]:
    """How many things checks would notice of lines with these words, each by itself."""
    lines = {key: replace(version.lines.get(key) or Line(key, "", ""), text=text) for key, text in texts.items()}
    so, checker = put_version(project, replace(version, lines={**version.lines, **lines})), Checker()
    return {one.id: len(checker.line(so, version.tag, one)) for one in todo if one.id in texts}


def take_wordings(project: Project, tag: str, wanted: Iterable[tuple[str, str, str]]) -> Project:
    """Take wordings, each of a segment, from an engine by its name; what was there is on offer then. Final and locked
    lines keep their words, and segments that are gone need none."""
    version, segments = find_version(project, tag), {segment.id: segment for segment in project.segments}
    lines = dict(version.lines)
    for segment_id, text, engine in wanted:
        line = lines.get(segment_id) or Line(segment_id, "", "")
        if segment_id in segments and not keeps_words(line):
            lines[segment_id] = taken_line(segments[segment_id], line, text, Origin(OriginKind.ENGINE, engine))
    return put_version(project, replace(version, lines=lines))
