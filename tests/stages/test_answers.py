"""What engines answered is kept once it has been looked at, under the name of who answered."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest

from demo_project import work_on
from helpers import project_with, speech, speechlike
from zweistimme.engines.offers import EngineInfo
from zweistimme.engines.protocol import (
    Speech,
    SpeechRequest,
    Translation,
    TranslationItem,
    TranslationRequest,
    Wording,
    Wordings,
)
from zweistimme.project.edits import add_version, remove_version
from zweistimme.project.errors import BadAnswer
from zweistimme.project.term_edits import set_terms_said
from zweistimme.stages.answers import spoken, translated
from zweistimme.stages.translate import translate
from zweistimme.store.document import Document

ROWS = [(1.0, 2.0, "Good morning, Varnholm."), (3.0, 4.0, "Wait.")]
REQUEST = TranslationRequest("en-GB", "de-DE", (TranslationItem("s1", "Good morning."),))
SAY = speech("Guten Morgen.", "de-DE", "one")


class Scripted:
    """An engine that answers with what it is given, in turn, and counts."""

    def __init__(self, *answers: object, identity: str = "program nmt 1") -> None:
        self.identity, self.answers, self.asked = identity, list(answers), 0
        self.requests: list[object] = []

    name = "nmt"

    def info(self, *, anew: bool = False) -> EngineInfo:
        return EngineInfo("nmt", "1", pairs=(("en", "de"),))

    def _next(self, request: object) -> object:
        self.asked += 1
        self.requests.append(request)
        return self.answers.pop(0)

    def translate(self, request: TranslationRequest) -> Translation:
        answer = self._next(request)
        if isinstance(answer, str):
            return Translation(tuple(Wordings(item.id, (Wording(answer),)) for item in request.items))
        assert isinstance(answer, Translation)
        return answer

    def speak(self, request: SpeechRequest, hear: object = None) -> Speech:
        return Speech(np.asarray(self._next(request), dtype=np.float32), ())


@pytest.fixture
def document(tmp_path: Path) -> Iterator[Document]:
    with Document.create(tmp_path / "p", project_with(ROWS)) as document:
        yield document


def test_two_engines_of_one_name_do_not_share_answers(document: Document) -> None:
    work = work_on(document)
    first, other = Scripted("Guten Morgen."), Scripted("Moin.", identity="program nmt 2")
    for engine, text in ((first, "Guten Morgen."), (other, "Moin."), (first, "Guten Morgen.")):
        assert translated(work, engine, REQUEST).items[0].texts == (text,)
    assert (first.asked, other.asked) == (1, 1)


def test_an_empty_answer_is_not_kept(document: Document) -> None:
    work, engine = work_on(document), Scripted("", "Guten Morgen.")
    assert translated(work, engine, REQUEST).items[0].texts == ("",)
    assert translated(work, engine, REQUEST).items[0].texts == ("Guten Morgen.",)
    assert translated(work, engine, REQUEST).items[0].texts == ("Guten Morgen.",)
    assert engine.asked == 2


def test_a_silent_clip_is_no_answer_and_is_asked_for_again(document: Document) -> None:
    work, sound = work_on(document), speechlike(0.5)
    engine = Scripted(np.zeros(4_800), sound)
    with pytest.raises(BadAnswer, match="silent"):
        spoken(work, engine, SAY)
    assert len(spoken(work, engine, SAY).samples) == len(sound)
    assert len(spoken(work, engine, SAY).samples) == len(sound)
    assert engine.asked == 2


def test_a_clip_that_was_damaged_since_is_asked_for_again(document: Document) -> None:
    work, sound = work_on(document), speechlike(0.5)
    engine = Scripted(sound, sound)
    spoken(work, engine, SAY)
    for file in (document.folder / "clips").rglob("*.flac"):
        file.write_bytes(b"rubbish")
    assert len(spoken(work, engine, SAY).samples) == len(sound)
    assert engine.asked == 2


def test_terms_of_the_project_reach_the_translator_and_names_of_speakers_do_not(document: Document) -> None:
    document.apply("Terms", lambda project: set_terms_said(project, ["Varnholm"]))
    engine = Scripted("Eins.", "Zwei.")
    document.apply("Begin anew", lambda project: add_version(remove_version(project, "de-DE"), "de-DE"))
    translate(work_on(document), engine, "de-DE")
    request = engine.requests[0]
    assert isinstance(request, TranslationRequest)
    assert [(term.source, term.target) for term in request.terms] == [("Varnholm", "Varnholm")]
