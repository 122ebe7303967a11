"""Text of any script: cut, put together, counted, turned and said."""

from __future__ import annotations

from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st

from data.eighteen_lines import LINES
from zweistimme.demo.script import LINES as ENGLISH
from zweistimme.project import edits, line_edits, reshape, transcript
from zweistimme.project.find_replace import Search, found, replace_found
from zweistimme.project.model import Project, Segment, Speaker, Word
from zweistimme.project.words import says, text_of
from zweistimme.project.writing import (
    graphemes,
    is_rtl,
    joined,
    letters,
    sentences,
    spans_of_words,
    spoken_text,
    spoken_us,
    syllables,
    word_spans,
    words_in,
)

REFERENCE = {
    # how much longer than in English the same text takes: Pellegrino, Coupé and Marsico (2011), table 1, where it has
    # the language; else as much as the slower half of the languages of Coupé et al. (2019) takes beside English
    "ja-JP": 1.46, "zh-CN": 1.15, "fr-FR": 1.09,
}  # fmt: skip
OTHERS = 1.1


@pytest.mark.parametrize("tag", LINES)
def test_a_text_takes_as_long_as_it_should_in_every_language(tag: str) -> None:
    english = sum(spoken_us(line.text, "en-GB") for line in ENGLISH)
    there = sum(spoken_us(text, tag) for text in LINES[tag])
    assert there / english / REFERENCE.get(tag, OTHERS) == pytest.approx(1.0, abs=0.3)


@pytest.mark.parametrize(
    ("text", "tag", "count"),
    [
        ("しゃちょうがちょっとまって", "ja", 12),
        ("コーヒーを一杯", "ja", 9),
        ("我们明天见", "zh-CN", 5),
        ("감사합니다", "ko-KR", 5),
        ("Здравствуйте, как дела?", "ru-RU", 6),
        ("Καλημέρα σας", "el-GR", 5),
        ("السلام عليكم", "ar", 6),
        ("שלום לכולם", "he-IL", 5),
        ("नमस्ते, आप कैसे हैं", "hi-IN", 7),
        ("สวัสดีครับ", "th-TH", 4),
        ("Günaydın arkadaşlar", "tr-TR", 7),
        ("Xin chào các bạn", "vi-VN", 4),
        ("je t'aime beaucoup", "fr-FR", 4),
        ("strč prst skrz krk", "cs-CZ", 4),
        ("გამარჯობა", "ka", 4),
        ("မင်္ဂလာပါ", "my", 4),
    ],
)
def test_syllables_of_every_script(text: str, tag: str, count: int) -> None:
    assert abs(syllables(text, tag) - count) <= max(1, round(0.2 * count))


def test_numbers_count_as_they_are_read() -> None:
    assert syllables("140", "de-DE") >= 4  # hundertvierzig
    assert syllables("36", "ru-RU") == 3  # тридцать шесть
    assert syllables("12", "xx") == 4  # nobody knows how it is read


@pytest.mark.parametrize("tag", LINES)
def test_words_make_the_text_and_none_begins_with_what_may_not(tag: str) -> None:
    for text in LINES[tag]:
        words = words_in(text, tag)
        assert "".join(words) == "".join(text.split())
        assert not any(word[0] in "。、，！？؟،।" for word in words)
        assert says(text, [Word(word, 0, 1) for word in words])
    whole = "".join(LINES[tag]) if tag in ("ja-JP", "zh-CN") else " ".join(LINES[tag])
    if tag != "th-TH":  # which has no mark at the end of a sentence
        assert sentences(whole, tag) == list(LINES[tag])


@given(st.text(max_size=60))
def test_any_text_is_cut_without_loss(text: str) -> None:
    spans = word_spans(text)
    assert "".join(text[a:b] for a, b in spans) == "".join(text.split())
    assert all(b <= c for (_, b), (c, _) in pairwise(spans))
    assert "".join(joined(words_in(text)).split()) == "".join(text.split())
    assert "".join(graphemes(text)) == text


def test_words_an_engine_cut_its_own_way_are_found_in_the_text() -> None:
    text = "時計は毎日二回動く。"
    own = ["時計", "は", "毎日", "二回", "動く"]
    assert [text[a:b] for a, b in spans_of_words(text, own)] == ["時計", "は", "毎日", "二回", "動く。"]
    assert spans_of_words(text, ["猫"]) == word_spans(text)


def _japanese(text: str) -> Project:
    segment = Segment("s1", "p1", 0, 6_000_000, "", ())
    return transcript.set_segment_text(
        Project("潮の時計", "ja-JP", speakers={"p1": Speaker("p1", "美羅")}, segments=(segment,)), "s1", text
    )


def test_a_japanese_segment_is_split_and_merged_with_its_lines() -> None:
    project = edits.add_version(_japanese("潮が来る。また帰る。"), "zh-CN")
    project = line_edits.set_line_text(project, "zh-CN", "s1", "潮水来了。又走了。")
    place = next(k for k, word in enumerate(words_in("潮が来る。また帰る。")) if word.startswith("また"))
    parts = reshape.split_before(project, "s1", place)
    assert [segment.text for segment in parts.segments] == ["潮が来る。", "また帰る。"]
    assert [line.text for line in parts.versions["zh-CN"].lines.values()] == ["潮水来了。", "又走了。"]
    whole = reshape.merge_segments(parts, [segment.id for segment in parts.segments])
    assert whole.segments[0].text == "潮が来る。また帰る。"
    assert whole.versions["zh-CN"].lines["s1"].text == "潮水来了。又走了。"


def test_thai_keeps_its_spaces_when_it_is_split() -> None:
    project = _japanese("ฟังสิ มันยังเดินอยู่ ทะเลมา")
    words = words_in(project.segments[0].text)
    parts = reshape.split_before(project, "s1", words.index("มัน"))
    assert [segment.text for segment in parts.segments] == ["ฟังสิ", "มันยังเดินอยู่ ทะเลมา"]


def test_text_without_spaces_is_found_and_replaced() -> None:
    project = _japanese("潮が来る。また帰る。")
    hits = found(project, Search("帰る", "戻る", whole_words=True))
    after = replace_found(project, hits)
    assert after.segments[0].text == "潮が来る。また戻る。"
    assert text_of(after.segments[0].words) == after.segments[0].text


def test_directions_stand_before_the_words_alone() -> None:
    assert spoken_text("(whispering) （低声） Now.") == "Now."
    assert spoken_text("مرحبا (يا صديقي) تعال.") == "مرحبا (يا صديقي) تعال."


def test_letters_are_what_a_reader_takes_for_one() -> None:
    assert letters("नमस्ते") == 3
    assert letters("潮の時計2") == 4.5
    assert letters("e\u0301té") == 3
    assert is_rtl("שלום, Tide")
    assert not is_rtl("Tide, שלום")
