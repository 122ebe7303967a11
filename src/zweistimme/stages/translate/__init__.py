"""From segments to lines: by an engine, or from captions in the target language matched by time."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from zweistimme.engines.protocol import Engine, TranslationItem
from zweistimme.formats.captions import Cue
from zweistimme.project.edits import find_version, put_translation
from zweistimme.project.facts import line_is_stale, spoken_segments
from zweistimme.project.model import Project, Segment
from zweistimme.project.times import clock, overlap_us
from zweistimme.stages.work import Work

__all__ = ["open_translations", "translate", "translation_from_cues"]

_BATCH = 16


def open_translations(project: Project, tag: str) -> list[Segment]:
    """Segments whose line is missing, empty or stale. A stale line written by hand is left to the hand."""
    version = find_version(project, tag)
    todo = []
    for segment in spoken_segments(project):
        line = version.lines.get(segment.id)
        if line is None or not line.text.strip() or (line_is_stale(segment, line) and not line.by_hand):
            todo.append(segment)
    return todo


def translate(work: Work, engine: Engine, tag: str) -> None:
    """Translate what is missing or stale; each batch is kept the moment it is there."""
    todo = open_translations(work.project, tag)
    for start in range(0, len(todo), _BATCH):
        batch = todo[start : start + _BATCH]
        items = [TranslationItem(segment.id, segment.text) for segment in batch]
        answers = {answer.id: answer.texts for answer in engine.translate(items, work.project.source_tag, tag)}

        def edit(project: Project, answers: dict[str, tuple[str, ...]] = answers) -> Project:
            there = {segment.id for segment in project.segments}
            for segment_id, texts in answers.items():
                if segment_id in there and texts:
                    project = put_translation(project, tag, segment_id, texts[0], tuple(texts[1:]))
            return project

        work.deliver(f"Translate into {tag}", edit)
        work.report((start + len(batch)) / len(todo))
    left = sum(1 for s in work.project.segments if _stale_by_hand(work.project, tag, s))
    if left:
        work.say(
            f"{left} line{'s' if left > 1 else ''} in {tag} written by hand no longer match their source; "
            "look them over."
        )


def _stale_by_hand(project: Project, tag: str, segment: Segment) -> bool:
    line = project.versions[tag].lines.get(segment.id)
    return line is not None and line.by_hand and line_is_stale(segment, line)


def translation_from_cues(work: Work, tag: str, cues: Sequence[Cue], source: Path) -> None:
    """Give each segment the captions that it shares most time with; those that match no segment are said."""
    texts: dict[str, list[str]] = {}
    lost: list[Cue] = []
    segments = spoken_segments(work.project)
    for cue in cues:
        shared = [(overlap_us((s.start_us, s.end_us), (cue.start_us, cue.end_us)), s.id) for s in segments]
        best = max(shared, default=(0, ""), key=lambda pair: pair[0])
        if best[0] > 0:
            texts.setdefault(best[1], []).append(" ".join(cue.text.split()))
        else:
            lost.append(cue)
    for cue in lost:
        work.say(f"{source.name}: no segment at {clock(cue.start_us)} for “{cue.text[:50]}”; it is left out.")
    without = [s for s in segments if s.id not in texts]
    if without:
        places = ", ".join(clock(s.start_us) for s in without[:5]) + (" …" if len(without) > 5 else "")
        work.say(f"{source.name}: {len(without)} segments have no caption ({places}).")

    def edit(project: Project) -> Project:
        for segment_id, parts in texts.items():
            project = put_translation(project, tag, segment_id, " ".join(parts))
        return project

    work.deliver(f"Translation from {source.name}", edit)
