"""What is settled goes into the memory, and what it has for a programme comes out of it, before any engine is asked."""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Iterator, Mapping
from datetime import UTC, datetime
from pathlib import Path
from types import MappingProxyType
from typing import Final

from zweistimme.project.access import find_version
from zweistimme.project.errors import StoreError
from zweistimme.project.facts import fingerprint, line_is_stale, spoken_segments
from zweistimme.project.findings import Finding
from zweistimme.project.line_edits import put_translation
from zweistimme.project.model import Project, Segment, Version
from zweistimme.project.units import Match, Unit
from zweistimme.project.wordings import Origin, OriginKind
from zweistimme.stages.work import Work
from zweistimme.store.own_projects import Whose, whose
from zweistimme.store.settings import MEMORY, NAME, read_settings

NOTHING: Final[Mapping[str, Version]] = MappingProxyType({})
_FACTS: Final = ("source", "target", "context", "source_tag")


def contexts(project: Project) -> dict[str, str]:
    """Of each spoken segment, a fingerprint of what is said before and after it."""
    spoken = spoken_segments(project)
    texts = ["", *(segment.text.strip() for segment in spoken), ""]
    return {segment.id: fingerprint("context", texts[place], texts[place + 2]) for place, segment in enumerate(spoken)}


def context_of(project: Project, segment: Segment) -> str:
    """The same of one segment; no more is looked at than its neighbours."""
    segments = project.segments
    place = bisect_left(segments, (segment.start_us, segment.id), key=lambda one: (one.start_us, one.id))
    around = []
    for rest in (range(place - 1, -1, -1), range(place + 1, len(segments))):
        said = (segments[k].text.strip() for k in rest)
        around.append(next(filter(None, said), ""))
    return fingerprint("context", *around)


def settled_units(project: Project, project_id: str, since: Mapping[str, Version] = NOTHING) -> Iterator[Unit]:
    """Every line that a person has settled, and that is of the original as it stands, as a unit of the memory; without
    those that stood so in the versions *since*."""
    author, now = read_settings().text(NAME).strip(), datetime.now(UTC).isoformat(timespec="seconds")
    segments: dict[str, Segment] = {}
    for tag, version in project.versions.items():
        before = since[tag].lines if tag in since else {}
        for key, line in version.lines.items():
            if not line.state.settled or before.get(key) is line:
                continue
            segments = segments or {segment.id: segment for segment in project.segments}
            segment = segments.get(key)
            if segment is None or not segment.text.strip() or not line.text.strip() or line_is_stale(segment, line):
                continue
            yield Unit(
                project.source_tag, tag, segment.text.strip(), line.text.strip(), context_of(project, segment),
                project.title, author, now, project_id, segment.id,
            )  # fmt: skip


def remembers() -> bool:
    """Whether somebody wants a memory at all."""
    return bool(read_settings().value(MEMORY))


def remember(project: Project, project_id: str, folder: Path, since: Mapping[str, Version] = NOTHING) -> int:
    """Keep what the project in *folder* has settled, or has *since*, where it is this person's own and not kept yet;
    how many lines were. Nothing is read or written where there is nothing to keep."""
    wanted = project_id and remembers() and whose(project_id, folder) is Whose.OWN
    units = list(settled_units(project, project_id, since)) if wanted else []
    if not units:
        return 0
    from zweistimme.memory.memory import Memory  # slow to import

    with Memory() as memory:
        there = memory.of_project(project_id)
        return memory.put(unit for unit in units if _differs(unit, there))


def kept_out(project: Project, project_id: str, folder: Path, since: Mapping[str, Version] = NOTHING) -> list[Finding]:
    """That lines which are settled, or were *since*, are not remembered because the project was received."""
    if not remembers() or whose(project_id, folder) is not Whose.RECEIVED:
        return []
    lines = sum(1 for _ in settled_units(project, project_id, since))
    return [Finding("received-not-remembered", {"lines": lines})] if lines else []


def _differs(unit: Unit, there: Mapping[tuple[str, str], Unit]) -> bool:
    before = there.get((unit.target_tag, unit.segment))
    return before is None or any(getattr(before, name) != getattr(unit, name) for name in _FACTS)


def recall(work: Work, tag: str, todo: list[Segment]) -> list[Segment]:
    """Word what was settled before for the very same text, that of the same context first; the segments that are left.
    A memory that cannot be used is said, and does without."""
    if not todo or not remembers():
        return todo
    from zweistimme.memory.memory import Memory  # slow to import

    around, found = contexts(work.project), dict[str, Match]()
    try:
        with Memory() as memory:
            for segment in todo:
                match = memory.exact(
                    segment.text, work.project.source_tag, tag, context=around[segment.id], project=work.ledger.project
                )
                if match is not None:
                    found[segment.id] = match
    except StoreError as error:
        work.say(error.finding)
        return todo
    if found:
        _put(work, tag, {segment.id: segment for segment in todo}, found)
        work.say(Finding("from-memory", {"lines": len(found), "version": tag}))
    return [segment for segment in todo if segment.id not in found]


def _put(work: Work, tag: str, segments: Mapping[str, Segment], found: Mapping[str, Match]) -> None:
    lines = find_version(work.project, tag).lines

    def edit(project: Project) -> Project:
        for key, match in found.items():
            project = put_translation(
                project, tag, key, [match.target], source=segments[key], instead_of=lines.get(key),
                origin=Origin(OriginKind.MEMORY, match.unit.origin, match.percent),
            )  # fmt: skip
        return project

    work.deliver(f"Translate into {tag}", edit)
