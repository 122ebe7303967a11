"""A line, a take and a plan are stale after exactly those changes that would make them another: every field of the
model is changed, what it feeds is made anew, and compared."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import fields, replace
from typing import Any

import pytest

from helpers import project_with
from zweistimme.engines.registry import engine
from zweistimme.formats.ssml import ssml_of
from zweistimme.project import edits, model
from zweistimme.project.auditions import Audition
from zweistimme.project.brief import Brief
from zweistimme.project.facts import line_is_stale, source_fingerprint, take_fingerprint, take_is_stale
from zweistimme.project.findings import Finding
from zweistimme.project.fit_limits import Limits
from zweistimme.project.hand_fit import HandFit, WordPin
from zweistimme.project.mix_settings import MixSettings, Place
from zweistimme.project.model import Line, Pin, Project, Speaker, Style, Word
from zweistimme.project.progress import Step, progress
from zweistimme.project.sayings import Saying
from zweistimme.project.sound_delivery import SoundPreset
from zweistimme.project.terms import Term
from zweistimme.project.wordings import LineNote, LineState, Offer, Origin, OriginKind
from zweistimme.stages.cast import spoken_language, stand_ins
from zweistimme.stages.fit.placements import planned, taken_lines
from zweistimme.stages.translate import items_of
from zweistimme.stages.voice.manners import on_top

TAG = "de-DE"
CHANGES: dict[tuple[str, str], Callable[[Any], Any]] = {
    ("Project", "title"): lambda _: "Another",
    ("Project", "engines"): lambda _: {"speak": "quay"},
    ("Project", "substitutes"): lambda _: False,
    ("Project", "mix"): lambda mix: replace(mix, loudness_lufs=-20.0),
    ("Project", "segments_made"): lambda _: 90,
    ("Project", "people_made"): lambda _: 90,
    ("Project", "follow"): lambda on: not on,
    ("Project", "brief"): lambda _: Brief("A clock"),
    ("Project", "terms"): lambda _: {"k": Term("Guten", kept=True, pronunciation="ˈɡuːtən")},
    ("Project", "sayings"): lambda _: {"de Guten": Saying("Guten", "de", like="Guhten")},
    ("Project", "caption_limits"): lambda _: {"de-DE": model.CaptionLimits(lines=1)},
    ("Project", "speakers"): lambda people: {**people, "p1": Speaker("p1", "Mira", 210.0)},
    ("Project", "presets"): lambda _: {"own": SoundPreset(-20.0)},
    ("Version", "presets"): lambda _: ("archive",),
    ("Version", "mix"): lambda _: MixSettings(-20.0),
    ("Segment", "place"): lambda _: Place.TELEPHONE,
    ("Line", "word_pins"): lambda _: (WordPin(0, 1_300_000),),
    ("Line", "hand"): lambda _: HandFit(tempo=1.3),
    ("Version", "limits"): lambda _: replace(Limits(), comfort=(0.99, 1.01), tempo_price=(9.0, 90.0, 200.0)),
    ("Segment", "start_us"): lambda at: at - 400_000,
    ("Segment", "end_us"): lambda at: at + 900_000,
    ("Segment", "text"): lambda text: text + " And high.",
    ("Segment", "words"): lambda _: (Word("Good", 1_000_000, 1_200_000),),
    ("Segment", "on_screen"): lambda seen: not seen,
    ("Segment", "fillers"): lambda _: (Word("uh", 1_000_000, 1_100_000, filler=True),),
    ("Segment", "respoken"): lambda _: "a" * 64,
    ("Segment", "speaker_id"): lambda _: "p2",
    ("Line", "text"): lambda text: text + " Ja.",
    ("Line", "direction"): lambda _: "softly",
    ("Line", "offers"): lambda _: (Offer("Kurz."),),
    ("Line", "state"): lambda _: LineState.FINAL,
    ("Line", "origin"): lambda _: Origin(OriginKind.MEMORY, "Tide", 87),
    ("Line", "original"): lambda _: "x",
    ("Line", "notes"): lambda _: (LineNote("Is this so?", "Ida"),),
    ("Line", "locked"): lambda on: not on,
    ("Line", "pin"): lambda _: Pin(1_800_000),
    ("Line", "manner"): lambda _: model.Manner(1.2),
    ("Line", "maker"): lambda _: model.Maker("quay"),
    ("Take", "maker"): lambda _: model.Maker("quay"),
    ("Version", "manners"): lambda _: {"p1": model.Manner(pitch=1.1)},
    ("Version", "together"): lambda on: not on,
    ("Version", "left_out"): lambda out: not out,
    ("Version", "let_be"): lambda _: {"s1/length-over": "agreed"},
    ("Version", "basis"): lambda _: "de-AT",
    ("Version", "cast_chosen"): lambda _: ("p1",),
    ("Version", "auditions"): lambda _: {"a": Audition("a", "s1", "x:ina", "", "", 1, 0, 1, "")},
    ("Project", "refused"): lambda _: ("gl>pt",),
    ("Line", "voice"): lambda _: "brandt",
    ("Take", "score"): lambda _: 4,
    ("Take", "note"): lambda _: "nearly",
    ("Take", "label"): lambda _: "take 9",
    ("Take", "length_samples"): lambda length: length + 48_000,
    ("Take", "words"): lambda _: (Word("Guten", 0, 400_000),),
    ("Take", "speech_start_samples"): lambda at: at + 48_000,
    ("Take", "speech_end_samples"): lambda at: at - 48_000,
    ("Take", "pauses_samples"): lambda _: ((20_000, 44_000),),
    ("Placement", "why"): lambda _: (Finding("late", {"by_s": 1.0}),),
    ("Version", "style"): lambda _: Style.VOICE_OVER,
    ("Version", "preference"): lambda _: model.Preference.LIPS,
    ("Version", "cast"): lambda _: {"p1": "brandt", "p2": "brandt"},
    ("Version", "engines"): lambda _: {"speak": "quay"},
    ("Version", "delivery"): lambda _: model.Delivery("x", (), "y"),
    ("Version", "failures"): lambda _: {"s1": model.Failure("s1", model.Made.TAKE, Finding("late"), "x")},
}
HINTS = {("Project", "source_tag"), ("Version", "tag")}
"""What engines are told besides: with another source language, or another version, everything is another."""
WHOLE = {
    ("Project", "programme"), ("Project", "segments"), ("Project", "versions"), ("Segment", "id"),
    ("Line", "segment_id"),
    ("Line", "take_id"), ("Line", "made_from"), ("Take", "id"), ("Take", "segment_id"), ("Take", "made_from"),
    ("Take", "kind"), ("Take", "clip"), ("Version", "lines"), ("Version", "takes"), ("Version", "placements"),
    *(("Placement", field.name) for field in fields(model.Placement) if field.name != "why"),
}  # fmt: skip
"""Ids, what holds the rest, and what is itself made from something."""


@pytest.fixture(scope="module")
def project() -> Project:
    """Two lines that stand close together, each with a take that is a little too long, placed."""
    given = project_with([(1.0, 2.5, "Good morning."), (2.6, 4.0, "Wait.")], takes=[2.8, 1.5])
    given = replace(given, speakers={**given.speakers, "p2": Speaker("p2", "Tobin")})
    version = given.versions[TAG]
    lines: dict[str, Line] = {}
    takes = {}
    for segment in given.segments:
        line = replace(version.lines[segment.id], made_from=source_fingerprint(segment))
        take = version.takes[line.take_id or ""]
        lines[segment.id], takes[take.id] = line, replace(take, made_from=take_fingerprint(line, "alva"))
    version = replace(version, lines=lines, takes=takes, cast={"p1": "alva", "p2": "brandt"})
    given = replace(given, versions={TAG: version})
    return edits.set_placements(given, TAG, planned(given, TAG, taken_lines(given, TAG)))


def changed(project: Project, kind: str, name: str) -> Project:
    """*project* with one field of the first such part changed."""
    change, version = CHANGES[kind, name], project.versions[TAG]

    def anew(part: Any) -> Any:
        return replace(part, **{name: change(getattr(part, name))})

    if kind == "Project":
        return anew(project)
    if kind == "Segment":
        return replace(project, segments=(anew(project.segments[0]), *project.segments[1:]))
    if kind == "Version":
        return replace(project, versions={TAG: anew(version)})
    where = {"Line": "lines", "Take": "takes", "Placement": "placements"}[kind]
    parts = getattr(version, where)
    first = next(iter(parts))
    return replace(project, versions={TAG: replace(version, **{where: {**parts, first: anew(parts[first])}})})


def line_question(project: Project) -> object:
    """What a translator is asked for the first line, apart from what stands around it."""
    return items_of(project, [project.segments[0]])[0].text


def take_question(project: Project) -> object:
    """What a voice is asked for the first line."""
    segment, version = project.segments[0], project.versions[TAG]
    line = version.lines[segment.id]
    voice = line.voice or version.cast[segment.speaker_id]
    language = spoken_language(engine().info(), voice, TAG, stand_ins(project, TAG))
    usual = model.AS_USUAL if line.voice else version.manners.get(segment.speaker_id, model.AS_USUAL)
    manner = on_top(usual, line.manner)
    return ssml_of(line.text, language), voice, line.direction, manner


def plan(project: Project) -> object:
    placements = planned(project, TAG, taken_lines(project, TAG))
    return [(p.segment_id, p.start_us, p.length_us, p.pauses_cut_us, p.overflow_us) for p in placements]


def test_every_field_of_the_model_is_looked_at() -> None:
    parts = (model.Project, model.Segment, model.Line, model.Take, model.Placement, model.Version)
    assert {(part.__name__, field.name) for part in parts for field in fields(part)} == CHANGES.keys() | HINTS | WHOLE


@pytest.mark.parametrize(("kind", "name"), [*CHANGES])
def test_stale_is_what_would_be_another(kind: str, name: str, project: Project) -> None:
    after = changed(project, kind, name)
    segment, version = after.segments[0], after.versions[TAG]
    line = version.lines[segment.id]
    take = version.takes[line.take_id or ""]
    assert line_is_stale(segment, line) == (line_question(after) != line_question(project)), "line"
    assert take_is_stale(after, version, segment, line, take) == (take_question(after) != take_question(project)), (
        "take"
    )
    state = progress(after, version)[Step.FIT]
    if take_question(after) == take_question(project):  # a stale take is made again before it is placed again
        assert (state.done < state.total) == (plan(after) != plan(project)), "plan"
