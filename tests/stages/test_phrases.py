"""Phrases of a line placed where the original has its own."""

from __future__ import annotations

from dataclasses import replace
from functools import partial
from itertools import pairwise

import numpy as np
import pytest

from demo_project import work_on
from helpers import project_with
from zweistimme.project.edits import put_placements
from zweistimme.project.errors import EditError
from zweistimme.project.facts import placement_is_stale
from zweistimme.project.fit_edits import set_phrase
from zweistimme.project.hand_fit import HandFit, PhraseHand
from zweistimme.project.line_edits import put_line_as
from zweistimme.project.model import Line, Pin, Placement, Segment, Style, Take, TakeKind, Word
from zweistimme.project.placed_time import hands_of, phrase_words, phrases_of
from zweistimme.project.times import RATE, SECOND_US
from zweistimme.project.transcript import set_on_screen
from zweistimme.stages.fit import fit, pin_and_plan
from zweistimme.stages.fit.phrases import matched_phrases, original_phrases, take_phrases
from zweistimme.stages.fit.placements import planned, taken_lines
from zweistimme.stages.fit.render import fitted_clip, placed_samples, placement_map
from zweistimme.store.document import Document

TAG = "de-DE"


def segment(*phrases: tuple[float, float], text: str = "") -> Segment:
    """A segment of such phrases, each of two words; the last of each ends with a comma, the last of all with a stop."""
    words = []
    for k, (start, end) in enumerate(phrases):
        middle = round((start + end) / 2 * SECOND_US)
        last = "boats." if k == len(phrases) - 1 else "boats,"
        words += [Word("a", round(start * SECOND_US), middle), Word(last, middle, round(end * SECOND_US))]
    joined = text or " ".join(word.text for word in words)
    return Segment("s1", "p1", words[0].start_us, words[-1].end_us, joined, tuple(words))


def take(*phrases: tuple[float, float]) -> Take:
    edges = [(round(a * RATE), round(b * RATE)) for a, b in phrases]
    pauses = tuple((before[1], after[0]) for before, after in pairwise(edges))
    return Take(
        "t", "s1", TakeKind.SYNTHESIZED, "take 1", "0" * 64, edges[-1][1], edges[0][0], edges[-1][1], "x", pauses
    )


LINE = Line("s1", "x", "")


def spans(found: list) -> list[tuple[float, float]]:
    return [(one.take_start_samples / RATE, one.take_end_samples / RATE) for one in found]


def test_a_line_is_cut_where_it_pauses() -> None:
    assert [(p.start_us, p.end_us, p.mark) for p in original_phrases(segment((1, 2), (2.5, 4)))] == [
        (1_000_000, 2_000_000, 1), (2_500_000, 4_000_000, 2)
    ]  # fmt: skip
    assert len(original_phrases(segment((1, 2), (2.1, 4)))) == 1, "no pause"
    assert len(original_phrases(segment((1, 2), (6, 7)))) == 1, "a silence of seconds ends everything"
    assert len(original_phrases(replace(segment((1, 2)), words=()))) == 1
    assert len(take_phrases(take((0, 1), (1.3, 1.45), (1.5, 3)))) == 2, "a word thrown in goes with its neighbour"


def test_phrases_are_matched_by_length_order_and_marks() -> None:
    two = segment((0, 1), (1.5, 3.5))
    assert spans(matched_phrases(Style.PHRASE_SYNC, two, LINE, take((0, 1.1), (1.4, 3.6)))) == [(0, 1.1), (1.4, 3.6)]
    three = take((0, 1.0), (1.2, 2.0), (2.2, 3.2))
    assert spans(matched_phrases(Style.PHRASE_SYNC, two, LINE, three)) == [(0, 1.0), (1.2, 3.2)]
    found = matched_phrases(Style.PHRASE_SYNC, segment((0, 1), (1.3, 2), (2.4, 4.4)), LINE, take((0, 1.9), (2.2, 4.2)))
    assert [(one.start_us, one.end_us) for one in found] == [(0, 2_000_000), (2_400_000, 4_400_000)]
    many = take(*((k, k + 0.8) for k in range(9)))
    assert len(matched_phrases(Style.PHRASE_SYNC, two, LINE, many)) < 2, "more than three for one: as a whole"


def test_what_nobody_sees_keeps_its_own_phrasing() -> None:
    two, spoken = segment((0, 1), (1.5, 3.5)), take((0, 1.1), (1.4, 3.6))
    assert matched_phrases(Style.VOICE_OVER, two, LINE, spoken) == []
    assert matched_phrases(Style.PHRASE_SYNC, replace(two, on_screen=False), LINE, spoken) == []
    assert matched_phrases(Style.PHRASE_SYNC, two, LINE, take((0, 3.0))) == []


def two_phrases(pause_s: float = 0.9, natural_s: float = 0.3) -> tuple:
    """A line that pauses long, and a take of it that pauses short."""
    given = project_with([(1.0, 4.9, "a boats, a boats.")], takes=[3.3])
    one = replace(segment((1.0, 2.5), (2.5 + pause_s, 4.0 + pause_s)), id="s1")
    version = given.versions[TAG]
    (made,) = version.takes.values()
    cut = take((0, 1.5), (1.5 + natural_s, 3.0 + natural_s))
    made = replace(made, pauses_samples=cut.pauses_samples, length_samples=cut.length_samples, speech_start_samples=0,
                   speech_end_samples=cut.speech_end_samples)  # fmt: skip
    version = replace(version, takes={made.id: made})
    return replace(given, segments=(one,), versions={TAG: version}), one


def test_phrases_start_with_those_of_the_original() -> None:
    given, one = two_phrases()
    (placed,) = planned(given, TAG, taken_lines(given, TAG))
    assert len(placed.phrases) == 2
    assert placed.phrases[0].start_us == pytest.approx(one.start_us, abs=130_000)
    assert placed.phrases[1].start_us == pytest.approx(3_400_000, abs=130_000)
    assert placed.start_us == placed.phrases[0].start_us
    assert placed.start_us + placed.length_us == placed.phrases[1].start_us + placed.phrases[1].length_us
    assert placed.tempo == pytest.approx(1.0, abs=0.05), "the pause gives, not the speech"
    assert placed.pauses_cut_us < -300_000, "it is longer than the voice made it"
    assert [finding.code for finding in placed.why][-1] == "phrase-by-phrase"


def test_a_pause_grows_no_further_than_it_may() -> None:
    given, _ = two_phrases(pause_s=2.0, natural_s=0.1)
    (placed,) = planned(given, TAG, taken_lines(given, TAG))
    first, second = placed.phrases
    assert second.start_us - first.start_us - first.length_us <= 2_350_001
    close, _ = two_phrases(pause_s=0.16, natural_s=1.2)
    first, second = planned(close, TAG, taken_lines(close, TAG))[0].phrases
    assert second.start_us - first.start_us - first.length_us >= 59_999, "a breath is left"


def test_a_line_pinned_where_it_stands_stays_as_it_is(demo: Document) -> None:
    by_phrase = [key for key, one in demo.project.versions[TAG].placements.items() if one.phrases]
    assert by_phrase, "the demo has lines of several phrases"
    for key in by_phrase:
        placed = demo.project.versions[TAG].placements[key]
        demo.apply("Pin", partial(pin_and_plan, tag=TAG, segment_id=key, pin=Pin(placed.start_us)))
        pinned = demo.project.versions[TAG].placements[key]
        for one, before in zip(pinned.phrases, placed.phrases, strict=True):
            assert one.start_us == pytest.approx(before.start_us, abs=2_000)
            assert one.length_us == pytest.approx(before.length_us, abs=2_000)
        demo.apply("Unpin", partial(pin_and_plan, tag=TAG, segment_id=key, pin=None))
    key, placed = by_phrase[0], demo.project.versions[TAG].placements[by_phrase[0]]
    as_long = Pin(placed.start_us, placed.length_us)
    demo.apply("Pin", partial(pin_and_plan, tag=TAG, segment_id=key, pin=as_long))
    assert demo.project.versions[TAG].placements[key].phrases == (), "a length is that of the whole"


@pytest.mark.parametrize(("by_s", "along_s"), [(0.1, 0.0), (-0.1, 0.0), (0.6, 0.48), (-0.6, -0.48), (5.0, 4.88)])
def test_phrases_of_a_line_that_is_moved_stay_with_the_original_or_go_along(by_s: float, along_s: float) -> None:
    given, one = two_phrases()
    (free,) = planned(given, TAG, taken_lines(given, TAG))
    pin = Pin(one.start_us + round(by_s * SECOND_US))
    moved = put_line_as(given, TAG, "s1", pin=pin)
    assert moved.programme is not None
    sound = replace(moved.programme.sound, duration_us=20_000_000)
    moved = replace(moved, programme=replace(moved.programme, sound=sound))
    (placed,) = planned(moved, TAG, taken_lines(moved, TAG))
    assert placed.start_us == placed.phrases[0].start_us == pin.start_us
    assert placed.phrases[1].start_us / SECOND_US == pytest.approx(
        free.phrases[1].start_us / SECOND_US + along_s, abs=0.14
    )


def test_each_phrase_is_heard_where_it_was_placed(demo: Document) -> None:
    version = demo.project.versions[TAG]
    for placed in version.placements.values():
        made = version.takes[placed.take_id]
        clip = fitted_clip(made, placed, demo.clips, demo.cache)
        assert len(clip) == placed_samples(placed)[1]
        speech = demo.clips.get(made.clip)[made.speech_start_samples : made.speech_end_samples]
        mapped = placement_map(made, speech, placed)
        assert np.all(np.diff(mapped.result) > 0)
        assert np.all(np.diff(mapped.source) > 0)
        for phrase in placed.phrases:
            start = mapped.to_result(np.array([float(phrase.take_start_samples - made.speech_start_samples)]))[0]
            assert start / RATE == pytest.approx((phrase.start_us - placed.start_us) / SECOND_US, abs=0.002)


def test_what_makes_phrases_makes_a_placement_stale(demo: Document) -> None:
    version = demo.project.versions[TAG]
    key = next(key for key, one in version.placements.items() if one.phrases)
    segment_ = next(one for one in demo.project.segments if one.id == key)
    assert not placement_is_stale(demo.project, version, segment_)
    words = [replace(word, end_us=word.end_us - 20_000) for word in segment_.words]
    assert placement_is_stale(demo.project, version, replace(segment_, words=tuple(words)))
    demo.apply("Off", partial(set_on_screen, segment_ids=[key], on_screen=False))
    fit(work_on(demo), TAG)
    assert demo.project.versions[TAG].placements[key].phrases == ()


def spoken_words(spoken: Take) -> Take:
    """The take with two words to a phrase."""
    edges = [spoken.speech_start_samples, *(at for one in spoken.pauses_samples for at in one),
             spoken.speech_end_samples]  # fmt: skip
    times = [(round(a / 0.048), round((a + b) / 0.096), round(b / 0.048))
             for a, b in zip(edges[::2], edges[1::2], strict=True)]  # fmt: skip
    words = [word for a, middle, b in times for word in (Word("Die", a, middle), Word("Boote", middle, b))]
    return replace(spoken, words=tuple(words))


def test_a_phrase_is_fitted_by_hand() -> None:
    project = two_phrases()[0]
    version = project.versions[TAG]
    project = replace(
        project, versions={TAG: replace(version, takes={k: spoken_words(t) for k, t in version.takes.items()})}
    )
    project = put_placements(project, TAG, planned(project, TAG, taken_lines(project, TAG)))
    before = project.versions[TAG].placements["s1"]
    hand = PhraseHand(2, tempo=1.2, pause_us=400_000, gain_db=3.0)
    said = set_phrase(project, TAG, "s1", hand)
    assert placement_is_stale(said, said.versions[TAG], said.segments[0])
    (after,) = planned(said, TAG, taken_lines(said, TAG))
    one, two = after.phrases
    assert two.start_us - one.start_us - one.length_us == pytest.approx(400_000, abs=1_000)
    assert two.length_us == pytest.approx(1_500_000 / 1.2, abs=1_000)
    assert two.length_us < before.phrases[1].length_us
    louder = set_phrase(project, TAG, "s1", PhraseHand(3, gain_db=3.0))
    assert not placement_is_stale(louder, louder.versions[TAG], louder.segments[0]), "how it is heard moves nothing"
    assert set_phrase(said, TAG, "s1", PhraseHand(2)) == project, "nothing said any more"
    with pytest.raises(EditError, match="This take has 4 words"):
        set_phrase(project, TAG, "s1", PhraseHand(9, tempo=1.2))
    with pytest.raises(EditError, match="ten seconds"):
        set_phrase(project, TAG, "s1", PhraseHand(2, pause_us=-1))


def test_phrases_that_are_not_placed_by_themselves_are_told_apart_all_the_same() -> None:
    spoken = spoken_words(take((0, 1.0), (1.4, 2.4)))
    whole = Placement("s1", "t", 5_000_000, 2_400_000, 1.0, (), "")
    assert phrases_of(whole, spoken) == [(0, 1_000_000), (1_400_000, 2_400_000)]
    assert phrase_words(whole, spoken) == (0, 2)
    hands = hands_of(replace(LINE, hand=HandFit(phrases=(PhraseHand(3, gain_db=2.0),))), spoken, [0, 1_400_000])
    assert hands == [None, PhraseHand(3, gain_db=2.0)]
    assert phrase_words(whole, replace(spoken, words=())) == ()
