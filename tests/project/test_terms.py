"""Terms: found in any form and script, merged without loss, pronounced, and what depends on them stale."""

from __future__ import annotations

from dataclasses import replace

import pytest

from helpers import project_with
from zweistimme.formats.ssml import spans_of, ssml_of
from zweistimme.project import cast_edits, edits, line_edits
from zweistimme.project.brief import Address
from zweistimme.project.conversation import address_at, listener_at, listeners, pairs_speaking, set_address, set_brief
from zweistimme.project.errors import EditError
from zweistimme.project.facts import said_in, take_fingerprint
from zweistimme.project.model import Project, Segment, Speaker, Take, TakeKind
from zweistimme.project.progress import Step, progress
from zweistimme.project.pronunciations import pronunciations_of
from zweistimme.project.speaker_edits import merge_speakers
from zweistimme.project.term_book import term_book
from zweistimme.project.term_edits import key_for, merged, put_term, put_terms, remove_terms, set_terms_said
from zweistimme.project.term_finding import Sought, TermFinder
from zweistimme.project.terms import PartOfSpeech, Rendering, Term, rendering_in


@pytest.mark.parametrize(("tag", "term", "text", "found"), [
    ("en-GB", "beacon", "Two beacons burn.", "beacons"),
    ("en-GB", "Varnholm Light", "The Varnholm Light's keeper", "Varnholm Light"),
    ("en-GB", "light", "A lightship.", ""),
    ("de-DE", "Leuchtfeuer", "Des Leuchtfeuers Schein", "Leuchtfeuers"),
    ("de-DE", "Haus", "Alle Häuser brennen.", "Häuser"),
    ("es-ES", "faro", "Los faros arden.", "faros"),
    ("fr-FR", "étoile", "Vers l’étoile du nord", "étoile"),
    ("ru-RU", "маяк", "Мы видели маяки.", "маяки"),
    ("uk-UA", "сигнал", "Без сигналу.", "сигналу"),
    ("pl-PL", "latarnia", "Widzę latarnię.", "latarnię"),
    ("sk-SK", "maják", "Dva majáky horia.", "majáky"),
    ("tr-TR", "fener", "Fenerler yanıyor.", "Fenerler"),
    ("fi-FI", "majakka", "Majakan valo", "Majakan"),
    ("ko-KR", "등대", "등대에서 보았다.", "등대에서"),
    ("ja-JP", "灯台", "古い灯台が光る。", "灯台"),
    ("zh-CN", "灯塔", "那座灯塔很旧。", "灯塔"),
    ("th-TH", "ประภาคาร", "เห็นประภาคารแล้ว", "ประภาคาร"),
    ("hi-IN", "नौका", "वह नौका में है।", "नौका"),
    ("ar-EG", "منارة", "رأيت منارة قديمة", "منارة"),
    ("el-GR", "φάρος", "Είδα τους φάρους.", "φάρους"),
])  # fmt: skip
def test_a_term_is_found_in_the_forms_its_language_shows(tag: str, term: str, text: str, found: str) -> None:
    places = TermFinder([Sought(term, "k")], tag).found(text)
    assert [text[one.start : one.end] for one in places] == ([found] if found else [])


def test_letters_put_together_otherwise_are_the_same_letters() -> None:
    (one,) = TermFinder([Sought("Ärmel", "k")], "de-DE").found("Die A\u0308rmel")
    assert (one.start, one.end) == (4, 10)


def test_the_longest_term_counts_names_need_their_capitals_and_short_ones_their_letters() -> None:
    sought = [Sought("light", "l"), Sought("light ship", "s"), Sought("Rose", "n", is_name=True), Sought("UN", "u")]
    finder = TermFinder(sought, "en-GB")
    assert [one.key for one in finder.found("The light-ship had a light, and Rose rose.")] == ["s", "l", "n"]
    assert [one.key for one in finder.found("An un-kind word for the UN")] == ["u"]


def with_terms(
    *terms: Term, source: str = "The light of Varnholm.", wording: str = "Das Feuer von Varnholm."
) -> Project:
    project = edits.add_version(replace(project_with([(1.0, 3.0, source)]), versions={}), "de-DE")
    project = line_edits.set_line_text(project, "de-DE", "s1", wording)
    for term in terms:
        project = put_term(project, key_for(project, term.source), term)
    return project


def test_terms_from_elsewhere_add_and_replace_nothing() -> None:
    project = with_terms(Term("light", {"de-DE": Rendering("Feuer")}, "on the quay"))
    taken = [
        Term("Light", {"de-DE": Rendering("Licht"), "es-ES": Rendering("faro")}, "lamp", PartOfSpeech.NOUN),
        Term("rope", {"de-DE": Rendering("Tau")}),
    ]
    project, new, more = merged(project, taken)
    assert (new, more) == (1, 1)
    light, rope = project.terms.values()
    assert light.renderings == {"de-DE": Rendering("Feuer", ("Licht",)), "es-ES": Rendering("faro")}
    assert (light.note, light.part, rope.source) == ("on the quay", PartOfSpeech.NOUN, "rope")
    assert merged(project, taken)[0] is project


def test_what_is_not_to_be_used_here_is_not_brought_in_as_what_may_be() -> None:
    project = with_terms(Term("light", {"de-DE": Rendering("Feuer", (), ("Licht",))}))
    taken, _, more = merged(project, [Term("light", {"de-DE": Rendering("Licht", ("Leuchte",), ("Feuer", "Lampe"))})])
    (light,) = taken.terms.values()
    assert light.renderings["de-DE"] == Rendering("Feuer", ("Leuchte",), ("Licht", "Lampe"))
    assert more == 1


def test_sentences_that_are_said_are_no_words_to_be_kept() -> None:
    said = set_terms_said(with_terms(), ["Alder Quay", "Where is the ferry?", "The sea walks up these steps"])
    assert [term.kept for term in said.terms.values()] == [True, False, False]


def test_homonyms_are_several_and_what_cannot_be_a_term_is_said() -> None:
    project = with_terms(Term("light", part=PartOfSpeech.NOUN), Term("light", part=PartOfSpeech.ADJECTIVE))
    assert len(project.terms) == 2
    assert len(remove_terms(project, list(project.terms)[:1]).terms) == 1
    for term, words in (
        (Term(" "), "has no words"),
        (Term("a", {"de": Rendering("b", forbidden=("B",))}), "to be used and not to be used"),
        (Term("x" * 501), "longer than 500"),
    ):
        with pytest.raises(EditError, match=words):
            put_terms(project, {"k": term})
    with pytest.raises(EditError, match="not in the project any more"):
        remove_terms(project, ["gone"])


def test_what_is_kept_stays_as_it_is_but_where_something_is_said() -> None:
    name = Term("Varnholm", {"ja-JP": Rendering("ヴァルンホルム")}, kept=True)
    assert [rendering_in(name, tag).text for tag in ("ja-JP", "de-DE")] == ["ヴァルンホルム", "Varnholm"]


def test_a_book_says_what_is_missing_and_what_is_not_to_be_used() -> None:
    terms = Term("light", {"de": Rendering("Feuer", ("Leuchtfeuer",), ("Licht",))}), Term("Varnholm", kept=True)
    book = term_book(with_terms(*terms), "de-DE")
    assert [said.term.source for said in book.said("The lights of Varnholm")] == ["light", "Varnholm"]
    assert not list(book.missing("The light", "Zwei Leuchtfeuern folgen"))
    assert [said.rendering.text for said in book.missing("The light", "Die Lampe")] == ["Feuer"]
    assert not list(book.missing("The light", "Das Licht"))
    (unwanted,) = book.unwanted("Das Licht.")
    assert (unwanted.word, unwanted.instead, unwanted.start) == ("Licht", "Feuer", 4)


def test_a_pronunciation_is_spoken_and_makes_stale_exactly_what_has_the_word() -> None:
    before = with_terms(Term("Varnholm", kept=True))
    after = with_terms(Term("Varnholm", kept=True, pronunciation="/ˈvaʁnhɔlm/"))
    version, line = after.versions["de-DE"], after.versions["de-DE"].lines["s1"]
    assert take_fingerprint(line, "alva", said_in(before, before.versions["de-DE"], line)) == take_fingerprint(
        line, "alva"
    )
    assert take_fingerprint(line, "alva", said_in(after, version, line)) != take_fingerprint(line, "alva")
    assert said_in(after, version, replace(line, text="Varnholms Feuer")) == ()
    ssml = ssml_of("(soft) In Varnholm & hier", "de-DE", pronunciations_of(after, "de-DE"))
    assert '<phoneme alphabet="ipa" ph="ˈvaʁnhɔlm">Varnholm</phoneme> &amp; hier' in ssml
    assert [span.phonemes for span in spans_of(ssml)] == ["", "ˈvaʁnhɔlm", ""]


def talk(*turns: tuple[str, float, float]) -> Project:
    people = {one: Speaker(one, one.upper()) for one in "abc"}
    segments = tuple(
        Segment(f"s{k}", who, round(start * 1e6), round(end * 1e6), "So.") for k, (who, start, end) in enumerate(turns)
    )
    return Project("talk", "en-GB", speakers=people, segments=segments)


def test_who_speaks_to_whom_is_who_answers() -> None:
    project = talk(("a", 0, 2), ("a", 2, 3), ("b", 3.5, 5), ("c", 20, 22), ("b", 30, 31), ("a", 32, 33))
    assert listeners(project) == {"s0": "b", "s1": "b", "s2": "a", "s4": "a", "s5": "b"}
    for place, segment in enumerate(project.segments):
        assert listener_at(project.segments, place) == listeners(project).get(segment.id, "")
    assert pairs_speaking(project)[0] == ("a", "b", 3)
    project = set_address(project, "a", "b", Address.FORMAL)
    assert address_at(project, project.segments[0]) is Address.FORMAL
    assert address_at(project, project.segments[2]) is Address.UNKNOWN
    assert address_at(merge_speakers(project, "a", "c"), project.segments[0]) is Address.UNKNOWN
    assert merge_speakers(project, "a", "c").brief.address == {"c>b": Address.FORMAL}
    assert set_address(project, "a", "b", Address.UNKNOWN).brief.address == {}
    for wrong, words in ((("a", "a"), "Nobody addresses themselves"), (("a", "x"), "no speaker x")):
        with pytest.raises(EditError, match=words):
            set_address(project, *wrong, Address.FORMAL)
    with pytest.raises(EditError, match="at most"):
        set_brief(project, subject="x" * 10_001)


def test_how_far_takes_are_follows_a_changed_pronunciation() -> None:
    project = cast_edits.cast_voice(with_terms(Term("Varnholm", kept=True)), "de-DE", "p1", "alva")
    line = project.versions["de-DE"].lines["s1"]
    take = Take("t", "s1", TakeKind.SYNTHESIZED, "take 1", "0" * 64, 48_000, 0, 48_000, take_fingerprint(line, "alva"))
    project = edits.add_take(project, "de-DE", take)
    (key,) = project.terms

    def stale(project: Project) -> int:
        return progress(project, project.versions["de-DE"])[Step.TAKES].stale

    assert stale(project) == 0
    other = put_term(project, key, Term("Varnholm", kept=True, pronunciation="x"))
    assert stale(other) == 1
    assert stale(put_term(other, key, Term("Varnholm", kept=True))) == 0
