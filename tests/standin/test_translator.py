"""The bundled translator, grown up: agreement, terms, what is kept, three lengths."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from zweistimme.demo.script import LINES, SOURCE, TARGETS
from zweistimme.engines.protocol import Situation, Term, TranslationItem, TranslationRequest, Wordings
from zweistimme.standin.translator import translate

WORDS = ["the", "old", "clock", "gizmo", "sings", "1884", "Varnholm,", "and", "{x}", "blorp", "very", "now"]


def wordings(text: str, source: str, target: str, *terms: Term) -> Wordings:
    (answer,) = translate(TranslationRequest(source, target, (TranslationItem("a", text),), terms)).items
    return answer


@pytest.mark.parametrize(
    ("text", "target", "said"),
    [
        ("The old clock has new wheels.", "de-DE", "Die alte Uhr hat neue Räder."),
        ("I see the very old man with my small dog.", "de-DE", "Ich sehe den sehr alten Mann mit meinem kleinen Hund."),
        ("The children of the town sing in the dark garden.", "de-DE",
         "Die Kinder von der Stadt singen in dem dunklen Garten."),
        ("We open the doors again, please.", "de-DE", "Wir öffnen die Türen wieder, bitte."),
        ("Bring bread.", "de-DE", "Bringen Sie Brot."),
        ("These steps are wet and cold.", "es-ES", "Estos escalones están mojados y fríos."),
        ("The clock is old.", "es-ES", "El reloj es viejo."),
        ("The man is in the house.", "es-ES", "El hombre está en la casa."),
        ("We go because the clock is old.", "de-DE", "Wir gehen, weil die Uhr alt ist."),
        ("If the water is cold, we go.", "de-DE", "Wenn das Wasser kalt ist, gehen wir."),
        ("I know that the man sees the clock.", "de-DE", "Ich weiß, dass der Mann die Uhr sieht."),
        ("That man sees the clock.", "de-DE", "Jener Mann sieht die Uhr."),
        ("When is the clock old?", "de-DE", "Wann ist die Uhr alt?"),
        ("The old clock has new wheels.", "es-ES", "El reloj viejo tiene ruedas nuevas."),
        ("Where is the new bell?", "es-ES", "¿Dónde está la campana nueva?"),
    ],
)  # fmt: skip
def test_words_agree(text: str, target: str, said: str) -> None:
    assert wordings(text, "en-GB", target).texts[0] == said


@pytest.mark.parametrize(
    ("text", "source", "said"),
    [
        ("Die alte Uhr hat zwei neue Glocken.", "de-DE", "The old clock has two new bells."),
        ("Ich sah 1.200 Schiffe.", "de-DE", "I saw 1,200 ships."),
        ("El viejo reloj tiene ruedas nuevas.", "es-ES", "The old clock has new wheels."),
        ("¿Dónde está la puerta azul?", "es-ES", "Where is the blue door?"),
        ("Buenos días.", "es-ES", "Good morning."),
    ],
)
def test_the_way_back(text: str, source: str, said: str) -> None:
    assert wordings(text, source, "en-GB").texts[0] == said


def test_terms_are_obeyed_even_against_a_known_phrase() -> None:
    term = Term("lantern", "Sturmlaterne")
    assert "Sturmlaterne" in wordings("Hand me the lantern.", "en-GB", "de-DE", term).texts[0]
    assert (
        "Alder Quay" in wordings("I see Alder Quay now.", "en-GB", "de-DE", Term("Alder Quay", "Alder Quay")).texts[0]
    )


def test_what_is_no_language_is_kept() -> None:
    text = "The {name} has 36 steps, %s and <b>light</b>, see https://quay.example/a?b=1 or mail@quay.example."
    for target in TARGETS:
        said = wordings(text, "en-GB", target).texts[0]
        for kept in ("{name}", "36", "%s", "<b>", "</b>", "https://quay.example/a?b=1", "mail@quay.example"):
            assert kept in said


@given(st.lists(st.sampled_from(WORDS), min_size=1))
def test_no_word_is_ever_dropped_from_the_fullest_wording(words: list[str]) -> None:
    said = wordings(" ".join(words) + ".", "en-GB", "de-DE").texts[0]
    for unknown in ("gizmo", "blorp"):
        assert said.lower().count(unknown) == words.count(unknown)
    assert said.count("⟦") == said.count("⟧")
    for kept in ("1884", "{x}"):
        assert said.count(kept) == words.count(kept)


def test_wordings_of_three_lengths_with_how_long_they_take() -> None:
    for tag in TARGETS:
        request = TranslationRequest(SOURCE, tag, tuple(TranslationItem(str(k), x.text) for k, x in enumerate(LINES)))
        answers = translate(request).items
        assert sum(len(answer.wordings) >= 3 for answer in answers) >= 9
        for answer in answers:
            lengths = [len(text) for text in answer.texts]
            assert lengths == sorted(lengths, reverse=True)
            assert all(wording.spoken_us > 0 for wording in answer.wordings)
    made = wordings("The very old clock in the tower still turns.", "en-GB", "de-DE")
    assert len(made.texts) == 3
    assert [w.spoken_us for w in made.wordings] == sorted((w.spoken_us for w in made.wordings), reverse=True)


@pytest.mark.parametrize(("tag", "address", "wanted"), [
    ("de-DE", "", "Du siehst deine alte Uhr."),
    ("es-ES", "", "Tú ves tu reloj viejo."), ("de-DE", "formal", "Sie sehen Ihre alte Uhr."),
    ("es-ES", "formal", "Usted ve su reloj viejo."),
])  # fmt: skip
def test_somebody_is_addressed_as_was_said(tag: str, address: str, wanted: str) -> None:
    item = TranslationItem("a", "You see your old clock.", situation=Situation(address=address))
    assert translate(TranslationRequest("en-GB", tag, (item,))).items[0].texts[0] == wanted


def test_terms_are_obeyed_in_any_form() -> None:
    terms = (Term("beacon", "Leuchtfeuer"),)
    request = TranslationRequest("en-GB", "de-DE", (TranslationItem("a", "We see old beacons."),), terms)
    assert "Leuchtfeuer" in translate(request).items[0].texts[0]
