"""Versions of one language from each other: the same words but where regions differ, and what that is, learned."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path

import pytest

from helpers import project_with, work_on
from zweistimme.engines.offers import EngineInfo
from zweistimme.engines.protocol import Translation, TranslationRequest, Wording, Wordings
from zweistimme.project import edits, line_edits
from zweistimme.project.errors import EditError
from zweistimme.project.model import Project
from zweistimme.project.progress import Step, progress
from zweistimme.project.regions import carried, set_basis, usages
from zweistimme.project.term_edits import put_term
from zweistimme.project.terms import Rendering, Term
from zweistimme.project.transcript import set_segment_text
from zweistimme.project.wordings import LineState, Origin, OriginKind
from zweistimme.stages.check import Checker
from zweistimme.stages.translate import open_translations, translate_version
from zweistimme.standin.engine import BundledEngine
from zweistimme.store.document import Document

THERE, HERE = "es-ES", "es-MX"
WORDS = [
    ("The computer is on.", "El ordenador está encendido."), ("Take the car.", "Coge el coche."),
    ("Where is the car?", "¿Dónde está el coche?"), ("My computer!", "¡Mi ordenador!"), ("Yes.", "Sí."),
]  # fmt: skip


class Regional(BundledEngine):
    """Puts Spanish of one region into that of another, by shouting."""

    def __init__(self) -> None:
        self.asked: list[TranslationRequest] = []

    def info(self, *, anew: bool = False) -> EngineInfo:
        return replace(super().info(), pairs=((THERE, HERE),))

    def translate(self, request: TranslationRequest) -> Translation:
        self.asked.append(request)
        return Translation(tuple(Wordings(item.id, (Wording(item.text.upper()),)) for item in request.items))


def made() -> Project:
    rows = [(2.0 * k, 2.0 * k + 1.8, source) for k, (source, _) in enumerate(WORDS)]
    project = replace(project_with(rows), versions={})
    for tag in (THERE, HERE):
        project = edits.add_version(project, tag)
    for segment, (_, text) in zip(project.segments, WORDS, strict=True):
        project = line_edits.set_line_text(project, THERE, segment.id, text)
    return set_basis(project, HERE, THERE)


def texts(project: Project) -> list[str]:
    return [line.text for line in project.versions[HERE].lines.values()]


@pytest.fixture
def document(tmp_path: Path) -> Iterator[Document]:
    with Document.create(tmp_path / "p", made()) as document:
        yield document


def test_words_are_those_of_the_basis_until_somebody_writes_others(document: Document) -> None:
    assert len(open_translations(document.project, HERE)) == len(WORDS)
    translate_version(work_on(document), BundledEngine(), HERE)
    assert texts(document.project) == [text for _, text in WORDS]
    line = document.project.versions[HERE].lines["s1"]
    assert (line.state, line.origin) == (LineState.INITIAL, Origin(OriginKind.VERSION, THERE))
    assert not open_translations(document.project, HERE)
    document.apply("x", lambda p: line_edits.set_line_text(p, HERE, "s5", "Claro."))
    document.apply("x", lambda p: line_edits.set_line_text(p, THERE, "s5", "Que sí."))
    document.apply("x", lambda p: line_edits.set_line_text(p, THERE, "s1", "El ordenador va."))
    version = document.project.versions[HERE]
    assert progress(document.project, version)[Step.TRANSLATION].first_open == "s1"
    translate_version(work_on(document), BundledEngine(), HERE)
    assert [texts(document.project)[k] for k in (0, 4)] == ["El ordenador va.", "Claro."]
    document.apply("x", lambda p: set_segment_text(p, "s2", "Take my car."))
    assert carried(document.project, HERE) is document.project
    assert not open_translations(document.project, HERE), "it waits for the words of its basis"
    said: list[str] = []
    translate_version(replace(work_on(document), say=lambda one: said.append(one.code)), BundledEngine(), HERE)
    assert said == ["waits-for-version"]
    document.apply("x", lambda p: line_edits.set_line_text(p, THERE, "s2", "Coge mi coche."))
    assert [s.id for s in open_translations(document.project, HERE)] == ["s2"]
    assert progress(document.project, document.project.versions[HERE])[Step.TRANSLATION].first_open == "s2"


def test_what_people_put_otherwise_is_learned_noticed_and_mended() -> None:
    project = carried(made(), HERE)
    project = line_edits.set_line_text(project, HERE, "s1", "La computadora está encendida.")
    project = line_edits.set_line_text(project, HERE, "s2", "Toma el carro.")
    version = project.versions[HERE]
    known = usages(project, version)
    assert [(one.there, one.here) for one in known.within("¿Dónde está el coche?")] == [("coche", "carro")]
    found = [one for one in Checker().line(project, HERE, project.segments[2]) if one.code == "word-regional"]
    assert [one.mended for one in found] == ["¿Dónde está el carro?"]
    assert not list(known.within("¿Dónde está el carro?"))
    term = Term("computer", {THERE: Rendering("ordenador"), HERE: Rendering("computadora")})
    named = put_term(made(), "k", term)
    assert [one.here for one in usages(named, named.versions[HERE]).within("Ordenador.")] == ["Computadora"]


def test_an_engine_that_knows_both_regions_is_asked_for_what_differs_alone(document: Document) -> None:
    term = Term("car", {THERE: Rendering("coche"), HERE: Rendering("carro")})
    document.apply("x", lambda p: put_term(p, "k", term))
    engine = Regional()
    translate_version(work_on(document), engine, HERE)
    (request,) = engine.asked
    assert (request.source, request.target) == (THERE, HERE)
    assert [item.text for item in request.items] == ["Coge el coche.", "¿Dónde está el coche?"]
    assert texts(document.project) == [WORDS[0][1], "COGE EL COCHE.", "¿DÓNDE ESTÁ EL COCHE?", WORDS[3][1], "Sí."]
    assert not open_translations(document.project, HERE)


def test_a_basis_is_of_the_same_language_never_in_a_circle_and_goes_with_its_version() -> None:
    project = edits.add_version(made(), "de-DE")
    for tag, basis, words in (
        (HERE, "de-DE", "same language"),
        (HERE, HERE, "same language"),
        (THERE, HERE, "each other"),
    ):
        with pytest.raises(EditError, match=words):
            set_basis(project, tag, basis)
    assert edits.remove_version(project, THERE).versions[HERE].basis == ""
    assert edits.rename_version(project, THERE, "two").versions[HERE].basis == "es-ES-x-two"
    assert set_basis(project, HERE, "").versions[HERE].basis == ""
