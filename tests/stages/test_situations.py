"""What engines are told beside the words: only those that take it, and only what there is."""

from __future__ import annotations

import base64
from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path

import pytest

from helpers import project_with, work_on
from zweistimme.engines.offers import EngineInfo, Role
from zweistimme.engines.protocol import About, Term, Translation, TranslationItem, TranslationRequest
from zweistimme.project import edits, line_edits
from zweistimme.project.brief import Address
from zweistimme.project.conversation import set_address, set_brief
from zweistimme.project.model import Project, Speaker
from zweistimme.project.term_edits import put_terms
from zweistimme.project.terms import Rendering
from zweistimme.project.terms import Term as ProjectTerm
from zweistimme.stages.answers import key_of
from zweistimme.stages.translate import translate
from zweistimme.standin.engine import BundledEngine
from zweistimme.store.document import Document

ROWS = [(1.0, 2.0, "The lights of Varnholm."), (2.5, 3.0, "Yes."), (30.0, 31.0, "Alone.")]


class Listening(BundledEngine):
    """The bundled one, that makes use of some things or of none."""

    def __init__(self, *, situations: bool = True, pictures: bool = False) -> None:
        self.asked: list[TranslationRequest] = []
        self._takes = {"situations": situations, "pictures": pictures}

    def info(self, *, anew: bool = False) -> EngineInfo:
        return replace(super().info(), **self._takes)

    def translate(self, request: TranslationRequest) -> Translation:
        self.asked.append(request)
        return super().translate(request)


def made() -> Project:
    project = edits.add_version(replace(project_with(ROWS), versions={}), "de-DE")
    people = {"p1": Speaker("p1", "Mira"), "p2": Speaker("p2", "Tobin")}
    segments = tuple(replace(s, speaker_id=("p1", "p2", "p1")[k]) for k, s in enumerate(project.segments))
    project = replace(project, speakers=people, segments=segments)
    project = set_address(project, "p1", "p2", Address.FORMAL)
    project = set_brief(project, subject="A clock")
    terms = {
        "k1": ProjectTerm("light", {"de": Rendering("Feuer", forbidden=("Licht",))}, "on the quay"),
        "k2": ProjectTerm("rope", {"de": Rendering("Tau")}),
        "k3": ProjectTerm("Varnholm", kept=True),
    }
    return put_terms(project, terms)


@pytest.fixture
def document(tmp_path: Path) -> Iterator[Document]:
    with Document.create(tmp_path / "p", made()) as document:
        yield document


def test_an_engine_that_takes_it_is_told_who_speaks_to_whom_and_the_terms_that_are_said(document: Document) -> None:
    engine = Listening()
    translate(work_on(document), engine, "de-DE")
    (request,) = engine.asked
    first, second, last = (item.situation for item in request.items)
    assert first is not None
    assert second is not None
    assert last is not None
    assert (first.speaker, first.listener, first.address, first.picture) == ("Mira", "Tobin", "formal", None)
    assert (second.speaker, second.listener, second.address) == ("Tobin", "Mira", "")
    assert last.listener == ""
    assert request.about == About("A clock", "", "")
    assert request.terms == (Term("light", "Feuer", ("Licht",), "on the quay"), Term("Varnholm", "Varnholm"))


def test_an_engine_that_takes_none_of_it_is_told_the_terms_alone(document: Document) -> None:
    engine = Listening(situations=False)
    translate(work_on(document), engine, "de-DE")
    (request,) = engine.asked
    assert {item.situation for item in request.items} == {None}
    assert request.about is None
    assert request.terms == (Term("light", "Feuer"), Term("Varnholm", "Varnholm"))


def test_answers_from_before_there_were_situations_are_found_again(document: Document) -> None:
    work, item = work_on(document), TranslationItem("a", "Yes.")
    plain = TranslationRequest("en-GB", "de-DE", (item,), (Term("a", "b"),))
    engine = Listening()
    key = key_of(work, engine, Role.TRANSLATE, plain)
    assert key == key_of(work, engine, Role.TRANSLATE, replace(plain, about=None))
    assert key != key_of(work, engine, Role.TRANSLATE, replace(plain, about=About("A clock")))
    import msgspec

    before = {
        "source": "en-GB", "target": "de-DE", "wordings": 3, "terms": [{"source": "a", "target": "b"}],
        "items": [{"id": "a", "text": "Yes.", "before": "", "after": "", "longest_us": None}],
    }  # fmt: skip
    order = ("source", "target", "items", "terms", "wordings")
    info = engine.info()
    asked = msgspec.json.encode({name: before[name] for name in order})
    assert key == work.answers.key("translation", engine.identity, info.name, info.version, asked)


def test_the_picture_at_a_line_goes_along_where_the_engine_looks_at_it(demo: Document) -> None:
    engine = Listening(pictures=True)
    first = demo.project.segments[0].id
    demo.apply("x", lambda p: line_edits.set_line_text(p, "de-DE", first, ""))
    translate(work_on(demo), engine, "de-DE", [first])
    (request,) = engine.asked
    situation = request.items[0].situation
    assert situation is not None
    assert situation.picture is not None
    assert base64.b64decode(situation.picture)[:3] == b"\xff\xd8\xff"
