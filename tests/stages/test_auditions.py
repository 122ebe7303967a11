"""Auditions: which lines, what they cost, kept, thought of, and heard as loud as the original."""

from __future__ import annotations

from dataclasses import replace
from functools import partial
from pathlib import Path

import numpy as np
import pytest

from demo_project import work_on
from helpers import project_with, speechlike, with_pitches
from zweistimme.project.audition_edits import add_audition, drop_auditions, prefer_audition, score_audition
from zweistimme.project.auditions import Audition, standings
from zweistimme.project.cast_edits import cast_voice
from zweistimme.project.errors import EditError
from zweistimme.project.model import Line, Project
from zweistimme.stages.audition import (
    Telling,
    Wish,
    as_loud,
    audition,
    audition_sound,
    auditions_by_segment,
    cost_of_auditions,
    loudness_lufs,
    open_auditions,
    scene_of,
    scene_sound,
    telling_lines,
    wishes_of,
)
from zweistimme.store.document import Document

TAG = "de-DE"
ROWS = [
    (1.0, 3.0, "Good morning."), (3.2, 5.0, "Where are we going?"), (5.5, 6.0, "Yes."), (6.5, 9.0, "It is late."),
    (20.0, 24.0, "See you tomorrow, when the boats come in."),
]  # fmt: skip
WORDED = (
    "Guten Morgen.",
    "Wohin gehen wir?",
    "Ja.",
    "Es ist spät.",
    "Bis morgen, wenn die Boote kommen, und gute Nacht.",
)


def worded() -> Project:
    given = with_pitches(project_with(ROWS), {"p1": 200.0})
    version = given.versions[TAG]
    lines = {
        segment.id: replace(version.lines.get(segment.id) or Line(segment.id, "", ""), text=text)
        for segment, text in zip(given.segments, WORDED, strict=True)
    }
    given = replace(given, versions={TAG: replace(version, lines=lines)})
    return cast_voice(given, TAG, "p1", "alva")


def made(key: str, segment: str, voice: str, **more: object) -> Audition:
    return Audition(key, segment, voice, "", "0" * 64, 10, 0, 10, "", **more)  # type: ignore[arg-type]


def test_the_lines_that_tell_most_are_found() -> None:
    given = worded()
    quiet = {segment.id: -30.0 for segment in given.segments}
    assert telling_lines(given, TAG, "p1", {**quiet, "s1": -12.0}) == {
        "s1": Telling.STRONGEST, "s2": Telling.QUESTION, "s4": Telling.SHORTEST, "s5": Telling.LONGEST,
    }  # fmt: skip
    assert list(telling_lines(given, TAG, "p1")) == ["s2", "s4", "s5"]
    assert telling_lines(given, TAG, "p9") == {}


def test_a_scene_ends_at_a_long_silence() -> None:
    segments = worded().segments
    assert [one.id for one in scene_of(segments, "s2")] == ["s1", "s2", "s3", "s4"]
    assert [one.id for one in scene_of(segments, "s5")] == ["s5"]
    assert scene_of(segments, "gone") == []


def test_lines_are_heard_in_voices_and_kept(tmp_path: Path) -> None:
    with Document.create(tmp_path / "p", worded()) as document:
        wishes = wishes_of(["s2", "s3"], ["alva", "brandt", "brandt"])
        assert wishes == [Wish("s2", "alva"), Wish("s2", "brandt"), Wish("s3", "alva"), Wish("s3", "brandt")]
        assert cost_of_auditions(document.project, TAG, wishes)["bundled"].characters > 40
        audition(work_on(document), TAG, wishes)
        version = document.project.versions[TAG]
        assert {Wish(one.segment_id, one.voice) for one in version.auditions.values()} == set(wishes)
        assert version.takes == {}
        assert version.failures == {}
        assert all(one.clip in document.clips for one in version.auditions.values())
        assert open_auditions(document.project, TAG, wishes) == []
        assert cost_of_auditions(document.project, TAG, wishes) == {}
        first = next(iter(version.auditions))
        document.apply("Score", partial(score_audition, tag=TAG, key=first, score=4, note=" warm "))
    with Document.open(tmp_path / "p") as document:
        kept = document.project.versions[TAG].auditions[first]
        assert (kept.score, kept.note) == (4, "warm")
        with pytest.raises(EditError, match="wording"):
            audition(work_on(document), TAG, [Wish("s9", "alva")])


def test_what_was_thought_of_an_audition_outlives_hearing_it_again() -> None:
    given = add_audition(worded(), TAG, made("a", "s1", "alva"))
    given = score_audition(add_audition(given, TAG, made("b", "s1", "brandt")), TAG, "b", 5, "yes")
    given = prefer_audition(given, TAG, "b", "a")
    again = add_audition(given, TAG, made("b", "s1", "brandt")).versions[TAG].auditions["b"]
    assert (again.score, again.won, again.note) == (5, 1, "yes")
    assert add_audition(given, TAG, made("c", "gone", "brandt")) is given
    assert list(drop_auditions(given, TAG, ["a", "z"]).versions[TAG].auditions) == ["b"]
    for wrong in (
        lambda: score_audition(given, TAG, "a", 6),
        lambda: prefer_audition(given, TAG, "a", "a"),
        lambda: prefer_audition(given, TAG, "a", "z"),
    ):
        with pytest.raises(EditError):
            wrong()


def test_voices_stand_by_what_was_preferred_and_scored() -> None:
    ranked = standings(
        [
            made("a", "s1", "alva", won=3, lost=1), made("b", "s1", "brandt", won=1, lost=3, score=2),
            made("c", "s2", "clio", score=5), made("d", "s2", "dario"),
        ]
    )  # fmt: skip
    assert [one.voice for one in ranked] == ["clio", "alva", "dario", "brandt"]
    assert (ranked[1].won, ranked[1].compared, ranked[1].score) == (3, 4, None)


def test_auditions_are_as_loud_as_the_original(tmp_path: Path) -> None:
    with Document.create(tmp_path / "p", worded()) as document:
        audition(work_on(document), TAG, wishes_of(["s1", "s2"], ["alva", "brandt"]))
        for one in document.project.versions[TAG].auditions.values():
            assert loudness_lufs(audition_sound(document.clips, one, -20.0)) == pytest.approx(-20.0, abs=0.3)
        silent = np.zeros(100, dtype=np.float32)
        assert np.array_equal(as_loud(silent, -20.0), silent)
        assert np.abs(as_loud(speechlike(1.0), 0.0)).max() <= 0.9801
        heard = auditions_by_segment(document.project, TAG, {"p1": "brandt"})
        begin, scene = scene_sound(work_on(document), document.project.segments, heard, {"p1": -20.0})
        assert begin == 1_000_000
        assert len(scene) > 2.2 * 48_000
        assert np.abs(scene[:24_000]).max() > 0.01
        assert scene_sound(work_on(document), document.project.segments, {}, {})[0] == 0


def test_an_engine_that_fails_leaves_no_failed_line(tmp_path: Path) -> None:
    with Document.create(tmp_path / "p", worded()) as document:
        with pytest.raises(Exception, match="nobody"):
            audition(work_on(document), TAG, [Wish("s1", "nobody:x")])
        assert document.project.versions[TAG].failures == {}
