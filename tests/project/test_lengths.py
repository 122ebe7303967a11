"""Syllables, languages and times."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from zweistimme.project.errors import EditError
from zweistimme.project.intervals import overlap_us
from zweistimme.project.languages import english_name, language_tag, own_name, track_code
from zweistimme.project.times import RATE, clock, samples_to_us, us_to_samples
from zweistimme.project.writing import rate_for, spoken_us, syllables
from zweistimme.project.writing.numbers import said_number


@pytest.mark.parametrize(
    ("text", "tag", "count"),
    [
        ("Dann sitzt die Fähre im Schlick fest", "de-DE", 8),
        ("Gib mir die Laterne.", "de-DE", 6),
        ("the wheel", "en-GB", 2),
        ("blames", "en-GB", 1),
        ("Dame el farol.", "es-ES", 5),
        ("1884", "de-DE", 8),
        ("(whispering) Hush", "en-GB", 1),
        ("", "en-GB", 0),
    ],
)
def test_syllables(text: str, tag: str, count: int) -> None:
    assert abs(syllables(text, tag) - count) <= (1 if count > 4 else 0)


def test_longer_texts_take_longer_and_marks_take_breath() -> None:
    assert spoken_us("Eins zwei drei vier", "de-DE") > spoken_us("Eins zwei", "de-DE")
    assert spoken_us("Eins, zwei", "de-DE") - spoken_us("Eins zwei", "de-DE") == 200_000
    assert rate_for("es-MX") > rate_for("de-AT")
    assert rate_for("xx") > 0


def test_tags_are_put_in_standard_form_or_refused() -> None:
    assert language_tag("pt-br") == "pt-BR"
    assert language_tag("zh-hans") == "zh-Hans"
    for wrong in ("", "english please", "de_DE_x!", "12"):
        with pytest.raises(EditError, match="not a language tag"):
            language_tag(wrong)


def test_languages_have_names() -> None:
    assert english_name("de-DE") == "German (Germany)"
    assert own_name("fr-FR", region=False) == "Français"
    assert [track_code(tag) for tag in ("en-GB", "de-DE", "fr-FR", "es-ES")] == ["eng", "ger", "fre", "spa"]


@given(st.integers(0, 10**12))
def test_samples_and_microseconds_do_not_drift(samples: int) -> None:
    assert us_to_samples(samples_to_us(samples)) == samples
    assert abs(samples_to_us(samples) * RATE - samples * 1_000_000) <= RATE


@given(st.integers(-(10**11), 10**11))
def test_clocks_are_read_as_written(time_us: int) -> None:
    text = clock(time_us, 3)
    parts = [float(part) for part in text.lstrip("-").split(":")]
    seconds = sum(part * 60**place for place, part in enumerate(reversed(parts)))
    assert abs(seconds - abs(time_us) / 1e6) < 0.00051
    assert text.startswith("-") == (time_us < 0)


@given(st.integers(0, 99), st.integers(1, 99), st.integers(0, 99), st.integers(1, 99))
def test_overlap_is_shared_time(a: int, b: int, c: int, d: int) -> None:
    first, second = (a, a + b), (c, c + d)
    shared = len(set(range(*first)) & set(range(*second)))
    assert overlap_us(first, second) == overlap_us(second, first) == shared


def test_any_number_in_any_language_is_words_or_stays_as_it_is() -> None:
    """The library of number words has languages of many hands; a fault of one is no defect, and none takes long."""
    from num2words import CONVERTER_CLASSES

    for tag in CONVERTER_CLASSES:
        for digits in ("0", "7", "1998", "2024", "123456789", "999999999999999", "1" * 40, "3,5", "1.", ""):
            assert said_number(digits, tag) or digits in ("", "1.")
