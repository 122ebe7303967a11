"""A hand-over is stale after exactly those changes that would make it another: every field of the model is changed, the
files are made anew, and compared."""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Iterator
from dataclasses import fields, replace
from pathlib import Path
from typing import Any

import numpy as np
import pytest

from demo_project import work_on
from helpers import project_with, write_sound
from zweistimme.project import edits, model
from zweistimme.project.auditions import Audition
from zweistimme.project.brief import Brief
from zweistimme.project.findings import Finding
from zweistimme.project.fit_limits import Limits
from zweistimme.project.hand_fit import HandFit, WordPin
from zweistimme.project.mix_settings import Beneath, MixSettings, Place
from zweistimme.project.model import Delivery, Pin, Project, Speaker, Style, TakeKind, Word
from zweistimme.project.programme import SoundPick
from zweistimme.project.progress import delivery_made_from
from zweistimme.project.sayings import Saying
from zweistimme.project.sound_delivery import SoundPreset
from zweistimme.project.terms import Term
from zweistimme.project.times import RATE
from zweistimme.project.wordings import LineNote, LineState, Offer, Origin, OriginKind
from zweistimme.stages.bring_in import bring_in
from zweistimme.stages.caption import dub_captions, rules_for, source_captions
from zweistimme.stages.file_names import slug
from zweistimme.stages.fit import fit
from zweistimme.stages.handover.deliver import hand_over
from zweistimme.stages.intake import Intake
from zweistimme.stages.mix import write_sounds
from zweistimme.stages.mix.wanted_files import house_files, preset_files
from zweistimme.store.document import Document

TAG = "de-DE"
PAUSE = ((40_000, 56_000),)
LONG = "Wer die alte Uhr aufziehen will, muss die Leiter holen, und wer sie holt, der muss sie halten, sagt man."
SOURCE = "Whoever winds the old clock has to fetch the ladder first, and whoever fetches it has to hold it, they say."
ROWS = [(0.5, 7.3, SOURCE), (8.0, 9.2, "It is high.")]
FED: dict[tuple[str, str], Callable[[Any], Any]] = {
    ("Project", "title"): lambda _: "Another title",
    ("Project", "source_tag"): lambda _: "en-US",
    ("Project", "speakers"): lambda people: {**people, "p1": Speaker("p1", "Mira")},
    ("Project", "caption_limits"): lambda _: {TAG: model.CaptionLimits(lines=1)},
    ("Segment", "start_us"): lambda at: at - 200_000,
    ("Segment", "end_us"): lambda at: at + 150_000,
    ("Segment", "text"): lambda _: SOURCE.replace("has", "had"),
    ("Segment", "words"): lambda words: tuple(
        replace(w, end_us=w.end_us - 300_000, start_us=w.start_us - 300_000) for w in words
    ),
    ("Line", "text"): lambda text: text + " Ja.",
    ("Take", "clip"): lambda _: "other",
    ("Take", "speech_start_samples"): lambda at: at + 900,
    ("Take", "speech_end_samples"): lambda at: at - 900,
    ("Take", "pauses_samples"): lambda _: ((30_000, 45_000),),
    ("Take", "words"): lambda words: tuple(
        replace(w, start_us=w.start_us + 400_000, end_us=w.end_us + 400_000) for w in words
    ),
    ("Placement", "start_us"): lambda at: at + 120_000,
    ("Placement", "length_us"): lambda length: length + 60_000,
    ("Placement", "pauses_cut_us"): lambda _: 40_000,
    ("Placement", "phrases"): lambda _: (model.PlacedPhrase(500_000, 900_000, 0, 48_000),),
    ("Version", "style"): lambda _: Style.VOICE_OVER,
    ("MixSettings", "loudness_lufs"): lambda _: -20.0,
    ("MixSettings", "true_peak_dbtp"): lambda _: -20.0,
    ("MixSettings", "duck_db"): lambda _: -9.0,
    ("MixSettings", "beneath"): lambda _: Beneath.ROOM_TONE,
    ("MixSettings", "giving"): lambda giving: replace(giving, look_ahead_us=400_000),
    ("MixSettings", "treatment"): lambda treatment: replace(treatment, line_levels=False),
    ("Segment", "on_screen"): lambda seen: not seen,
    ("Segment", "place"): lambda _: Place.TELEPHONE,
    ("Version", "mix"): lambda _: MixSettings(-20.0),
    ("Line", "hand"): lambda _: HandFit(gain_db=-6.0),
    ("Version", "presets"): lambda _: ("own", "archive"),
    ("Project", "presets"): lambda _: {"own": SoundPreset(-35.0)},
}
"""What a hand-over is made from, and a change of each."""
NOT_FED: dict[tuple[str, str], Callable[[Any], Any]] = {
    ("Project", "engines"): lambda _: {"speak": "quay"},
    ("Project", "substitutes"): lambda _: False,
    ("Project", "terms"): lambda _: {"k": Term("Varnholm")},
    ("Project", "brief"): lambda _: Brief("A clock"),
    ("Project", "sayings"): lambda _: {"de Joe": Saying("Joe", "de", like="Dscho")},
    ("Project", "segments_made"): lambda _: 90,
    ("Project", "people_made"): lambda _: 90,
    ("Project", "follow"): lambda on: not on,
    ("Segment", "fillers"): lambda _: (Word("uh", 600_000, 700_000, filler=True),),
    ("Segment", "respoken"): lambda _: "abc",
    ("Line", "made_from"): lambda _: "x",
    ("Line", "direction"): lambda _: "softly",
    ("Line", "offers"): lambda _: (Offer("Kurz."),),
    ("Line", "state"): lambda _: LineState.FINAL,
    ("Line", "origin"): lambda _: Origin(OriginKind.MEMORY, "Tide", 87),
    ("Line", "original"): lambda _: "x",
    ("Line", "notes"): lambda _: (LineNote("Is this so?", "Ida"),),
    ("Line", "locked"): lambda on: not on,
    ("Line", "pin"): lambda _: Pin(0),
    ("Line", "word_pins"): lambda _: (WordPin(0, 1_000_000),),
    ("Version", "limits"): lambda _: Limits(),
    ("Line", "manner"): lambda _: model.Manner(1.2),
    ("Line", "maker"): lambda _: model.Maker("quay"),
    ("Take", "maker"): lambda _: model.Maker("quay"),
    ("Version", "manners"): lambda _: {"p1": model.Manner(1.2)},
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
    ("Take", "kind"): lambda _: TakeKind.RECORDED,
    ("Take", "length_samples"): lambda length: length + 1,
    ("Take", "made_from"): lambda _: "x",
    ("Placement", "tempo"): lambda tempo: tempo + 0.01,
    ("Placement", "why"): lambda _: (Finding("late", {"by_s": 1.0}),),
    ("Placement", "made_from"): lambda _: "x",
    ("Placement", "overflow_us"): lambda _: 5,
    ("Placement", "clash_us"): lambda _: 5,
    ("Version", "preference"): lambda _: model.Preference.VOICE,
    ("Version", "cast"): lambda _: {"p1": "alva"},
    ("Version", "engines"): lambda _: {"speak": "quay"},
    ("Version", "failures"): lambda _: {"s1": model.Failure("s1", model.Made.TAKE, Finding("late"), "x")},
    ("Version", "delivery"): lambda _: Delivery("x", (), "y"),
    ("MixSettings", "bed_db"): lambda _: 3.0,
    ("MixSettings", "voice_over_duck_db"): lambda _: -3.0,
}
"""What it is not made from: here there is no bed, and it is no voice-over."""
WHOLE = {
    ("Project", "programme"), ("Project", "segments"), ("Project", "versions"), ("Project", "mix"), ("Segment", "id"),
    ("MixSettings", "room_db"),
    ("Segment", "speaker_id"), ("Line", "segment_id"), ("Line", "take_id"), ("Take", "id"), ("Take", "segment_id"),
    ("Placement", "segment_id"), ("Placement", "take_id"), ("Version", "tag"), ("Version", "lines"),
    ("Version", "takes"), ("Version", "placements"),
}  # fmt: skip
"""Ids, what holds the rest, and what only a room lets hear."""


@pytest.fixture(scope="module")
def document(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Document]:
    """A programme of ten seconds with two lines, fitted."""
    folder = tmp_path_factory.mktemp("inputs")
    document = Document.create(folder / "p", Project("Tide", "en-GB"))
    bring_in(work_on(document), Intake(write_sound(folder / "a.wav", 10.0)))
    given = project_with(ROWS, takes=[7.6, 1.1])
    version = given.versions[TAG]
    clips = [document.clips.put(_clip(seconds, seed)) for seconds, seed in ((7.6, 1), (1.1, 2))]
    other = document.clips.put(_clip(7.6, 3))
    takes = {
        key: replace(
            take,
            clip=clip,
            pauses_samples=PAUSE if key == "t0" else (),
            words=_words(LONG if key == "t0" else "Hoch.", take.length_samples),
        )
        for (key, take), clip in zip(version.takes.items(), clips, strict=True)
    }
    first = next(iter(version.lines.values()))
    lines = {**version.lines, first.segment_id: replace(first, text=LONG)}
    document.apply("x", lambda p: replace(
        p, segments=given.segments, speakers=given.speakers,
        presets={"own": SoundPreset(-30.0)},
        versions={TAG: replace(version, takes=takes, lines=lines, presets=("own",))}, title=other[:8],
    ))  # fmt: skip
    fit(work_on(document), TAG)
    FED["Take", "clip"] = lambda _: other
    yield document
    document.close()


def _clip(seconds: float, seed: int) -> np.ndarray:
    random = np.random.default_rng(seed)
    return (0.1 * random.standard_normal(round(seconds * RATE))).clip(-0.9, 0.9).astype(np.float32)


def _words(text: str, length_samples: int) -> tuple[Word, ...]:
    tokens = text.split()
    step = length_samples / RATE * 1e6 / len(tokens)
    return tuple(Word(token, round(k * step), round((k + 1) * step)) for k, token in enumerate(tokens))


def handed_over(document: Document, project: Project, folder: Path) -> str:
    """A digest of all that is handed over: sound, captions, and how it is called."""
    work = replace(work_on(document), project=project)
    mix, voice = folder / "mix.wav", folder / "voice.wav"
    wanted = house_files(project, project.versions[TAG], mix, voice)
    wanted += preset_files(project, project.versions[TAG], folder, "x")
    write_sounds(work, TAG, wanted)
    sounds = b"".join(one.path.read_bytes() for one in wanted)
    rules = rules_for(TAG, project.caption_limits.get(TAG))
    captions = (
        dub_captions(project, TAG, document.clips, rules),
        source_captions(project, rules_for(project.source_tag)),
    )
    named = (slug(project.title), project.title, project.source_tag)
    told = repr((captions, named)).encode()
    return hashlib.sha256(sounds + told).hexdigest()


def changed(project: Project, kind: str, name: str, change: Callable[[Any], Any]) -> Project:
    """*project* with one field of its first such part changed."""
    version = project.versions[TAG]
    segment = project.segments[0]
    if kind == "Project":
        return replace(project, **{name: change(getattr(project, name))})
    if kind == "MixSettings":
        return replace(project, mix=replace(project.mix, **{name: change(getattr(project.mix, name))}))
    if kind == "Segment":
        return replace(
            project, segments=(replace(segment, **{name: change(getattr(segment, name))}), *project.segments[1:])
        )
    if kind == "Version":
        return replace(project, versions={TAG: replace(version, **{name: change(getattr(version, name))})})
    where, key = {
        "Line": ("lines", segment.id), "Placement": ("placements", segment.id), "Take": ("takes", "t0"),
    }[kind]  # fmt: skip
    parts = getattr(version, where)
    part = replace(parts[key], **{name: change(getattr(parts[key], name))})
    return replace(project, versions={TAG: replace(version, **{where: {**parts, key: part}})})


def test_every_field_of_the_model_is_looked_at() -> None:
    parts = (model.Project, model.Segment, model.Line, model.Take, model.Placement, model.Version, MixSettings)
    every = {(part.__name__, field.name) for part in parts for field in fields(part)}
    assert every == FED.keys() | NOT_FED.keys() | WHOLE


@pytest.fixture(scope="module")
def before(document: Document, tmp_path_factory: pytest.TempPathFactory) -> str:
    return handed_over(document, document.project, tmp_path_factory.mktemp("before"))


@pytest.mark.parametrize(("kind", "name"), [*FED])
def test_what_feeds_a_hand_over_makes_it_stale(
    kind: str, name: str, document: Document, before: str, tmp_path: Path
) -> None:
    project = document.project
    after = changed(project, kind, name, FED[kind, name])
    assert delivery_made_from(after, after.versions[TAG]) != delivery_made_from(project, project.versions[TAG])
    assert handed_over(document, after, tmp_path) != before


def test_nothing_else_makes_it_stale(document: Document, before: str, tmp_path: Path) -> None:
    every = project = document.project
    for (kind, name), change in NOT_FED.items():
        after = changed(project, kind, name, change)
        assert delivery_made_from(after, after.versions[TAG]) == delivery_made_from(project, project.versions[TAG]), (
            kind,
            name,
        )
        every = changed(every, kind, name, change)
    assert handed_over(document, every, tmp_path) == before


def test_another_sound_makes_it_stale(document: Document) -> None:
    project = document.project
    assert project.programme is not None
    other = replace(project.programme.sound, pick=SoundPick((2,)))
    after = edits.set_programme(project, replace(project.programme, sound=other))
    assert delivery_made_from(after, after.versions[TAG]) != delivery_made_from(project, project.versions[TAG])
    bed = edits.set_bed(project, project.programme.sound)
    assert delivery_made_from(bed, bed.versions[TAG]) != delivery_made_from(project, project.versions[TAG])


def test_a_hand_over_says_which_lines_nobody_will_hear(document: Document, tmp_path: Path) -> None:
    project = document.project
    more = replace(project.segments[1], id="s3", start_us=9_300_000, end_us=9_800_000)
    said: list[str] = []
    work = replace(work_on(document, said), project=replace(project, segments=(*project.segments, more)))
    hand_over(work, [TAG], tmp_path)
    assert any("1 of 3 lines in de-DE have no take and are not heard: 3 at 0:09" in text for text in said)
    assert "1 of 3 lines in de-DE have no take" in (tmp_path / "manifest.json").read_text(encoding="utf-8")
