"""TMX 1.4b: what is written holds what the specification states, what is read is all there is, and spoilt files are
refused in a sentence."""

from __future__ import annotations

import io
import random
import re
from pathlib import Path

import pytest
from lxml import etree

from zweistimme.formats.tmx import TmxCount, read_tmx, write_tmx
from zweistimme.formats.xml import LANGUAGE
from zweistimme.project.errors import FormatError
from zweistimme.project.units import Unit

UNITS = [
    Unit("en-GB", "de-DE", "Fish & <chips>.", "Fisch & „Pommes“.", "c1", "Notices", "Ida", "2026-05-01T10:15:00+00:00"),
    Unit("en-GB", "ja-JP", "The tide is high.", "潮が高い。"),
    Unit("en-GB", "ar-EG", "Two\u2028lines.", "سطران."),
]  # fmt: skip
BY_HAND = """<?xml version="1.0" encoding="UTF-16"?>
<!DOCTYPE tmx SYSTEM "tmx14.dtd">
<tmx version="1.4">
 <header creationtool="Quill" creationtoolversion="1" datatype="html" segtype="sentence" adminlang="en-us"
  srclang="EN" o-tmf="Quill" creationdate="20260101T120000Z" creationid="Ned"><note>kept by hand</note></header>
 <body>
  <tu tuid="1"><note>a note</note><prop type="x-origin">Tide</prop>
   <tuv xml:lang="EN"><seg>Mind the <bpt i="1">&lt;b&gt;</bpt>steps<ept i="1">/b</ept>, <hi>please</hi>.</seg></tuv>
   <tuv xml:lang="DE" changedate="20260301T080000Z" changeid="Ida"><seg>Vorsicht, <ph>[br]</ph>Stufen.</seg></tuv>
   <tuv lang="fr_FR"><seg>Attention aux marches.</seg></tuv>
  </tu>
  <tu srclang="*all*"><tuv xml:lang="ES"><seg>Hola.</seg></tuv><tuv xml:lang="EN"><seg>Hello.</seg></tuv></tu>
  <tu><tuv xml:lang="EN"><seg>Alone.</seg></tuv></tu>
  <tu><tuv xml:lang="EN"><seg> </seg></tuv><tuv xml:lang="DE"><seg>Leer.</seg></tuv></tu>
 </body>
</tmx>"""


def written(units: list[Unit]) -> bytes:
    file = io.BytesIO()
    assert write_tmx(file, units, "0.1.0") == len(units)
    return file.getvalue()


def read(path: Path, data: bytes) -> tuple[list[Unit], TmxCount]:
    path.write_bytes(data)
    count = TmxCount()
    return list(read_tmx(path, count)), count


def faults_of(data: bytes) -> list[str]:
    """What of a document is not as TMX 1.4b states it (section 2, elements and attributes)."""
    root = etree.fromstring(data)
    faults = [] if (root.tag, root.get("version")) == ("tmx", "1.4") else ["no tmx of version 1.4"]
    if [child.tag for child in root] != ["header", "body"]:
        return [*faults, "not a header and a body"]
    required = {"creationtool", "creationtoolversion", "segtype", "o-tmf", "adminlang", "srclang", "datatype"}
    faults += [f"header without {name}" for name in required - set(root[0].attrib)]
    if root[0].get("segtype") not in ("block", "paragraph", "sentence", "phrase"):
        faults.append("segtype")
    for tu in root[1]:
        order = [child.tag for child in tu]
        if tu.tag != "tu" or order != sorted(order, key=["note", "prop", "tuv"].index) or "tuv" not in order:
            faults.append("order within a unit")
        tags = [tuv.get(LANGUAGE) for tuv in tu.iter("tuv")]
        if None in tags or len(set(tags)) != len(tags):
            faults.append("languages of a unit")
        if any([child.tag for child in tuv if child.tag not in ("note", "prop")] != ["seg"] for tuv in tu.iter("tuv")):
            faults.append("not one seg")
        date = tu.get("creationdate")
        if date is not None and not re.fullmatch(r"\d{8}T\d{6}Z", date):
            faults.append("date")
        faults += ["prop without type" for prop in tu.iter("prop") if not prop.get("type")]
    return faults


def test_what_is_written_is_tmx_and_comes_back_as_it_was(tmp_path: Path) -> None:
    data = written(UNITS)
    assert faults_of(data) == []
    assert faults_of(data.replace(b' datatype="plaintext"', b"").replace(b"T101500Z", b"")) == [
        "header without datatype", "date",
    ]  # fmt: skip
    back, count = read(tmp_path / "back.tmx", data)
    assert (count.units, count.left_out) == (3, 0)
    assert back[0] == UNITS[0]
    assert [one.target for one in back] == [one.target for one in UNITS]
    assert back[1].origin == "back.tmx", "where nobody said"
    assert back[2].source == "Two lines."


def test_signs_that_no_xml_has_are_left_out(tmp_path: Path) -> None:
    (back,), _ = read(tmp_path / "x.tmx", written([Unit("en", "de", "Bell \x07 rings\x00.", "Es läutet.\ud800")]))
    assert (back.source, back.target) == ("Bell rings.", "Es läutet.")


def test_a_file_after_the_specifications_own_examples_is_read(tmp_path: Path) -> None:
    back, count = read(tmp_path / "quill.tmx", BY_HAND.encode("utf-16"))
    assert [(one.source_tag, one.target_tag, one.source, one.target) for one in back] == [
        ("en", "de", "Mind the steps, please.", "Vorsicht, Stufen."),
        ("en", "fr-FR", "Mind the steps, please.", "Attention aux marches."),
        ("es", "en", "Hola.", "Hello."),
    ]
    assert (back[0].author, back[0].made, back[0].origin) == ("Ida", "2026-03-01T08:00:00+00:00", "Tide")
    assert (back[1].author, back[1].made) == ("Ned", "2026-01-01T12:00:00+00:00")
    assert count.left_out == 2


@pytest.mark.parametrize(("data", "words"), [
    (b"<tmx><body><tu>", "broken.tmx is not well-formed"),
    (b"<html/>", "begins with <html>, TMX with <tmx>"),
    (b"", "broken.tmx is not well-formed"),
    (b'<!DOCTYPE tmx [<!ENTITY a "aaaa">]><tmx><body/></tmx>', "declares entities of its own"),
])  # fmt: skip
def test_what_is_no_tmx_is_refused_in_a_sentence(tmp_path: Path, data: bytes, words: str) -> None:
    with pytest.raises(FormatError, match=words):
        read(tmp_path / "broken.tmx", data)


def test_spoilt_files_are_read_or_refused_and_never_crash(tmp_path: Path) -> None:
    dice, good = random.Random(7), written(UNITS)
    refused = 0
    for _ in range(1_500):
        data = bytearray(good)
        for _ in range(dice.randint(1, 6)):
            place = dice.randrange(len(data))
            kind = dice.random()
            if kind < 0.4:
                data[place] = dice.randrange(256)
            elif kind < 0.7:
                del data[place : place + dice.randint(1, 30)]
            else:
                data[place:place] = data[dice.randrange(len(data)) :][: dice.randint(1, 60)]
        try:
            back, count = read(tmp_path / "spoilt.tmx", bytes(data))
            assert count.units == len(back)
        except FormatError:
            refused += 1
    assert 0 < refused < 1_500
