"""Whole runs over a real connection: the same as in-process, and through any storm of faults."""

from __future__ import annotations

from functools import partial
from pathlib import Path

import numpy as np
import pytest
import soundfile

from demo_project import work_on
from engines.servers import QUICK
from helpers import project_with, speech, with_pitches
from zweistimme.engines.connections import Connection, Kind, connect
from zweistimme.engines.offers import Limits, Price, Role
from zweistimme.engines.protocol import Translation, TranslationItem, TranslationRequest
from zweistimme.engines.registry import engine
from zweistimme.engines.request_queue import Patience, ask_all
from zweistimme.engines.service import ServiceEngine
from zweistimme.project import cast_edits, edits, transcript
from zweistimme.project.errors import EngineError, EngineRefused
from zweistimme.project.model import Project
from zweistimme.project.progress import Step, progress
from zweistimme.project.times import RATE
from zweistimme.sentences import sentence_of
from zweistimme.server import Faults, Serving, Terms, running
from zweistimme.stages.bring_in import bring_in
from zweistimme.stages.handover.deliver import hand_over
from zweistimme.stages.intake import Intake
from zweistimme.stages.pipeline import run_step
from zweistimme.store.document import Document

EXAMPLE = Path(__file__).parents[2] / "docs" / "examples" / "little-engine" / "little.toml"
ROWS = [(1.0 + 4 * k, 3.0 + 4 * k, text) for k, text in enumerate(
    ("Good morning.", "Please wait a moment.", "Where are we going?", "No, not today.", "See you tomorrow.",
     "Come with me.", "Let us begin.", "Yes, of course.")
)]  # fmt: skip


def use(document: Document, name: str, *roles: Role) -> None:
    """Have a project ask one engine for everything, or for the given roles."""
    for role in roles or tuple(Role):
        document.apply(f"Use {name}", partial(edits.choose_engine, role=role, name=name))


def test_the_demo_over_http_is_the_same_sample_for_sample(demo: Document, tmp_path: Path) -> None:
    """Every step of a version, with a service that offers what is bundled: same words, clips, placements, mixes."""
    with running(Serving()) as address:
        connect(Connection("quay", Kind.SERVICE, address))
        begun = edits.set_programme(project_with(ROWS), demo.project.programme)
        begun = transcript.set_transcript(begun, [], [])
        with Document.create(tmp_path / "far", begun) as far:
            use(far, "quay")
            for step in (Step.TRANSCRIPT, Step.TRANSLATION, Step.CAST, Step.TAKES, Step.FIT):
                run_step(work_on(far), step, "de-DE")
            for segment, known in zip(far.project.segments, demo.project.segments, strict=True):
                assert (segment.text, segment.words, segment.start_us) == (known.text, known.words, known.start_us)
                if not known.on_screen:
                    far.apply("Off screen", lambda p, s=segment: transcript.set_on_screen(p, [s.id], False))
            run_step(work_on(far), Step.FIT, "de-DE")
            away, near = far.project.versions["de-DE"], demo.project.versions["de-DE"]
            assert {ref.removeprefix("quay/") for ref in away.cast.values()} == set(near.cast.values())
            for segment, known in zip(far.project.segments, demo.project.segments, strict=True):
                there, line = away.lines[segment.id], near.lines[known.id]
                assert there.text == line.text
                assert away.takes[there.take_id].clip == near.takes[line.take_id].clip  # type: ignore[index]
                placed, known_place = away.placements[segment.id], near.placements[known.id]
                assert (placed.start_us, placed.length_us) == (known_place.start_us, known_place.length_us)
            hand_over(work_on(far), ["de-DE"], tmp_path / "far-out")
    hand_over(work_on(demo), ["de-DE"], tmp_path / "near-out")
    mixes = [next((tmp_path / name).glob("*.mix.wav")).read_bytes() for name in ("far-out", "near-out")]
    assert mixes[0] == mixes[1]


def test_a_whole_run_with_a_ten_line_program(tmp_path: Path) -> None:
    connect(Connection("little", Kind.PROGRAM, str(EXAMPLE)))
    with Document.create(tmp_path / "p", edits.add_version(project_with(ROWS), "es-ES")) as document:
        use(document, "little", Role.TRANSLATE, Role.SPEAK)
        document.apply("Measured", lambda p: with_pitches(p, {"p1": 200.0}))
        for step in (Step.TRANSLATION, Step.CAST, Step.TAKES, Step.FIT):
            run_step(work_on(document), step, "es-ES")
        version = document.project.versions["es-ES"]
        assert progress(document.project, version)[Step.FIT].complete
        assert version.cast == {"p1": "little/hum"}
        assert version.lines["s1"].text == "GOOD MORNING. (es-ES)"
        assert [offer.text for offer in version.lines["s1"].offers] == ["GOOD!"]


def test_lines_that_fail_are_named_and_the_others_kept_then_only_they_are_made(tmp_path: Path) -> None:
    failed: dict[str, str] = {}
    terms = Terms(price=Price(0.001, 0.0, "EUR"), limits=Limits(at_once=3))
    with Document.create(tmp_path / "p", edits.add_version(project_with(ROWS), "es-ES")) as document:
        run_step(work_on(document), Step.TRANSLATION, "es-ES")
        with running(Serving(faults=Faults({"silent": 0.4, "no-voice": 0.1}, seed=5), terms=terms)) as address:
            connect(Connection("quay", Kind.SERVICE, address))
            document.apply("Cast", lambda p: cast_edits.cast_voice(p, "es-ES", "p1", "quay/alva"))
            from dataclasses import replace

            work = replace(
                work_on(document), fail=lambda _tag, one: failed.update({one.segment_id: sentence_of(one.why)})
            )
            with pytest.raises(EngineError, match=r"of 8 takes could not be made; the others are kept. First: “"):
                run_step(work, Step.TAKES, "es-ES")
        version = document.project.versions["es-ES"]
        done = {take.segment_id for take in version.takes.values()}
        assert done
        assert failed
        assert done.isdisjoint(failed)
        assert done | set(failed) == {segment.id for segment in document.project.segments}
        assert all("silent" in why or "not there" in why for why in failed.values())
        said: list[str] = []
        with running(Serving(terms=terms)) as address:
            connect(Connection("quay", Kind.SERVICE, address))
            run_step(work_on(document, said), Step.TAKES, "es-ES")
            usage = engine("quay").usage()
        assert progress(document.project, document.project.versions["es-ES"])[Step.TAKES].complete
        assert usage.used.characters > 0
        assert any("characters" in text and "EUR" in text for text in said)


def test_a_quota_that_ends_in_mid_run_keeps_what_came(tmp_path: Path) -> None:
    terms = Terms(quota_characters=70, limits=Limits(items=2))
    with running(Serving(terms=terms)) as address:
        connect(Connection("quay", Kind.SERVICE, address))
        with Document.create(tmp_path / "p", edits.add_version(project_with(ROWS), "es-ES")) as document:
            use(document, "quay", Role.TRANSLATE)
            with pytest.raises(EngineRefused, match="quota of quay is used up"):
                run_step(work_on(document), Step.TRANSLATION, "es-ES")
            assert len(document.project.versions["es-ES"].lines) == 4


def test_what_was_answered_is_not_paid_for_again(tmp_path: Path) -> None:
    with running(Serving(terms=Terms(price=Price(1.0, 0.0, "EUR")))) as address:
        connect(Connection("quay", Kind.SERVICE, address))
        with Document.create(tmp_path / "p", edits.add_version(project_with(ROWS), "es-ES")) as document:
            use(document, "quay", Role.TRANSLATE)
            run_step(work_on(document), Step.TRANSLATION, "es-ES")
            used = engine("quay").usage().used
            assert document.undo()
            while document.project.versions["es-ES"].lines:
                document.undo()
            use(document, "quay", Role.TRANSLATE)
            said: list[str] = []
            run_step(work_on(document, said), Step.TRANSLATION, "es-ES")
            assert len(document.project.versions["es-ES"].lines) == 8
            assert engine("quay").usage().used == used
            assert not said


def kitchen(tmp_path: Path) -> Path:
    """A programme that is not the demo: two sentences and the pauses around them."""
    pause = np.zeros(RATE // 2, np.float32)
    texts = ("Put the kettle on and close the curtains.", "Yes, of course.")
    parts = [part for text in texts for part in (pause, engine().speak(speech(text, "en-GB", "alva")).samples)]
    soundfile.write(tmp_path / "kitchen.wav", 0.5 * np.concatenate([*parts, pause]), RATE)
    return tmp_path / "kitchen.wav"


def test_a_transcript_is_not_paid_for_again(tmp_path: Path) -> None:
    sound = kitchen(tmp_path)
    terms = Terms(price=Price(0.0, 0.5, "EUR"))
    with running(Serving(terms=terms)) as address:
        connect(Connection("quay", Kind.SERVICE, address))
        with Document.create(tmp_path / "p", edits.add_version(Project("Kitchen", "en-GB"), "de-DE")) as document:
            bring_in(work_on(document), Intake(sound))
            use(document, "quay", Role.RECOGNISE)
            for _ in range(2):
                said: list[str] = []
                run_step(work_on(document, said), Step.TRANSCRIPT, "de-DE")
                segments = document.project.segments
                assert segments
                document.undo()
            assert engine("quay").usage().used.amount == pytest.approx(0.5 * soundfile.info(sound).duration, abs=0.01)
            assert not any("EUR" in text for text in said), "the second time is free, and says nothing of money"


def test_a_recognition_that_hits_a_fault_is_tried_again(tmp_path: Path) -> None:
    sound = kitchen(tmp_path)
    with running(Serving(faults=Faults({"busy": 0.4}, seed=3, retry_after_s=0))) as address:
        connect(Connection("quay", Kind.SERVICE, address))
        with Document.create(tmp_path / "p", edits.add_version(Project("Kitchen", "en-GB"), "de-DE")) as document:
            bring_in(work_on(document), Intake(sound))
            use(document, "quay", Role.RECOGNISE)
            run_step(work_on(document), Step.TRANSCRIPT, "de-DE")
            assert document.project.segments


def test_texts_longer_than_the_engine_takes_go_in_pieces(tmp_path: Path) -> None:
    text = "The clock has to know that before we do. " * 4 + "It turns!"
    terms = Terms(limits=Limits(characters=200))
    with running(Serving(terms=terms)) as address:
        connect(Connection("quay", Kind.SERVICE, address))
        with Document.create(tmp_path / "p", edits.add_version(project_with([(1, 20, text)]), "de-AT")) as document:
            use(document, "quay")
            document.apply("Cast", lambda p: cast_edits.cast_voice(p, "de-AT", "p1", "quay/alva"))
            run_step(work_on(document), Step.TRANSLATION, "de-AT")
            run_step(work_on(document), Step.TAKES, "de-AT")
            version = document.project.versions["de-AT"]
            line = version.lines["s1"]
            assert line.text == "Die Uhr muss das vor uns wissen. " * 4 + "Es dreht sich!"
            take = version.takes[line.take_id or ""]
            assert " ".join(word.text for word in take.words) == line.text
            starts = [word.start_us for word in take.words]
            assert starts == sorted(starts)


def test_thousands_of_requests_through_mixed_faults() -> None:
    """Every line ends done or with a named reason, and nothing is charged twice. Ten thousand: make bench."""
    count = 1_500
    shares = dict.fromkeys(
        ("limit", "busy", "server-error", "cut", "not-json", "wrong-field", "missing-field", "duplicate-ids",
         "missing-ids", "no-language"), 0.02,
    )  # fmt: skip
    terms = Terms(price=Price(1.0, 0.0, "EUR"), limits=Limits(at_once=8))
    faults = Faults(shares, seed=11, retry_after_s=0)
    answered: dict[str, str] = {}
    with running(Serving(faults=faults, terms=terms)) as address:
        quay = ServiceEngine("quay", address, waits=QUICK)

        def ask(number: int) -> Translation:
            items = (TranslationItem(str(number), f"Line {number}."),)
            return quay.translate(TranslationRequest("en-GB", "de-DE", items))

        def took(number: int, answer: Translation) -> None:
            answered[str(number)] = answer.items[0].id

        failures = ask_all(
            range(count), ask, limits=Limits(at_once=8), took=took, report=lambda _share: None,
            patience=Patience(0.001, 0.01),
        )  # fmt: skip
        usage = quay.usage()
        quay.close()
    assert len(answered) + len(failures) == count
    assert all(key == value for key, value in answered.items())
    assert all(str(f.error).endswith(".") and "quay" in str(f.error) for f in failures)
    assert len(failures) < count * 0.06
    assert sum(faults.made.values()) > count * 0.15
    characters = sum(len(f"Line {number}.") for number in range(count))
    assert usage.used.characters <= characters, "no question is charged twice, however often it was asked"
