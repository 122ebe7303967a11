"""Times of words in WebVTT: whatever words there are come back at their millisecond."""

from __future__ import annotations

import html
from itertools import pairwise

from hypothesis import given
from hypothesis import strategies as st

from zweistimme.formats.captions import parse_captions, write_vtt
from zweistimme.formats.cue import Cue
from zweistimme.formats.stamps import read_time, stamped, stamped_words, without_stamps, written_time
from zweistimme.project.model import Word
from zweistimme.project.words import text_of

TEXTS = st.sampled_from(["sea", "Größe,", "“it", "&", "R&D", "a<b", "turns.", "¿Qué?", "36", "12:30"])
ROWS = st.lists(st.tuples(TEXTS, st.integers(1, 700), st.integers(0, 500)), min_size=1, max_size=12)
"""Text, length and the gap before it in milliseconds."""


def cue_of(rows: list[tuple[str, int, int]], rest_ms: int, speaker: str = "") -> Cue:
    words, at = [], 61_000
    start = at
    for text, length, gap in rows:
        at += gap
        words.append(Word(text, at * 1000, (at + length) * 1000))
        at += length
    return Cue(start * 1000, (at + rest_ms) * 1000, text_of(words), speaker, tuple(words))


@given(ROWS, st.integers(0, 300), st.sampled_from(["", "Mira", "Tobin & Oake"]))
def test_words_come_back_with_the_pauses_between_them(
    rows: list[tuple[str, int, int]], rest_ms: int, speaker: str
) -> None:
    cue = cue_of(rows, rest_ms, speaker)
    reading = parse_captions(write_vtt([cue], "en-GB"), where="x", is_vtt=True)
    (back,) = reading.cues
    assert reading.repairs == ()
    assert (back.start_us, back.end_us, back.text, back.speaker) == (cue.start_us, cue.end_us, cue.text, speaker)
    if back.words:
        assert [(w.text, w.start_us, w.end_us) for w in back.words] == [
            (w.text, w.start_us, w.end_us) for w in cue.words
        ]
    else:  # one word that fills its caption needs no stamp
        (only,) = cue.words
        assert (only.start_us, only.end_us) == (cue.start_us, cue.end_us)


@given(ROWS, st.integers(0, 300))
def test_stamps_lie_inside_their_caption_and_grow(rows: list[tuple[str, int, int]], rest_ms: int) -> None:
    cue = cue_of(rows, rest_ms)
    text = stamped(cue)
    plain, count = without_stamps(text)
    assert html.unescape(" ".join(plain.split())) == cue.text
    times = [
        read_time(*part.split(">")[0].replace(".", ":").split(":"))
        for part in text.split("<")[1:]
        if part[:2].isdigit() and ">" in part
    ]
    assert len(times) == count
    assert all(cue.start_us < time < cue.end_us for time in times)
    assert all(a < b for a, b in pairwise(times))


@given(st.integers(0, 400 * 3_600_000))
def test_a_time_is_written_and_read(millis: int) -> None:
    text = written_time(millis * 1000, ".")
    hours, minutes, rest = text.split(":")
    assert read_time(hours, minutes, *rest.split(".")) == millis * 1000


def test_words_under_one_stamp_share_its_time_by_their_letters() -> None:
    words = stamped_words("one <00:02.000>two three", 1_000_000, 3_000_000)
    assert [(w.text, w.start_us, w.end_us) for w in words] == [
        ("one", 1_000_000, 2_000_000),
        ("two", 2_000_000, 2_400_000),
        ("three", 2_400_000, 3_000_000),
    ]
    assert stamped_words("<00:02.000><00:02.500>", 1_000_000, 3_000_000) == ()
