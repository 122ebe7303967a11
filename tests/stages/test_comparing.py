"""Engines compared: the same lines by several, measured and taken; and lines said back by way of a third language."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path

import pytest

from helpers import project_with, work_on
from zweistimme.engines.offers import Cost, EngineInfo, Price
from zweistimme.engines.protocol import Translation, TranslationRequest, Wording, Wordings
from zweistimme.project import edits, line_edits
from zweistimme.project.errors import EngineError, PartlyDone
from zweistimme.project.wordings import LineState, OriginKind
from zweistimme.stages.translate.comparing import Comparison, compare, take_wordings
from zweistimme.stages.translate.saying_back import say_back, sayable
from zweistimme.standin.engine import BundledEngine
from zweistimme.store.document import Document

ROWS = [(1.0, 3.0, "Good morning."), (4.0, 6.0, "It has 36 teeth."), (7.0, 9.0, "Wait.")]
TAG = "fr-FR"


class Said(BundledEngine):
    """Answers with what it was told to say, for a price."""

    def __init__(self, name: str, answers: dict[str, str]) -> None:
        self._name, self._answers, self.asked = name, answers, 0
        self.requests: list[TranslationRequest] = []

    @property
    def name(self) -> str:
        return self._name

    @property
    def identity(self) -> str:
        return self._name

    def info(self, *, anew: bool = False) -> EngineInfo:
        pairs = (("en", "fr"), ("fr", "en"), ("fr", "it"), ("it", "en"))
        return replace(super().info(), name=self._name, pairs=pairs, price=Price(0.01, 0.0, "EUR"))

    def translate(self, request: TranslationRequest) -> Translation:
        self.asked += 1
        self.requests.append(request)
        said = [(item.id, self._answers.get(item.text, "")) for item in request.items]
        items = tuple(Wordings(key, (Wording(text),)) for key, text in said if text)
        return Translation(items, Cost(10, 0.0, 0.1, "EUR"))


FIRST = {"Good morning.": "Bonjour.", "It has 36 teeth.": "Elle a 36 dents.", "Wait.": "Attendez."}
OTHER = {"Good morning.": "Bonjour à tous.", "It has 36 teeth.": "Elle a des dents.", "Wait.": "Attendez !"}


@pytest.fixture
def document(tmp_path: Path) -> Iterator[Document]:
    project = edits.add_version(replace(project_with(ROWS), versions={}), TAG)
    with Document.create(tmp_path / "p", project) as document:
        yield document


def test_every_line_is_put_by_every_engine_and_measured(document: Document) -> None:
    document.apply("x", lambda p: line_edits.set_line_text(p, TAG, "s1", "Bonjour."))
    heard: list[Comparison] = []
    engines = [Said("heron", FIRST), Said("lark", OTHER)]
    found = compare(work_on(document), engines, TAG, took=heard.append)
    assert heard[-1] == found
    assert len(heard) == 2
    first, second, _ = found.lines
    assert first.settled
    assert [round(one.alike) for one in first.candidates] == [100, round(first.candidates[1].alike)]
    assert first.candidates[1].alike < 90
    assert second.candidates[1].remarks == second.candidates[0].remarks + 1, "a number is missing in one"
    assert first.candidates[1].spoken_s > first.candidates[0].spoken_s > 0.2
    assert [(one.engine, one.cost.amount) for one in found.asked] == [("heron", 0.1), ("lark", 0.1)]
    assert document.project.versions[TAG].lines["s1"].text == "Bonjour.", "comparing changes nothing"
    again = compare(work_on(document), engines, TAG)
    assert [one.cost.amount for one in again.asked] == [0.0, 0.0]
    assert [one.asked for one in engines] == [1, 1], "what was answered is not paid again"


def test_wordings_are_taken_and_what_is_final_stays(document: Document) -> None:
    document.apply("x", lambda p: line_edits.set_line_text(p, TAG, "s1", "Salut."))
    document.apply("x", lambda p: line_edits.settle(p, TAG, ["s1"], LineState.FINAL))
    wanted = [("s1", "Bonjour.", "heron"), ("s3", "Attendez.", "lark")]
    document.apply("x", lambda p: take_wordings(p, TAG, wanted))
    lines = document.project.versions[TAG].lines
    assert lines["s1"].text == "Salut."
    assert lines["s3"].text == "Attendez."
    assert lines["s3"].origin is not None
    assert (lines["s3"].origin.kind, lines["s3"].origin.name) == (OriginKind.ENGINE, "lark")


def test_what_an_engine_cannot_do_is_said_and_the_rest_is_there(document: Document) -> None:
    with pytest.raises(EngineError, match="does not translate"):
        compare(work_on(document), [BundledEngine()], TAG)
    heard: list[Comparison] = []
    broken = Said("lark", {})
    broken.translate = lambda request: (_ for _ in ()).throw(EngineError("Out of words."))  # type: ignore[method-assign]
    with pytest.raises(PartlyDone, match=r"1 answer is missing. First: lark: Out of words."):
        compare(work_on(document), [Said("heron", FIRST), broken], TAG, took=heard.append)
    assert [len(line.candidates) for line in heard[-1].lines] == [1, 1, 1]


def test_lines_are_said_back_by_way_of_another_language(document: Document) -> None:
    document.apply("x", lambda p: line_edits.set_line_text(p, TAG, "s3", "Attendez."))
    engine = Said("heron", {"Attendez.": "Aspettate.", "Aspettate.": "Wait."})
    (said,) = say_back(work_on(document), engine, TAG, by="it-IT")
    assert (said.back, said.score) == ("Wait.", 100.0)
    assert [(one.source, one.target) for one in engine.requests] == [("fr-FR", "it-IT"), ("it-IT", "en-GB")]
    with pytest.raises(EngineError, match="does not translate fr-FR back to ja-JP"):
        say_back(work_on(document), engine, TAG, by="ja-JP")


def test_directions_are_not_said_back() -> None:
    """Nobody hears what stands in brackets, so no translator is asked for it."""
    project = project_with([(0.0, 1.0, "It ticks still."), (2.0, 3.0, "Yes.")])
    project = line_edits.set_line_text(project, "de-DE", "s1", "(leise) [whispering] sie tickt noch [/].")
    assert next(item.text for item in sayable(project, "de-DE")) == "sie tickt noch."
