"""Splitting, merging and cutting anew: what happens to words, lines, takes, pins and placements."""

from __future__ import annotations

from dataclasses import replace
from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st

from helpers import project_with
from zweistimme.project.access import find_segment
from zweistimme.project.edits import pin_line, set_direction, set_placements
from zweistimme.project.errors import EditError
from zweistimme.project.facts import chosen_take, line_is_stale, take_fingerprint, take_is_stale
from zweistimme.project.line_edits import set_line_text
from zweistimme.project.manner_edits import set_line_voices
from zweistimme.project.model import Pin, Placement, Project, Segment, Word
from zweistimme.project.reshape import let_go_by_merging, merge_segments, recut, split_before, split_segment
from zweistimme.project.segmentation import CutLimits, cut_places
from zweistimme.project.times import RATE
from zweistimme.project.transcript import (
    accept_word,
    accept_words,
    delete_segments,
    insert_segment,
    move_word_edge,
    nudge,
    restore_fillers,
    retime_segment,
    set_fillers_aside,
    set_segment_text,
    set_words,
)
from zweistimme.project.words import spread, text_of
from zweistimme.project.writing import directed_parts, words_in

TAG = "de-DE"


def two_sentences() -> Project:
    """One segment of two sentences, with a line, a take whose words are known, and a placement."""
    project = project_with([(1.0, 5.0, "It turns at last! The sea may come."), (6.0, 7.0, "Good.")], takes=[4.0, 1.0])
    project = set_line_text(project, TAG, "s1", "Es dreht sich! Das Meer darf kommen.")
    version = project.versions[TAG]
    line = version.lines["s1"]
    take = replace(
        version.takes["t0"],
        words=spread(line.text.split(), 100_000, 3_900_000),
        made_from=take_fingerprint(line, "alva"),
        pauses_samples=((RATE, RATE + 9_000), (3 * RATE, 3 * RATE + 9_000)),
    )
    version = replace(version, takes={**version.takes, "t0": take})
    project = replace(project, versions={TAG: version})
    return set_placements(project, TAG, [Placement("s1", "t0", 1_000_000, 4_000_000, 1.0, (), "x")])


def test_a_split_at_a_sentence_end_leaves_both_halves_fresh() -> None:
    project = two_sentences()
    after = split_segment(project, "s1", 2_900_000)
    left, right = after.segments[:2]
    assert (left.text, right.text) == ("It turns at last!", "The sea may come.")
    assert left.end_us <= right.start_us
    version = after.versions[TAG]
    assert [version.lines[s.id].text for s in (left, right)] == ["Es dreht sich!", "Das Meer darf kommen."]
    for segment in (left, right):
        line = version.lines[segment.id]
        take = chosen_take(version, line)
        assert take is not None
        assert not line_is_stale(segment, line)
        assert not take_is_stale(after, version, segment, line, take)
        assert text_of(take.words) == line.text
    first, second = (version.takes[version.lines[s.id].take_id or ""] for s in (left, right))
    assert first.clip == second.clip
    assert first.speech_end_samples <= second.speech_start_samples
    assert first.pauses_samples == ((RATE, RATE + 9_000),)
    placed = version.placements
    assert placed[left.id].start_us + placed[left.id].length_us <= placed[right.id].start_us
    assert placed[right.id].start_us + placed[right.id].length_us == 5_000_000


def test_merging_what_was_split_gives_back_what_there_was() -> None:
    project = two_sentences()
    split = split_segment(project, "s1", 2_900_000)
    merged = merge_segments(split, [s.id for s in split.segments[:2]])
    assert merged.segments == project.segments
    line, before = merged.versions[TAG].lines["s1"], project.versions[TAG].lines["s1"]
    assert (line.text, line.take_id, line.made_from) == (before.text, before.take_id, before.made_from)
    take = merged.versions[TAG].takes["t0"]
    assert list(merged.versions[TAG].takes) == list(project.versions[TAG].takes)
    assert take.made_from == project.versions[TAG].takes["t0"].made_from
    assert take.words == project.versions[TAG].takes["t0"].words
    assert merged.versions[TAG].placements["s1"].length_us == 4_000_000


def test_a_split_within_a_sentence_is_a_guess_and_says_so() -> None:
    after = split_before(two_sentences(), "s1", 2)
    version = after.versions[TAG]
    left, right = after.segments[:2]
    assert (left.text, right.text) == ("It turns", "at last! The sea may come.")
    assert all(line_is_stale(s, version.lines[s.id]) for s in (left, right))
    assert " ".join(version.lines[s.id].text for s in (left, right)) == "Es dreht sich! Das Meer darf kommen."
    assert not line_is_stale(after.segments[2], version.lines["s2"])


def test_a_pin_stays_where_it_was_and_its_second_half_gets_one() -> None:
    project = pin_line(two_sentences(), TAG, "s1", Pin(1_200_000, 4_000_000))
    after = split_segment(project, "s1", 2_900_000)
    lines = after.versions[TAG].lines
    left, right = after.segments[:2]
    assert lines[left.id].pin == Pin(1_200_000)
    pin = lines[right.id].pin
    assert pin is not None
    assert pin.start_us == after.versions[TAG].placements[right.id].start_us > 2_200_000


def test_merging_two_takes_of_different_clips_keeps_both_and_is_stale() -> None:
    project = two_sentences()
    after = merge_segments(project, ["s1", "s2"])
    version = after.versions[TAG]
    assert [s.text for s in after.segments] == ["It turns at last! The sea may come. Good."]
    assert {take.segment_id for take in version.takes.values()} == {"s1"}
    line = version.lines["s1"]
    take = chosen_take(version, line)
    assert take is not None
    assert not line_is_stale(after.segments[0], line)
    assert take_is_stale(after, version, after.segments[0], line, take)
    assert list(version.placements) == ["s1"]


def test_a_split_line_of_one_word_leaves_both_halves_the_voice_and_direction_a_hand_gave() -> None:
    project = set_line_text(two_sentences(), TAG, "s1", "Endlich!")
    project = set_line_voices(set_direction(project, TAG, "s1", "softly"), TAG, ["s1"], "bruno")
    after = split_segment(project, "s1", 2_900_000)
    lines = after.versions[TAG].lines
    for segment in after.segments[:2]:
        assert (lines[segment.id].voice, lines[segment.id].direction) == ("bruno", "softly")


def test_a_segment_without_words_or_with_one_is_split_in_time_or_not_at_all() -> None:
    project = project_with([(1.0, 5.0, ""), (6.0, 7.0, "Good.")])
    after = split_segment(project, "s1", 2_000_000)
    assert [(s.start_us, s.end_us) for s in after.segments[:2]] == [(1_000_000, 2_000_000), (2_000_000, 5_000_000)]
    with pytest.raises(EditError, match="one word"):
        split_segment(project, "s2", 6_500_000)
    with pytest.raises(EditError, match=r"0\.1 seconds"):
        split_segment(project, "s1", 1_050_000)


@given(st.lists(st.sampled_from(["sea", "the", "turns.", "at", "last,"]), min_size=2, max_size=9), st.data())
def test_no_split_loses_a_word_or_cuts_one(texts: list[str], data: st.DataObject) -> None:
    project = project_with([(1.0, 1.0 + len(texts), " ".join(texts))])
    at = data.draw(st.integers(0, 12_000_000))
    after = split_segment(project, "s1", at)
    words = [word for segment in after.segments for word in segment.words]
    assert words == list(project.segments[0].words)
    for segment in after.segments:
        assert segment.words[0].start_us >= segment.start_us
        assert segment.words[-1].end_us <= segment.end_us
        assert segment.text == text_of(segment.words)
    assert merge_segments(after, [s.id for s in after.segments]).segments == project.segments


def spoken(*phrases: tuple[float, float, str]) -> list[Word]:
    return [w for a, b, text in phrases for w in spread(text.split(), round(a * 1e6), round(b * 1e6))]


def test_speech_is_cut_at_pauses_and_sentence_ends_only() -> None:
    words = spoken(
        (0, 3, "Dr. Ebb walks up these steps, twice a day."), (3.2, 5, "It turns, he says."), (6, 7, "Good.")
    )
    cuts = cut_places(words, CutLimits())
    assert [words[k - 1].text for k in cuts] == ["day.", "says."]


def test_a_long_sentence_is_cut_at_its_clauses_and_never_after_a_small_word() -> None:
    words = spoken(
        (0, 14, "Then the ferry sits on the mud for a day and a night, and the whole harbour blames the clockmaker")
    )
    cuts = cut_places(words, CutLimits())
    assert [words[k - 1].text for k in cuts] == ["night,"]
    for longest in (2_000_000, 3_000_000, 5_000_000):
        cuts = cut_places(words, CutLimits(longest_us=longest))
        assert cuts
        assert not {words[k - 1].text for k in cuts} & {"the", "a", "and"}
        edges = [0, *cuts, len(words)]
        lengths = [words[b - 1].end_us - words[a].start_us for a, b in pairwise(edges)]
        assert max(lengths) <= 1.4 * longest


def test_a_short_sentence_stays_with_its_neighbour() -> None:
    words = spoken((0, 0.4, "Yes."), (0.5, 2.5, "I know every step."))
    assert cut_places(words, CutLimits()) == []
    assert cut_places(words, CutLimits(shortest_us=200_000)) == [1]


def test_cutting_anew_touches_only_edges_that_move() -> None:
    project = project_with([(0, 2, "It turns at last."), (2.2, 4, "The sea may"), (4, 5, "come now."), (8, 9, "Good.")])
    ids = [s.id for s in project.segments]
    after = recut(project, ids, CutLimits())
    assert [s.text for s in after.segments] == ["It turns at last.", "The sea may come now.", "Good."]
    assert after.segments[0] is project.segments[0]
    assert after.versions[TAG].lines["s1"] is project.versions[TAG].lines["s1"]
    assert recut(after, [s.id for s in after.segments], CutLimits()) is after
    short = recut(after, [s.id for s in after.segments], CutLimits(longest_us=1_000_000, shortest_us=300_000))
    assert len(short.segments) > 3
    assert " ".join(s.text for s in short.segments) == " ".join(s.text for s in project.segments)


def test_cutting_anew_never_joins_speakers() -> None:
    project = project_with([(0, 1, "And if"), (1, 2, "it doesn't?")])
    other = replace(project.segments[1], speaker_id="p2")
    project = replace(
        project, segments=(project.segments[0], other), speakers={**project.speakers, "p2": project.speakers["p1"]}
    )
    assert recut(project, ["s1", "s2"], CutLimits()) is project


def test_moving_edges_squeezes_only_words_that_stick_out() -> None:
    project = project_with([(1.0, 5.0, "It turns at last now.")])
    words = project.segments[0].words
    wider = retime_segment(project, "s1", 500_000, 6_000_000)
    assert wider.segments[0].words == words
    shorter = retime_segment(project, "s1", 1_000_000, 4_500_000).segments[0]
    assert shorter.words[:-1] == words[:-1]
    assert shorter.words[-1].end_us == 4_500_000
    elsewhere = retime_segment(project, "s1", 8_000_000, 9_000_000).segments[0]
    assert (elsewhere.words[0].start_us, elsewhere.words[-1].end_us) == (8_000_000, 9_000_000)
    assert text_of(elsewhere.words) == project.segments[0].text


@given(st.integers(0, 9_000_000), st.integers(100_000, 9_000_000))
def test_words_stay_within_their_segment_whatever_its_edges(start: int, length: int) -> None:
    project = project_with([(1.0, 8.0, "It turns at last and now it stops."), (9, 19, "Good.")])
    segment = find_segment(retime_segment(project, "s1", start, start + length), "s1")
    edges = [time for word in segment.words for time in (word.start_us, word.end_us)]
    assert edges == sorted(edges)
    assert segment.start_us <= edges[0]
    assert edges[-1] <= segment.end_us


def test_a_word_edge_moves_between_its_neighbours() -> None:
    project = project_with([(0.0, 4.0, "It turns at last.")])
    moved = move_word_edge(project, "s1", 1, 1_500_000).segments[0]
    assert (moved.words[0].end_us, moved.words[1].start_us) == (1_500_000, 1_500_000)
    far = move_word_edge(project, "s1", 1, 9_000_000).segments[0]
    assert far.words[1].start_us == far.words[1].end_us - 10_000
    with pytest.raises(EditError, match="between two words"):
        move_word_edge(project, "s1", 0, 5)


def test_new_segments_get_ids_of_their_own_and_deleted_ones_take_all_with_them() -> None:
    project = project_with([(1.0, 2.0, "It turns."), (3.0, 4.0, "Good.")], takes=[1, 1])
    more = insert_segment(project, 4_500_000, 5_500_000, "p1", "At last, it turns.")
    assert [s.id for s in more.segments] == ["s1", "s2", "s0003"]
    assert [w.text for w in more.segments[2].words] == ["At", "last,", "it", "turns."]
    with pytest.raises(EditError, match=r"at least 0\.1"):
        insert_segment(project, 5, 10, "p1")
    less = delete_segments(more, ["s1"])
    version = less.versions[TAG]
    assert set(version.lines) == {"s2"}
    assert {t.segment_id for t in version.takes.values()} == {"s2"}
    with pytest.raises(EditError, match="no segment s1"):
        nudge(less, ["s1"], start_us=10)


def test_hesitations_go_aside_and_come_back() -> None:
    words = (Word("Um,", 0, 200_000, 0.5), *spread(["it", "turns."], 300_000, 1_000_000))
    segment = Segment("s1", "p1", 0, 1_000_000, text_of(words), words)
    project = replace(project_with([(0, 1, "x")]), segments=(segment,))
    aside = set_fillers_aside(project, ["s1"], lambda word: word.text == "Um,")
    assert aside.segments[0].text == "it turns."
    assert [w.text for w in aside.segments[0].fillers] == ["Um,"]
    back = restore_fillers(aside, ["s1"])
    assert back.segments[0].text == segment.text
    assert [w.filler for w in back.segments[0].words] == [True, False, False]
    assert set_fillers_aside(back, ["s1"]) == aside


def test_accepted_words_are_certain_and_given_times_must_be_of_the_same_words() -> None:
    doubtful = (Word("It", 0, 10_000, 0.4), Word("turns.", 20_000, 90_000, 0.5))
    project = replace(project_with([(0, 1, "x")]), segments=(Segment("s1", "p1", 0, 1_000_000, "It turns.", doubtful),))
    one = accept_word(project, "s1", 1)
    assert [w.confidence for w in one.segments[0].words] == [0.4, 1.0]
    assert [w.confidence for w in accept_words(project, ["s1"]).segments[0].words] == [1.0, 1.0]
    assert accept_word(one, "s1", 1) is one
    with pytest.raises(EditError, match="own"):
        set_words(project, "s1", [Word("No.", 0, 1)])
    assert set_words(project, "s1", spread(["It", "turns."], 0, 500_000)).segments[0].words[1].end_us == 500_000


def test_a_replaced_word_takes_the_time_of_the_one_before() -> None:
    project = project_with([(0.0, 4.0, "Its grate wheel cracked.")])
    before, after = (
        project.segments[0].words,
        set_segment_text(project, "s1", "Its great wheel cracked.").segments[0].words,
    )
    assert (after[1].text, after[1].start_us, after[1].end_us) == ("great", before[1].start_us, before[1].end_us)
    assert after[2] is before[2]


def test_lines_joined_lose_nothing_that_was_given_to_one_of_them_unsaid() -> None:
    """A voice is nobody's that not all had; directions stay with their words, and a pin with the word it was at."""
    project = two_sentences()
    lines = project.versions[TAG].lines
    given = {
        "s1": replace(lines["s1"], voice="brav", direction="softly"),
        "s2": replace(lines["s2"], direction="", pin=Pin(6_000_000)),
    }
    project = replace(project, versions={TAG: replace(project.versions[TAG], lines={**lines, **given})})
    merged = merge_segments(project, ["s1", "s2"])
    line = merged.versions[TAG].lines["s1"]
    assert directed_parts(line.text, line.direction) == [(lines["s1"].text, "softly"), (lines["s2"].text, "")]
    assert line.voice == ""
    assert [(pin.start_us, pin.said[1]) for pin in line.word_pins] == [(6_000_000, words_in(lines["s2"].text)[0])]
    (told,) = let_go_by_merging(project, merged)
    assert (told.code, told.figures["voice"]) == ("merged-voice", "brav")
    both = {key: replace(line, voice="brav", direction="softly") for key, line in lines.items()}
    alike = replace(project, versions={TAG: replace(project.versions[TAG], lines=both)})
    merged = merge_segments(alike, ["s1", "s2"])
    assert (merged.versions[TAG].lines["s1"].voice, let_go_by_merging(alike, merged)) == ("brav", [])
    assert "[" not in merged.versions[TAG].lines["s1"].text


def test_directions_in_parentheses_are_never_spoken_once_lines_are_joined() -> None:
    """A head counts for its own line; and one that cannot stand between words is told of."""
    project = two_sentences()
    project = set_line_text(set_line_text(project, TAG, "s1", "(softly) Ja."), TAG, "s2", "(lively) Nein.")
    line = merge_segments(project, ["s1", "s2"]).versions[TAG].lines["s1"]
    assert directed_parts(line.text, line.direction) == [("Ja.", "softly"), ("Nein.", "lively")]
    alike = set_line_text(project, TAG, "s2", "(softly) Nein.")
    line = merge_segments(alike, ["s1", "s2"]).versions[TAG].lines["s1"]
    assert (line.text, line.direction) == ("(softly) Ja. Nein.", "softly")
    counted = set_direction(project, TAG, "s2", "after 2 breaths")
    merged = merge_segments(counted, ["s1", "s2"])
    line = merged.versions[TAG].lines["s1"]
    assert directed_parts(line.text, line.direction) == [("Ja.", "softly"), ("Nein.", "")]
    assert [one.code for one in let_go_by_merging(counted, merged)] == ["merged-direction"]
