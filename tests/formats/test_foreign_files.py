"""Files as other people write them: nothing in them is lost without a word."""

from __future__ import annotations

import io
import os
import time
import zipfile
from fractions import Fraction
from pathlib import Path

import pytest

from zweistimme.formats.captions import parse_captions, read_captions
from zweistimme.formats.context import Context
from zweistimme.formats.ctm import parse_ctm, parse_rttm
from zweistimme.formats.cue import Reading
from zweistimme.formats.prose import read_prose
from zweistimme.formats.ssml import plain_text, spans_of
from zweistimme.formats.tables import parse_table
from zweistimme.formats.text import decoded
from zweistimme.formats.transcripts import read_transcript
from zweistimme.formats.ttml import parse_ttml
from zweistimme.project.errors import FormatError
from zweistimme.sentences import sentence_of


def said(reading: Reading) -> str:
    return "; ".join(map(sentence_of, reading.repairs))


def srt(text: str, **known: object) -> Reading:
    return parse_captions(text, where="x.srt", is_vtt=False, context=Context(**known))  # type: ignore[arg-type]


@pytest.mark.parametrize(
    ("text", "encoding", "tag"),
    [
        ("Дважды в день море поднимается.", "cp1251", "ru-RU"),
        ("Дважды в день море поднимается.", "koi8_r", "ru-RU"),
        ("Zażółć gęślą jaźń, powiedział zegarmistrz.", "cp1250", "pl-PL"),
        ("時計は私たちより先に知らなければならない。", "cp932", "ja-JP"),
        ("時計は私たちより先に知らなければならない。", "euc_jp", "ja-JP"),
        ("这座钟必须比我们先知道。", "gb18030", "zh-CN"),
        ("시계는 우리보다 먼저 그걸 알아야 해.", "cp949", "ko-KR"),
        ("Το ρολόι πρέπει να το ξέρει πριν από εμάς.", "cp1253", "el-GR"),
        ("על השעון לדעת את זה לפנינו.", "cp1255", "he-IL"),
        ("على الساعة أن تعرف ذلك قبلنا.", "cp1256", "ar-EG"),
        ("Saat bunu bizden önce bilmek zorunda, değil mi?", "cp1254", "tr-TR"),
        ("Größe und Übermut der Fähre", "cp1252", "de-DE"),
    ],
)
def test_encodings_are_told_by_the_language(text: str, encoding: str, tag: str) -> None:
    found, repairs = decoded(text.encode(encoding), "x", Context(tag=tag))
    assert found == text
    assert "--encoding" in sentence_of(repairs[0])
    assert decoded(text.encode(encoding), "x", Context(encoding=encoding)) == (text, ())


def test_a_wrong_encoding_is_said() -> None:
    with pytest.raises(FormatError, match="is no encoding"):
        decoded(b"x", "x", Context(encoding="klingon"))
    with pytest.raises(FormatError, match="means nothing there"):
        decoded(b"\xff\xff", "x", Context(encoding="utf-8"))


def test_only_people_of_the_programme_are_names_in_a_translation() -> None:
    text = (
        "1\n00:00:01,000 --> 00:00:02,000\nAchtung: Die Tür schließt.\n\n2\n00:00:03,000 --> 00:00:04,000\nMira: Ja.\n"
    )
    known = srt(text, people=frozenset({"mira"}))
    assert [(cue.speaker, cue.text) for cue in known.cues] == [("", "Achtung: Die Tür schließt."), ("Mira", "Ja.")]
    assert srt(text).cues[0].speaker == "Achtung"


def test_subrip_keeps_numbers_and_words_behind_empty_lines_and_says_what_it_drops() -> None:
    text = (
        "1\n00:00:01,000 --> 00:00:02,000 X1:40 X2:600 Y1:20 Y2:50\nIn the year\n1884\n\n"
        "2\n00:00:03,000 --> 00:00:05,000\nFirst words.\n\nMore words.\n\n1886\n\n"
        "3\n00:00:06,000 --> 00:00:07,000\nLast.\n4\n00:00:08,000 --> 00:00:09,000\nEnd.\n"
    )
    reading = srt(text)
    assert [cue.text for cue in reading.cues] == [
        "In the year\n1884",
        "First words.\nMore words.\n1886",
        "Last.",
        "End.",
    ]
    assert "The place on the picture of 1 caption left out" in said(reading)
    assert "an empty line stood inside the caption" in said(reading)


def test_webvtt_says_what_it_leaves_out() -> None:
    text = (
        "WEBVTT\nX-TIMESTAMP-MAP=LOCAL:00:00:00.000,MPEGTS:900000\n\nSTYLE\n::cue { color: lime }\n\n"
        "REGION\nid:a\n\nNOTE nothing\n\nNOTE Language: fr-FR\n\n"
        "one\n00:01.000 --> 00:02.000 line:10% align:start\nOui.\n"
    )
    reading = parse_captions(text, where="x.vtt", is_vtt=True)
    assert reading.language == "fr-FR"
    assert reading.cues[0].text == "Oui."
    words = said(reading)
    for part in ("1 block of styles", "1 region", "1 note", "place on the picture of 1 caption", "X-TIMESTAMP-MAP"):
        assert part in words


def test_times_with_frames_are_read_where_the_rate_is_known() -> None:
    text = "1\n10:00:01:12 --> 10:00:02:00\nOne.\n"
    assert srt(text, rate=Fraction(25)).cues[0].start_us == 36_001_480_000
    with pytest.raises(FormatError, match="times with frames"):
        srt(text)
    with pytest.raises(FormatError, match="not a timecode at 25"):
        srt(text.replace(":12", ":31"), rate=Fraction(25))
    table = parse_table("start,end,text\n00:00:01:05,00:00:02:00,Hi\n", "x", Context(rate=Fraction(25)))
    assert table.cues[0].start_us == 1_200_000


def test_older_ttml_ticks_and_sequences() -> None:
    old = '<tt xmlns="http://www.w3.org/2006/10/ttaf1"><body><div><p begin="1s" end="2s">Old.</p></div></body></tt>'
    assert parse_ttml(old.encode(), "x").cues[0].text == "Old."
    ticks = (
        '<tt xmlns="http://www.w3.org/ns/ttml" xmlns:ttp="http://www.w3.org/ns/ttml#parameter" ttp:frameRate="25">'
        '<body><div><p begin="50t" end="100t">Two.</p></div></body></tt>'
    )
    assert (parse_ttml(ticks.encode(), "x").cues[0].start_us, parse_ttml(ticks.encode(), "x").cues[0].end_us) == (
        2_000_000,
        4_000_000,
    )
    one_by_one = (
        '<tt xmlns="http://www.w3.org/ns/ttml"><body><div timeContainer="seq">'
        '<p dur="2s">A.</p><p begin="1s" dur="2s">B.</p><p dur="1s">C.</p></div></body></tt>'
    )
    cues = parse_ttml(one_by_one.encode(), "x").cues
    assert [(cue.start_us, cue.end_us) for cue in cues] == [
        (0, 2_000_000),
        (3_000_000, 5_000_000),
        (5_000_000, 6_000_000),
    ]


def test_ctm_of_two_channels_recordings_and_alternatives(tmp_path: Path) -> None:
    path = tmp_path / "a.ctm"
    path.write_text("a 1 0.5 0.2 tide\na 2 1.0 0.2 clock\nb 1 0.1 0.2 other\n")
    transcript = read_transcript(path)
    assert [speaker.name for speaker in transcript.speakers] == ["Channel 1", "Channel 2"]
    assert any("another recording, “b”" in sentence_of(one) for one in transcript.repairs)
    either = parse_ctm(
        "a 1 * * <ALT_BEGIN>\na 1 0.5 0.2 tied\na 1 * * <ALT>\na 1 0.5 0.2 tide\na 1 * * <ALT_END>\n", "x"
    )
    assert [word.text for word in either.words] == ["tied"]
    assert "second alternatives" in sentence_of(either.repairs[0])


def test_rttm_in_small_letters_and_turns_of_no_length() -> None:
    repairs: list = []
    turns = parse_rttm("speaker a 1 1.0 2.0 <NA> <NA> Mira\nSPEAKER a 1 4.0 0 <NA> <NA> Tobin\n", "x", repairs)
    assert [turn.speaker for turn in turns] == ["Mira"]
    assert "Tobin lasts no time" in sentence_of(repairs[0])


def test_csv_keeps_words_behind_a_comma_and_refuses_an_open_quotation() -> None:
    reading = parse_table("start,end,speaker,text\n1,2,Mira,Hello, world\n", "x")
    assert reading.cues[0].text == "Hello, world"
    assert "comma" in said(reading)
    reading = parse_table("start,end,text,speaker\n1,2,Hello,Mira,odd\n", "x")
    assert "“odd” stands behind the last column" in said(reading)
    for text in (
        'start,end,text\n1,2,"Hello\n3,4,World\n',
        'start,end,text\n1.0,2.0,"Hello\n3.0,4.0,World\n5.0,6.0,"x"\n',
    ):
        with pytest.raises(FormatError):
            parse_table(text, "x")


def test_ssml_in_hertz_and_x_sampa() -> None:
    spans = spans_of('<speak><prosody pitch="180Hz">a</prosody><prosody pitch="+10Hz">b</prosody></speak>')
    assert (spans[0].pitch_hz, spans[1].pitch_more_hz) == (180.0, 10.0)
    (span,) = spans_of('<speak><phoneme alphabet="x-sampa" ph="tAId">tide</phoneme></speak>')
    assert span.phonemes == "tɑɪd"
    assert plain_text("<speak>un<emphasis>believ</emphasis>able <break/>tide</speak>") == "unbelievable tide"


def test_small_files_that_once_took_for_ever(tmp_path: Path) -> None:
    begun = time.monotonic()
    (tmp_path / "a.ctm").write_text("a 1 5.0 0.0 word\n" * 5_000)
    assert read_transcript(tmp_path / "a.ctm").segments
    os.mkfifo(tmp_path / "pipe.srt")
    for path in (tmp_path / "pipe.srt", Path("/dev/zero")):
        with pytest.raises(FormatError, match="a device or a pipe"):
            read_captions(path)
    packed = io.BytesIO()
    with zipfile.ZipFile(packed, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("word/document.xml", b"<w:p/>" * 10_000_000)
    (tmp_path / "bomb.docx").write_bytes(packed.getvalue())
    with pytest.raises(FormatError, match="unpacks into"):
        read_prose(tmp_path / "bomb.docx")
    assert time.monotonic() - begun < 60  # minutes before
