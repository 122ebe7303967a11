"""SSML in and out, hostile documents included."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from zweistimme.engines.text_pieces import pieces
from zweistimme.formats.ssml import Span, plain_text, spans_of, ssml_of
from zweistimme.project.errors import EngineError, FormatError
from zweistimme.project.writing import spoken_text


def spans(body: str) -> tuple[Span, ...]:
    return spans_of(f'<speak version="1.1" xml:lang="en-GB">{body}</speak>')


@given(st.text(max_size=200))
def test_any_text_comes_back_as_its_words(text: str) -> None:
    kept = "".join(
        c for c in spoken_text(text) if c >= " " and c not in "\ufffe\uffff" and not 0xD800 <= ord(c) < 0xE000
    )
    try:
        words = plain_text(ssml_of(text, "en-GB"))
    except FormatError:
        assert kept != spoken_text(text), "only characters that XML cannot hold are refused"
        return
    assert words == " ".join(kept.split())


def test_manners_are_told_apart() -> None:
    slow, loud, down, plain = spans(
        '<prosody rate="50%">one</prosody><prosody volume="+6dB" pitch="+12st">two</prosody>'
        '<emphasis level="reduced">three</emphasis> four'
    )
    assert (slow.text, slow.rate) == ("one", 0.5)
    assert (loud.pitch, loud.volume_db) == (2.0, 6.0)
    assert down.emphasis == -1
    assert plain.rate == plain.pitch == 1.0


def test_nesting_multiplies_and_inner_elements_win() -> None:
    (span,) = spans('<voice name="fenn"><prosody rate="2"><prosody rate="slow"><lang xml:lang="de-DE">ja</lang>'
                    "</prosody></prosody></voice>")  # fmt: skip
    assert (span.voice, span.language, span.rate) == ("fenn", "de-DE", 1.6)


def test_pauses_marks_and_replacements() -> None:
    assert [s.break_ms for s in spans('<break time="1.5s"/><break strength="weak"/><break/>')] == [1500, 120, 250]
    assert spans('<mark name="here"/>')[0].mark == "here"
    assert spans('<sub alias="saint">St</sub>')[0].text == "saint"
    assert spans('<say-as interpret-as="ordinal">3</say-as>')[0].say_as == "ordinal"
    assert spans('<phoneme ph="ˈtaɪd">tide</phoneme>')[0].phonemes == "ˈtaɪd"
    assert [s.text for s in spans("<p><s>One.</s><s>Two.</s></p>") if s.text] == ["One.", "Two."]


@pytest.mark.parametrize(
    ("text", "sentence"),
    [
        ("no mark-up", "not well-formed"),
        ("<talk>hi</talk>", "begins with <speak>"),
        ('<speak><prosody rate="often">x</prosody></speak>', "no number for a rate"),
        ('<speak><prosody volume="deafening">x</prosody></speak>', "no volume"),
        ('<speak><prosody contour="(0%,+20Hz)" duration="2s">x</prosody></speak>', "not with contour and duration"),
        ('<speak><phoneme alphabet="own" ph="x">x</phoneme></speak>', "alphabets ipa and x-sampa"),
        ('<!DOCTYPE speak [<!ENTITY a "aaaa"><!ENTITY b "&a;&a;&a;">]><speak>&b;</speak>', "document type"),
        ('<!DOCTYPE speak [<!ENTITY f SYSTEM "file:///etc/passwd">]><speak>&f;</speak>', "document type"),
        ("<speak>" + "x" * (1 << 20) + "</speak>", "are read at most"),
    ],
)
def test_what_is_refused(text: str, sentence: str) -> None:
    with pytest.raises(FormatError, match=sentence):
        spans_of(text)


@given(
    st.lists(st.sampled_from(["Now", "the", "sea", "came,", "as", "always.", "It", "turns!", "<&>"]), min_size=1),
    st.integers(110, 220),
)
def test_long_texts_are_cut_below_the_limit_of_what_is_sent(words: list[str], limit: int) -> None:
    text = " ".join(words)
    parts = pieces(text, lambda piece: len(ssml_of(piece, "de-DE")) <= limit)
    assert " ".join(parts).split() == text.split()
    assert all(len(ssml_of(part, "de-DE")) <= limit for part in parts)


def test_cuts_are_made_where_speech_pauses() -> None:
    text = "The bell rang. The sea came, as it always does."
    assert pieces(text, lambda piece: len(piece) <= 34) == ["The bell rang.", "The sea came, as it always does."]
    assert pieces(text, lambda piece: len(piece) <= 20) == ["The bell rang.", "The sea came,", "as it always does."]
    with pytest.raises(EngineError, match="“always” alone is longer"):
        pieces("always", lambda piece: len(piece) < 3)
