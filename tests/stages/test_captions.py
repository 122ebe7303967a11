"""Captions in any language, and of people who talk at once."""

from __future__ import annotations

from itertools import pairwise

import pytest

from data.eighteen_lines import LINES
from zweistimme.formats.captions import parse_captions, write_srt, write_vtt
from zweistimme.formats.cue import Cue
from zweistimme.project.model import CaptionLimits
from zweistimme.project.writing import RTL_MARK, letters
from zweistimme.stages.caption import rules_for, too_fast
from zweistimme.stages.caption.cue_times import settled
from zweistimme.stages.caption.layout import captions_of

FORBIDDEN = "。、，．！？)）」』】》！ーっゃゅょァィゥ々؟،।%"


@pytest.mark.parametrize("tag", LINES)
def test_captions_break_where_their_language_may(tag: str) -> None:
    rules = rules_for(tag)
    for text in (*LINES[tag], "".join(LINES[tag][:5]) if tag[:2] in ("ja", "zh") else " ".join(LINES[tag][:5])):
        captions = captions_of(text, rules)
        assert "".join("".join(captions).split()) == "".join(text.split())
        for caption in captions:
            lines = caption.split("\n")
            assert len(lines) <= 2
            assert all(letters(line) <= rules.line_letters for line in lines), lines
            assert not any(line[0] in FORBIDDEN for line in lines)


def test_french_and_turkish_articles_stay_with_their_nouns() -> None:
    french = captions_of("Deux fois par jour la mer monte ces marches, et deux fois elle repart.", rules_for("fr-FR"))
    turkish = captions_of("Bu kış çok eski ve büyük bir çark çatladı, bütün liman bir anda sustu.", rules_for("tr-TR"))
    ends = [line.split()[-1] for caption in (*french, *turkish) for line in caption.split("\n")]
    assert not {"la", "ces", "et", "par", "bir", "ve", "çok"} & set(ends)


def test_a_word_longer_than_a_line_is_broken_rather_than_left() -> None:
    (caption,) = captions_of("Rindfleischetikettierungsüberwachungsaufgabenübertragungsgesetz", rules_for("de"))
    assert all(len(line) <= 42 for line in caption.split("\n"))


def test_captions_keep_the_limits_that_were_set_for_them() -> None:
    rules = rules_for("de-DE", CaptionLimits(lines=1, line_letters=20, most_speed=10))
    assert rules.aimed_speed == 8.5
    for caption in captions_of(
        "Zweimal am Tag steigt das Meer diese Stufen herauf, und zweimal geht es wieder.", rules
    ):
        assert "\n" not in caption
        assert letters(caption) <= 20
    assert rules_for("ja-JP", CaptionLimits(gap_us=0)).line_letters == 13
    assert rules_for("de-DE", CaptionLimits()) == rules_for("de-DE")


def test_right_to_left_lines_carry_their_marks_out_and_lose_them_in() -> None:
    cues = [Cue(0, 2_000_000, "שלום, Tobin.\n(בשקט) מה?")]
    for text, is_vtt in ((write_srt(cues, "he-IL"), False), (write_vtt(cues, "he-IL"), True)):
        assert f"{RTL_MARK}שלום, Tobin.{RTL_MARK}" in text
        assert parse_captions(text, where="x", is_vtt=is_vtt).cues == tuple(cues)


LONG = "Then the ferry sits on the mud all day, and the whole harbour blames the clock."


@pytest.mark.parametrize("apart_us", [100_000, 1_000_000])
def test_two_long_lines_at_once_can_be_read_where_there_is_room(apart_us: int) -> None:
    rules = rules_for("en-GB")
    cues = [Cue(0, 4_500_000, LONG[:41] + "\n" + LONG[41:].strip(), "A")]
    cues.append(Cue(apart_us, apart_us + 4_500_000, cues[0].text, "B"))
    alone = settled(cues, rules, 60_000_000)
    assert too_fast(alone, rules) == []
    assert all(b.start_us >= a.end_us for a, b in pairwise(alone))
    # and where somebody goes on at once, what cannot be read is reported, not hidden: nothing goes by in a blink
    crowd = [*cues, Cue(apart_us + 4_600_000, apart_us + 9_000_000, cues[0].text, "A")]
    crowded = settled(crowd, rules, 9_500_000)
    speeds = [len(cue.text) / ((cue.end_us - cue.start_us) / 1e6) for cue in crowded]
    assert max(speeds) < 32
    assert len(too_fast(crowded, rules)) >= 1


def test_short_words_at_once_share_a_caption() -> None:
    rules = rules_for("en-GB")
    cues = [Cue(0, 1_500_000, "Is it broken?", "A"), Cue(200_000, 1_700_000, "Cracked.", "B")]
    assert [cue.text for cue in settled(cues, rules, 9_000_000)] == ["– Is it broken?\n– Cracked."]


def test_captions_far_apart_are_left_where_they_are() -> None:
    rules = rules_for("en-GB")
    cues = [Cue(k * 5_000_000, k * 5_000_000 + 2_000_000, "It turns.", "A") for k in range(30)]
    assert [cue.start_us for cue in settled(cues, rules, 200_000_000)] == [cue.start_us for cue in cues]
