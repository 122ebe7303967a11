"""Spelling by dictionaries of the system; those here are a few words large."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import pytest

from helpers import project_with
from zweistimme.project import edits, line_edits
from zweistimme.project.model import Speaker
from zweistimme.project.term_edits import set_terms_said
from zweistimme.stages.check import Checker, spelling

enchant = pytest.importorskip("enchant")
WORDS = ["Glocke/N", "läutet", "die", "am", "Kai", "heute"]


@pytest.fixture(autouse=True)
def _few_words(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """A German dictionary of six words."""
    folder = tmp_path / "enchant" / "hunspell"
    folder.mkdir(parents=True)
    (folder / "de_DE.dic").write_text("\n".join([str(len(WORDS)), *WORDS, ""]), encoding="utf-8")
    (folder / "de_DE.aff").write_text("SET UTF-8\nSFX N Y 1\nSFX N 0 n .\n", encoding="utf-8")
    monkeypatch.setenv("ENCHANT_CONFIG_DIR", str(folder.parent))
    broker = enchant.Broker()
    if not broker.dict_exists("de_DE"):
        pytest.skip("this Enchant reads no dictionaries of the Hunspell kind")
    monkeypatch.setattr(spelling, "dictionaries", lambda: {"de-de": "de_DE"})
    monkeypatch.setattr(spelling, "_opened", broker.request_dict)
    spelling._dictionary.cache_clear()
    spelling._is_known.cache_clear()


def unknown(text: str, tag: str = "de-DE", source: str = "The bell rings at the quay.") -> list[str]:
    project = edits.add_version(replace(project_with([(1.0, 4.0, source)]), versions={}), tag)
    project = replace(project, speakers={**project.speakers, "p9": Speaker("p9", "Juna Tesslin")})
    project = set_terms_said(project, ["Varnholm"])
    project = line_edits.set_line_text(project, tag, "s1", text)
    found = Checker().line(project, tag, project.segments[0])
    return [text[one.start : one.end] for one in found if one.code.startswith("word-unknown")]


def test_words_that_no_dictionary_has_are_noticed_with_what_is_near() -> None:
    assert unknown("Die Glocken läutet am Kai.") == []
    assert unknown("Die Glokce läutet.") == ["Glokce"]
    assert unknown("Die Glocke läutet in Varnholm, Juna.") == ["in"]
    assert unknown("(leise) Die Glocke läutet um 10:30, am BBC Kai.") == ["um"]
    assert unknown("Die quay läutet.") == []


def test_what_is_in_another_language_or_has_no_dictionary_is_not_a_matter_of_spelling() -> None:
    assert unknown("This is not the language at all here.") == []
    assert unknown("La cloche sonne.", "fr-FR") == []
    assert unknown("鐘が鳴る。", "ja-JP") == []
    assert unknown("Glokce", "de-AT") == ["Glokce"], "another region's dictionary will do"
