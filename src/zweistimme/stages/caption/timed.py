"""Captions of a version or of the original, timed to the speech they belong to."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from zweistimme.formats.cue import Cue
from zweistimme.project.facts import spoken_segments
from zweistimme.project.model import Placement, Project, Take, Word
from zweistimme.project.times import SECOND_US, us_to_samples
from zweistimme.project.writing import spoken_text
from zweistimme.stages.caption.cue_times import settled
from zweistimme.stages.caption.layout import captions_of
from zweistimme.stages.caption.rules import CaptionRules
from zweistimme.stages.fit.render import placement_map, trimmed
from zweistimme.store.clips import ClipStore


def dub_captions(project: Project, tag: str, clips: ClipStore, rules: CaptionRules) -> list[Cue]:
    """Captions of a version, timed to the dub where it is placed, else to the original."""
    version = project.versions[tag]
    cues: list[Cue] = []
    for segment in spoken_segments(project):
        line = version.lines.get(segment.id)
        if line is None or not line.text.strip():
            continue
        speaker = project.speakers[segment.speaker_id].name
        placement = version.placements.get(segment.id)
        take = version.takes.get(placement.take_id) if placement else None
        start, end = segment.start_us, segment.end_us
        words: tuple[Word, ...] = ()
        parts = captions_of(spoken_text(line.text), rules)
        if placement is not None and take is not None:
            start, end = placement.start_us, placement.start_us + placement.length_us
            words = _placed_words(take, placement, clips) if len(parts) > 1 else ()
        cues += _spread(parts, start, end, words, speaker)
    return settled(cues, rules, _end_of(project))


def source_captions(project: Project, rules: CaptionRules) -> list[Cue]:
    """Captions of the original."""
    cues: list[Cue] = []
    for segment in spoken_segments(project):
        parts = captions_of(segment.text, rules)
        speaker = project.speakers[segment.speaker_id].name
        cues += _spread(parts, segment.start_us, segment.end_us, segment.words, speaker)
    return settled(cues, rules, _end_of(project))


def _end_of(project: Project) -> int:
    return project.programme.sound.duration_us if project.programme else 1 << 62


def _placed_words(take: Take, placement: Placement, clips: ClipStore) -> tuple[Word, ...]:
    """The words of a take at their times in the programme."""
    if not take.words:
        return ()
    speech = trimmed(take, clips)
    mapped = placement_map(take, speech, placement)
    edges = np.array([[us_to_samples(w.start_us), us_to_samples(w.end_us)] for w in take.words], dtype=np.float64)
    placed = mapped.to_result(np.clip(edges - take.speech_start_samples, 0, len(speech)))
    times = placement.start_us + np.rint(placed / 48_000 * SECOND_US).astype(np.int64)
    return tuple(replace(w, start_us=int(a), end_us=int(b)) for w, (a, b) in zip(take.words, times, strict=True))


def _spread(parts: Sequence[str], start_us: int, end_us: int, words: tuple[Word, ...], speaker: str) -> list[Cue]:
    """Share the time of a line among its captions: by its words where they are known, else by letters."""
    counts = np.cumsum([0, *[len("".join(part.split())) for part in parts]])
    reached = np.cumsum([0, *[len("".join(word.text.split())) for word in words]])
    if words and reached[-1] == counts[-1]:  # each begins with the word that holds its first letter
        firsts = np.searchsorted(reached, counts[:-1], side="right") - 1
        starts = [words[int(first)].start_us for first in firsts]
    else:
        starts = [start_us + int((end_us - start_us) * share / counts[-1]) for share in counts[:-1]]
    starts = [max(start_us, min(start, end_us - 1)) for start in starts]
    ends = [*starts[1:], end_us]
    return [Cue(a, max(b, a + 1), text, speaker) for a, b, text in zip(starts, ends, parts, strict=True)]
