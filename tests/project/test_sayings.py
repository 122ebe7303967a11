"""How words are said: a project's dictionary, what it makes stale, and lexicons in PLS."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import pytest

from helpers import project_with
from zweistimme.formats.pls import read_pls, written_pls
from zweistimme.formats.ssml import plain_text, spans_of, ssml_of
from zweistimme.project.access import put_line
from zweistimme.project.errors import EditError, FormatError
from zweistimme.project.facts import take_is_stale
from zweistimme.project.model import Project
from zweistimme.project.pronunciations import pronunciations_of
from zweistimme.project.saying_edits import put_sayings, remove_sayings
from zweistimme.project.sayings import Saying
from zweistimme.project.terms import Rendering, Term
from zweistimme.stages.voice.own_sayings import keep_own, own_sayings, usable_here

TAG = "de-DE"


def two_lines() -> Project:
    project = project_with([(1.0, 2.0, "One."), (3.0, 4.0, "Two.")], takes=[1.0, 1.0])
    lines = project.versions[TAG].lines
    first, second = (replace(lines[key], text=text) for key, text in (("s1", "Joe kommt."), ("s2", "Sie geht.")))
    return put_line(put_line(project, TAG, first), TAG, second)


def stale(project: Project, before: Project) -> list[str]:
    """The lines whose takes would be made of something else than before."""
    said = [pronunciations_of(one, TAG).of for one in (project, before)]
    return [key for key, line in project.versions[TAG].lines.items() if said[0](line.text) != said[1](line.text)]


def test_exactly_what_contains_the_word_is_stale() -> None:
    before = two_lines()
    after = put_sayings(before, [Saying("Joe", "de", like="Dscho")])
    assert stale(after, before) == ["s1"]
    segment, version = after.segments[0], after.versions[TAG]
    assert take_is_stale(after, version, segment, version.lines["s1"], version.takes["t0"])
    assert stale(remove_sayings(after, ["de Joe"]), before) == []
    assert stale(put_sayings(before, [Saying("Jo", "de", like="Dscho")]), before) == []


def test_it_is_sent_as_ssml_and_spoken_so() -> None:
    said = pronunciations_of(
        put_sayings(two_lines(), [Saying("Joe", "de", like="Dscho & Co"), Saying("kommt", "de-DE", ipa="/kɔmt/")]), TAG
    )
    ssml = ssml_of("Joe kommt.", TAG, said)
    assert '<sub alias="Dscho &amp; Co">Joe</sub>' in ssml
    assert [(span.text, span.phonemes) for span in spans_of(ssml)][:2] == [("Dscho & Co", ""), ("kommt", "kɔmt")]
    assert plain_text(ssml) == "Dscho & Co kommt."


def test_a_region_comes_before_its_language_and_both_before_terms() -> None:
    project = put_sayings(two_lines(), [Saying("Joe", "de", like="A"), Saying("Joe", "de-DE", like="B")])
    project = replace(project, terms={"k": Term("Joe", {"de": Rendering("Joe", pronunciation="c")})})
    assert pronunciations_of(project, TAG).of("Joe") == (("Joe", "=B"),)
    assert pronunciations_of(project, "de-AT").of("Joe") == (("Joe", "=A"),)
    assert pronunciations_of(remove_sayings(project, ["de Joe", "de-DE Joe"]), TAG).of("Joe") == (("Joe", "c"),)
    assert pronunciations_of(project, "fr-FR").of("Joe") == ()


@pytest.mark.parametrize(
    "bad", [Saying("", "de", ipa="a"), Saying("a", "de"), Saying("a", "de", "b", "c"), Saying("x" * 300, "de", "b")]
)
def test_what_says_nothing_or_two_things_is_refused(bad: Saying) -> None:
    with pytest.raises(EditError):
        put_sayings(two_lines(), [bad])


def test_words_without_spaces_between_them_are_found() -> None:
    project = put_sayings(two_lines(), [Saying("東京", "ja", like="とうきょう")])
    assert pronunciations_of(project, "ja-JP").of("私は東京へ行く") == (("東京", "=とうきょう"),)


def test_a_lexicon_goes_out_and_comes_back(tmp_path: Path) -> None:
    file = tmp_path / "a.pls"
    sayings = [
        Saying("Joe", "de-DE", like="Dscho"),
        Saying("Łódź", "de-DE", ipa="wut͡ɕ"),
        Saying("<&>", "de-DE", ipa="a"),
    ]
    file.write_bytes(written_pls(sayings, "de-DE"))
    assert read_pls(file) == (sayings, ())


def test_lexicons_of_others_are_read(tmp_path: Path) -> None:
    file = tmp_path / "b.pls"
    file.write_text(
        '<?xml version="1.0"?><lexicon version="1.0" alphabet="x-sampa" xml:lang="en-GB"'
        ' xmlns="http://www.w3.org/2005/01/pronunciation-lexicon"><!-- a note -->'
        "<lexeme><grapheme>harbour</grapheme><grapheme>harbor</grapheme><phoneme>hA:b@</phoneme></lexeme>"
        '<lexeme><grapheme>x</grapheme><phoneme alphabet="sounds">y</phoneme></lexeme>'
        "<lexeme><grapheme>W3C</grapheme><alias>W three C</alias></lexeme></lexicon>",
        encoding="utf-8",
    )
    found, odd = read_pls(file)
    assert [(one.word, one.how) for one in found] == [("harbour", "hɑːbə"), ("harbor", "hɑːbə"), ("W3C", "=W three C")]
    assert odd[0].figures == {"left_out": 1}


@pytest.mark.parametrize(
    "text", ["", "<lexicon/>", "<html/>", "<!DOCTYPE x [<!ENTITY a 'b'>]><lexicon xml:lang='de'/>"]
)
def test_what_is_no_lexicon_is_refused_in_a_sentence(tmp_path: Path, text: str) -> None:
    file = tmp_path / "c.pls"
    file.write_text(text, encoding="utf-8")
    with pytest.raises(FormatError):
        read_pls(file)


def test_one_s_own_lexicon_is_offered_where_its_words_occur() -> None:
    project = two_lines()
    assert own_sayings(TAG) == []
    keep_own([Saying("Joe", "de", like="Dscho"), Saying("Nie", "de", like="Ni")], TAG)
    keep_own([Saying("Joe", "de", like="Jo")], TAG)
    assert {one.word: one.like for one in own_sayings(TAG)} == {"Joe": "Jo", "Nie": "Ni"}
    assert [one.word for one in usable_here(project, TAG)] == ["Joe"]
    assert usable_here(put_sayings(project, [Saying("Joe", "de", like="X")]), TAG) == []
