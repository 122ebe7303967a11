"""The server by itself: its document, its bounds, whom it lets in, and hostile requests."""

from __future__ import annotations

import json
from collections.abc import Iterator

import httpx
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from helpers import speech
from zweistimme.engines.wire import written
from zweistimme.project.errors import EngineError, ZweistimmeError
from zweistimme.server import FAULTS, Faults, Serving, parsed_faults, running


@pytest.fixture(scope="module")
def caller() -> Iterator[httpx.Client]:
    """Somebody who asks a server that runs meanwhile."""
    with running(Serving()) as address, httpx.Client(base_url=address, timeout=60) as client:
        yield client


def test_the_document_describes_the_protocol(caller: httpx.Client) -> None:
    document = caller.get("/openapi.json").json()
    assert document["openapi"].startswith("3.1")
    assert {
        "/v1/engine",
        "/v1/usage",
        "/v1/translations",
        "/v1/speech",
        "/v1/recognitions",
        "/v1/jobs/{job_id}",
    } <= set(document["paths"])
    item = document["components"]["schemas"]["TranslationItem"]
    assert item["required"] == ["id", "text"]
    assert "length" in item["description"] or "long" in item["description"]


def test_unknown_fields_are_tolerated_and_missing_ones_named(caller: httpx.Client) -> None:
    item = {"id": "a", "text": "Good morning.", "mood": "bright"}
    answer = caller.post("/v1/translations", json={"source": "en-GB", "target": "de-DE", "items": [item], "more": 1})
    assert answer.json()["items"][0]["wordings"][0]["text"] == "Guten Morgen."
    del item["text"]
    answer = caller.post("/v1/translations", json={"source": "en-GB", "target": "de-DE", "items": [item]})
    assert answer.status_code == 422
    assert answer.headers["content-type"] == "application/problem+json"
    assert answer.json()["detail"] == "Field required @ items[0].text."


@pytest.mark.parametrize(
    ("change", "status", "sentence"),
    [
        ({"voice": "nobody"}, 404, "no voice nobody"),
        ({"language": "ja-JP"}, 404, "do not speak ja-JP"),
        ({"ssml": "<speak>"}, 400, "not well-formed"),
        ({"ssml": '<speak><phoneme ph="ʘ">x</phoneme></speak>'}, 400, "no sound for “ʘ”"),
        ({"rate": 40}, 422, "less than or equal to 4 @ rate"),
        ({"ssml": None}, 422, "@ ssml"),
    ],
)
def test_requests_that_cannot_be_met(
    caller: httpx.Client, change: dict[str, object], status: int, sentence: str
) -> None:
    request = json.loads(written(speech("Hi.", "en-GB", "alva"))) | change
    answer = caller.post("/v1/speech", json=request)
    assert (answer.status_code, answer.json()["status"]) == (status, status)
    assert sentence in answer.json()["detail"]


def test_requests_are_bounded_whether_announced_or_not() -> None:
    with running(Serving()) as address:
        assert httpx.post(f"{address}/v1/translations", content=b"x" * (9 << 20)).status_code == 413
        parts = (b"x" * (1 << 20) for _ in range(9))
        assert httpx.post(f"{address}/v1/translations", content=parts).status_code == 413
        assert httpx.get(f"{address}/v1/engine").status_code == 200


def test_an_open_address_needs_a_token() -> None:
    for address in ("0.0.0.0", "::", "192.0.2.1", "quay.example"):
        with pytest.raises(EngineError, match="so a token is needed"), running(Serving(address=address)):
            pass


def test_a_token_is_asked_for_everywhere() -> None:
    with running(Serving(token="right")) as address, httpx.Client(base_url=address) as stranger:
        for path in ("/v1/engine", "/v1/usage", "/v1/jobs/x"):
            assert stranger.get(path).status_code == 401
            assert stranger.get(path, headers={"Authorization": "Bearer wrong"}).status_code == 401
        assert stranger.get("/v1/engine", headers={"Authorization": "Bearer right"}).status_code == 200


def test_a_port_that_is_taken_is_said() -> None:
    with running(Serving()) as address:
        again = running(Serving(port=int(address.rpartition(":")[2])))
        with pytest.raises(EngineError, match="cannot be listened at"):
            again.__enter__()


def test_faults_are_drawn_as_asked_and_the_same_each_time() -> None:
    draws = [[Faults({"cut": 0.1, "limit": 0.1}, seed=3).drawn("/v1/speech") for _ in range(1)] for _ in range(2)]
    assert draws[0] == draws[1]
    faults = Faults({"cut": 0.1, "limit": 0.1}, seed=3)
    for _ in range(5000):
        faults.drawn("/v1/speech")
    assert 350 < faults.made["cut"] < 650
    assert 350 < faults.made["limit"] < 650
    assert faults.drawn("/v1/engine") is None
    for text in ("nonsense", "cut=2", "cut=often"):
        with pytest.raises(ZweistimmeError):
            parsed_faults(text)
    assert set(parsed_faults(",".join(FAULTS)).shares) == set(FAULTS)


JSON = st.recursive(
    st.none() | st.booleans() | st.integers() | st.floats(allow_nan=False) | st.text(max_size=20),
    lambda inner: st.lists(inner, max_size=4) | st.dictionaries(st.text(max_size=10), inner, max_size=4),
    max_leaves=12,
)
FIELDS = st.sampled_from(
    [
        "source",
        "target",
        "items",
        "terms",
        "wordings",
        "ssml",
        "language",
        "voice",
        "direction",
        "seed",
        "rate",
        "turns",
    ]
)
REQUESTS = st.fixed_dictionaries(
    {},
    optional={
        "source": st.sampled_from(["en-GB", "de", "x"]) | JSON,
        "target": st.sampled_from(["de-DE", "es", ""]) | JSON,
        "items": st.lists(st.fixed_dictionaries({"id": st.text(max_size=5), "text": st.text(max_size=60)})) | JSON,
        "terms": st.lists(st.fixed_dictionaries({"source": st.text(max_size=3), "target": st.text(max_size=3)})) | JSON,
        "ssml": st.text(max_size=30).map(lambda text: f"<speak>{text}</speak>") | JSON,
        "language": st.sampled_from(["en-GB", "de-DE"]) | JSON,
        "voice": st.just("fenn") | JSON,
        "direction": st.text(max_size=9) | JSON,
        "seed": JSON,
        "turns": JSON,
    },
) | st.dictionaries(FIELDS, JSON)


@given(path=st.sampled_from(["/v1/translations", "/v1/speech", "/v1/dialogues"]), asked=REQUESTS)
@settings(max_examples=250)
def test_no_request_brings_the_server_down(caller: httpx.Client, path: str, asked: object) -> None:
    """Whatever is asked is answered, or refused as problem details; never with a server error."""
    answer = caller.post(path, content=json.dumps(asked), headers={"Content-Type": "application/json"})
    assert answer.status_code in (200, 400, 404, 413, 422), answer.text
    if answer.status_code != 200:
        assert answer.json()["status"] == answer.status_code


@given(sound=st.binary(max_size=300), question=st.text(max_size=80))
@settings(max_examples=60)
def test_no_sound_brings_the_server_down(caller: httpx.Client, sound: bytes, question: str) -> None:
    answer = caller.post("/v1/recognitions", data={"question": question}, files={"sound": ("s.flac", sound)})
    assert answer.status_code in (200, 400, 422), answer.text
