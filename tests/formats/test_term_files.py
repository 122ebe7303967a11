"""Terms as TBX-Basic and as tables: what is written keeps the rules and comes back, files of others are read."""

from __future__ import annotations

import random
from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from formats.tbx_rules import broken_rules
from zweistimme.formats.tbx import TbxCount, read_tbx, write_tbx
from zweistimme.formats.term_table import read_term_table, write_term_table
from zweistimme.project.errors import FormatError, ZweistimmeError
from zweistimme.project.term_edits import cleaned
from zweistimme.project.terms import PartOfSpeech, Rendering, Term

TERMS = [
    Term(
        "light",
        {"de-DE": Rendering("Feuer", ("Leuchtfeuer",), ("Licht", "Lampe"), "ˈfɔɪ̯ɐ"), "ja-JP": Rendering("灯台")},
        "the one on the quay & no lamp", PartOfSpeech.NOUN, pronunciation="laɪt",
    ),
    Term("Varnholm", part=PartOfSpeech.NAME, kept=True, pronunciation="ˈvɑːnhəʊm"),
    Term("bail <out>", {"ar-EG": Rendering("نزح الماء"), "es": Rendering("", (), ("pagar",))}, part=PartOfSpeech.VERB),
    Term("-ish", {"de-DE": Rendering("=so")}),
]  # fmt: skip
OLDER = """<?xml version="1.0"?><!DOCTYPE martif SYSTEM "TBXcoreStructV02.dtd">
<martif type="TBX-Basic" xml:lang="en"><text><body>
<termEntry id="c1"><descripGrp><descrip type="definition">a signal at night</descrip></descripGrp>
<langSet xml:lang="en"><tig><term>beacon</term><termNote type="partOfSpeech">noun</termNote></tig>
<ntig><termGrp><term>fire beacon</term></termGrp></ntig></langSet>
<langSet xml:lang="de_DE"><tig><term>Bake</term><termNote type="administrativeStatus">supersededTerm-admn-sts</termNote>
</tig><tig><term>Leuchtfeuer</term></tig></langSet></termEntry>
<termEntry id="c2"><langSet xml:lang="fr"><tig><term>phare</term></tig></langSet></termEntry></body></text></martif>"""
BY_ELEMENTS = """<tbx style="dct" type="TBX-Basic" xml:lang="en" xmlns="urn:iso:std:iso:30042:ed-2"
 xmlns:min="http://www.tbxinfo.net/ns/min"><text><body><conceptEntry id="a"><langSec xml:lang="en-US"><termSec>
 <term>rope</term><min:partOfSpeech>noun</min:partOfSpeech></termSec></langSec><langSec xml:lang="es"><termSec>
 <term>cabo</term><min:administrativeStatus>preferredTerm-admn-sts</min:administrativeStatus></termSec><termSec>
 <term>cuerda</term><min:administrativeStatus>deprecatedTerm-admn-sts</min:administrativeStatus></termSec></langSec>
 </conceptEntry></body></text></tbx>"""


def back_from(file: Path, source_tag: str = "en-GB") -> list[Term]:
    return [cleaned(term) for term in read_tbx(file, source_tag, TbxCount())]


def written(file: Path, terms: list[Term]) -> Path:
    with file.open("wb") as there:
        assert write_tbx(there, terms, "en-GB", "The Tide Clock") == len(terms)
    return file


def test_what_is_written_keeps_the_rules_and_comes_back_whole(tmp_path: Path) -> None:
    file = written(tmp_path / "a.tbx", TERMS)
    assert broken_rules(file) == []
    assert back_from(file) == TERMS


def test_the_validator_sees_what_is_broken(tmp_path: Path) -> None:
    text = written(tmp_path / "a.tbx", TERMS).read_text(encoding="utf-8")
    for old, new in (
        (">noun<", ">thing<"), ('id="c2"', 'id="c1"'), ('xml:lang="de-DE"', 'xml:lang="de_"'), ("TBX-Basic", "TBX-Own"),
        ("<term>Varnholm</term>", "<term/>"), ("<langSec", "<langSet"), ("partOfSpeech", "kindOfWord"),
    ):  # fmt: skip
        assert old in text
        file, end = tmp_path / "b.tbx", "</langSet" if "Set" in new else "</langSec"
        file.write_text(text.replace(old, new, 1).replace("</langSec", end, 1), "utf-8")
        assert broken_rules(file), new


def test_files_of_others_are_read_in_the_older_form_and_with_categories_as_elements(tmp_path: Path) -> None:
    (tmp_path / "old.tbx").write_text(OLDER, encoding="utf-8")
    count = TbxCount()
    first, second = read_tbx(tmp_path / "old.tbx", "en-GB", count)
    assert (first.source, second.source, first.part) == ("beacon", "fire beacon", PartOfSpeech.NOUN)
    assert first.note == "a signal at night"
    assert first.renderings == {"de-DE": Rendering("Leuchtfeuer", (), ("Bake",))}
    assert (count.concepts, count.left_out) == (2, 1)
    (tmp_path / "new.tbx").write_text(BY_ELEMENTS, encoding="utf-8")
    (rope,) = back_from(tmp_path / "new.tbx")
    assert (rope.source, rope.renderings) == ("rope", {"es": Rendering("cabo", (), ("cuerda",))})


@pytest.mark.parametrize(("text", "words"), [
    ("<tbx", "is not well-formed"),
    ("<tmx/>", "begins with <tmx>, TBX with <tbx>"),
    ('<!DOCTYPE tbx [<!ENTITY a "b">]><tbx>&a;</tbx>', "declares entities"),
])  # fmt: skip
def test_what_is_no_tbx_is_said(text: str, words: str, tmp_path: Path) -> None:
    (tmp_path / "x.tbx").write_text(text, encoding="utf-8")
    with pytest.raises(FormatError, match=words):
        back_from(tmp_path / "x.tbx")


def test_a_table_comes_back_whole_and_no_cell_is_a_formula() -> None:
    table = write_term_table(TERMS)
    assert table.splitlines()[0] == (
        "term,part,keep,note,pronunciation,ar-EG,de-DE,de-DE not,de-DE pronunciation,es,es not,ja-JP"
    )
    assert "'-ish" in table
    assert "'=so" in table
    assert [cleaned(term) for term in read_term_table(table, "a.csv")] == TERMS


@pytest.mark.parametrize(("text", "words"), [
    ("word,de\n", "names no column “term”"),
    ("term,zz-not-a-tag-at-all\nx,y", "is no column of terms"),
    ("term,de,de\nx,y,z", "or there twice"),
    ("term,part\nx,thing", "line 2: “thing” is no part of speech. There are noun, properNoun"),
    ("term,de\n,Feuer", "line 2: it has no term"),
    ('term,de\n"x,y', "this is not CSV"),
])  # fmt: skip
def test_what_is_no_table_of_terms_is_said_with_its_line(text: str, words: str) -> None:
    with pytest.raises(FormatError, match=words):
        list(read_term_table(text, "a.csv"))


def test_a_table_of_a_person_is_read_as_it_comes() -> None:
    (one, other) = read_term_table("Term;DE_de;Keep\nlight;Feuer | Leuchtfeuer;\nVarnholm;;x\n", "a.csv")
    assert cleaned(one).renderings == {"de-DE": Rendering("Feuer", ("Leuchtfeuer",))}
    assert (other.source, other.kept) == ("Varnholm", True)


def test_spoilt_files_are_read_or_said(tmp_path: Path) -> None:
    pick = random.Random(5)
    good = written(tmp_path / "a.tbx", TERMS).read_bytes(), write_term_table(TERMS).encode()
    for number in range(300):
        data = bytearray(good[number % 2])
        for _ in range(pick.randint(1, 12)):
            place = pick.randrange(len(data))
            data[place : place + pick.randint(0, 6)] = bytes(pick.randrange(256) for _ in range(pick.randint(0, 6)))
        try:
            if number % 2:
                list(read_term_table(data.decode("utf-8", "replace"), "a.csv"))
            else:
                (tmp_path / "b.tbx").write_bytes(data)
                back_from(tmp_path / "b.tbx")
        except ZweistimmeError:
            pass


words = st.text(
    st.characters(blacklist_categories=["Cs", "Cc", "Zl", "Zp"], blacklist_characters="|/\x85"), max_size=20
)


@settings(max_examples=60, deadline=None)
@given(st.lists(st.tuples(words.filter(str.strip), words, words, st.booleans()), max_size=5))
def test_whatever_terms_say_they_come_back(rows: list[tuple[str, str, str, bool]]) -> None:
    terms = [
        cleaned(
            Term(source, {"de-DE": Rendering(text, forbidden=(text + "x",) if text.strip() else ())}, note, kept=kept)
        )
        for source, text, note, kept in rows
    ]
    assert [cleaned(term) for term in read_term_table(write_term_table(terms), "a.csv")] == terms
