"""Random edits of every kind through a document, undone, done again, reopened: nothing is written that is not read.

    python tools/edit_storm.py STEPS SEED FOLDER

Programmes overlap, lines have words inside one another, and hands go beyond every bound: an edit may be refused with a
sentence, and nothing else may happen. Whenever the project is opened again it is what it was, and nothing of it had to
be put right. What was found is printed as JSON.
"""

from __future__ import annotations

import json
import random
import sys
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from typing import Any

from zweistimme.project import (
    cast_edits,
    checks,
    delivery_edits,
    edits,
    fit_edits,
    line_edits,
    manner_edits,
    regions,
    reshape,
    saying_edits,
    speaker_edits,
    term_edits,
    transcript,
)
from zweistimme.project.errors import ZweistimmeError
from zweistimme.project.facts import source_fingerprint
from zweistimme.project.fit_limits import Limits
from zweistimme.project.hand_fit import FitAs, PhraseHand
from zweistimme.project.mix_settings import MixSettings, Place
from zweistimme.project.model import (
    CaptionLimits,
    Line,
    Manner,
    Pin,
    Placement,
    Preference,
    Project,
    Segment,
    Speaker,
    Style,
    Take,
    TakeKind,
    Version,
)
from zweistimme.project.sayings import Saying
from zweistimme.project.segmentation import CutLimits
from zweistimme.project.terms import Term
from zweistimme.project.wordings import LineState
from zweistimme.project.words import spread
from zweistimme.store.document import Document

TAGS = ("de-DE", "ja-JP", "de-DE-x-kids")
WORDS = ("the", "sea", "is", "high", "and", "it", "goes.", "潮", "が", "引く", "12.5", "[calm]", "", "🌊", "So!")
_ODD_US = (-(10**15), -5, 0, 1, 10**6, 10**13, 10**20)
Random = random.Random
Act = Callable[[Random, Project], Project]


def programme(random_: Random, lines: int = 12) -> Project:
    """A project of three people who talk at once, with wordings and takes."""
    segments, lines_, takes, placements = [], {}, {}, {}
    at = 0
    for number in range(1, lines + 1):
        at = max(0, at + random_.randint(-4_000_000, 4_000_000))
        text = text_of(random_, random_.randint(1, 6)) or "So."
        end = at + random_.randint(100_000, 11_000_000)
        words = spread(text.split(), at, end) if random_.random() < 0.7 else ()
        segment = Segment(f"s{number:04}", f"p{random_.randint(1, 3)}", at, end, text, words)
        segments.append(segment)
        take_words = spread(text.split(), 0, 2_000_000)
        takes[f"t{number}"] = Take(
            f"t{number}", segment.id, TakeKind.IMPORTED, "1", "ab" * 32, 96_000, 0, 96_000, "", (), take_words
        )
        lines_[segment.id] = Line(segment.id, text, source_fingerprint(segment), take_id=f"t{number}")
        placements[segment.id] = Placement(segment.id, f"t{number}", at, 2_000_000, 1.0, (), "")
    version = Version("de-DE", lines=lines_, takes=takes, placements=placements)
    people = {f"p{k}": Speaker(f"p{k}", f"Person {k}") for k in (1, 2, 3)}
    ordered = tuple(sorted(segments, key=lambda s: (s.start_us, s.id)))
    return Project("Storm", "en-GB", None, people, ordered, {"de-DE": version}, segments_made=lines)


def text_of(random_: Random, count: int) -> str:
    return " ".join(filter(None, random_.choices(WORDS, k=count)))


def _us(random_: Random) -> int:
    return random_.choice(_ODD_US) if random_.random() < 0.2 else random_.randint(-(10**6), 6 * 10**7)


def _one(random_: Random, project: Project) -> Segment:
    return random_.choice(project.segments)


def _some(random_: Random, project: Project) -> list[str]:
    place = random_.randrange(len(project.segments))
    return [s.id for s in project.segments[place : place + random_.randint(1, 4)]]


def _tag(random_: Random, project: Project) -> str:
    return random_.choice(list(project.versions) or ["de-DE"])


def _person(random_: Random, project: Project) -> str:
    return random_.choice(list(project.speakers) or ["p1"])


def _factor(random_: Random) -> float:
    return random_.choice([0.5, 1.0, 1.2, 3.0, 0.0, -1.0, 1e300, float("nan"), float("inf")])


def _manner(r: Random) -> Manner:
    return Manner(_factor(r), _factor(r), _factor(r), "", r.choice([0, 7, -1, 2**70]))


def _limits(r: Random) -> Limits:
    return Limits(comfort=(_factor(r), _factor(r)), soft=(_factor(r), _factor(r)), hard=(_factor(r), _factor(r)))


ACTS: dict[str, Act] = {
    "split": lambda r, p: reshape.split_segment(p, _one(r, p).id, _us(r)),
    "split before": lambda r, p: reshape.split_before(p, _one(r, p).id, r.randint(0, 5)),
    "merge": lambda r, p: reshape.merge_segments(p, _some(r, p)),
    "recut": lambda r, p: reshape.recut(p, [s.id for s in p.segments], CutLimits(longest_us=r.randint(10**5, 10**7))),
    "text": lambda r, p: transcript.set_segment_text(p, _one(r, p).id, text_of(r, r.randint(0, 7))),
    "retime": lambda r, p: transcript.retime_segment(p, _one(r, p).id, _us(r), _us(r)),
    "nudge": lambda r, p: transcript.nudge(p, _some(r, p), start_us=r.randint(-(10**6), 10**6), end_us=_us(r) // 9),
    "word edge": lambda r, p: transcript.move_word_edge(p, _one(r, p).id, r.randint(0, 4), _us(r)),
    "insert": lambda r, p: transcript.insert_segment(p, _us(r), _us(r), _person(r, p), text_of(r, 3)),
    "delete": lambda r, p: transcript.delete_segments(p, _some(r, p)[:1]),
    "place": lambda r, p: transcript.set_place(p, _some(r, p), r.choice(list(Place))),
    "screen": lambda r, p: transcript.set_on_screen(p, _some(r, p), r.random() < 0.5),
    "fillers": lambda r, p: transcript.set_fillers_aside(p, _some(r, p), lambda word: word.text == "and"),
    "restore": lambda r, p: transcript.restore_fillers(p, _some(r, p)),
    "assign": lambda r, p: speaker_edits.assign_speaker(p, _some(r, p), _person(r, p)),
    "somebody": lambda r, p: speaker_edits.add_somebody(p),
    "rename": lambda r, p: speaker_edits.rename_speaker(p, _person(r, p), text_of(r, 2)),
    "merge people": lambda r, p: speaker_edits.merge_speakers(p, _person(r, p), _person(r, p)),
    "remove person": lambda r, p: speaker_edits.remove_speaker(p, _person(r, p)),
    "add version": lambda r, p: edits.add_version(p, r.choice(TAGS), r.choice(list(Style)), r.choice(list(Preference))),
    "remove version": lambda r, p: edits.remove_version(p, "ja-JP"),
    "direction": lambda r, p: edits.set_direction(p, _tag(r, p), _one(r, p).id, text_of(r, 2)),
    "pin": lambda r, p: edits.pin_line(p, _tag(r, p), _one(r, p).id, Pin(_us(r), r.choice([None, _us(r)]))),
    "unpin": lambda r, p: edits.pin_line(p, _tag(r, p), _one(r, p).id, None),
    "wording": lambda r, p: line_edits.set_line_text(p, _tag(r, p), _one(r, p).id, text_of(r, r.randint(0, 7))),
    "lone surrogate": lambda r, p: line_edits.set_line_text(p, _tag(r, p), _one(r, p).id, "a\udc80"),
    "state": lambda r, p: line_edits.set_states(p, _tag(r, p), _some(r, p), r.choice(list(LineState))),
    "lock": lambda r, p: line_edits.set_locked(p, _tag(r, p), _some(r, p), r.random() < 0.5),
    "note": lambda r, p: line_edits.set_note(p, _tag(r, p), _one(r, p).id, "me", text_of(r, 2), "2026-01-01T00:00:00Z"),
    "copy": lambda r, p: line_edits.copy_original(p, _tag(r, p), _some(r, p)),
    "manner": lambda r, p: manner_edits.set_manner(p, _tag(r, p), _person(r, p), _manner(r)),
    "line manner": lambda r, p: manner_edits.set_line_manner(p, _tag(r, p), _one(r, p).id, _manner(r)),
    "voice": lambda r, p: cast_edits.cast_voice(p, _tag(r, p), _person(r, p), r.choice(["alva", None])),
    "line voice": lambda r, p: manner_edits.set_line_voices(p, _tag(r, p), _some(r, p), "bruno"),
    "hold word": lambda r, p: fit_edits.pin_word(
        p, _tag(r, p), _one(r, p).id, r.randint(0, 4), r.choice([None, _us(r)])
    ),
    "hand": lambda r, p: fit_edits.set_hand(
        p, _tag(r, p), _some(r, p), tempo=_factor(r), start_slack_us=_us(r), fit_as=r.choice(list(FitAs))
    ),
    "phrase": lambda r, p: fit_edits.set_phrase(
        p, _tag(r, p), _one(r, p).id, PhraseHand(r.randint(0, 3), _factor(r), _us(r), _factor(r))
    ),
    "limits": lambda r, p: fit_edits.set_limits(p, _tag(r, p), _limits(r)),
    "mix": lambda r, p: delivery_edits.set_mix(p, MixSettings(_factor(r)), r.choice([None, _tag(r, p)])),
    "caption limits": lambda r, p: delivery_edits.set_caption_limits(p, _tag(r, p), CaptionLimits(r.randint(-1, 5))),
    "leave out": lambda r, p: delivery_edits.leave_out(p, _tag(r, p), r.random() < 0.5),
    "let be": lambda r, p: checks.let_be(p, _tag(r, p), _one(r, p).id, "digits", text_of(r, 2)),
    "basis": lambda r, p: regions.set_basis(p, "de-DE-x-kids", "de-DE"),
    "term": lambda r, p: term_edits.put_term(p, text_of(r, 1) or "k", Term(text_of(r, 1) or "x")),
    "saying": lambda r, p: saying_edits.put_sayings(p, [Saying("de-DE", text_of(r, 1) or "x", "ax")]),
}


def storm(folder: Path, steps: int, seed: int) -> dict[str, Any]:
    """Edit a new project in *folder* at random; how many edits were made and refused, and what was wrong."""
    random_ = Random(seed)
    document = Document.create(folder, programme(random_))
    made = refused = 0
    wrong: list[str] = []
    try:
        for step in range(steps):
            name = random_.choice(list(ACTS))
            try:
                _take_a_step(document, random_, name)
                made += 1
            except ZweistimmeError:
                refused += 1
            except Exception as error:
                wrong.append(f"{step} {name}: {error!r}")
            if random_.random() < 0.02:
                was = document.project
                document.close()
                document = Document.open(folder)
                if document.repairs or replace(document.project, segments_made=0) != replace(was, segments_made=0):
                    wrong.append(f"{step} {name}: opened as something else {[r.figures for r in document.repairs]}")
    finally:
        document.close()
    return {"made": made, "refused": refused, "wrong": wrong}


def _take_a_step(document: Document, random_: Random, name: str) -> None:
    chance = random_.random()
    if chance < 0.1:
        document.undo()
    elif chance < 0.15:
        document.redo()
    elif len(document.project.segments) < 4:
        document.apply(
            "Insert", lambda p: transcript.insert_segment(p, 0, 2_000_000, next(iter(p.speakers), "p1"), "So")
        )
    else:
        document.apply(name, lambda project: ACTS[name](random_, project))


if __name__ == "__main__":
    print(json.dumps(storm(Path(sys.argv[3]), int(sys.argv[1]), int(sys.argv[2])), indent=1))
