"""An engine over a real loopback connection: it says the same as the bundled one, and every fault is a sentence."""

from __future__ import annotations

import socket
import threading
import time
from dataclasses import replace

import numpy as np
import pytest

from engines.asking import long_answers
from engines.servers import HELLO, QUICK, service, translated
from helpers import speech
from zweistimme.engines.offers import Limits, Price, Role
from zweistimme.engines.protocol import (
    DialogueRequest,
    RecognitionQuestion,
    SoundSource,
    TranslationItem,
    TranslationRequest,
)
from zweistimme.engines.registry import engine
from zweistimme.engines.request_queue import Patience
from zweistimme.engines.service import ServiceEngine, Waits
from zweistimme.project.errors import (
    BadAnswer,
    Cancelled,
    EngineAway,
    EngineBusy,
    EngineCutOff,
    EngineError,
    EngineFault,
    EngineRefused,
)
from zweistimme.server import Terms
from zweistimme.sound.arrays import in_24_bits


def sound_source(samples: np.ndarray) -> SoundSource:
    return SoundSource(lambda start, count: samples[start : start + count], len(samples))


def test_what_it_says_of_itself_is_what_the_bundled_engine_says() -> None:
    with service() as quay:
        assert quay.info() == replace(engine().info(), repeats_free=True)
        assert quay.info().roles == tuple(Role)


def test_a_clip_comes_through_without_loss() -> None:
    with service() as quay:
        near, far = engine().speak(HELLO), quay.speak(HELLO)
    assert np.array_equal(in_24_bits(near.samples), far.samples)
    assert near.words == far.words
    assert far.cost.characters == len(HELLO.ssml)


def test_a_dialogue_comes_as_clips_with_their_places() -> None:
    turns = (HELLO, speech("Wie spät ist es?", "de-DE", "brandt"), speech("Halb —", "de-DE", "fenn"), HELLO)
    with service() as quay:
        clips = quay.converse(DialogueRequest(turns))
    starts = [clip.start_us for clip in clips]
    ends = [clip.start_us + len(clip.samples) * 1_000_000 // 48_000 for clip in clips]
    assert starts[0] == 0
    assert starts[1] > ends[0]
    assert starts[3] < ends[2], "a line that breaks off is cut into"


def test_translations_and_recognitions_are_the_same_over_the_line() -> None:
    request = TranslationRequest("en-GB", "de-DE", (TranslationItem("a", "Good morning."), TranslationItem("b", "Hm")))
    spoken = engine().speak(speech("Good morning. The clock has to know that before we do.", "en-GB", "dario")).samples
    question, shares = RecognitionQuestion(("en-GB", "de-DE")), list[float]()
    with service() as quay:
        assert quay.translate(request).items == engine().translate(request).items
        far = quay.recognise(sound_source(spoken), question, shares.append)
    near = engine().recognise(sound_source(in_24_bits(spoken)), question, lambda _share: None)
    assert (far.language, far.segments) == (near.language, near.segments)
    assert far.language == "en-GB"
    assert shares == sorted(shares)


def test_usage_price_and_quota() -> None:
    terms = Terms(price=Price(0.001, 0.0, "EUR"), quota_characters=30, limits=Limits(items=2))
    with service(terms=terms) as quay:
        assert quay.info().price.currency == "EUR"
        assert translated(quay, "Good morning.").cost.amount == pytest.approx(0.013)
        assert quay.usage().characters_left == 17
        with pytest.raises(EngineRefused, match="quota of quay is used up"):
            translated(quay, "x" * 18)
        with pytest.raises(EngineError, match="too large: 3 texts; at most 2"):
            translated(quay, "a", "b", "c")


def test_the_same_question_is_charged_once() -> None:
    with service() as quay:
        for _ in range(3):
            quay.speak(HELLO)
        assert quay.usage().used.characters == len(HELLO.ssml)


FAULTS = [
    ("no-rights", EngineRefused, "has no rights"),
    ("limit", EngineBusy, "asks to wait"),
    ("busy", EngineBusy, "is not ready"),
    ("server-error", EngineFault, "quay failed: An unexpected error"),
    ("cut", EngineCutOff, "broke the connection off"),
    ("not-json", BadAnswer, "not JSON"),
    ("wrong-field", BadAnswer, r"wrong field: .* @ (words|items)"),
    ("no-language", EngineError, "language is not there"),
    ("no-voice", EngineError, "voice is not there"),
    ("quota", EngineRefused, "quota of quay is used up"),
]


@pytest.mark.parametrize(("fault", "kind", "sentence"), FAULTS)
def test_every_fault_is_a_sentence(fault: str, kind: type[EngineError], sentence: str) -> None:
    with service(fault) as quay:
        for ask in (lambda: quay.speak(HELLO), lambda: translated(quay, "Good morning.")):
            with pytest.raises(kind, match=sentence) as caught:
                ask()
            assert type(caught.value) is kind
            assert str(caught.value).endswith(".")


def test_an_answer_that_comes_too_late() -> None:
    with service("delay", waits=Waits(answer=1.0)) as quay, pytest.raises(EngineFault, match="did not answer in 1 s"):
        translated(quay, "Good morning.")


@pytest.mark.parametrize(
    ("fault", "sentence"),
    [
        ("wrong-rate", "at 11025 Hz although this voice promises 48000"),
        ("silent", "clip that is silent"),
        ("far-too-long", "1300 s of sound where at most"),
        ("not-sound", "neither WAV nor FLAC"),
        ("missing-field", "Field required @ sound"),
    ],
)
def test_sound_that_cannot_be_used(fault: str, sentence: str) -> None:
    with service(fault) as quay, pytest.raises(BadAnswer, match=sentence):
        quay.speak(HELLO)


def test_ids_that_are_missing_or_come_twice() -> None:
    with service("duplicate-ids") as quay, pytest.raises(BadAnswer, match="answered twice for the text 0"):
        translated(quay, "Yes.", "No.")
    with service("missing-ids") as quay:
        assert [item.id for item in translated(quay, "Yes.", "No.").items] == ["1"]  # what came is not lost
        with pytest.raises(BadAnswer, match="left out all 1 texts"):
            translated(quay, "Yes.")
    with service("unknown-ids") as quay, pytest.raises(BadAnswer, match="the text another, which nobody had asked for"):
        translated(quay, "Yes.", "No.")
    with service("missing-field") as quay, pytest.raises(BadAnswer, match="Field required @ items"):
        translated(quay, "Yes.", "No.")


def test_a_job_that_never_ends_is_told_to_stop() -> None:
    silence = sound_source(np.zeros(48_000, np.float32))
    with service("never-ends", waits=Waits(stuck=1.0)) as quay, pytest.raises(EngineError, match="no progress for 1 s"):
        quay.recognise(silence, RecognitionQuestion(("en-GB",)), lambda _share: None)


def test_looks_that_fail_cost_no_recognition() -> None:
    """A third of all requests is cut off or refused; the job goes on, is charged once, and its result arrives."""
    spoken = engine().speak(speech("Good morning. The clock has to know that before we do.", "en-GB", "dario")).samples
    shares = list[float]()
    with service("server-error=0.15,cut=0.15") as quay:
        (heard,) = long_answers(
            [sound_source(spoken)],
            lambda sound, report: quay.recognise(sound, RecognitionQuestion(("en-GB",)), report),
            shares.append,
            patience=Patience(0.01, 0.05),
        )
        assert [w.text for w in heard.segments[0].words] == ["Good", "morning."]
        assert quay.usage().used.seconds == pytest.approx(len(spoken) / 48_000, abs=0.01)


def test_the_same_sound_is_recognised_once() -> None:
    spoken = engine().speak(speech("Good morning.", "en-GB", "dario")).samples
    question = RecognitionQuestion(("en-GB",))
    with service() as quay:
        first, again = (quay.recognise(sound_source(spoken), question, lambda _share: None) for _ in range(2))
        assert first == again
        assert quay.usage().used.seconds == pytest.approx(len(spoken) / 48_000, abs=0.01)
        other = RecognitionQuestion(("en-GB",), speakers=1)
        quay.recognise(sound_source(spoken), other, lambda _share: None)
        assert quay.usage().used.seconds == pytest.approx(2 * len(spoken) / 48_000, abs=0.01)


def test_who_asks_again_while_the_answer_is_made_is_not_charged_twice() -> None:
    with service() as quay:
        info, clips = quay.info(), list[int]()
        threads = [threading.Thread(target=lambda: clips.append(len(quay.speak(HELLO).samples))) for _ in range(6)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        assert len(set(clips)) == 1
        assert len(clips) == 6
        assert quay.usage().used.characters == len(HELLO.ssml)
        assert info.price.of(10).amount == 0


def test_a_recognition_is_cancelled_at_once() -> None:
    def report(share: float) -> None:
        if share >= 0.1:
            raise Cancelled

    with service("never-ends") as quay:
        began = time.monotonic()
        with pytest.raises(Cancelled):
            quay.recognise(sound_source(np.zeros(48_000, np.float32)), RecognitionQuestion(("en-GB",)), report)
        assert time.monotonic() - began < 5


def test_tokens() -> None:
    for shown in (None, "wrong"):
        with (
            service(token="right", shown=shown) as quay,
            pytest.raises(EngineRefused, match="does not accept the token"),
        ):
            quay.info()
    with service(token="right", shown="right") as quay:
        assert quay.info().name == "bundled"


def test_nobody_there() -> None:
    with socket.socket() as taken:
        taken.bind(("127.0.0.1", 0))
        port = taken.getsockname()[1]
    with pytest.raises(EngineAway, match="nothing answers at"):
        ServiceEngine("quay", f"http://127.0.0.1:{port}", waits=QUICK).info()
    with pytest.raises(EngineAway, match=r"the name in http://nobody\.invalid is not known"):
        ServiceEngine("quay", "http://nobody.invalid", waits=QUICK).info()
    with pytest.raises(EngineAway, match="no address of a service"):
        ServiceEngine("quay", "quay.example").info()


def test_a_voice_that_is_not_offered_is_said_without_asking() -> None:
    with service() as quay, pytest.raises(EngineError, match="has no voice nobody"):
        quay.speak(speech("Hi", "en-GB", "nobody"))
