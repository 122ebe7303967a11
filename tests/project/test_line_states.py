"""How far lines are: who may change what, and what a split, a merge and an older project make of it."""

from __future__ import annotations

from dataclasses import replace

import pytest

from helpers import project_with
from zweistimme.project import access, line_edits, transcript
from zweistimme.project.errors import EditError
from zweistimme.project.facts import line_is_stale
from zweistimme.project.find_replace import Search, found, replace_found
from zweistimme.project.model import Line, Maker, Project
from zweistimme.project.reshape import merge_segments, split_before
from zweistimme.project.text_changes import Kept, changes
from zweistimme.project.wordings import LineState, Offer, Origin, OriginKind

THREE = [(1.0, 3.0, "The sea is high. It is cold."), (4.0, 5.0, "Is it?"), (6.0, 8.0, "It is.")]
TAG = "de-DE"


def line_of(project: Project, key: str = "s1") -> Line:
    return project.versions[TAG].lines[key]


def translated(project: Project, key: str, *texts: str) -> Project:
    segment = next(one for one in project.segments if one.id == key)
    return line_edits.put_translation(
        project, TAG, key, texts, source=segment, instead_of=line_of(project, key), maker=Maker("quay", "2")
    )


def in_state(state: LineState, *, locked: bool = False) -> Project:
    project = line_edits.set_states(translated(project_with(THREE), "s1", "Hoch.", "Da."), TAG, ["s1"], state)
    return line_edits.set_locked(project, TAG, ["s1"], locked)


def test_what_a_machine_words_is_initial_and_says_who_it_was() -> None:
    line = line_of(translated(project_with(THREE), "s1", "Hoch.", "Da."))
    assert (line.state, line.origin) == (LineState.INITIAL, Origin(OriginKind.ENGINE, "quay"))
    assert line.offers == (Offer("Da.", line.origin),)
    assert line.original == THREE[0][2]


@pytest.mark.parametrize("state", [LineState.TRANSLATED, LineState.REVIEWED, LineState.FINAL])
def test_no_run_touches_what_is_settled(state: LineState) -> None:
    before = in_state(state)
    after = translated(before, "s1", "Anders.")
    assert line_of(after).text == "Hoch."
    assert [offer.text for offer in line_of(after).offers] == ["Da.", "Anders."]


@pytest.mark.parametrize(("state", "locked", "kept"), [
    (LineState.INITIAL, False, False), (LineState.REVIEWED, False, False), (LineState.FINAL, False, True),
    (LineState.INITIAL, True, True),
])  # fmt: skip
def test_a_file_changes_what_is_neither_final_nor_locked(state: LineState, locked: bool, kept: bool) -> None:
    before = in_state(state, locked=locked)
    line = line_of(line_edits.put_translations(before, TAG, {"s1": "Aus Datei."}, "back.srt"))
    if kept:
        assert line is line_of(before)
    else:
        assert (line.text, line.state) == ("Aus Datei.", LineState.TRANSLATED)
        assert line.origin == Origin(OriginKind.IMPORT, "back.srt")


def test_who_writes_settles_and_a_review_has_to_be_done_again() -> None:
    line = line_of(line_edits.set_line_text(in_state(LineState.FINAL), TAG, "s1", "Hoch ist sie."))
    assert (line.state, line.origin, line.maker) == (LineState.TRANSLATED, Origin(OriginKind.PERSON), None)
    emptied = line_of(line_edits.set_line_text(in_state(LineState.FINAL), TAG, "s1", " "))
    assert emptied.state is LineState.INITIAL


def test_locked_words_stay_whatever_is_tried() -> None:
    project = in_state(LineState.TRANSLATED, locked=True)
    for attempt in (
        lambda: line_edits.set_line_text(project, TAG, "s1", "Anders."),
        lambda: line_edits.take_offer(project, TAG, "s1", "Da."),
        lambda: replace_found(project, found(project, Search("Hoch", "Tief", places=(TAG,)))),
    ):
        with pytest.raises(EditError, match="locked"):
            attempt()
    assert line_edits.set_locked(project, TAG, ["s1"], True) is project


def test_who_lets_a_line_stand_means_the_original_as_it_is_now() -> None:
    changed = transcript.set_segment_text(translated(project_with(THREE), "s1", "Hoch."), "s1", "The sea is low.")
    assert line_is_stale(changed.segments[0], line_of(changed))
    after = line_edits.set_states(changed, TAG, ["s1", "s2", "nobody"], LineState.TRANSLATED)
    assert not line_is_stale(after.segments[0], line_of(after))
    assert line_of(after).original == "The sea is low."
    back = line_edits.set_states(after, TAG, ["s1"], LineState.INITIAL)
    assert line_of(back).state is LineState.INITIAL
    bare = access.put_line(changed, TAG, Line("s2", "", ""))
    with pytest.raises(EditError, match="no words yet"):
        line_edits.set_states(bare, TAG, ["s2"], LineState.FINAL)


def test_a_wording_on_offer_changes_places_with_the_one_there_was() -> None:
    project = translated(project_with(THREE), "s1", "Hoch.", "Da.")
    after = line_of(line_edits.take_offer(project, TAG, "s1", "Da."))
    assert (after.text, after.state, after.origin) == ("Da.", LineState.TRANSLATED, Origin(OriginKind.ENGINE, "quay"))
    assert [offer.text for offer in after.offers] == ["Hoch."]
    with pytest.raises(EditError, match="not on offer"):
        line_edits.take_offer(project, TAG, "s1", "Nie gesagt.")


def test_a_note_is_its_authors_own() -> None:
    project = project_with(THREE)
    for author, text in (("Ida", "Ferry or tide?"), ("", "Tide."), ("Ida", "Ferry, surely?")):
        project = line_edits.set_note(project, TAG, "s1", author, text, "2026-05-01T10:00:00+00:00")
    assert [(note.author, note.text) for note in line_of(project).notes] == [("Ida", "Ferry, surely?"), ("", "Tide.")]
    assert line_edits.set_note(project, TAG, "s1", "", "Tide.", "later") is project
    gone = line_edits.set_note(project, TAG, "s1", "Ida", "  ", "later")
    assert [note.text for note in line_of(gone).notes] == ["Tide."]
    assert line_of(line_edits.remove_note(gone, TAG, "s1", 0)).notes == ()
    with pytest.raises(EditError, match="no note 3"):
        line_edits.remove_note(project, TAG, "s1", 2)
    with pytest.raises(EditError, match="5,000 letters at most"):
        line_edits.set_note(project, TAG, "s1", "", "x" * 5_001, "now")


def test_halves_are_as_far_as_the_whole_where_the_place_is_sure() -> None:
    project = line_edits.set_line_text(project_with(THREE), TAG, "s1", "Die See ist hoch. Sie ist kalt.")
    project = line_edits.set_states(project, TAG, ["s1"], LineState.REVIEWED)
    project = line_edits.set_note(project, TAG, "s1", "Ida", "Cold?", "now")
    after = split_before(project, "s1", 4)
    first, second = (line_of(after, one.id) for one in after.segments[:2])
    assert (first.state, second.state) == (LineState.REVIEWED, LineState.REVIEWED)
    assert (first.original, second.original) == ("The sea is high.", "It is cold.")
    assert (len(first.notes), len(second.notes)) == (1, 0)
    unsure = split_before(project, "s1", 2)
    assert line_of(unsure, unsure.segments[1].id).state is LineState.TRANSLATED
    again = merge_segments(after, [one.id for one in after.segments[:2]])
    assert line_of(again).state is LineState.REVIEWED
    assert len(line_of(again).notes) == 1


def test_what_is_merged_keeps_a_persons_words_a_persons() -> None:
    project = translated(project_with(THREE), "s1", "Hoch.")
    project = line_edits.set_line_text(project, TAG, "s2", "Wirklich?")
    project = line_edits.set_states(project, TAG, ["s2"], LineState.FINAL)
    project = line_edits.set_locked(project, TAG, ["s2"], True)
    line = line_of(merge_segments(project, ["s1", "s2"]))
    assert (line.state, line.locked, line.origin) == (LineState.TRANSLATED, True, None)


def test_changes_go_by_the_writing_system() -> None:
    parts = changes("Bring two ropes.", "Bring two heavy ropes!", "en-GB")
    assert "".join(one.text for one in parts if one.kept is not Kept.GONE) == "Bring two heavy ropes!"
    assert "".join(one.text for one in parts if one.kept is not Kept.NEW) == "Bring two ropes."
    assert changes("", "Neu.") == changes("", "Neu.", "de-DE")
    assert [one.kept for one in changes("同じ", "同じ", "ja-JP")] == [Kept.SAME]


def test_stale_lines_that_nobody_settled_are_translated_again() -> None:
    project = transcript.set_segment_text(translated(project_with(THREE), "s1", "Hoch."), "s1", "The sea is low.")
    assert line_of(translated(project, "s1", "Niedrig.")).text == "Niedrig."
    kept = access.put_line(project, TAG, replace(line_of(project), locked=True))
    assert line_of(translated(kept, "s1", "Niedrig.")).text == "Hoch."


def test_the_originals_words_are_a_beginning_and_no_translation() -> None:
    project = line_edits.set_locked(in_state(LineState.REVIEWED), TAG, ["s2"], True)
    after = line_edits.copy_original(project, TAG, ["s1", "s2", "s3"])
    line = line_of(after)
    assert (line.text, line.state) == (THREE[0][2], LineState.INITIAL)
    assert "Hoch." in [offer.text for offer in line.offers]
    assert line_of(after, "s2") is line_of(project, "s2")
    assert line_edits.copy_original(after, TAG, ["s1"]) is after
