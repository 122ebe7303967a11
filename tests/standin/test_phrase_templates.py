"""Templates are spoken once, and again whenever what is kept cannot be trusted."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

import numpy as np
import pytest

from zweistimme.standin import phrase_templates, phrasebook
from zweistimme.standin.phrase_templates import Template, kept_templates
from zweistimme.standin.phrasebook import book_for


class Speaker:
    """Speaks phrases, and remembers which."""

    def __init__(self) -> None:
        self.spoken: list[str] = []

    def __call__(self, phrases: Sequence[str]) -> list[Template]:
        self.spoken += phrases
        return [Template(np.full((len(one), 12), float(len(one))), ((one, 0, 1),)) for one in phrases]


@pytest.fixture(autouse=True)
def own_cache(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path))
    return tmp_path / "zweistimme" / "phrases-en-GB.msgpack"


def test_what_was_spoken_is_not_spoken_again() -> None:
    speaker = Speaker()
    first = kept_templates("en-GB", ("a tide", "a clock"), speaker)
    again = kept_templates("en-GB", ("a tide", "a clock"), speaker)
    assert speaker.spoken == ["a tide", "a clock"]
    assert [one.words for one in again] == [one.words for one in first]
    assert np.array_equal(again[1].features, first[1].features)


def test_names_of_a_project_are_not_kept(own_cache: Path) -> None:
    phrasebook._book.cache_clear()
    assert "Varnholm harbour tower" in book_for("en-GB", ("Varnholm harbour tower",)).phrases
    assert own_cache.is_file()
    assert b"Varnholm harbour tower" not in own_cache.read_bytes()
    phrasebook._book.cache_clear()


@pytest.mark.parametrize("spoil", [b"", b"\xc1", b"\x82\xa7made_by\xa1x\xa7phrases\x80"])
def test_a_damaged_file_is_made_again(own_cache: Path, spoil: bytes) -> None:
    kept_templates("en-GB", ("a tide",), Speaker())
    own_cache.write_bytes(spoil)
    speaker = Speaker()
    assert kept_templates("en-GB", ("a tide",), speaker)[0].features.shape == (6, 12)
    assert speaker.spoken == ["a tide"]


def test_what_other_code_made_is_not_believed(monkeypatch: pytest.MonkeyPatch) -> None:
    kept_templates("en-GB", ("a tide",), Speaker())
    monkeypatch.setattr(phrase_templates, "_made_by", lambda: "other code")
    speaker = Speaker()
    kept_templates("en-GB", ("a tide",), speaker)
    assert speaker.spoken == ["a tide"]


def test_without_room_for_them_they_are_spoken_all_the_same(own_cache: Path) -> None:
    own_cache.parent.parent.mkdir(exist_ok=True)
    own_cache.parent.write_text("no folder")
    assert kept_templates("en-GB", ("a tide",), Speaker())[0].words == (("a tide", 0, 1),)


def test_a_book_from_the_cache_is_the_book() -> None:
    first = book_for("en-GB", ("Varnholm harbour",))
    phrasebook._book.cache_clear()
    again = book_for("en-GB", ("Varnholm harbour",))
    assert again.phrases == first.phrases
    assert np.array_equal(again.states, first.states)
    assert again.words == first.words
