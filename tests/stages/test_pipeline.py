"""What comes next, what is proposed, and what is asked of a person."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import pytest

from helpers import project_with, work_on
from zweistimme.engines.offers import VoiceInfo
from zweistimme.engines.registry import engine
from zweistimme.memory.memory import Memory, memory_file
from zweistimme.project import cast_edits, edits, line_edits, transcript
from zweistimme.project.errors import EngineError
from zweistimme.project.model import Project, Segment, Speaker, TakeKind
from zweistimme.project.progress import Step, progress
from zweistimme.project.terms import Term
from zweistimme.project.wordings import LineState, Origin, OriginKind
from zweistimme.stages.cast import speaks
from zweistimme.stages.pipeline import how_many, next_step, run_step
from zweistimme.stages.translate import Only, open_translations, translate
from zweistimme.stages.translate.chrf import chrf
from zweistimme.stages.translate.remembering import remember, settled_units
from zweistimme.stages.translate.saying_back import SaidBack, say_back
from zweistimme.store.document import Document
from zweistimme.store.own_projects import Whose, set_whose

ROWS = [(1.0, 3.0, "Good morning."), (4.0, 5.0, "Please wait a moment.")]


def voice(name: str, pitch: float, *languages: str) -> VoiceInfo:
    return VoiceInfo(name, name.title(), "woman", languages or ("de-DE",), pitch_hz=pitch)


def two_speakers() -> Project:
    segments = [Segment("a", "p1", 0, 1_000_000, "One"), Segment("b", "p2", 2_000_000, 3_000_000, "Two")]
    project = edits.add_version(Project("x", "en-GB"), "de-DE")
    return transcript.set_transcript(project, [Speaker("p1", "Ada", 200.0), Speaker("p2", "Ben", 105.0)], segments)


def test_a_voice_speaks_its_language_in_every_region() -> None:
    assert speaks(voice("v", 100, "de-DE"), "de-AT")
    assert not speaks(voice("v", 100, "de-DE"), "nl-NL")


def test_the_steps_come_in_order() -> None:
    project = project_with(ROWS)
    version = project.versions["de-DE"]
    assert next_step(replace(project, segments=()), "de-DE") is Step.TRANSCRIPT
    unworded = replace(project, versions={"de-DE": replace(version, lines={})})
    assert next_step(unworded, "de-DE") is Step.TRANSLATION
    assert how_many(unworded, "de-DE", Step.TRANSLATION) == 2
    uncast = cast_edits.cast_voice(project, "de-DE", "p1", None)
    assert next_step(uncast, "de-DE") is Step.CAST
    assert how_many(uncast, "de-DE", Step.CAST) == 1
    assert next_step(project, "de-DE") is Step.TAKES
    assert next_step(project_with(ROWS, takes=[1.0, 1.0]), "de-DE") is Step.FIT


def test_imported_takes_need_no_voice() -> None:
    from zweistimme.project.facts import IMPORTED_VOICE, take_fingerprint

    project = cast_edits.cast_voice(project_with(ROWS, takes=[1.0, 1.0]), "de-DE", "p1", None)
    version = project.versions["de-DE"]
    lines = list(version.lines.values())
    takes = {
        take.id: replace(take, kind=TakeKind.IMPORTED, made_from=take_fingerprint(line, IMPORTED_VOICE))
        for take, line in zip(version.takes.values(), lines, strict=True)
    }
    project = replace(project, versions={"de-DE": replace(version, takes=takes)})
    assert next_step(project, "de-DE") is Step.FIT
    assert progress(project, project.versions["de-DE"])[Step.TAKES].complete


def test_stale_lines_written_by_hand_are_left_to_the_hand(tmp_path) -> None:  # type: ignore[no-untyped-def]
    project = project_with(ROWS)
    project = line_edits.set_line_text(project, "de-DE", "s1", "Von Hand.")
    project = transcript.set_segment_text(project, "s1", "Good evening.")
    project = transcript.set_segment_text(project, "s2", "Bring bread.")
    assert [segment.id for segment in open_translations(project, "de-DE")] == ["s2"]
    said: list[str] = []
    with Document.create(tmp_path / "p", project) as document:
        translate(work_on(document, said), engine(), "de-DE")
        lines = document.project.versions["de-DE"].lines
        assert lines["s1"].text == "Von Hand."
        assert lines["s2"].text == "Bringen Sie Brot."
        assert document.undo_label() == "Translate into de-DE"
    assert any("In de-DE 1 line that somebody settled no longer matches its source" in text for text in said)


def test_a_pair_that_nobody_translates_is_said(tmp_path) -> None:  # type: ignore[no-untyped-def]
    project = edits.add_version(project_with(ROWS), "ja-JP")
    with Document.create(tmp_path / "p", project) as document, pytest.raises(EngineError, match="en-GB to ja-JP"):
        run_step(work_on(document), Step.TRANSLATION, "ja-JP")


def test_a_language_nobody_recognises_is_said(tmp_path) -> None:  # type: ignore[no-untyped-def]
    project = replace(project_with(ROWS), source_tag="ja-JP")
    with (
        Document.create(tmp_path / "p", project) as document,
        pytest.raises(EngineError, match="does not recognise ja-JP"),
    ):
        run_step(work_on(document), Step.TRANSCRIPT, "de-DE")


def test_progress_is_kept_for_what_is_the_same_and_made_anew_for_what_is_not() -> None:
    project = project_with(ROWS, takes=[1.0, 1.0])
    version = project.versions["de-DE"]
    assert progress(project, version) is progress(replace(project, terms={"k": Term("Varnholm")}), version)
    after = line_edits.set_line_text(project, "de-DE", "s1", "Neu.")
    assert progress(after, after.versions["de-DE"])[Step.TAKES].stale == 1
    recast = cast_edits.cast_voice(project, "de-DE", "p1", None)
    assert progress(recast, recast.versions["de-DE"])[Step.CAST].missing == 1


def test_what_was_settled_before_is_not_asked_for_again(tmp_path: Path) -> None:
    """The memory comes before the engine: the same text in the same language, that of the same context first; what no
    person settled is not in it."""
    begun = project_with(ROWS)
    project = line_edits.set_line_text(begun, "de-DE", "s1", "Moin!")
    set_whose("first", tmp_path, Whose.OWN)
    assert remember(project, "first", tmp_path) == 1
    assert remember(project, "first", tmp_path) == 0
    fresh = replace(begun, versions={"de-DE": replace(begun.versions["de-DE"], lines={})})
    said: list[str] = []
    with Document.create(tmp_path / "p", fresh) as document:
        translate(work_on(document, said), engine(), "de-DE")
        lines = document.project.versions["de-DE"].lines
        assert (lines["s1"].text, lines["s1"].state) == ("Moin!", LineState.INITIAL)
        assert lines["s1"].origin == Origin(OriginKind.MEMORY, project.title, 100)
        assert lines["s2"].origin == Origin(OriginKind.ENGINE, "bundled")
        assert any("1 line of de-DE taken from the memory" in text for text in said)
    with Memory() as memory:
        assert [unit.target for unit in memory.all_of()] == ["Moin!"]
        memory.put([next(iter(settled_units(line_edits.set_line_text(project, "de-DE", "s1", "Tach!"), "other")))])
        memory.mute([unit.id for unit in memory.all_of()], document.id)
    with Document.create(tmp_path / "q", fresh) as other:
        translate(work_on(other, said), engine(), "de-DE")
        assert other.project.versions["de-DE"].lines["s1"].text in ("Moin!", "Tach!"), "muted elsewhere alone"


def test_a_memory_that_cannot_be_used_is_said_and_done_without(tmp_path: Path) -> None:
    memory_file().parent.mkdir(parents=True)
    memory_file().write_bytes(b"no database" * 400)
    said: list[str] = []
    project = project_with(ROWS)
    bare = replace(project, versions={"de-DE": replace(project.versions["de-DE"], lines={})})
    with Document.create(tmp_path / "p", bare) as document:
        translate(work_on(document, said), engine(), "de-DE")
        assert document.project.versions["de-DE"].lines["s2"].text
    assert any("cannot be used" in text for text in said)


def test_only_what_is_missing_or_only_what_is_stale_is_translated(tmp_path: Path) -> None:
    project = project_with(ROWS)
    version = project.versions["de-DE"]
    half = replace(project, versions={"de-DE": replace(version, lines={"s1": version.lines["s1"]})})
    half = transcript.set_segment_text(half, "s1", "Hand me the lantern.")
    with Document.create(tmp_path / "p", half) as document:
        translate(work_on(document), engine(), "de-DE", only=Only.MISSING)
        lines = document.project.versions["de-DE"].lines
        assert (lines["s1"].text, lines["s2"].text) == (version.lines["s1"].text, "Bitte warten Sie einen Moment.")
        translate(work_on(document), engine(), "de-DE", only=Only.STALE)
        assert document.project.versions["de-DE"].lines["s1"].text == "Gib mir die Laterne."


def test_wordings_are_said_back_the_worst_first(tmp_path: Path) -> None:
    rows = [
        (1.0, 3.0, "Hand me the lantern."),
        (4.0, 6.0, "I heard it go."),
        (7.0, 9.0, "Listen, it is still ticking."),
    ]
    project = project_with(rows)
    for key, text in (("s1", "Gib mir die Laterne."), ("s2", "Gib mir die Laterne."), ("s3", " ")):
        project = line_edits.set_line_text(project, "de-DE", key, text)
    with Document.create(tmp_path / "p", project) as document:
        took: list[SaidBack] = []
        said = say_back(work_on(document), engine(), "de-DE", took=took.extend)
        assert [one.segment_id for one in said] == ["s2", "s1"]
        assert (said[1].back, said[1].score, said[1].number) == ("Hand me the lantern.", 100.0, 1)
        assert said[0].score < 40
        assert {one.segment_id for one in took} == {"s1", "s2"}
        assert any((tmp_path / "p" / "answers").iterdir()), "kept like any answer"
        assert say_back(work_on(document), engine(), "de-DE", ["s2"])[0].text == "Gib mir die Laterne."
        document.apply("Add", lambda p: edits.add_version(p, "ja-JP"))
        document.apply("Write", lambda p: line_edits.set_line_text(p, "ja-JP", "s1", "それを渡して。"))
        with pytest.raises(EngineError, match="does not translate ja-JP back to en-GB"):
            say_back(work_on(document), engine(), "ja-JP")


def test_the_measure_of_likeness_is_the_published_one() -> None:
    """Counted by hand for lengths 1 and 2 of a short pair, and its bounds."""
    assert chrf("ab", "ab") == 100.0
    assert chrf("xy", "ab") == 0.0
    assert chrf("", "") == 100.0
    # "abc" in "abd": 1: 2 of 3, 2: 1 of 2, 3: 0 of 1, both ways, so the F-score is their mean
    assert chrf("abc", "abd") == pytest.approx(100 * (2 / 3 + 1 / 2 + 0) / 3)
    # "ab" for "abab": precision 1, recall (2 of 4, 1 of 3), beta 2
    recall = (1 / 2 + 1 / 3) / 2
    assert chrf("ab", "abab") == pytest.approx(100 * 5 * recall / (4 + recall))
