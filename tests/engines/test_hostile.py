"""Whatever a service answers, the desk says a sentence: no crash, no hang, no traceback."""

from __future__ import annotations

import json
import threading
from collections.abc import Callable, Iterator
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from engines.servers import HELLO, translated
from zweistimme.engines.protocol import RecognitionQuestion, SoundSource
from zweistimme.engines.service import ServiceEngine, Waits
from zweistimme.project.errors import EngineError

SILENCE = SoundSource(lambda _start, count: np.zeros(count, np.float32), 4_800)
INFO = {"name": "odd", "version": "1", "voices": [{"id": "alva", "name": "A", "kind": "man", "languages": ["de"]}]}


class Answering(BaseHTTPRequestHandler):
    """Answers everything with what it was told to, but says plainly who it is."""

    status, headers_sent, body = 200, {}, b""

    def _answer(self) -> None:
        self.rfile.read(int(self.headers.get("Content-Length") or 0))
        plain = self.path == "/v1/engine"
        body = json.dumps(INFO).encode() if plain else type(self).body
        self.send_response(200 if plain else type(self).status)
        for name, value in {} if plain else type(self).headers_sent.items():
            self.send_header(name, value)
        self.send_header("Content-Length", str(len(body)))
        self.end_headers()
        self.wfile.write(body)

    do_GET = do_POST = do_DELETE = _answer  # noqa: N815

    def log_message(self, *_: object) -> None:
        """Say nothing."""


@pytest.fixture(scope="module")
def address() -> Iterator[str]:
    server = ThreadingHTTPServer(("127.0.0.1", 0), Answering)
    thread = threading.Thread(target=server.serve_forever, daemon=True)
    thread.start()
    yield f"http://127.0.0.1:{server.server_port}"
    server.shutdown()
    thread.join()
    server.server_close()


JSON = st.recursive(
    st.none() | st.booleans() | st.integers() | st.floats() | st.text(max_size=20),
    lambda inner: st.lists(inner, max_size=4) | st.dictionaries(st.text(max_size=10), inner, max_size=4),
    max_leaves=10,
)
NEARLY = st.fixed_dictionaries(
    {},
    optional={
        "items": st.lists(st.fixed_dictionaries({"id": st.just("0") | JSON, "wordings": JSON})) | JSON,
        "sound": st.text(max_size=40) | st.binary(max_size=60).map(lambda data: data.hex()) | JSON,
        "words": JSON,
        "cost": JSON,
        "id": st.text(max_size=8) | JSON,
        "state": st.sampled_from(["running", "done", "failed", "lost"]) | JSON,
        "progress": st.just(0.5) | JSON,
        "result": JSON,
        "problem": JSON,
    },
)
BODIES = st.binary(max_size=200) | (JSON | NEARLY).map(lambda value: json.dumps(value).encode())
STATUS = st.sampled_from([200, 200, 200, 204, 302, 400, 401, 402, 404, 418, 429, 500, 503, 599])
HEADERS = st.dictionaries(
    st.sampled_from(["Retry-After", "Content-Type", "Location", "Content-Encoding"]),
    st.sampled_from(["soon", "-5", "1e9", "gzip", "text/html", "Wed, 99 Foo 2026", "../../etc", "br"]),
    max_size=2,
)


@given(status=STATUS, headers=HEADERS, body=BODIES)
@settings(max_examples=150)
def test_any_answer_is_used_or_refused_in_a_sentence(
    address: str, status: int, headers: dict[str, str], body: bytes
) -> None:
    Answering.status, Answering.headers_sent, Answering.body = status, headers, b"" if status == 204 else body
    odd = ServiceEngine("odd", address, waits=Waits(answer=5.0, look=0.01, stuck=0.05))
    calls: list[Callable[[], object]] = [
        lambda: odd.speak(HELLO),
        lambda: translated(odd, "Good morning."),
        lambda: odd.recognise(SILENCE, RecognitionQuestion(("en-GB",)), lambda _share: None),
        odd.usage,
    ]
    for call in calls:
        said = "."
        try:
            call()
        except EngineError as error:
            said = str(error)
        assert said.endswith((".", "?"))
    odd.close()
