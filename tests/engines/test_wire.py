"""The protocol's types as JSON: nothing is lost on the way, and what is wrong is named with its place."""

from __future__ import annotations

import io
import json

import numpy as np
import pytest
import soundfile
from hypothesis import given
from hypothesis import strategies as st

from zweistimme.engines.connections import Connection, Kind
from zweistimme.engines.engine_facts import facts
from zweistimme.engines.offers import Control, Cost, EngineInfo, Limits, Price, Role, Usage, VoiceInfo
from zweistimme.engines.protocol import (
    About,
    HeardSegment,
    HeardWord,
    Recognition,
    RecognitionQuestion,
    Situation,
    Speech,
    SpeechRequest,
    Term,
    Translation,
    TranslationItem,
    TranslationRequest,
    Wording,
    Wordings,
)
from zweistimme.engines.registry import Examined
from zweistimme.engines.wire import (
    TOLD_LATER,
    RecognitionJob,
    SpeechAnswer,
    read,
    samples_from,
    speech_answer,
    speech_from,
    written,
)
from zweistimme.project.errors import BadAnswer, EngineError
from zweistimme.project.times import RATE
from zweistimme.sound.arrays import in_24_bits

NAMES = st.text(st.characters(min_codepoint=32, max_codepoint=0x2FFF), min_size=1, max_size=12)
TAGS = st.sampled_from(["en-GB", "de", "es-ES", "gl-ES"])
TIMES = st.integers(0, 10**10)
SHARES = st.floats(0, 1)
WORDS = st.builds(HeardWord, NAMES, TIMES, TIMES, SHARES, st.booleans())
COSTS = st.builds(Cost, st.integers(0, 10**6), st.floats(0, 1e6), st.floats(0, 1e6), st.sampled_from(["", "EUR"]))
VOICES = st.builds(
    VoiceInfo, NAMES, NAMES, st.sampled_from(["woman", "man", "child"]), st.lists(TAGS, max_size=3).map(tuple), NAMES,
    st.none() | st.floats(50, 400), st.lists(NAMES, max_size=2).map(tuple), NAMES,
    st.lists(st.builds(Control, NAMES, st.floats(-1, 0), st.floats(1, 2)), max_size=2).map(tuple),
    st.integers(8_000, 192_000), st.booleans(),
)  # fmt: skip
LIMITS = st.builds(
    Limits, st.none() | st.integers(1, 10**6), st.none() | st.floats(1, 1e5), st.integers(1, 99),
    st.none() | st.floats(1, 1e4), st.integers(1, 64),
)  # fmt: skip
THINGS = st.one_of(
    st.builds(
        EngineInfo, NAMES, NAMES, st.just(1), st.lists(TAGS, max_size=3).map(tuple),
        st.lists(st.tuples(TAGS, TAGS), max_size=3).map(tuple), st.lists(VOICES, max_size=2).map(tuple), LIMITS,
        st.builds(Price, st.floats(0, 1), st.floats(0, 1), NAMES), st.booleans(),
    ),
    st.builds(
        Recognition, TAGS, SHARES,
        st.lists(st.builds(HeardSegment, TIMES, TIMES, NAMES, st.lists(WORDS, max_size=3).map(tuple)), max_size=3)
        .map(tuple), COSTS,
    ),
    st.builds(RecognitionQuestion, st.lists(TAGS, min_size=1, max_size=3).map(tuple), st.lists(NAMES).map(tuple),
              st.none() | st.integers(1, 100)),
    st.builds(TranslationRequest, TAGS, TAGS,
              st.lists(st.builds(TranslationItem, NAMES, NAMES, NAMES, NAMES, st.none() | st.integers(1, 10**9)))
              .map(tuple), st.lists(st.builds(Term, NAMES, NAMES)).map(tuple), st.integers(1, 10)),
    st.builds(Translation, st.lists(st.builds(
        Wordings, NAMES, st.lists(st.builds(Wording, NAMES, TIMES), min_size=1, max_size=3).map(tuple),
    ), max_size=3).map(tuple), COSTS),
    st.builds(SpeechRequest, NAMES, TAGS, NAMES, NAMES, st.integers(0, 99), st.floats(0.25, 4), st.floats(0.25, 4),
              st.floats(-40, 20)),
    st.builds(Usage, COSTS, st.none() | st.integers(0, 9), st.none() | st.floats(0, 9)),
)  # fmt: skip


@given(THINGS)
def test_what_is_written_is_read_again(thing: object) -> None:
    assert read(type(thing), written(thing), "quay") == thing


@given(THINGS, st.dictionaries(st.text(min_size=1, max_size=5).map(lambda name: f"x-{name}"), st.integers()))
def test_unknown_fields_are_tolerated(thing: object, more: dict[str, int]) -> None:
    body = json.loads(written(thing)) | more
    assert read(type(thing), json.dumps(body), "quay") == thing


@pytest.mark.parametrize(
    ("kind", "body", "sentence"),
    [
        (EngineInfo, '{"version": "1"}', "quay answered with a wrong field: Field required @ name."),
        (EngineInfo, '{"name": "q", "version": "1", "voices": [{"id": "a"}]}', r"Field required @ voices\[0\].name"),
        (
            EngineInfo,
            '{"name": "q", "version": "1", "limits": {"at_once": 0}}',
            "greater than or equal to 1 @ limits.at_once",
        ),
        (Recognition, '{"language": "en", "probability": 2, "segments": []}', "less than or equal to 1 @ probability"),
        (Translation, '{"items": [{"id": "a", "wordings": []}]}', r"@ items\[0\].wordings"),
        (RecognitionJob, '{"id": "a", "state": "lost"}', "@ state"),
        (Usage, "[1, 2]", "@ the whole answer"),
        (Usage, "", "something that is not JSON"),
        (Usage, "{" * 5_000, "something that is not JSON"),
    ],
)
def test_what_is_wrong_is_named_with_its_place(kind: type, body: str, sentence: str) -> None:
    with pytest.raises(BadAnswer, match=sentence):
        read(kind, body, "quay")


def tone(seconds: float = 0.5, rate: int = RATE) -> np.ndarray:
    return (0.3 * np.sin(2 * np.pi * 220 * np.arange(round(seconds * rate)) / rate)).astype(np.float32)


def file_of(samples: np.ndarray, rate: int = RATE, kind: str = "WAV", subtype: str | None = None) -> bytes:
    buffer = io.BytesIO()
    soundfile.write(buffer, samples, rate, format=kind, subtype=subtype)
    return buffer.getvalue()


def test_a_clip_survives_the_wire_to_the_last_of_24_bits() -> None:
    speech = Speech(tone(), (HeardWord("la", 0, 500_000),), Cost(3), 1_000)
    back = speech_from(speech_answer(speech), RATE, 10, "quay")
    assert np.array_equal(back.samples, in_24_bits(speech.samples))
    assert (back.words, back.cost, back.start_us) == (speech.words, speech.cost, speech.start_us)


@pytest.mark.parametrize("rate", [8_000, 16_000, 22_050, 44_100, 96_000])
def test_other_rates_come_to_the_desk_at_its_own(rate: int) -> None:
    samples = samples_from(file_of(tone(0.5, rate), rate), rate, 10, "quay")
    assert len(samples) == pytest.approx(RATE / 2, abs=2)
    spectrum = np.abs(np.fft.rfft(samples * np.hanning(len(samples))))
    assert np.argmax(spectrum) * RATE / len(samples) == pytest.approx(220, abs=3)


@pytest.mark.parametrize(
    ("data", "sentence"),
    [
        (b"", "neither WAV nor FLAC"),
        (file_of(tone())[:30], "neither WAV nor FLAC"),
        (file_of(np.stack([tone(), tone()], axis=1)), "2 channels; a voice has one"),
        (file_of(tone(12)), "12 s of sound where at most 10 s make sense"),
        (file_of(tone(0.5, 16_000), 16_000), "at 16000 Hz although this voice promises 48000"),
        (file_of(np.zeros(4_800)), "a clip that is silent"),
        (file_of(np.zeros(0)), "a clip that is silent"),
        (file_of(np.full(4_800, np.nan, np.float32), subtype="FLOAT"), "a clip that is silent"),
    ],
)
def test_sound_of_no_use(data: bytes, sentence: str) -> None:
    with pytest.raises(BadAnswer, match=sentence):
        samples_from(data, RATE, 10, "quay")


def test_what_is_no_base64_is_said() -> None:
    with pytest.raises(BadAnswer, match="not base64"):
        speech_from(SpeechAnswer("§§§"), RATE, 10, "quay")


def test_roles_follow_from_what_an_engine_offers() -> None:
    voice = VoiceInfo("a", "Ada", "woman", ("en",))
    assert EngineInfo("x", "1").roles == ()
    assert EngineInfo("x", "1", voices=(voice,)).roles == (Role.SPEAK,)
    assert EngineInfo("x", "1", recognises=("en",), pairs=(("en", "de"),)).roles == (Role.RECOGNISE, Role.TRANSLATE)
    with pytest.raises(EngineError, match="x has no voice b; it has a"):
        EngineInfo("x", "1", voices=(voice,)).voice("b")


def test_an_engine_is_described_in_words() -> None:
    voice = VoiceInfo("a", "Ada", "woman", ("en-GB", "de-DE"))
    info = EngineInfo(
        "quay", "2", recognises=("en-GB",), pairs=(("en", "de"), ("en", "es")), voices=(voice,), detects=True,
        limits=Limits(2_000, 600.0, 8, 90, 4), price=Price(0.0001, 0.01, "EUR"),
    )  # fmt: skip
    usage = Usage(Cost(1_500, 60.0, 0.75, "EUR"), characters_left=500)
    rows = dict(facts(Examined(Connection("quay", Kind.SERVICE, "https://quay.example"), info, usage)))
    assert rows == {
        "Reached": "https://quay.example",
        "Recognises": "English (United Kingdom); tells them apart",
        "Translates": "English to German and Spanish",
        "Voices": "Ada (woman)",
        "Spoken": "English (United Kingdom), German (Germany)",
        "Limits": "2,000 characters a request, 600 s of sound a request, 90 requests a minute, 4 at once",
        "Price": "0.1 EUR for 1,000 characters, 0.6 EUR for a minute of sound",
        "Used so far": "1,500 characters, 60 s of sound, 0.75 EUR; 500 characters left",
    }
    assert facts(Examined(Connection("quay", Kind.SERVICE), problem="It is away.")) == []


def test_an_engine_of_version_1_is_not_told_what_came_later_wherever_it_stands() -> None:
    item = TranslationItem("a", "The ferry goes.", situation=Situation("Ines"))
    request = TranslationRequest(
        "en", "de", (item,), (Term("ferry", "Fähre", ("Schiff",), "a boat"),), about=About("boats")
    )
    told = json.loads(written(request, TOLD_LATER))
    assert told["items"] == [{"id": "a", "text": "The ferry goes.", "before": "", "after": "", "longest_us": None}]
    assert told["terms"] == [{"source": "ferry", "target": "Fähre"}]
    assert "about" not in told
    speech = json.loads(written(SpeechRequest(ssml="<speak>Hello.</speak>", voice="kaja", language="en"), TOLD_LATER))
    assert speech["voice"] == "kaja"
    assert "tier" not in speech
