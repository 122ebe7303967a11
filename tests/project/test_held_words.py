"""What a hand holds of a word follows that word through other takes, waits where it is not said, and comes back."""

from __future__ import annotations

from dataclasses import replace

import pytest

from helpers import project_with
from zweistimme.project.edits import choose_take
from zweistimme.project.facts import placement_fingerprint, take_fingerprint
from zweistimme.project.fit_edits import pin_word, set_hand, set_phrase
from zweistimme.project.hand_fit import HandFit, PhraseHand, WordPin
from zweistimme.project.held_words import phrase_hands_in, pins_in, said_at, waiting_words
from zweistimme.project.line_edits import set_line_text
from zweistimme.project.model import Line, Project, Take, Word
from zweistimme.project.reshape import merge_segments, split_segment
from zweistimme.project.words import spread
from zweistimme.project.writing import words_in

TAG = "de-DE"


def spoken(texts: list[str], name: str = "t0") -> Take:
    take = project_with([(0.0, 4.0, "x")], takes=[3.0]).versions[TAG].takes["t0"]
    return replace(
        take, id=name, words=tuple(Word(text, k * 300_000, (k + 1) * 300_000) for k, text in enumerate(texts))
    )


def saying(*takes: list[str]) -> Project:
    """A line with takes that say these words, t0, t1 and so on; the first is chosen."""
    project = project_with([(0.0, 4.0, "x")], takes=[3.0])
    version = project.versions[TAG]
    made = {f"t{k}": spoken(texts, f"t{k}") for k, texts in enumerate(takes)}
    return replace(project, versions={TAG: replace(version, takes=made)})


def line_and_take(project: Project) -> tuple[Line, Take]:
    line = project.versions[TAG].lines["s1"]
    return line, project.versions[TAG].takes[line.take_id or ""]


def held(texts: list[str], number: int) -> Line:
    return Line(
        "s1", " ".join(texts), "", word_pins=(WordPin(number, 1_000_000, said_at(spoken(texts).words, number)),)
    )


@pytest.mark.parametrize(
    ("before", "number", "after", "now"),
    [
        ("Die Glocke läutet heute früh.", 1, "Heute früh läutet die Glocke.", 4),
        ("Hat der Fährmann das Seil?", 2, "Und dann hat der Fährmann das Seil!", 4),
        ("Das Boot und das Seil und das Netz.", 6, "Ja, das Boot und das Seil und das Netz.", 7),
        ("Das Boot und das Seil.", 3, "Und nun das Boot und das Seil.", 5),
        ("Die Glocke läutet.", 1, "Es läutet.", None),
        ("Dann sitzt die Fähre fest.", 3, "Ja, dann sitzt die Barke fest.", 4),
        ("Dann sitzt die Fähre fest.", 3, "Die Fähre! Dann sitzt die Barke fest.", 1),
        ("Ja.", 0, "Nein.", None),
        ("Die «Glocke», sagt er.", 1, "Er sagt: die GLOCKE!", 3),
        ("船が港に着いた。", 2, "ええ、船が港に着いた。", 3),
        ("وصلت السفينة إلى الميناء", 1, "نعم وصلت السفينة إلى الميناء", 2),
    ],
)
def test_a_held_word_is_found_where_it_is_said(before: str, number: int, after: str, now: int | None) -> None:
    tag = "ja-JP" if "船" in before else "ar" if "السفينة" in before else TAG
    old, new = words_in(before, tag), words_in(after, tag)
    pins = pins_in(held(old, number), spoken(new))
    assert [pin.word for pin in pins] == ([] if now is None else [now]), (old, new)
    assert bool(waiting_words(held(old, number), spoken(new))) is (now is None)


def test_where_only_its_number_is_known_a_word_goes_by_that() -> None:
    line = Line("s1", "", "", word_pins=(WordPin(1, 5), WordPin(7, 9)))
    assert pins_in(line, spoken(["eins", "zwei"])) == (WordPin(1, 5),)
    assert waiting_words(line, spoken(["eins", "zwei"])) == ("8",)
    assert pins_in(line, spoken([])) == ()


def test_a_pin_waits_and_holds_again_and_other_hands_do_not_lose_it() -> None:
    project = saying(["Die", "Glocke", "läutet."], ["Es", "läutet."], ["Na,", "die", "Glocke", "läutet."])
    project = pin_word(project, TAG, "s1", 1, 1_000_000)
    shorter = choose_take(project, TAG, "t1")
    assert pins_in(*line_and_take(shorter)) == ()
    assert waiting_words(*line_and_take(shorter)) == ("Glocke",)
    also = pin_word(shorter, TAG, "s1", 1, 1_500_000)
    assert [pin.word for pin in pins_in(*line_and_take(also))] == [1]
    longer = choose_take(also, TAG, "t2")
    assert [(pin.word, pin.start_us) for pin in pins_in(*line_and_take(longer))] == [(2, 1_000_000), (3, 1_500_000)]
    freed = pin_word(longer, TAG, "s1", 2, None)
    assert [pin.said[1] for pin in freed.versions[TAG].lines["s1"].word_pins] == ["läutet."]
    assert pin_word(longer, TAG, "s1", 0, None) is longer, "a word that is not held is not freed"


def test_words_in_another_order_than_they_are_held_in_do_not_all_hold() -> None:
    project = saying(["Heute", "läutet", "sie."], ["Sie", "läutet", "heute."])
    for number, at_us in ((0, 500_000), (2, 1_500_000)):
        project = pin_word(project, TAG, "s1", number, at_us)
    other = choose_take(project, TAG, "t1")
    assert [pin.said[1] for pin in pins_in(*line_and_take(other))] == ["sie."]
    assert waiting_words(*line_and_take(other)) == ("Heute",)
    assert len(pins_in(*line_and_take(choose_take(other, TAG, "t0")))) == 2


def test_what_is_said_of_a_phrase_follows_its_first_word() -> None:
    project = saying(["Ja.", "Die", "Glocke."], ["Nun", "ja.", "Die", "Glocke."], ["Nein."])
    project = set_phrase(project, TAG, "s1", PhraseHand(1, tempo=1.2, gain_db=3.0))
    other = choose_take(project, TAG, "t1")
    assert [one.word for one in phrase_hands_in(*line_and_take(other))] == [2]
    silent = choose_take(other, TAG, "t2")
    assert phrase_hands_in(*line_and_take(silent)) == ()
    louder = set_phrase(silent, TAG, "s1", PhraseHand(0, gain_db=1.0))
    back = choose_take(louder, TAG, "t1")
    assert [(one.word, one.tempo) for one in phrase_hands_in(*line_and_take(back))] == [(2, 1.2)]
    nothing = set_phrase(back, TAG, "s1", PhraseHand(2))
    assert waiting_words(*line_and_take(nothing)) == ("Nein.",)


def test_a_hand_on_a_word_that_is_not_said_makes_nothing_stale() -> None:
    project = saying(["Es", "läutet."])
    line, take = line_and_take(project)
    waits = replace(line, word_pins=(WordPin(1, 5, ("die", "Glocke", "")),))
    version, segment = project.versions[TAG], project.segments[0]
    now, before = (placement_fingerprint(project, version, segment, one, take) for one in (waits, line))
    assert now == before


def test_a_hand_says_one_thing_and_leaves_the_others() -> None:
    project = set_hand(saying(["Es", "läutet."]), TAG, ["s1"], tempo=1.1, gain_db=2.0)
    project = set_hand(project, TAG, ["s1"], end_slack_us=300_000)
    assert line_and_take(project)[0].hand == HandFit(tempo=1.1, gain_db=2.0, end_slack_us=300_000)


def hands_by_segment(project: Project) -> list[tuple[list[str], list[str], HandFit]]:
    """Of each segment the words that are held, the first words of phrases of which something is said, and the rest."""
    version = project.versions[TAG]
    found = []
    for segment in project.segments:
        line = version.lines[segment.id]
        take = version.takes[line.take_id or ""]
        pins = [take.words[pin.word].text for pin in pins_in(line, take)]
        phrases = [take.words[one.word].text for one in phrase_hands_in(line, take)]
        found.append((pins, phrases, replace(line.hand, phrases=())))
    return found


def test_what_is_held_goes_with_its_half_of_a_split_line_and_comes_back_with_it() -> None:
    project = project_with([(1.0, 5.0, "It turns at last! The sea may come.")], takes=[4.0])
    project = set_line_text(project, TAG, "s1", "Es dreht sich! Das Meer darf kommen.")
    version = project.versions[TAG]
    words = spread(version.lines["s1"].text.split(), 100_000, 3_900_000)
    take = replace(version.takes["t0"], words=words, made_from=take_fingerprint(version.lines["s1"], "alva"))
    project = replace(project, versions={TAG: replace(version, takes={"t0": take})})
    for word, at_us in ((1, 1_800_000), (4, 3_600_000)):
        project = pin_word(project, TAG, "s1", word, at_us)
    project = set_phrase(project, TAG, "s1", PhraseHand(3, gain_db=3.0))
    project = set_hand(project, TAG, ["s1"], fade_in_us=100_000, fade_out_us=200_000, start_slack_us=1, end_slack_us=2)
    before = hands_by_segment(project)
    split = split_segment(project, "s1", 2_900_000)
    assert hands_by_segment(split) == [
        (["dreht"], [], HandFit(fade_in_us=100_000, start_slack_us=1)),
        (["Meer"], ["Das"], HandFit(fade_out_us=200_000, end_slack_us=2)),
    ]
    assert not any(waiting_words(split.versions[TAG].lines[s.id], split.versions[TAG].takes[
        split.versions[TAG].lines[s.id].take_id or ""]) for s in split.segments)  # fmt: skip
    merged = merge_segments(split, [s.id for s in split.segments])
    assert hands_by_segment(merged) == before
