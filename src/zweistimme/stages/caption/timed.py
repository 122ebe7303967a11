"""When captions are shown: with the speech they belong to, long enough to be read, never two at once."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from zweistimme.formats.cue import Cue
from zweistimme.project.facts import spoken_segments
from zweistimme.project.model import Placement, Project, Take, Word
from zweistimme.project.sentences import spoken_text
from zweistimme.project.times import SECOND_US, us_to_samples
from zweistimme.stages.caption.layout import captions_of
from zweistimme.stages.caption.rules import CaptionRules
from zweistimme.stages.fit.render import placement_map, trimmed
from zweistimme.store.clips import ClipStore

_TALKING_TOGETHER_US = 300_000


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


def _spread(parts: list[str], start_us: int, end_us: int, words: tuple[Word, ...], speaker: str) -> list[Cue]:
    """Share the time of a line among its captions: by its words where they are known, else by letters."""
    counts = [len(part.split()) for part in parts]
    if words and len(words) == sum(counts):
        firsts = np.cumsum([0, *counts[:-1]])
        starts = [words[int(first)].start_us for first in firsts]
    else:
        letters = np.cumsum([0, *[len(part) for part in parts]])
        starts = [start_us + int((end_us - start_us) * share / letters[-1]) for share in letters[:-1]]
    starts = [max(start_us, min(start, end_us - 1)) for start in starts]
    ends = [*starts[1:], end_us]
    return [Cue(a, max(b, a + 1), text, speaker) for a, b, text in zip(starts, ends, parts, strict=True)]


def settled(cues: list[Cue], rules: CaptionRules, programme_end_us: int) -> list[Cue]:
    """Join what is said at once, give every caption time to be read, and keep the gap between two."""
    ordered = _joined(sorted(cues, key=lambda cue: (cue.start_us, cue.end_us)), rules)
    result: list[Cue] = []
    for place, cue in enumerate(ordered):
        limit = programme_end_us if place + 1 == len(ordered) else ordered[place + 1].start_us - rules.gap_us
        needed = round(len(cue.text.replace("\n", " ")) / rules.aimed_speed * SECOND_US)
        wanted = cue.start_us + min(max(needed, rules.shortest_us), rules.longest_us)
        end = min(max(cue.end_us, wanted), limit, cue.start_us + max(rules.longest_us, 1))
        result.append(replace(cue, end_us=max(end, cue.start_us + 1_000)))
    return result


def _joined(cues: list[Cue], rules: CaptionRules) -> list[Cue]:
    """Two people who talk together share one caption, a dash each; starts that coincide are moved apart."""
    result: list[Cue] = []
    for cue in cues:
        before = result[-1] if result else None
        if before and _talk_together(before, cue, rules):
            text = f"– {before.text}\n– {cue.text}"
            result[-1] = Cue(before.start_us, max(before.end_us, cue.end_us), text)
            continue
        if before and cue.start_us < before.start_us + rules.shortest_us // 2:
            cue = replace(cue, start_us=before.start_us + rules.shortest_us // 2)
            cue = replace(cue, end_us=max(cue.end_us, cue.start_us + rules.shortest_us // 2))
        result.append(cue)
    return result


def _talk_together(first: Cue, second: Cue, rules: CaptionRules) -> bool:
    shared = min(first.end_us, second.end_us) - second.start_us
    room = rules.line_letters - 2
    short = len(first.text) <= room and len(second.text) <= room and "\n" not in first.text + second.text
    return shared > _TALKING_TOGETHER_US and short and first.speaker != second.speaker
