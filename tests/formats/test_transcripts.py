"""Transcripts in every kind: there and back, repaired, refused, and never read wrongly in silence."""

from __future__ import annotations

import random
import re
from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from zweistimme.formats.captions import parse_captions
from zweistimme.formats.ctm import parse_ctm
from zweistimme.formats.cue import Cue, Found, mended
from zweistimme.formats.tables import parse_table
from zweistimme.formats.transcript_json import parse_transcript_json
from zweistimme.formats.transcripts import KINDS, read_transcript, said_of, written_transcript
from zweistimme.formats.ttml import parse_ttml, write_ttml
from zweistimme.project.errors import FormatError
from zweistimme.project.findings import Finding
from zweistimme.project.model import Project, Segment, Speaker, Word
from zweistimme.project.segmentation import CutLimits
from zweistimme.project.words import spoken_words, spread
from zweistimme.sentences import sentence_of, sentences_of

PEOPLE = {"p1": Speaker("p1", "Mira"), "p2": Speaker("p2", "Tobin Oake")}
TEXTS = st.lists(st.sampled_from(["sea", "Größe,", "“it", "&", "turns.", "¿Qué?", "36"]), min_size=1, max_size=6)
ROWS = st.lists(
    st.tuples(st.integers(150, 4000), st.integers(0, 900), st.sampled_from(["p1", "p2"]), TEXTS), min_size=1
)
"""Length and gap in milliseconds, speaker, words."""


def project_of(rows: list[tuple[int, int, str, list[str]]], us: int = 0) -> Project:
    segments, time = [], 1_000_000
    for number, (length, gap, who, texts) in enumerate(rows, 1):
        start, end = time + gap * 1000 + us, time + (gap + length) * 1000 + us
        text = " ".join(texts)
        segments.append(Segment(f"s{number:04d}", who, start, end, text, spread(texts, start, end)))
        time = end - us
    return Project("Tide & Clock", "en-GB", speakers=PEOPLE, segments=tuple(segments))


LOST = {
    ".srt": "Times of single words are not in SubRip captions",
    ".vtt": "Confidences are not in WebVTT captions",
    ".ttml": "Times of single words are not in TTML (IMSC 1.1 Text)",
    ".csv": "Times of single words are not in Table (CSV)",
}


def thousandths(words: Sequence[Word]) -> list[tuple[str, int, int]]:
    """Words with their times in whole milliseconds."""
    return [(w.text, (w.start_us + 500) // 1000, (w.end_us + 500) // 1000) for w in words]


def outline(segments: tuple[Segment, ...], speakers: dict[str, str]) -> list[tuple[int, int, str, str]]:
    return [(s.start_us, s.end_us, speakers[s.speaker_id], s.text) for s in segments]


@pytest.mark.parametrize("kind", [".srt", ".vtt", ".ttml", ".csv"])
@given(rows=ROWS)
@settings(max_examples=40)
def test_every_kind_with_texts_goes_there_and_back(
    tmp_path_factory: pytest.TempPathFactory, kind: str, rows: list
) -> None:
    project = project_of(rows, us=7 if kind == ".csv" else 0)
    path = tmp_path_factory.getbasetemp() / f"round{kind}"
    data, notes = written_transcript(project, kind)
    path.write_bytes(data)
    back = read_transcript(path)
    names = {key: one.name for key, one in project.speakers.items()}
    found = {one.id: one.name for one in back.speakers}
    assert outline(back.segments, found) == outline(project.segments, names)
    assert [sentence_of(note).partition(";")[0] for note in notes] == [LOST[kind]]
    assert back.repairs == ()
    if kind == ".vtt":
        there = [thousandths(spoken_words(segment)) for segment in back.segments]
        assert there == [thousandths(segment.words) for segment in project.segments]
    else:
        assert not any(s.words for s in back.segments)


@given(rows=ROWS)
@settings(max_examples=40)
def test_our_own_kind_is_exact(tmp_path_factory: pytest.TempPathFactory, rows: list) -> None:
    project = project_of(rows, us=3)
    first = replace(project.segments[0], fillers=(Word("um", 5, 9, 0.3, filler=True),), on_screen=False)
    project = replace(project, segments=(first, *project.segments[1:]))
    path = tmp_path_factory.getbasetemp() / "round.json"
    path.write_bytes(written_transcript(project, ".json")[0])
    back = read_transcript(path)
    assert back.segments == project.segments
    assert dict(zip(PEOPLE, back.speakers, strict=True)) == PEOPLE
    assert back.language == "en-GB"


@given(rows=ROWS)
@settings(max_examples=40)
def test_words_and_turns_go_there_and_back_together(tmp_path_factory: pytest.TempPathFactory, rows: list) -> None:
    project = project_of([(length, gap + 1000, who, texts) for length, gap, who, texts in rows], us=3)
    base = tmp_path_factory.getbasetemp()
    for kind in (".ctm", ".rttm"):
        (base / f"together{kind}").write_bytes(written_transcript(project, kind)[0])
    back = read_transcript(base / "together.ctm")
    words = [w for s in back.segments for w in s.words]
    assert words == [w for s in project.segments for w in spoken_words(s)]
    names = {one.id: one.name for one in back.speakers}
    for segment in back.segments:
        owner = next(s for s in project.segments if s.start_us <= segment.start_us < s.end_us)
        assert names[segment.speaker_id] == PEOPLE[owner.speaker_id].name
    turns = read_transcript(base / "together.rttm")
    assert [(s.start_us, s.end_us) for s in turns.segments] == [(s.start_us, s.end_us) for s in project.segments]


def test_ctm_without_speakers_is_cut_at_pauses(tmp_path: Path) -> None:
    path = tmp_path / "a.ctm"
    path.write_text(";; a comment\nx 1 0.0 0.5 It 0.9\nx 1 0.5 0.5 turns\nx 1 3.0 0.5 Good NA\n")
    back = read_transcript(path, limits=CutLimits())
    assert [s.text for s in back.segments] == ["It turns", "Good"]
    assert [sentence_of(r) for r in back.repairs] == ["3 words were cut into 2 segments."]
    (tmp_path / "b.rttm").write_text("SPKR-INFO x\n")
    with pytest.raises(FormatError, match="names no speakers"):
        read_transcript(path, tmp_path / "b.rttm")


def cue(start: float, end: float, text: str = "Words.", speaker: str = "") -> Found:
    return Found("x, line 1", Cue(round(start * 1e6), round(end * 1e6), text, speaker))


@pytest.mark.parametrize(
    ("found", "times", "said"),
    [
        ([cue(2, 3), cue(0, 1, "First.")], [(0, 1), (2, 3)], "out of order at 1 place"),
        ([cue(-1, 1)], [(0, 1)], "started before the beginning"),
        ([cue(-3, -1), cue(1, 2)], [(1, 2)], "lies before the beginning and is left out"),
        ([cue(1, 2, " \n "), cue(3, 4)], [(3, 4)], "without words is left out"),
        ([cue(5, 4), cue(5.5, 6, "Next.")], [(5, 5.5), (5.5, 6)], "ended before it started"),
        ([cue(5, 5, "One two three.")], [(5, 6.333333)], "lasted no time"),
        ([cue(1, 2.2), cue(2, 3, "Next.")], [(1, 2), (2, 3)], "overlapped it by 200 ms"),
        ([cue(1, 2), cue(1, 2)], [(1, 2)], "stands there twice"),
        ([cue(1, 3, "A.", "Mira"), cue(2, 4, "B.", "Tobin")], [(1, 3), (2, 4)], ""),
        ([cue(1, 3, "A."), cue(1.2, 3.1, "B.")], [(1, 3), (1.2, 3.1)], ""),
    ],
)
def test_what_is_wrong_is_put_right_and_said(found: list[Found], times: list, said: str) -> None:
    cues, repairs = mended(found)
    assert [(c.start_us / 1e6, c.end_us / 1e6) for c in cues] == [pytest.approx(pair) for pair in times]
    text = "; ".join(map(sentence_of, repairs))
    assert (said in text) if said else not repairs


SRT = "1\n00:00:01,000 --> 00:00:02,000\n<i>It</i> turns.\n\n2\n00:00:03,000 --> 00:00:05,500\nTobin: Good.\nNow.\n"


@pytest.mark.parametrize(
    ("encoding", "mark", "said"),
    [
        ("utf-8", b"", ""),
        ("utf-8-sig", b"", ""),
        ("utf-16", b"", ""),
        ("utf-16-le", b"", "UTF-16 without a mark"),
        ("utf-16-be", b"", "UTF-16 without a mark"),
        ("cp1252", b"", "cp1252"),
        ("latin-1", b"\x81", "iso8859-1"),
    ],
)
def test_encodings_are_found_and_doubtful_ones_said(tmp_path: Path, encoding: str, mark: bytes, said: str) -> None:
    path = tmp_path / "a.srt"
    path.write_bytes(SRT.replace("It", "Él").encode(encoding) + mark)
    back = read_transcript(path)
    assert back.segments[0].text == "Él turns."
    text = "; ".join(map(sentence_of, said_of("", back.repairs)))
    assert said in text
    assert "2 tags for type and colour" in text


TTML = """<?xml version="1.0"?><tt xmlns="http://www.w3.org/ns/ttml" xmlns:ttm="http://www.w3.org/ns/ttml#metadata"
 xmlns:ttp="http://www.w3.org/ns/ttml#parameter" ttp:frameRate="24" ttp:frameRateMultiplier="1000 1001"
 ttp:tickRate="10000000" xml:lang="en">
 <head><metadata><ttm:agent xml:id="a"><ttm:name type="full">Mira</ttm:name></ttm:agent></metadata></head>
 <body begin="10s"><div>
  <p begin="00:00:01.5" end="00:00:02:12" ttm:agent="a">It <span>turns</span>,<br/>  at
     last.</p>
  <p begin="40000000t" dur="1500ms">Good.</p>
  <p begin="6s" end="9s"><span begin="0s" end="1s">One</span><span begin="1s" end="2s">two</span></p>
 </div></body></tt>"""


def test_ttml_counts_frames_ticks_and_nested_times() -> None:
    reading = parse_ttml(TTML.encode(), "x")
    assert reading.language == "en"
    rows = [(c.start_us, c.end_us, c.text, c.speaker) for c in reading.cues]
    assert rows[0] == (11_500_000, 12_000_000 + round(12 * 1001 / 24000 * 1e6), "It turns,\nat last.", "Mira")
    assert rows[1][:3] == (14_000_000, 15_500_000, "Good.")
    assert [row[2] for row in rows[2:]] == ["One", "two"]
    assert rows[3][0] == 17_000_000


def ttml(body: str) -> str:
    """A document whose one paragraph holds *body*."""
    head = TTML[: TTML.index("<body")]
    return f'{head}<body><div><p begin="1s" end="5s">{body}</p></div></body></tt>'


def test_a_span_for_each_word_is_the_time_of_the_word() -> None:
    words = '<span begin="0s" end="1s">It</span> <span begin="1.5s" end="2s">turns.</span>'
    (one,) = parse_ttml(ttml(words).encode(), "x").cues
    assert (one.start_us, one.end_us, one.text) == (1_000_000, 5_000_000, "It turns.")
    assert thousandths(one.words) == [("It", 1000, 2000), ("turns.", 2500, 3000)]
    backwards = words.replace('"0s" end="1s"', '"3s" end="4s"')
    assert [c.text for c in parse_ttml(ttml(backwards).encode(), "x").cues] == ["turns.", "It"]
    open_ended = '<span begin="0s">It</span> <span begin="1.5s">turns.</span>'
    (one,) = parse_ttml(ttml(open_ended).encode(), "x").cues
    assert thousandths(one.words) == [("It", 1000, 2500), ("turns.", 2500, 5000)]
    unbounded = ttml(words).replace('<p begin="1s" end="5s">', "<p>").replace("<body", '<body end="1h"')
    (one,) = parse_ttml(unbounded.encode(), "x").cues
    assert (one.start_us, one.end_us) == (0, 2_000_000), "its words', not those of all that is around it"


def test_text_beside_timed_spans_and_two_agents_in_a_paragraph_are_kept() -> None:
    loose = 'Now <span begin="0s" end="1s">it goes</span> round <span begin="1s" end="2s">and on</span>.'
    assert [c.text for c in parse_ttml(ttml(loose).encode(), "x").cues] == ["Now it goes round", "and on."]
    agents = 'Who? <span ttm:agent="a">Me, <span>Mira</span>.</span><br/><span ttm:agent="nobody">No.</span>'
    reading = parse_ttml(ttml(agents).encode(), "x")
    assert [(c.speaker, c.text) for c in reading.cues] == [("", "Who?"), ("Mira", "Me, Mira."), ("nobody", "No.")]
    assert [c.end_us for c in reading.cues] == [c.start_us for c in reading.cues[1:]] + [5_000_000]
    assert [sentence_of(r) for r in reading.repairs] == [
        "line 5: 3 people speak in one caption; it is split, check who says what."
    ]


def test_several_people_in_one_caption_are_told_apart() -> None:
    srt = "1\n00:00:01,000 --> 00:00:03,000\n- Is it <i>broken</i>?\n- Tobin: Cracked.\nRight through.\n"
    reading = parse_captions(srt, where="x", is_vtt=False)
    assert [(c.speaker, c.text) for c in reading.cues] == [("", "Is it broken?"), ("Tobin", "Cracked.\nRight through.")]
    assert reading.cues[0].end_us == reading.cues[1].start_us
    assert "line 2: 2 people speak in one caption" in sentence_of(reading.repairs[0])
    vtt = "WEBVTT\n\n00:01.000 --> 00:03.000\n<v Mira>Is it?</v> <v.low Tobin Oake>It &amp; all.</v>\n"
    reading = parse_captions(vtt, where="x", is_vtt=True)
    assert [(c.speaker, c.text) for c in reading.cues] == [("Mira", "Is it?"), ("Tobin Oake", "It & all.")]
    for whole in ("- Alone.", "Not –\n– two.", "one\n-"):
        text = f"1\n00:00:01,000 --> 00:00:03,000\n{whole}\n"
        assert [c.text for c in parse_captions(text, where="x", is_vtt=False).cues] == [whole]


@pytest.mark.parametrize(
    ("text", "words"),
    [
        (
            "It <00:01.400><c>turns</c> <00:01.800>slowly.",
            [("It", 1000, 1400), ("turns", 1400, 1800), ("slowly.", 1800, 2000)],
        ),
        ("<00:01.200>It<00:01.400> <00:01.500>turns.", [("It", 1200, 1400), ("turns.", 1500, 2000)]),
        ("Var<00:01.500>nholm <00:01.700>it", [("Varnholm", 1000, 1700), ("it", 1700, 2000)]),
        ("Mira: It <00:01.500>turns", [("It", 1333, 1500), ("turns", 1500, 2000)]),
        (
            "<v Mira>Tide\n<00:01.500>&amp; <00:01.600>clock</v>",
            [("Tide", 1000, 1500), ("&", 1500, 1600), ("clock", 1600, 2000)],
        ),
    ],
)
def test_stamps_in_a_caption_are_the_times_of_its_words(text: str, words: list) -> None:
    reading = parse_captions(f"WEBVTT\n\n00:01.000 --> 00:02.000\n{text}\n", where="x", is_vtt=True)
    (one,) = reading.cues
    assert thousandths(one.words) == words
    assert one.text.split() == [w.text for w in one.words]


@pytest.mark.parametrize(
    "text", ["It <00:01.800>turns <00:01.400>slowly", "It <00:09.000>turns", "<v A>It <00:01.500>is</v> <v B>so"]
)
def test_stamps_that_make_no_sense_are_said(text: str) -> None:
    reading = parse_captions(f"WEBVTT\n\n00:01.000 --> 00:02.000\n{text}\n", where="x", is_vtt=True)
    assert not any(c.words for c in reading.cues)
    assert "times of its words are not in order" in "; ".join(map(sentence_of, reading.repairs))


@pytest.mark.parametrize(
    ("text", "sentence"),
    [
        ("<tt><p", "is not well-formed"),
        ("<html/>", "begins with <html>, TTML with <tt>"),
        (TTML.replace("1500ms", "soon"), "line 8: “soon” is not a time of TTML"),
        (TTML.replace('frameRate="24"', 'frameRate="0"'), "not positive"),
        (TTML.replace('"1000 1001"', '"1000 0"'), "not a number"),
        ('<!DOCTYPE tt [<!ENTITY a "aaaa"><!ENTITY b "&a;&a;">]><tt>&b;</tt>', "document type"),
        ('<!DOCTYPE tt SYSTEM "file:///etc/passwd"><tt/>', "holds no words|document type"),
    ],
)
def test_hostile_and_wrong_ttml_is_refused(tmp_path: Path, text: str, sentence: str) -> None:
    path = tmp_path / "x.ttml"
    path.write_text(text)
    with pytest.raises(FormatError, match=sentence):
        read_transcript(path)


def test_control_characters_do_not_break_what_is_written() -> None:
    assert parse_ttml(write_ttml([Cue(0, 1_000_000, "a\x08b\x0bc", "M\x01a")], "en"), "x").cues[0].text == "abc"


def test_tables_as_people_make_them() -> None:
    text = "Begin;OUT;Name;Texto\n0:01,5;1:02:03.25;Mira; Hello   there \n\n7s;8;;Good\n"
    cues = parse_table(text, "x").cues
    assert [(c.start_us, c.end_us, c.speaker, c.text) for c in cues] == [
        (1_500_000, 3_723_250_000, "Mira", "Hello there"),
        (7_000_000, 8_000_000, "", "Good"),
    ]
    for wrong, sentence in (
        ("a,b\n1,2\n", "names no column start and no end and no text"),
        ("start,end,text\nnow,2,x\n", "line 2, column start: “now” is not a time"),
        ("", "names no column"),
    ):
        with pytest.raises(FormatError, match=sentence):
            parse_table(wrong, "x")


@pytest.mark.parametrize(
    ("change", "sentence"),
    [
        ('"version": 1', "Invalid.* @ version"),
        ('"start_us": 1000000', "@ segments"),
        ('"speaker_id": "p1"', "speaker p9 is not among"),
        ('"end_us": 2000000', "ends before it starts @ segments\\[0\\]"),
        ('"text": "It turns."', "not those of its text @ segments\\[0\\]"),
    ],
)
def test_wrong_values_in_our_own_kind_are_named_with_their_path(change: str, sentence: str) -> None:
    project = project_of([(1000, 0, "p1", ["It", "turns."])])
    text = written_transcript(project, ".json")[0].decode()
    wrong = {"version": "7", "start_us": '"soon"', "speaker_id": '"p9"', "end_us": "5", "text": '"Other."'}
    key = change.split('"')[1]
    spoiled = text.replace(change, f'"{key}": {wrong[key]}', 1)
    assert spoiled != text
    with pytest.raises(FormatError, match=sentence):
        parse_transcript_json(spoiled.encode(), "x")


def test_json_that_is_nested_without_end_is_refused() -> None:
    with pytest.raises(FormatError, match="nested without end"):
        parse_transcript_json(b'{"a":' + b"[" * 100_000, "x")


def test_what_a_kind_cannot_hold_is_said() -> None:
    project = project_of([(1000, 0, "p1", ["It"])])
    wordless = Segment("s9", "p2", 5_000_000, 6_000_000, "")
    project = replace(project, segments=(*project.segments, wordless))
    assert written_transcript(project, ".srt")[1][0] == Finding("wordless-left-out", {"stretches": 1})
    assert sentences_of(written_transcript(project, ".csv")[1]) == f"{LOST['.csv']}; write JSON or CTM for them."
    bare = replace(project, segments=tuple(replace(s, words=()) for s in project.segments))
    assert written_transcript(bare, ".csv")[1] == ()
    assert written_transcript(project, ".ctm")[1] == (Finding("no-speakers-in-ctm"),)
    with pytest.raises(FormatError, match="no kind of transcript"):
        written_transcript(project, ".doc")
    assert set(KINDS) >= {".srt", ".vtt", ".ttml", ".ctm", ".rttm", ".json", ".csv"}


SIGNS = ["\0", "<b>", "-->", "\n\n", "-", "9", ":", "{\\an8}", "é", ";", '"']


def spoiled(text: str, dice: random.Random) -> str:
    """*text* with a few faults that files have."""
    for _ in range(dice.randint(1, 4)):
        at, fault = dice.randrange(max(1, len(text))), dice.randrange(6)
        if fault == 0:
            text = text[:at] + text[at + dice.randint(1, 30) :]
        elif fault == 1:
            text = text[:at] + dice.choice(SIGNS) + text[at:]
        elif fault == 2:
            text = text.replace("\n\n", "\n", 1)
        elif fault == 3:
            text = re.sub(r"\d\d", lambda _m: f"{dice.randint(0, 99):02d}", text, count=dice.randint(1, 5))
        elif fault == 4:
            text = text[at:] + text[:at]
        else:
            text += text[:at]
    return text


def test_words_outside_all_captions_are_said() -> None:
    text = "1\n00:00:01,000 -> 00:00:02,000\nIt turns.\n\n2\n00:00:03,000 --> 00:00:04,000\nGood.\n"
    reading = parse_captions(text, where="x", is_vtt=False)
    assert [c.text for c in reading.cues] == ["Good."]
    assert [sentence_of(r) for r in reading.repairs] == [
        "line 2: “00:00:01,000 -> 00:00:02,000” belongs to no caption and is left out.",
        "line 3: “It turns.” belongs to no caption and is left out.",
    ]


def test_ten_thousand_spoiled_files_are_read_whole_or_refused_with_their_place() -> None:
    """No crash, and no word lost in silence: each word of a file is in a cue, in a repair, or no caption's at all."""
    dice = random.Random(1884)
    words = ["sea", "clock", "tide", "Grüße,", "lantern.", "mud", "quay", "wheel"]
    read = refused = named = 0
    for number in range(10_000):
        rows = [
            (dice.randint(150, 3000), dice.randint(0, 800), dice.choice(["p1", "p2"]), dice.choices(words, k=3))
            for _ in range(dice.randint(1, 5))
        ]
        kind = (".srt", ".vtt", ".csv", ".ctm", ".ttml")[number % 5]
        text = spoiled(written_transcript(project_of(rows), kind)[0].decode(), dice)
        try:
            if kind == ".csv":
                reading = parse_table(text, "file")
            elif kind == ".ttml":
                reading = parse_ttml(text.encode(), "file")
            elif kind == ".ctm":
                marked = parse_ctm(text, "file")
                kept = [line for line in text.splitlines() if line.strip() and not line.startswith(";;")]
                others = [int(r.figures.get("words", 0)) for r in marked.repairs]
                assert len(marked.words) + sum(others) == len(kept)
                read += 1
                continue
            else:
                reading = parse_captions(text, where="file", is_vtt=kind == ".vtt")
        except FormatError as error:
            named += str(error).startswith("file")
            refused += 1
            continue
        read += 1
        times = [c.start_us for c in reading.cues]
        assert times == sorted(times)
        assert all(c.end_us > c.start_us >= 0 and c.text.strip() for c in reading.cues)
        if kind in (".srt", ".vtt"):
            timed = len(re.findall(r"^\s*-?(?:\d{1,4}:)?\d{1,2}:\d\d[.,]\d{1,3}\s*-->", text, re.MULTILINE))
            gone = sum(r.code in ("caption-without-words", "caption-before", "twin-left-out") for r in reading.repairs)
            more = sum(int(r.figures["people"]) - 1 for r in reading.repairs if r.code == "caption-split")
            assert len(reading.cues) + gone == timed + more
    assert read > 3000
    assert named == refused > 1000


@pytest.mark.parametrize("unit", ["<v ", "<a", "{\\", "<00:01.000>x", "- a\n", "<v a>b", "<1", "Mira: "])
def test_a_caption_that_repeats_itself_without_end_is_read(unit: str) -> None:
    """What would take hours if the time grew with the square of the length."""
    body = unit * (200_000 // len(unit))
    for head in ("WEBVTT\n\n", "1\n"):
        reading = parse_captions(f"{head}00:00:00.000 --> 00:00:09.000\n{body}\n", where="x", is_vtt=len(head) > 2)
        assert reading.cues


@pytest.mark.parametrize(
    "unit", ["a<br/>", "<span>a</span> ", '<span begin="1s">a</span> ', '<span begin="1s">a b</span>c']
)
def test_a_paragraph_of_ttml_that_repeats_itself_without_end_is_read(unit: str) -> None:
    reading = parse_ttml(ttml(unit * 20_000).encode(), "x")
    assert reading.cues


def test_a_million_lines_are_read(tmp_path: Path) -> None:
    path = tmp_path / "long.srt"
    block = "{n}\n{h:02d}:{m:02d}:{s:02d},000 --> {h:02d}:{m:02d}:{s:02d},900\nIt turns.\n\n"
    rows = 250_000
    path.write_text("".join(block.format(n=n, h=n // 3600, m=n // 60 % 60, s=n % 60) for n in range(rows)))
    back = read_transcript(path)
    assert len(back.segments) == rows
    assert back.repairs == ()
