"""Lines of a version that has its words from another of the same language."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from functools import partial

from zweistimme.engines.protocol import Engine, TranslationItem
from zweistimme.memory.unit_store import family_of
from zweistimme.project.access import find_version
from zweistimme.project.facts import line_is_stale, spoken_segments
from zweistimme.project.findings import Finding
from zweistimme.project.languages import spoken_tag
from zweistimme.project.line_edits import is_settled, put_translation
from zweistimme.project.model import Line, Project
from zweistimme.project.regions import carried, usages
from zweistimme.project.wordings import Origin, OriginKind
from zweistimme.stages.fit.slot import slot_us
from zweistimme.stages.translate.by_engine import (
    LinesRun,
    Only,
    ask_for_lines,
    open_translations,
    say_stale,
    translate,
)
from zweistimme.stages.translate.situations import with_situations
from zweistimme.stages.work import Work


def translate_version(
    work: Work, engine: Engine, tag: str, segment_ids: Sequence[str] | None = None, only: Only | None = None
) -> None:
    """Translate what is open in a version, from the original or from the version that it has its words from."""
    if segment_ids is None and find_version(work.project, tag).basis:
        translate_region(work, engine, tag)
    elif segment_ids is None and _same_words(work.project.source_tag, tag):
        copy_original(work, tag, only)
    else:
        translate(work, engine, tag, segment_ids, only)


def _same_words(source_tag: str, tag: str) -> bool:
    """Whether two languages are written alike: the same, in the same script."""
    source, target = family_of(spoken_tag(source_tag), spoken_tag(tag)).split(">")
    return source == target


def copy_original(work: Work, tag: str, only: Only | None = None) -> None:
    """Give open lines the words of the original, which is in the same language: it is spoken anew."""
    todo, lines = open_translations(work.project, tag, only), find_version(work.project, tag).lines
    origin = Origin(OriginKind.VERSION, work.project.source_tag, 100)

    def edit(project: Project) -> Project:
        for segment in todo:
            project = put_translation(
                project, tag, segment.id, [segment.text.strip()], source=segment, instead_of=lines.get(segment.id),
                origin=origin,
            )  # fmt: skip
        return project

    if todo:
        work.deliver(f"Translate into {tag}", edit)
        basis = work.project.source_tag
        work.say(Finding("from-version", {"lines": len(todo), "version": tag, "basis": basis}))
    say_stale(work, tag)


def translate_region(work: Work, engine: Engine, tag: str) -> None:
    """Give a version the words of its basis, and have those lines put otherwise in which something is known to be said
    otherwise; where no engine knows how, people are told which lines those are."""
    version = find_version(work.project, tag)
    after = carried(work.project, tag)
    new = [key for key, line in after.versions[tag].lines.items() if version.lines.get(key) is not line]
    if new:
        work.deliver(f"Translate into {tag}", partial(carried, tag=tag))
        work.say(Finding("from-version", {"lines": len(new), "version": tag, "basis": version.basis}))
    known = usages(after, after.versions[tag])
    lines, segments = after.versions[tag].lines, {segment.id: segment for segment in after.segments}
    differing = [key for key in new if any(known.within(lines[key].text))]
    source, target = spoken_tag(version.basis), spoken_tag(tag)
    if differing and (source, target) in engine.info().pairs:
        work = replace(work, project=after)
        items = [
            TranslationItem(key, lines[key].text, longest_us=slot_us(after, version, segments[key]))
            for key in differing
        ]
        ask_for_lines(LinesRun(work, engine, tag, source), with_situations(work, tag, items, engine.info()))
    elif differing:
        work.say(Finding("region-differs", {"lines": len(differing), "version": tag, "basis": version.basis}))
    done = {key for key, line in lines.items() if line.text.strip() and not line_is_stale(segments[key], line)}
    waiting = sum(1 for one in spoken_segments(after) if one.id not in done and not _is_settled(lines.get(one.id)))
    if waiting:
        work.say(Finding("waits-for-version", {"lines": waiting, "version": tag, "basis": version.basis}))
    say_stale(work, tag)


def _is_settled(line: Line | None) -> bool:
    return line is not None and is_settled(line)
