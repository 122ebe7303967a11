"""CTM: words with times, in any order, with comments; wrong lines are named."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from zweistimme.formats.ctm import parse_ctm, parse_rttm
from zweistimme.project.errors import FormatError
from zweistimme.project.findings import Finding

ROWS = st.tuples(
    st.integers(0, 10**9), st.integers(0, 10**7), st.text("abcdeäñ'-", min_size=1, max_size=9), st.integers(0, 100)
)


@given(st.lists(ROWS, max_size=20))
def test_words_come_in_order_with_their_times(rows: list[tuple[int, int, str, int]]) -> None:
    lines = [f"talk 1 {a / 1e6:.6f} {b / 1e6:.6f} {word} {share / 100:.2f}" for a, b, word, share in rows]
    words = parse_ctm("\n".join([";; made by hand", "", *lines]), "talk.ctm").words
    wanted = sorted((a, a + b, word, share / 100) for a, b, word, share in rows)
    assert sorted((w.start_us, w.end_us, w.text, w.confidence) for w in words) == wanted
    assert [w.start_us for w in words] == sorted(w.start_us for w in words)


def test_confidence_may_be_left_out_and_is_kept_in_bounds() -> None:
    words = parse_ctm("t 1 0 1 one\nt 1 1 1 two 7\nt 1 2 1 three -1", "t.ctm").words
    assert [word.confidence for word in words] == [1.0, 1.0, 0.0]


@pytest.mark.parametrize(
    ("text", "sentence"),
    [
        ("t 1 0 1 one\nt 1 soon 1 two", r"t.ctm, line 2: “t 1 soon 1 two” is not CTM"),
        ("just words", "line 1: “just words” is not CTM"),
        ("t 1 -1 1 one", "the time of “one” makes no sense"),
        ("t 1 nan 1 one", "the time of “one” makes no sense"),
        ("t 1 1e30 1 one", "the time of “one” makes no sense"),
    ],
)
def test_wrong_lines_are_named(text: str, sentence: str) -> None:
    with pytest.raises(FormatError, match=sentence):
        parse_ctm(text, "t.ctm")


def test_a_mistyped_type_of_rttm_is_said_and_known_ones_are_not() -> None:
    repairs: list[Finding] = []
    text = "SPKR-INFO demo 1 <NA> <NA> <NA> unknown Mira <NA>\nSPEAKR demo 1 3.4 4.5 <NA> <NA> Mira <NA> <NA>\n"
    assert parse_rttm(text, "x.rttm", repairs) == []
    (said,) = repairs
    assert (said.code, said.figures["type"], said.place) == ("rttm-type-unknown", "SPEAKR", "line 2")
