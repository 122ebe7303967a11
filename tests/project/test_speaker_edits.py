"""Speakers: added, merged, taken away."""

from __future__ import annotations

from dataclasses import replace

import pytest

from helpers import project_with
from zweistimme.project.cast_edits import cast_voice
from zweistimme.project.errors import EditError
from zweistimme.project.model import Project
from zweistimme.project.speaker_edits import add_speaker, assign_speaker, merge_speakers, remove_speaker, rename_speaker


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
