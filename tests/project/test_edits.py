"""Edits: what they change, what they leave alone, what they refuse."""

from __future__ import annotations

from dataclasses import replace
from functools import partial
from itertools import pairwise

import pytest

from helpers import project_with
from zweistimme.project import access, cast_edits, edits, line_edits, speaker_edits, transcript
from zweistimme.project.delivery_edits import set_caption_limits
from zweistimme.project.errors import EditError
from zweistimme.project.facts import line_is_stale, placement_fingerprint, placement_is_stale, take_is_stale
from zweistimme.project.findings import Finding
from zweistimme.project.model import CaptionLimits, Line, Pin, Placement, Project, Segment, Speaker, Style, TakeKind
from zweistimme.project.new_transcript import replace_transcript
from zweistimme.project.programme import Programme, SoundTrack
from zweistimme.project.progress import Step, progress
from zweistimme.project.term_edits import set_terms_said
from zweistimme.project.wordings import LineState

THREE = [(1.0, 3.0, "The sea is high."), (4.0, 5.0, "Is it?"), (6.0, 8.0, "It is.")]


def test_editing_the_source_makes_its_line_stale_and_nothing_else() -> None:
    project = project_with(THREE, takes=[2, 1, 2])
    after = transcript.set_segment_text(project, "s2", "Is it really?")
    version = after.versions["de-DE"]
    stale = [s.id for s in after.segments if line_is_stale(s, version.lines[s.id])]
    assert stale == ["s2"]
    assert version is project.versions["de-DE"]
    assert after.segments[0] is project.segments[0]
    state = progress(after, version)
    assert (state[Step.TRANSLATION].done, state[Step.TRANSLATION].stale) == (2, 1)
    assert state[Step.TRANSLATION].first_open == "s2"


def test_words_that_stay_keep_their_times() -> None:
    project = project_with(THREE)
    before = {w.text: w for w in project.segments[0].words}
    after = transcript.set_segment_text(project, "s1", "The grey sea is high.")
    words = after.segments[0].words
    assert [w.text for w in words] == ["The", "grey", "sea", "is", "high."]
    for word in words:
        if word.text in before:
            assert word == before[word.text]
    assert all(a.end_us <= b.start_us for a, b in pairwise(words))


def test_changing_a_line_makes_its_take_stale() -> None:
    project = project_with(THREE, takes=[2, 1, 2])
    after = line_edits.set_line_text(project, "de-DE", "s1", "Das Meer steht hoch.")
    version, segment = after.versions["de-DE"], after.segments[0]
    line = version.lines["s1"]
    assert line.state is LineState.TRANSLATED
    assert not line_is_stale(segment, line)
    assert take_is_stale(after, version, segment, line, version.takes["t0"])
    assert progress(after, version)[Step.TAKES].stale == 1


def test_changing_the_voice_makes_the_speakers_takes_stale() -> None:
    project = cast_edits.cast_voice(project_with(THREE, takes=[2, 1, 2]), "de-DE", "p1", "brandt")
    assert progress(project, project.versions["de-DE"])[Step.TAKES].done == 0


def test_retiming_keeps_order_and_makes_the_placement_stale() -> None:
    project = project_with(THREE, takes=[2, 1, 2])
    placements = [
        Placement("s2", "t1", 4_000_000, 1_000_000, 1.0, (), made_from="older"),
    ]
    project = edits.set_placements(project, "de-DE", placements)
    after = transcript.retime_segment(project, "s3", 200_000, 900_000)
    assert [s.id for s in after.segments] == ["s3", "s1", "s2"]
    assert placement_is_stale(after, after.versions["de-DE"], access.find_segment(after, "s2"))


@pytest.mark.parametrize(
    ("start", "end"), [(-1, 500_000), (500_000, 550_000), (900_000, 100_000), (1_000_000, 99_000_000)]
)
def test_impossible_times_are_refused(start: int, end: int) -> None:
    with pytest.raises(EditError, match="segment"):
        transcript.retime_segment(project_with(THREE), "s1", start, end)


def test_pinning_makes_the_placement_stale_and_unpinning_gives_it_back() -> None:
    project = project_with(THREE, takes=[2, 1, 2])
    version = project.versions["de-DE"]
    fresh = placement_fingerprint(project, version, project.segments[0], version.lines["s1"], version.takes["t0"])
    placed = Placement("s1", "t0", 1_000_000, 2_000_000, 1.0, (Finding("on-the-lip"),), made_from=fresh)
    project = edits.set_placements(project, "de-DE", [placed])
    assert not placement_is_stale(project, project.versions["de-DE"], project.segments[0])
    pinned = edits.pin_line(project, "de-DE", "s1", Pin(1_500_000))
    assert placement_is_stale(pinned, pinned.versions["de-DE"], pinned.segments[0])
    free = edits.pin_line(pinned, "de-DE", "s1", None)
    assert not placement_is_stale(free, free.versions["de-DE"], free.segments[0])


@pytest.mark.parametrize("pin", [Pin(-1), Pin(0, 50_000), Pin(1_000_000, -3)])
def test_a_pin_that_nothing_can_be_made_of_is_refused_where_it_is_set(pin: Pin) -> None:
    with pytest.raises(EditError, match=r"A take cannot"):
        edits.pin_line(project_with(THREE), "de-DE", "s1", pin)


def test_a_pin_behind_the_programme_is_refused() -> None:
    project = edits.set_programme(project_with(THREE), Programme(SoundTrack("a", 1, "c", 10_000_000, 48_000, 1)))
    edits.pin_line(project, "de-DE", "s1", Pin(9_000_000, 1_000_000))
    for pin in (Pin(9_950_000), Pin(9_000_000, 1_000_001)):
        with pytest.raises(EditError, match="behind the end"):
            edits.pin_line(project, "de-DE", "s1", pin)


def asked(project: Project) -> tuple[Segment, Line | None]:
    """What an engine is asked about, and the line that is there then."""
    return project.segments[0], project.versions["de-DE"].lines.get("s1")


def late(project: Project, source: Segment, line: Line | None) -> Project:
    return line_edits.put_translation(
        project, "de-DE", "s1", ["Das Meer ist hoch.", "Hoch ist es."], source=source, instead_of=line
    )


def test_a_late_translation_does_not_replace_what_somebody_wrote_meanwhile() -> None:
    project = project_with(THREE)
    question = asked(project)
    written = line_edits.set_line_text(project, "de-DE", "s1", "Die See geht hoch.")
    line = late(written, *question).versions["de-DE"].lines["s1"]
    assert (line.text, line.state) == ("Die See geht hoch.", LineState.TRANSLATED)
    assert [offer.text for offer in line.offers] == ["Das Meer ist hoch.", "Hoch ist es."]
    assert late(project, *question).versions["de-DE"].lines["s1"].text == "Das Meer ist hoch."


def test_a_translation_of_a_text_that_has_changed_since_is_stale() -> None:
    project = project_with(THREE)
    question = asked(project)
    changed = transcript.set_segment_text(project, "s1", "The sea is low.")
    after = late(changed, *question)
    assert line_is_stale(after.segments[0], after.versions["de-DE"].lines["s1"])
    gone = transcript.delete_segments(project, ["s1"])
    assert late(gone, *question) is gone


def test_a_late_take_is_kept_and_chosen_only_if_it_is_still_wanted() -> None:
    project = project_with(THREE, takes=[2, 1, 2])
    line = project.versions["de-DE"].lines["s1"]
    made = replace(project.versions["de-DE"].takes["t0"], id="new")
    put = partial(edits.add_made_take, tag="de-DE", take=made, instead_of=line.take_id)
    assert put(project).versions["de-DE"].lines["s1"].take_id == "new"
    recorded = replace(made, id="mine", kind=TakeKind.RECORDED)
    for meanwhile in (
        edits.add_take(project, "de-DE", recorded),
        line_edits.set_line_text(project, "de-DE", "s1", "Anders."),
        cast_edits.cast_voice(project, "de-DE", "p1", "brandt"),
    ):
        after = put(meanwhile).versions["de-DE"]
        assert after.lines["s1"].take_id == meanwhile.versions["de-DE"].lines["s1"].take_id
        assert "new" in after.takes
    gone = transcript.delete_segments(project, ["s1"])
    assert put(gone) is gone


def test_no_id_of_a_segment_is_given_twice() -> None:
    project = edits.set_programme(project_with(THREE), Programme(SoundTrack("a", 1, "c", 20_000_000, 48_000, 1)))
    first = transcript.insert_segment(project, 10_000_000, 11_000_000, "p1")
    made = ({s.id for s in first.segments} - {s.id for s in project.segments}).pop()
    again = transcript.insert_segment(transcript.delete_segments(first, [made]), 12_000_000, 13_000_000, "p1")
    assert made not in {s.id for s in again.segments}
    replaced = replace_transcript(again, [Speaker("p1", "Ada")], [Segment("x", "p1", 15_000_000, 16_000_000, "New.")])
    assert replaced.segments[0].id not in {s.id for s in (*first.segments, *again.segments)}


def test_equal_placements_keep_their_identity() -> None:
    project = project_with(THREE, takes=[2, 1, 2])
    first = Placement("s1", "t0", 1, 2, 1.0, (), "x")
    project = edits.set_placements(project, "de-DE", [first])
    again = edits.set_placements(project, "de-DE", [Placement("s1", "t0", 1, 2, 1.0, (), "x")])
    assert again.versions["de-DE"].placements["s1"] is first


def test_replacing_the_transcript_takes_away_only_what_is_gone() -> None:
    project = project_with(THREE, takes=[2, 1, 2])
    kept = project.segments[:2]
    after = transcript.set_transcript(project, project.speakers.values(), kept)
    version = after.versions["de-DE"]
    assert set(version.lines) == {"s1", "s2"}
    assert set(version.takes) == {"t0", "t1"}


def test_transcripts_that_make_no_sense_are_refused() -> None:
    project = project_with(THREE)
    ada = [Speaker("p1", "Ada")]
    with pytest.raises(EditError, match="same id"):
        transcript.set_transcript(project, ada, [project.segments[0], project.segments[0]])
    with pytest.raises(EditError, match="speaker"):
        transcript.set_transcript(project, ada, [Segment("x", "p9", 0, 10, "")])
    with pytest.raises(EditError, match="ends before"):
        transcript.set_transcript(project, ada, [Segment("x", "p1", 10, 10, "")])


def test_versions_and_names() -> None:
    project = edits.add_version(project_with(THREE), "es-es", Style.LIP_SYNC)
    assert list(project.versions) == ["de-DE", "es-ES"]
    with pytest.raises(EditError, match="already has"):
        edits.add_version(project, "es-ES")
    with pytest.raises(EditError, match="not a language tag"):
        edits.add_version(project, "klingonish-99-x")
    with pytest.raises(EditError, match="no version fr-FR"):
        access.find_version(project, "fr-FR")
    with pytest.raises(EditError, match="needs a name"):
        speaker_edits.rename_speaker(project, "p1", "  ")
    assert speaker_edits.rename_speaker(project, "p1", " Mira  B ").speakers["p1"].name == "Mira B"


def test_nothing_to_change_is_no_change() -> None:
    project = project_with(THREE)
    assert transcript.set_segment_text(project, "s1", " The sea  is high. ") is project
    assert line_edits.set_line_text(project, "de-DE", "s1", "Zeile 1") is project


def test_names_and_terms_are_kept_once_and_in_bounds() -> None:
    project = set_terms_said(project_with(THREE), [" Alder  Quay ", "", "Varnholm", "Alder Quay"])
    assert [(term.source, term.kept) for term in project.terms.values()] == [("Alder Quay", True), ("Varnholm", True)]
    assert set_terms_said(project, ["Alder Quay", "Varnholm"]) is project
    with pytest.raises(EditError, match="longer than 500 letters"):
        set_terms_said(project, ["x" * 501])
    with pytest.raises(EditError, match="20,001 names and terms"):
        set_terms_said(project, map(str, range(20_001)))


def test_limits_of_captions_go_with_their_version() -> None:
    project = project_with([(1.0, 2.0, "So.")])
    limits = CaptionLimits(lines=1)
    for tag in ("de-DE", project.source_tag):
        project = set_caption_limits(project, tag, limits)
    named = edits.rename_version(project, "de-DE", "kids")
    assert named.caption_limits == {"de-DE-x-kids": limits, project.source_tag: limits}
    assert edits.remove_version(named, "de-DE-x-kids").caption_limits == {project.source_tag: limits}
    with pytest.raises(EditError, match="no version fr-FR"):
        set_caption_limits(project, "fr-FR", limits)
