"""Numbers are read as their language writes them."""

from __future__ import annotations

from decimal import Decimal

import pytest
from babel.numbers import format_decimal

from zweistimme.project.writing.number_reading import locale_of, read_numbers, value_of

TAGS = (
    "en-GB", "de-DE", "de-CH", "fr-FR", "es-ES", "it-IT", "pt-BR", "nl-NL", "sv-SE", "da-DK", "nb-NO", "fi-FI", "pl-PL",
    "cs-CZ", "hu-HU", "ru-RU", "uk-UA", "el-GR", "tr-TR", "he-IL", "ar-EG", "fa-IR", "hi-IN", "bn-BD", "th-TH", "vi-VN",
    "id-ID", "ja-JP", "ko-KR", "zh-CN", "am-ET",
)  # fmt: skip


@pytest.mark.parametrize("tag", TAGS)
@pytest.mark.parametrize("value", ["7", "36", "3.5", "0.25", "1234.5", "98765", "1234567.25"])
def test_what_cldr_writes_is_read_back(tag: str, value: str) -> None:
    written = format_decimal(Decimal(value), locale=locale_of(tag))
    assert value_of(written, tag) == Decimal(value), written


def test_a_number_stands_where_it_stands_and_means_what_it_may() -> None:
    (first, second) = read_numbers("At 9:30 pm, 1,500 came.", "en-GB")
    assert (first.text, first.start, first.end) == ("9:30", 3, 7)
    assert first.meanings == {(9, 30), (21, 30)}
    assert second.meanings == {Decimal(1500)}
    assert next(read_numbers("1" * 100_000, "en-GB")).meanings  # never too long for a number


def test_what_is_no_single_value_has_parts() -> None:
    assert [one.parts for one in read_numbers("1.2.3, 12/5/1999", "en-GB")] == [(1, 2, 3), (12, 5, 1999)]
    assert value_of("1.2.3", "en-GB") is None
