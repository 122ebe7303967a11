"""Checks of wordings: what they notice in several languages and scripts, and what is right as it is and left alone."""

from __future__ import annotations

from dataclasses import replace

import pytest

from data.eighteen_lines import LINES
from helpers import project_with
from zweistimme.project import edits, line_edits
from zweistimme.project.brief import Address
from zweistimme.project.checks import EVERYWHERE, let_be, notice_again
from zweistimme.project.conversation import set_address
from zweistimme.project.errors import EditError
from zweistimme.project.model import Project, Speaker
from zweistimme.project.term_edits import put_terms, set_terms_said
from zweistimme.project.terms import Rendering, Term
from zweistimme.sentences import KINDS, sentence_of
from zweistimme.sentences.english_checks import CHECKS
from zweistimme.stages.check import Checker, Noticed
from zweistimme.stages.translate.remembering import context_of, contexts

LENGTHS = {"length-over", "length-under"}


def with_line(source: str, text: str, tag: str, source_tag: str = "en-GB") -> Project:
    project = edits.add_version(replace(project_with([(1.0, 9.0, source)]), source_tag=source_tag, versions={}), tag)
    return line_edits.set_line_text(project, tag, "s1", text)


def noticed(source: str, text: str, tag: str, source_tag: str = "en-GB") -> list[Noticed]:
    """What is noticed of a line, but for its length."""
    project = with_line(source, text, tag, source_tag)
    return [one for one in Checker().line(project, tag, project.segments[0]) if one.code not in LENGTHS]


def codes(source: str, text: str, tag: str, source_tag: str = "en-GB") -> list[str]:
    return [one.code for one in noticed(source, text, tag, source_tag)]


@pytest.mark.parametrize(("source", "text", "tag"), [
    ("It has 36 teeth.", "Es hat 36 Zähne.", "de-DE"),
    ("It has 36 teeth.", "Es hat sechsunddreißig Zähne.", "de-DE"),
    ("It has thirty-six teeth.", "Es hat 36 Zähne.", "de-DE"),
    ("It costs 1,500.25.", "Es kostet 1.500,25.", "de-DE"),
    ("At 10:30, please.", "Um 10.30 Uhr, bitte.", "de-DE"),
    ("At 10:30.", "في الساعة ١٠:٣٠.", "ar-EG"),
    ("The tide is high?", "潮が高い？", "ja-JP"),
    ("Where is it?", "أين هو؟", "ar-EG"),
    ("Where is it?", "Πού είναι;", "el-GR"),
    ("Is it you?", "¿Eres tú?", "es-ES"),
    ("He said “yes”.", "Er sagte „ja“.", "de-DE"),
    ("He said “yes”.", "Il a dit «\u202foui\u202f».", "fr-FR"),
    ("He said “yes”.", "彼は「はい」と言った。", "ja-JP"),
    ("Really?", "Vraiment\u202f?", "fr-FR"),
    ("Look, this: a ship!", "Regarde, ceci\u00a0: un navire\u202f!", "fr-FR"),
    ("I know that that is so.", "Ich weiß, dass das das ist.", "de-DE"),
    ("Very, very good.", "Sehr sehr gut.", "de-DE"),
    ("The people.", "Orang orang itu.", "id-ID"),
    ("Juna and Mira", "Juna und Mira", "de-DE"),
    ("Juna Mira!", "Juna Mira!", "de-DE"),
    ("Come, we go home. It is late.", "Komm, wir gehen heim, es ist spät.", "de-DE"),
    ("First a) then b).", "Erst a) dann b).", "de-DE"),
    ("This winter, for the first time.", "एक सौ चालीस साल में पहली बार, वार्नहोम में।", "hi-IN"),
    ("Really?", "Vraiment ?", "fr-FR"),
    ("Go home now.", "ไปบ้านเดี๋ยวนี้", "th-TH"),
    ("Press {key} now.", "Drück jetzt {key}.", "de-DE"),
])  # fmt: skip
def test_what_is_right_is_left_alone(source: str, text: str, tag: str) -> None:
    assert codes(source, text, tag) == []


@pytest.mark.parametrize(("source", "text", "tag", "wanted"), [
    ("It has 36 teeth.", "Es hat Zähne.", "de-DE", ["number-missing"]),
    ("It has teeth.", "Es hat 36 Zähne.", "de-DE", ["number-added"]),
    ("From 7 to 7.", "Von 7 an.", "de-DE", ["number-missing"]),
    ("It is 3.5 metres.", "Es sind 35 Meter.", "de-DE", ["number-missing", "number-added"]),
    ("It is 3.5 metres.", "Es sind 3,5 Meter.", "de-DE", []),
    ("It costs 2.50 euros.", "Es kostet 250 Euro.", "de-DE", ["number-missing", "number-added"]),
    ("It costs 2.50 euros.", "Es kostet 2,5 Euro.", "de-DE", []),
    ("1,500 came.", "1.500 kamen.", "de-DE", []),
    ("1,500 came.", "1,5 kamen.", "de-DE", ["number-missing", "number-added"]),
    ("At 9:30 pm it rings.", "Um 21.30 Uhr läutet es.", "de-DE", []),
    ("At 9 p.m. it rings.", "Um 21 Uhr läutet es.", "de-DE", []),
    ("At 9:30 pm it rings.", "Um 22.30 Uhr läutet es.", "de-DE", ["number-missing", "number-added"]),
    ("On 12 May 1999 it sank.", "Am 12.5.1999 sank es.", "de-DE", []),
    ("It holds 12,50,000 litres.", "Sie fasst 1.250.000 Liter.", "de-DE", []),
    ("Press {key} now.", "Drück jetzt {taste}.", "de-DE", ["placeholder-missing", "placeholder-added"]),
    ("It is <b>cold</b>.", "Es ist <b>kalt.", "de-DE", ["placeholder-missing"]),
    ("Is it cold?", "Es ist kalt.", "de-DE", ["question-lost"]),
    ("It is cold.", "Ist es kalt?", "de-DE", ["question-added"]),
    ("Is it cold?", "Hace frío?", "es-ES", ["question-unopened"]),
    ("Bring two ropes, quickly.", "Bring two ropes, quickly.", "de-DE", ["untranslated"]),
    ("Hand me the old lantern.", "Give me the old lantern over there, my friend.", "de-DE", ["other-language"]),
    ("Wait here (outside).", "Warte hier (draußen.", "de-DE", ["bracket-alone"]),
    ("One. Two. Three. Four.", "Eins, zwei, drei, vier.", "de-DE", ["sentences-lost"]),
    ("He said “yes”.", "Er sagte „ja.", "de-DE", ["quotes-open"]),
])  # fmt: skip
def test_what_is_wrong_is_noticed(source: str, text: str, tag: str, wanted: list[str]) -> None:
    found = noticed(source, text, tag)
    assert [one.code for one in found] == wanted
    assert all(sentence_of(one.finding) != one.code for one in found)
    assert all(one.start == -1 or 0 <= one.start < one.end <= len(text) for one in found)


@pytest.mark.parametrize(("source", "text", "tag", "mended"), [
    ("It is cold.", "Es ist ist kalt.", "de-DE", "Es ist kalt."),
    ("It is cold.", "Es ist kalt", "de-DE", "Es ist kalt."),
    ("Cold!", "Kalt", "de-DE", "Kalt!"),
    ("It is cold.", "寒い", "ja-JP", "寒い。"),
    ("It is cold.", "Es ist kalt .", "de-DE", "Es ist kalt."),
    ("Really?", "Vraiment?", "fr-FR", "Vraiment\u202f?"),
    ("This: a ship.", "Ceci: un navire.", "fr-FR", "Ceci\u00a0: un navire."),
    ("It is cold.", "वहाँ वहाँ ठंड है।", "hi-IN", "वहाँ ठंड है।"),
    ("He said “yes”.", 'Er sagte "ja".', "de-DE", "Er sagte „ja“."),
    ("He said “yes”.", "Er sagte “ja”.", "de-DE", "Er sagte „ja“."),
    ("He said “yes”.", 'Il a dit " oui ".', "fr-FR", "Il a dit «\u202foui\u202f»."),
    ("“Yes”, he said, “I know”.", '"Sí", dijo, "lo sé".', "es-ES", "«Sí», dijo, «lo sé»."),
])  # fmt: skip
def test_what_a_key_mends_is_right_then(source: str, text: str, tag: str, mended: str) -> None:
    (found,) = noticed(source, text, tag)
    assert found.mended == mended
    assert codes(source, mended, tag) == []


def test_terms_are_looked_for_as_they_are_written() -> None:
    project = set_terms_said(with_line("The bell of Varnholm.", "Die Glocke.", "de-DE"), ["Varnholm", "bel"])
    assert [one.code for one in Checker().line(project, "de-DE", project.segments[0])][:1] == ["term-missing"]
    right = line_edits.set_line_text(project, "de-DE", "s1", "Varnholms Glocke.")
    assert "term-missing" not in [one.code for one in Checker().line(right, "de-DE", right.segments[0])]


def test_lengths_go_by_what_tempo_is_permitted() -> None:
    text = "Das ist ein wirklich sehr langer Satz, den niemand in einer Sekunde sagen kann, und er geht noch weiter."
    project = line_edits.set_line_text(
        project_with([(1.0, 2.0, "Yes."), (9.0, 15.0, "Wait. Wait.")]), "de-DE", "s1", text
    )
    project = line_edits.set_line_text(project, "de-DE", "s2", "Halt.")
    found = Checker().version(project, "de-DE")
    assert [one.code for one in found["s1"]] == ["length-over"]
    assert "too many for any permitted tempo" in sentence_of(found["s1"][0].finding)
    assert "length-under" in [one.code for one in found["s2"]]


def test_lines_are_compared_with_each_other() -> None:
    rows = [
        (k * 4.0 + 1, k * 4.0 + 3, text)
        for k, text in enumerate(["Hold the line!", "hold the line!", "Let it go now."])
    ]
    project = project_with(rows)
    for key, text in (("s1", "Halt die Leine!"), ("s2", "Bleib dran!"), ("s3", "Halt die Leine!")):
        project = line_edits.set_line_text(project, "de-DE", key, text)
    found = {
        key: [one for one in several if one.code.endswith("-differ")]
        for key, several in Checker().version(project, "de-DE").items()
    }
    assert [one.code for one in found["s2"]] == ["wordings-differ"]
    assert found["s2"][0].mended == "Halt die Leine!"
    assert [one.code for one in found["s3"]] == ["originals-differ"]


def test_what_is_let_be_is_not_noticed_and_its_reason_is_kept() -> None:
    project = with_line("It has 36 teeth.", "Es hat Zähne", "de-DE")
    for segment_id in ("s1", EVERYWHERE):
        kept = let_be(project, "de-DE", segment_id, "number-missing", " he counts them later ")
        assert "number-missing" not in [one.code for one in Checker().version(kept, "de-DE")["s1"]]
        assert list(kept.versions["de-DE"].let_be.values()) == ["he counts them later"]
        again = notice_again(kept, "de-DE", segment_id, "number-missing")
        assert "number-missing" in [one.code for one in Checker().version(again, "de-DE")["s1"]]
    with pytest.raises(EditError, match="was not let be"):
        notice_again(project, "de-DE", "s1", "number-missing")
    with pytest.raises(EditError, match="1,000 letters"):
        let_be(project, "de-DE", "s1", "number-missing", "x" * 1_001)


def test_every_kind_has_a_name_and_a_sentence() -> None:
    assert set(KINDS) == set(CHECKS)


def test_one_context_is_that_of_all() -> None:
    project = project_with(
        [(1.0, 2.0, "One."), (2.0, 3.0, " "), (3.0, 4.0, "Two."), (3.0, 5.0, "Three."), (6.0, 7.0, "Four.")]
    )
    assert {s.id: context_of(project, s) for s in project.segments if s.text.strip()} == contexts(project)


@pytest.mark.parametrize("tag", list(LINES))
def test_good_translations_of_eleven_languages_are_left_alone(tag: str) -> None:
    """And every line that claims to be in another of them is noticed, but for what is too short to tell."""
    said = LINES["ja-JP" if tag != "ja-JP" else "fr-FR"]
    source_tag = "ja-JP" if tag != "ja-JP" else "fr-FR"
    rows = [(k * 9.0 + 1, k * 9.0 + 9, text) for k, text in enumerate(said)]
    project = edits.add_version(replace(project_with(rows), source_tag=source_tag, versions={}), tag)
    for segment, text in zip(project.segments, LINES[tag], strict=True):
        project = line_edits.set_line_text(project, tag, segment.id, text)
    found = [one.code for several in Checker().version(project, tag).values() for one in several]
    assert set(found) <= LENGTHS
    other = "he-IL" if tag != "he-IL" else "tr-TR"
    wrong = project
    for segment, text in zip(project.segments, LINES[other], strict=True):
        wrong = line_edits.set_line_text(wrong, tag, segment.id, text)
    found = [one.code for several in Checker().version(wrong, tag).values() for one in several]
    assert found.count("other-language") >= sum(sum(map(str.isalpha, text)) >= 20 for text in LINES[other])


def with_terms(project: Project, *terms: Term) -> Project:
    return put_terms(project, {f"k{place}": term for place, term in enumerate(terms)})


def test_terms_are_looked_for_in_any_form_and_words_that_are_not_to_be_used_are_mended() -> None:
    light = Term("light", {"de": Rendering("Leuchtfeuer", ("Feuer",), ("Lampe",))})
    for text, wanted in (
        ("Alle Leuchtfeuern brennen hier.", []), ("Das Hafenfeuer brennt hier.", []),
        ("Das Licht brennt hier.", ["term-missing"]),
        ("Die Lampe brennt hier.", ["word-instead"]), ("Die Lampen brennen hier.", ["word-instead"]),
    ):  # fmt: skip
        project = with_terms(with_line("The lights are burning here.", text, "de-DE"), light)
        found = [one for one in Checker().line(project, "de-DE", project.segments[0]) if one.code not in LENGTHS]
        assert [one.code for one in found] == wanted, text
        if "Lampe " in text:
            assert found[0].mended == "Die Leuchtfeuer brennt hier."
        elif "Lampen" in text:
            assert found[0].mended is None
            assert text[found[0].start : found[0].end] == "Lampen"
    banned = Term("sailor", {"es": Rendering(forbidden=("marinerito",))})
    project = with_terms(with_line("The sailor.", "El marinerito.", "es-ES"), banned)
    assert "word-forbidden" in [one.code for one in Checker().line(project, "es-ES", project.segments[0])]


def dialogue(tag: str, *lines: str) -> Project:
    rows = [(2.0 * k, 2.0 * k + 1.5, f"Line {k}, and you?") for k in range(len(lines))]
    project = edits.add_version(replace(project_with(rows), versions={}), tag)
    people = {"p1": Speaker("p1", "Ida"), "p2": Speaker("p2", "Tom")}
    segments = tuple(replace(s, speaker_id=f"p{1 + k % 2}") for k, s in enumerate(project.segments))
    project = replace(project, speakers=people, segments=segments)
    for segment, text in zip(project.segments, lines, strict=True):
        project = line_edits.set_line_text(project, tag, segment.id, text)
    return project


@pytest.mark.parametrize(("tag", "formal", "familiar"), [
    ("de-DE", "Wo sind Sie?", "Wo bist du?"), ("es-ES", "¿Dónde está usted?", "¿Dónde estás tú?"),
    ("fr-FR", "Où êtes-vous ?", "Où es-tu ?"), ("nl-NL", "Waar bent u?", "Waar ben jij?"),
    ("pl-PL", "Gdzie jest Pan?", "Gdzie ty jesteś?"), ("ru-RU", "А где же вы?", "А где же ты?"),
    ("pt-BR", "Onde está o senhor?", "Onde é que tu estás?"), ("it-IT", "E dov’è Lei?", "E dove sei tu?"),
    ("hi-IN", "आप कहाँ हैं?", "तू कहाँ है?"),
])  # fmt: skip
def test_what_was_agreed_of_an_address_is_looked_after(tag: str, formal: str, familiar: str) -> None:
    project = dialogue(tag, formal, familiar)
    first, second = project.segments
    for how, wrong in ((Address.FORMAL, 1), (Address.FAMILIAR, 0)):
        agreed = set_address(set_address(project, "p1", "p2", how), "p2", "p1", how)
        checker = Checker()
        kinds = [[one.code for one in checker.line(agreed, tag, segment)] for segment in (first, second)]
        assert f"address-not-{how.value}" in kinds[wrong]
        assert f"address-not-{how.value}" not in kinds[1 - wrong]
        assert not {"address-mixed"} & {one.code for found in checker.version(agreed, tag).values() for one in found}


def test_one_line_that_addresses_somebody_otherwise_is_noticed_and_words_that_may_mean_more_are_not() -> None:
    formal = ["Und wo sind Sie?", "Hier.", "Und was tun Sie?", "Nichts.", "Und wohin gehen Sie?", "Heim."]
    project = dialogue("de-DE", *formal, "Kommst du?", "Ja.")
    assert mixed(project, "de-DE") == ["s7"]
    several = "Es-tu là ?", "Oui.", "Tu viens ?", "Oui.", "Et toi ?", "Oui.", "Vous deux, venez !", "Bon."
    assert not mixed(dialogue("fr-FR", *several), "fr-FR")
    they = "Du da!", "Ja.", "Bist du es?", "Ja.", "Und du?", "Ja.", "Da gehen sie. Sie gehen.", "Ja."
    assert not mixed(dialogue("de-DE", *they), "de-DE")


def mixed(project: Project, tag: str) -> list[str]:
    found = Checker().version(project, tag)
    return [key for key, ones in found.items() if "address-mixed" in [one.code for one in ones]]


@pytest.mark.parametrize(("source", "text", "source_tag", "tag", "wanted"), [
    ("On 3/4/2024 it sank.", "Am 4.3.2024 sank es.", "en-US", "de-DE", []),
    ("On 3/4/2024 it sank.", "Am 3.4.2024 sank es.", "en-US", "de-DE", ["date-other"]),
    ("On 3/4/2024 it sank.", "Am 3.4.2024 sank es.", "en-GB", "de-DE", []),
    ("On 2024-03-04 it sank.", "Le 04/03/2024, il coula.", "en-GB", "fr-FR", []),
    ("On the 3rd of May 1884 it rang.", "Am 3. Mai 1884 läutete sie.", "en-GB", "de-DE", []),
    ("On the 3rd of May 1884 it rang.", "Am 3. Juni 1884 läutete sie.", "en-GB", "de-DE", ["date-other"]),
    ("May 3, 1884 was cold.", "El 3 de mayo de 1884 hacía frío.", "en-US", "es-ES", []),
    ("May 3 was cold.", "3 мая было холодно.", "en-US", "ru-RU", []),
    ("May I have 3 of them?", "Kann ich 3 davon haben?", "en-GB", "de-DE", []),
    ("It is 5 km away.", "Es ist 5 Kilometer entfernt.", "en-GB", "de-DE", []),
    ("It is 5 km away.", "Es ist 5 Meilen entfernt.", "en-GB", "de-DE", ["unit-other"]),
    ("It is 5 miles away.", "Es ist 5 km entfernt.", "en-GB", "de-DE", ["unit-other"]),
    ("It weighs 20 pounds.", "Pèse 20 kilogrammes.", "en-GB", "fr-FR", ["unit-other"]),
    ("It weighs 20 kg.", "Pèse 20 kilogrammes.", "en-GB", "fr-FR", []),
    ("In 20 minutes.", "20 分後。", "en-GB", "ja-JP", []),
    ("Wait 20 hours.", "Espera 20 minutos.", "en-GB", "es-ES", ["unit-other"]),
    ("It has 36 teeth.", "Es hat 36 Zähne.", "en-GB", "xx", []),
])  # fmt: skip
def test_days_and_units_are_the_same_on_both_sides(
    source: str, text: str, source_tag: str, tag: str, wanted: list[str]
) -> None:
    project = with_line(source, text, tag if tag != "xx" else "tlh", source_tag)
    found = Checker().line(project, next(iter(project.versions)), project.segments[0])
    assert [one.code for one in found if one.code in ("date-other", "unit-other")] == wanted
