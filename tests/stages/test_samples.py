"""Voices made from samples: clean stretches found, what is poor said, consent kept, and all of it removed again."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest

from demo_project import work_on
from helpers import write_sound
from zweistimme.engines.registry import engine
from zweistimme.engines.voices import voice_ref
from zweistimme.formats.ssml import Span
from zweistimme.project.errors import EditError, EngineError, StoreError
from zweistimme.stages.cast.shortlist import put_on_shortlist, shortlist
from zweistimme.stages.samples import (
    MadeFrom,
    clean_stretches,
    consent_of,
    consents,
    make_voice,
    of_clip,
    of_file,
    poor_sets,
    remove_made_voice,
    said_in_samples,
)
from zweistimme.stages.samples.consents import _CONSENTS
from zweistimme.standin.voice import speak_spans, voice_by_id
from zweistimme.store.document import Document

ALLOWED = MadeFrom("Ada Brook", "Yes, make one.", "2026-11-20", "this film alone", 0.0)


def spoken(text: str, voice: str = "gunda") -> np.ndarray:
    made = voice_by_id(voice)
    assert made is not None
    return speak_spans([Span(text)], "en-GB", made).samples


def test_clean_stretches_of_a_person_are_found(demo: Document) -> None:
    found = clean_stretches(work_on(demo), "p1")
    segments = {one.id: one for one in demo.project.segments}
    assert len(found) >= 4
    assert all(segments[one.source].speaker_id == "p1" for one in found)
    assert [segments[one.source].start_us for one in found] == sorted(segments[one.source].start_us for one in found)
    assert all(one.text == segments[one.source].text for one in found)
    assert {one.tone for one in found} == {""}
    whispered = clean_stretches(work_on(demo), "p3")
    assert {one.tone for one in whispered} == {"whispered"}
    assert ("", "samples-short") in {(poor.tone, poor.why.code) for poor in poor_sets(whispered)}
    assert 15 < sum(one.seconds for one in found) < 45


def test_nothing_is_found_where_nobody_speaks_alone(demo: Document) -> None:
    both = [replace(one, start_us=1_000_000, end_us=9_000_000) for one in demo.project.segments]
    work = replace(work_on(demo), project=replace(demo.project, segments=tuple(both)))
    with pytest.raises(EditError, match="speaks alone"):
        clean_stretches(work, "p1")
    silent = replace(work_on(demo), project=replace(demo.project, programme=None))
    with pytest.raises(EditError, match="no programme"):
        clean_stretches(silent, "p1")


def test_what_is_poor_is_said() -> None:
    clean = of_clip("a.wav", spoken("The boats come in at six, and nobody has seen him since."))
    assert not clean.poor
    assert {poor.why.code for poor in poor_sets([clean])} == {"samples-short"}
    noise = np.random.default_rng(1).standard_normal(len(clean.samples)).astype(np.float32)
    noisy = of_clip("b.wav", clean.samples + 0.03 * noise)
    loud = of_clip("c.wav", np.clip(12 * clean.samples / np.abs(clean.samples).max(), -0.99, 0.99))
    assert noisy.poor
    assert loud.poor
    found = {(poor.tone, poor.why.code) for poor in poor_sets([*[clean] * 4, noisy, replace(loud, tone="shouted")])}
    assert found == {("", "samples-noisy"), ("shouted", "samples-short"), ("shouted", "samples-clipped")}
    assert poor_sets([]) == []


def test_files_are_cut_in_pauses(tmp_path: Path) -> None:
    file = write_sound(tmp_path / "said.wav", 3.0)
    (one,) = of_file(file, tmp_path)
    assert one.source == "said.wav"
    assert not (tmp_path / "sample.wav").exists()


def test_a_voice_is_made_with_consent_and_removed_everywhere(demo: Document) -> None:
    work = work_on(demo)
    samples = clean_stretches(work, "p1")
    voice = make_voice(work, "bundled", "Mira herself", ["de-DE"], samples, ALLOWED)
    assert voice == voice_ref("bundled", "made-mira-herself")
    assert "made-mira-herself" in {one.id for one in engine("bundled").info().voices}
    kept = consent_of(voice)
    assert kept is not None
    assert (kept.person, kept.given_on, kept.purpose, kept.tones) == (
        "Ada Brook", "2026-11-20", "this film alone", ()
    )  # fmt: skip
    assert kept.seconds > 15
    put_on_shortlist(voice)
    remove_made_voice(voice)
    assert "made-mira-herself" not in {one.id for one in engine("bundled").info().voices}
    assert consents() == {}
    assert voice not in shortlist()
    with pytest.raises(EngineError, match="has made no voice"):
        remove_made_voice(voice)
    with pytest.raises(EngineError, match="has made no voice"):
        remove_made_voice("alva")


def test_without_name_samples_or_consent_nothing_is_sent(demo: Document) -> None:
    work, samples = work_on(demo), [of_clip("a", spoken("The boats come in at six."))]
    for called, some, consent in (
        (" ", samples, ALLOWED), ("Ada", [], ALLOWED), ("Ada", samples, replace(ALLOWED, person=" ")),
        ("Ada", samples, replace(ALLOWED, words="")),
    ):  # fmt: skip
        with pytest.raises(EditError):
            make_voice(work, "bundled", called, ["en-GB"], some, consent)
    assert consents() == {}


def test_what_is_said_in_a_sample_is_heard(demo: Document) -> None:
    text = "Good morning."
    known, open_ = of_clip("a", spoken(text), "As typed."), of_clip("b", spoken(text, "hale"))
    heard = said_in_samples(work_on(demo), "bundled", "en-GB", [known, open_])
    assert [one.text for one in heard] == ["As typed.", "Good morning."]
    assert said_in_samples(work_on(demo), "bundled", "en-GB", [known]) == [known]


def test_a_spoilt_list_of_consents_is_told(demo: Document) -> None:
    _CONSENTS.path.parent.mkdir(parents=True, exist_ok=True)
    _CONSENTS.path.write_text("{", encoding="utf-8")
    with pytest.raises(StoreError, match="cannot be read"):
        consents()
    assert consent_of("x") is None
