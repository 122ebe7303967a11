"""A storm of faults, and an engine that charges again for a question it has answered: nothing is paid for twice."""

from __future__ import annotations

import random
from dataclasses import replace
from functools import partial
from pathlib import Path

import numpy as np
import pytest

from demo_project import work_on
from helpers import project_with, speechlike
from zweistimme.engines import registry
from zweistimme.engines.connections import Connection, Kind, connect
from zweistimme.engines.ledger import Ledger
from zweistimme.engines.offers import EngineInfo, Limits, Price, Role, Usage, VoiceInfo
from zweistimme.engines.protocol import Speech, SpeechRequest, Translation, TranslationRequest, Wording, Wordings
from zweistimme.engines.registry import engine
from zweistimme.engines.request_queue import Patience, ask_all
from zweistimme.project import cast_edits, edits, line_edits
from zweistimme.project.errors import BadAnswer, EngineBusy, EngineCutOff, EngineError, EngineFault
from zweistimme.project.progress import Step
from zweistimme.server import Faults, Serving, Terms, running
from zweistimme.stages.pipeline import run_step
from zweistimme.store.document import Document

PRICE = Price(0.001, 0.01, "EUR")
ROWS = [(1.0 + 3 * k, 3.0 + 3 * k, f"Sentence number {k}, a good one.") for k in range(40)]


class Stormy:
    """A translator and a voice that charge for everything they do, whether it arrives or not."""

    name = identity = "stormy"

    def __init__(self, seed: int) -> None:
        self._dice = random.Random(seed)
        self.charged = self.delivered = self.lost = 0

    def info(self, *, anew: bool = False) -> EngineInfo:
        limits = Limits(items=4, at_once=3)
        voices = (VoiceInfo("one", "One", "woman", ("es",)),)
        return EngineInfo("stormy", "1", pairs=(("en", "es"),), voices=voices, limits=limits, price=PRICE)

    def usage(self) -> Usage:
        return Usage()

    def close(self) -> None:
        return

    def _fate(self, characters: int) -> None:
        """Before it works: it refuses for nothing. Afterwards: the answer is lost, or is no good."""
        luck = self._dice.random()
        if luck < 0.1:
            raise EngineBusy("Wait.", 0.001)
        if luck < 0.2:
            raise EngineFault("It failed before it began.")
        self.charged += characters
        if luck < 0.3:
            self.lost += characters
            raise EngineCutOff("Cut off.")
        if luck < 0.4:
            self.lost += characters
            raise BadAnswer("Nonsense.")
        self.delivered += characters

    def translate(self, request: TranslationRequest) -> Translation:
        characters = sum(len(item.text) for item in request.items)
        self._fate(characters)
        items = [Wordings(item.id, (Wording(f"Frase {item.id}."),)) for item in request.items]
        if self._dice.random() < 0.2 and len(items) > 1:
            gone = items.pop()
            size = len(next(item.text for item in request.items if item.id == gone.id))
            self.lost, self.delivered = self.lost + size, self.delivered - size
        return Translation(tuple(items), PRICE.of(characters))

    def speak(self, request: SpeechRequest, hear: object = None) -> Speech:
        self._fate(len(request.ssml))
        seed = int.from_bytes(request.ssml.encode()[-40:-32], "big") % 1000
        return Speech(speechlike(0.4, seed=seed), (), PRICE.of(len(request.ssml)))


@pytest.fixture
def quick(monkeypatch: pytest.MonkeyPatch) -> None:
    soon = partial(ask_all, patience=Patience(0.001, 0.005))
    for stage in ("translate", "voice"):
        monkeypatch.setattr(f"zweistimme.stages.{stage}.by_engine.ask_all", soon)


@pytest.mark.parametrize("seed", range(4))
def test_charges_are_what_was_delivered_and_what_the_engine_lost(
    seed: int, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, quick: None
) -> None:
    stormy = Stormy(seed)
    for place in ("zweistimme.stages.pipeline.engine", "zweistimme.stages.voice.by_engine.engine"):
        monkeypatch.setattr(place, lambda _name: stormy)
    begun = cast_edits.cast_voice(edits.add_version(project_with(ROWS), "es-ES"), "es-ES", "p1", "stormy/one")
    with Document.create(tmp_path / "p", begun) as document:
        for step in (Step.TRANSLATION, Step.TAKES):
            for _ in range(40):  # a person asks again until all is there
                try:
                    run_step(work_on(document), step, "es-ES")
                    break
                except EngineError:
                    continue
        version = document.project.versions["es-ES"]
        assert len(version.lines) == len(version.takes) == len(ROWS)
        # each text and each line was delivered once, and nothing else was
        wanted = sum(len(segment.text) for segment in document.project.segments)
        assert stormy.lost > 0
        assert stormy.charged == stormy.delivered + stormy.lost
        spoken = [one for one in Ledger().entries(engine="stormy") if one.role == Role.SPEAK]
        translated = [one for one in Ledger().entries(engine="stormy") if one.role == Role.TRANSLATE]
        assert sum(one.answered for one in spoken) == len(ROWS)
        assert wanted <= sum(one.cost.characters for one in translated)
        counted = sum(one.cost.characters for one in (*spoken, *translated))
        assert counted == stormy.charged  # also what was lost on its way
        assert sum(one.asked for one in (*spoken, *translated)) > sum(one.answered for one in (*spoken, *translated))


def test_a_service_that_answers_again_for_nothing_is_asked_again(tmp_path: Path) -> None:
    """Over HTTP: what is charged is what was delivered, whatever is cut off on its way."""
    terms = Terms(price=PRICE, limits=Limits(at_once=3, items=4))
    with running(Serving(faults=Faults({"cut": 0.3, "server-error": 0.1}, seed=4), terms=terms)) as address:
        connect(Connection("quay", Kind.SERVICE, address))
        begun = edits.add_version(project_with(ROWS[:12]), "es-ES")
        with Document.create(tmp_path / "p", begun) as document:
            document.apply("Use quay", lambda p: edits.choose_engine(p, Role.TRANSLATE, "quay"))
            run_step(work_on(document), Step.TRANSLATION, "es-ES")
            used = engine("quay").usage().used.characters
            assert used == sum(len(segment.text) for segment in document.project.segments)
            assert Ledger().spent("quay", "ever", "EUR") == pytest.approx(used * PRICE.a_character)  # type: ignore[arg-type]


def test_a_batch_that_cannot_be_read_is_not_paid_for_once_more_line_by_line(tmp_path: Path) -> None:
    """A person decides; each line says why."""
    terms = Terms(price=PRICE, limits=Limits(at_once=1, items=16))
    with running(Serving(faults=Faults({"not-json": 1.0}), terms=terms)) as address:
        connect(Connection("quay", Kind.SERVICE, address))
        with Document.create(tmp_path / "p", edits.add_version(project_with(ROWS[:8]), "es-ES")) as document:
            document.apply("Use quay", lambda p: edits.choose_engine(p, Role.TRANSLATE, "quay"))
            with pytest.raises(EngineError, match="8 of 8 lines could not be translated"):
                run_step(work_on(document), Step.TRANSLATION, "es-ES")
            assert len(document.project.versions["es-ES"].failures) == 8
            characters = sum(len(segment.text) for segment in document.project.segments)
            assert engine("quay").usage().used.characters == characters


def test_asked_anew_is_paid_anew_and_stands_in_the_place_of_the_first(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    calm = Stormy(0)
    asked: list[SpeechRequest] = []

    def speak(request: SpeechRequest, hear: object = None) -> Speech:
        asked.append(request)
        return Speech(speechlike(0.4, seed=len(asked)), (), PRICE.of(len(request.ssml)))

    monkeypatch.setattr(calm, "speak", speak)
    monkeypatch.setattr("zweistimme.stages.voice.by_engine.engine", lambda _name: calm)
    monkeypatch.setattr(registry, "find_voice", lambda _ref: calm.info().voices[0])
    begun = edits.add_version(project_with(ROWS[:2]), "es-ES")
    begun = cast_edits.cast_voice(begun, "es-ES", "p1", "stormy/one")
    for segment in begun.segments:
        begun = line_edits.set_line_text(begun, "es-ES", segment.id, f"Frase {segment.id}.")
    with Document.create(tmp_path / "p", begun) as document:
        run_step(work_on(document), Step.TAKES, "es-ES")
        first = document.project.versions["es-ES"].lines["s1"].take_id
        run_step(work_on(document), Step.TAKES, "es-ES", segment_ids=["s1"])
        version = document.project.versions["es-ES"]
        assert version.lines["s1"].take_id != first
        assert len([take for take in version.takes.values() if take.segment_id == "s1"]) == 2
        assert [request.attempt for request in asked] == [0, 0, 1]
        document.apply(
            "Forget",
            lambda p: replace(p, versions={"es-ES": replace(version, takes={}, lines=begun.versions["es-ES"].lines)}),
        )
        run_step(work_on(document), Step.TAKES, "es-ES")
        assert len(asked) == 3  # the latest answer is the one that is remembered
        assert document.project.versions["es-ES"].lines["s1"].take_id == version.lines["s1"].take_id
        assert np.all(np.isfinite(document.clips.get(next(iter(version.takes.values())).clip)))
