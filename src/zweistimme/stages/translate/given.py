"""Lines from captions in the target language."""

from __future__ import annotations

from pathlib import Path

from zweistimme.formats.cue import Cue, Reading
from zweistimme.formats.transcripts import described
from zweistimme.project.edits import put_translation
from zweistimme.project.facts import spoken_segments
from zweistimme.project.model import Project
from zweistimme.project.times import clock, overlap_us
from zweistimme.project.writing import joined, one_line
from zweistimme.stages.work import Work


def translation_from_file(work: Work, tag: str, given: Reading, source: Path) -> None:
    """Give each segment the captions that it shares most time with; those that match no segment are said."""
    for sentence in described(given.repairs):
        work.say(f"{source.name}: {sentence}.")
    texts: dict[str, list[str]] = {}
    lost: list[Cue] = []
    segments = spoken_segments(work.project)
    for cue in given.cues:
        shared = [(overlap_us((s.start_us, s.end_us), (cue.start_us, cue.end_us)), s.id) for s in segments]
        best = max(shared, default=(0, ""), key=lambda pair: pair[0])
        if best[0] > 0:
            texts.setdefault(best[1], []).append(one_line(cue.text))
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
            project = put_translation(project, tag, segment_id, joined(parts))
        return project

    work.deliver(f"Translation from {source.name}", edit)
