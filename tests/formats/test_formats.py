"""Captions and scripts in and out."""

from __future__ import annotations

from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from zweistimme.demo.script import LINES, SCRIPT, data_file
from zweistimme.formats.captions import parse_captions, read_captions, write_srt, write_vtt
from zweistimme.formats.cue import Cue, Found, mended
from zweistimme.formats.script import read_script
from zweistimme.project.errors import FormatError

WORDS = st.text(st.sampled_from("abc äöüß <>&'\".,!?¿éñ"), min_size=1, max_size=30).map(lambda t: " ".join(t.split()))
CUES = st.lists(
    st.tuples(
        st.integers(0, 10**7), st.integers(1, 9000), WORDS.filter(bool), st.sampled_from(["", "Mira", "Tobin O."])
    ),
    max_size=8,
)


def made(rows: list[tuple[int, int, str, str]], *, speakers: bool) -> list[Cue]:
    cues = [Cue(a * 1000, (a + d) * 1000, text, who if speakers else "") for a, d, text, who in rows]
    return sorted(cues, key=lambda cue: (cue.start_us, cue.end_us))


def apart(cues: list[Cue]) -> tuple[Cue, ...]:
    """As they are read: mended."""
    return mended([Found("x", cue) for cue in cues])[0]


def unmarked(text: str) -> bool:
    """Texts that no caption format takes for something else."""
    return not any(sign in text for sign in "<>{") and not text.isdigit() and ":" not in text


@given(CUES)
@settings(max_examples=150)
def test_subrip_round_trip(rows: list) -> None:
    cues = [cue for cue in made(rows, speakers=False) if unmarked(cue.text)]
    assert parse_captions(write_srt(cues), where="x", is_vtt=False).cues == apart(cues)


@given(CUES)
@settings(max_examples=150)
def test_webvtt_round_trip(rows: list) -> None:
    cues = made(rows, speakers=True)
    assert parse_captions(write_vtt(cues, "de-DE"), where="x", is_vtt=True).cues == apart(cues)


@given(st.text(st.sampled_from("0123456789:,.-> \nabc\r\x00<v>&{}é"), max_size=300))
@settings(max_examples=300)
def test_any_text_is_read_or_refused_in_a_sentence(text: str) -> None:
    refused = ""
    cues: tuple[Cue, ...] = ()
    try:
        cues = parse_captions(text, where="file", is_vtt=False).cues
    except FormatError as error:
        refused = str(error)
    assert not refused or refused.startswith("file, line")
    assert all(cue.end_us > cue.start_us >= 0 and cue.text for cue in cues)


@pytest.mark.parametrize("encoding", ["utf-8", "utf-8-sig", "utf-16", "cp1252"])
def test_encodings(tmp_path: Path, encoding: str) -> None:
    path = tmp_path / "a.srt"
    path.write_bytes("1\r\n00:00:01,000 --> 00:00:02,500\r\nMIRA: Schöne Grüße\r\n\r\n".encode(encoding))
    assert list(read_captions(path).cues) == [Cue(1_000_000, 2_500_000, "Schöne Grüße", "MIRA")]


def test_captions_as_people_write_them() -> None:
    text = (
        "1\n00:00:01,5 --> 00:00:02,000 X1:40\n<i>Hello</i> {\\an8}there\n"
        "2\n00:00:03.000 --> 00:00:04.000\nTime is 4: o'clock\nand more\n\n\n3\n00:00:05,000 --> 00:00:06,000\n\n"
    )
    cues = parse_captions(text, where="x", is_vtt=False).cues
    assert [(cue.start_us, cue.text) for cue in cues] == [
        (1_500_000, "Hello there"),
        (3_000_000, "Time is 4: o'clock\nand more"),
    ]


def test_webvtt_parts_that_are_no_captions() -> None:
    text = (
        "WEBVTT - x\n\nSTYLE\n::cue {}\n\nNOTE a --> b\n\n"
        "id 7\n01:02.000 --> 01:03.000 align:left\n<v.loud Mira B>It &amp; I</v>\n"
    )
    assert list(parse_captions(text, where="x", is_vtt=True).cues) == [Cue(62_000_000, 63_000_000, "It & I", "Mira B")]


def test_wrong_captions_are_refused_with_their_place(tmp_path: Path) -> None:
    with pytest.raises(FormatError, match="x, line 2: “00:05 --> soon” is not"):
        parse_captions("1\n00:05 --> soon\nA\n", where="x", is_vtt=False)
    path = tmp_path / "a.srt"
    for content, words in ((b"", "holds no captions"), (b"\0\1\2\3" * 50, "not a text file")):
        path.write_bytes(content)
        with pytest.raises(FormatError, match=words):
            read_captions(path)
    with pytest.raises(FormatError, match="There is no file"):
        read_captions(tmp_path / "none.srt")
    with pytest.raises(FormatError, match="is a folder"):
        read_captions(tmp_path)


def test_the_demo_script_is_read() -> None:
    cues = read_script(data_file(SCRIPT)).cues
    assert [(cue.speaker, cue.text) for cue in cues] == [(line.speaker, line.text) for line in LINES]
    assert all(cue.end_us > cue.start_us for cue in cues)


def test_scripts_with_ends_and_comments(tmp_path: Path) -> None:
    path = tmp_path / "script.txt"
    path.write_text("# a comment\n[1:02.5 - 1:04] Mira: Hello: you\n\n[0:01] Tobin: Yes.\n")
    assert list(read_script(path).cues) == [
        Cue(1_000_000, 1_000_000 + round((0.4 + 4 / 15) * 1e6), "Yes.", "Tobin"),
        Cue(62_500_000, 64_000_000, "Hello: you", "Mira"),
    ]
    for content, words in (
        ("Mira: no time", "line 1"),
        ("[0:05 - 0:04] A: b", "ends before"),
        ("#\n", "holds no lines"),
    ):
        path.write_text(content)
        with pytest.raises(FormatError, match=words):
            read_script(path)
