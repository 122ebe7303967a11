"""Speakers: added, merged, taken away."""

from __future__ import annotations

from dataclasses import replace

import pytest

from helpers import project_with
from zweistimme.project.audition_edits import add_audition
from zweistimme.project.auditions import Audition
from zweistimme.project.brief import Address
from zweistimme.project.cast_edits import cast_voice
from zweistimme.project.conversation import set_address
from zweistimme.project.errors import EditError
from zweistimme.project.model import Project, Segment, Speaker
from zweistimme.project.new_transcript import replace_transcript
from zweistimme.project.reshape import merge_segments
from zweistimme.project.speaker_edits import add_speaker, assign_speaker, merge_speakers, remove_speaker, rename_speaker
from zweistimme.project.transcript import delete_segments


def two_people() -> Project:
    project = add_speaker(project_with([(0, 1, "It turns."), (2, 3, "Good."), (4, 5, "Now.")]), " Ben ")
    return assign_speaker(project, ["s2", "s3"], "p2")


def test_merged_speakers_say_everything_and_keep_a_voice() -> None:
    project = cast_voice(two_people(), "de-DE", "p1", None)
    project = cast_voice(project, "de-DE", "p2", "brandt")
    after = merge_speakers(project, "p2", "p1")
    assert list(after.speakers) == ["p1"]
    assert {s.speaker_id for s in after.segments} == {"p1"}
    assert after.versions["de-DE"].cast == {"p1": "brandt"}
    assert after.versions["de-DE"].lines is project.versions["de-DE"].lines
    assert merge_speakers(project, "p1", "p1") is project


def test_a_speaker_who_speaks_is_not_taken_away() -> None:
    project = two_people()
    with pytest.raises(EditError, match="Ben speaks 2 segments"):
        remove_speaker(project, "p2")
    silent = assign_speaker(project, ["s2", "s3"], "p1")
    assert list(remove_speaker(silent, "p2").speakers) == ["p1"]


def test_names_are_unlike_each_other_and_ids_are_not_used_again() -> None:
    project = two_people()
    with pytest.raises(EditError, match="already called Ada"):
        rename_speaker(project, "p2", "Ada")
    with pytest.raises(EditError, match="already called Ben"):
        add_speaker(project, "Ben")
    with pytest.raises(EditError, match="no speaker p9"):
        assign_speaker(project, ["s1"], "p9")
    assert list(add_speaker(project, "Cleo").speakers) == ["p1", "p2", "p3"]


def test_assigning_what_is_so_already_is_no_change() -> None:
    project = two_people()
    assert assign_speaker(project, ["s2"], "p2") is project
    pitched = replace(project, speakers={**project.speakers, "p2": replace(project.speakers["p2"], pitch_hz=110.0)})
    assert merge_speakers(pitched, "p2", "p1").speakers["p1"].pitch_hz == 110.0


def test_what_was_chosen_for_somebody_who_is_gone_is_nobody_elses() -> None:
    """An id is never given again; and with somebody go how they are addressed and that their voice was chosen."""
    project = assign_speaker(cast_voice(two_people(), "de-DE", "p2", "brandt"), ["s2", "s3"], "p1")
    project = remove_speaker(set_address(project, "p1", "p2", Address.FAMILIAR), "p2")
    assert (project.brief.address, project.versions["de-DE"].cast_chosen) == ({}, ())
    assert list(add_speaker(project, "Cora").speakers) == ["p1", "p3"]
    again = replace_transcript(project, [Speaker("p2", "Dora")], [Segment("s1", "p2", 0, 1_000_000, "It turns.")])
    assert list(again.speakers) == ["p3"]
    given = cast_voice(two_people(), "de-DE", "p2", "brandt")
    new = replace_transcript(given, [Speaker("p1", "Ada")], [Segment("s1", "p1", 0, 1_000_000, "It turns.")])
    assert new.versions["de-DE"].cast_chosen == ()


def test_auditions_go_with_their_segments() -> None:
    project = two_people()
    for key in ("s1", "s2"):
        heard = Audition(f"a-{key}", key, "brandt", "Ja.", "0" * 64, 48_000, 0, 48_000, "x")
        project = add_audition(project, "de-DE", heard)
    assert list(delete_segments(project, ["s2"]).versions["de-DE"].auditions) == ["a-s1"]
    merged = merge_segments(assign_speaker(project, ["s2"], "p1"), ["s1", "s2"])
    assert list(merged.versions["de-DE"].auditions) == ["a-s1"]
