"""Faults a server can be told to make, so that everything that asks it can be tested against them."""

from __future__ import annotations

import asyncio
import json
import random
import threading
from collections.abc import Awaitable, Callable, MutableMapping
from dataclasses import dataclass, field
from functools import lru_cache
from typing import Any, Final

import numpy as np

from zweistimme.engines.protocol import Speech
from zweistimme.engines.wire import PROBLEM_TYPE, Problem, speech_answer, written
from zweistimme.project.errors import ZweistimmeError
from zweistimme.project.times import RATE

Message = MutableMapping[str, Any]
Receive = Callable[[], Awaitable[Message]]
Send = Callable[[Message], Awaitable[None]]

FAULTS: Final = {
    "no-rights": "403: the token may not do this",
    "limit": "429 with Retry-After: too many requests",
    "busy": "503 with Retry-After: not ready",
    "server-error": "500: the engine failed",
    "delay": "the answer comes late",
    "cut": "the connection breaks in the middle of the answer",
    "not-json": "the answer is not JSON",
    "wrong-field": "a field of the answer has the wrong type",
    "missing-field": "a field of the answer is missing",
    "wrong-rate": "sound at another sample rate than announced",
    "silent": "sound without sound",
    "far-too-long": "many minutes of sound",
    "not-sound": "sound that is not sound",
    "duplicate-ids": "a translated text comes twice",
    "missing-ids": "a translated text does not come",
    "unknown-ids": "a text comes that nobody had asked for",
    "no-language": "404: the language is not there",
    "no-voice": "404: the voice is not there",
    "quota": "402: everything is used up",
    "never-ends": "a recognition that makes no progress",
    "drip": "the answer comes a byte at a time, for ever",
    "endless": "an answer of gigabytes",
    "gzip-bomb": "a small answer that unpacks to half a gigabyte",
    "redirect": "307: ask somebody else",
}
"""Every fault, and what it does."""
_LATE: Final = frozenset({"cut", "not-json", "wrong-field", "missing-field", "wrong-rate", "silent", "far-too-long",
                          "not-sound", "duplicate-ids", "missing-ids",
                          "unknown-ids"})  # fmt: skip
_REFUSALS: Final = {
    "no-rights": (403, "about:blank", "No rights", "This token may not be used for that."),
    "limit": (429, f"{PROBLEM_TYPE}limit", "Too many requests", "Wait before asking again."),
    "busy": (503, f"{PROBLEM_TYPE}busy", "Not ready", "The engine is starting."),
    "server-error": (500, "about:blank", "The engine failed", "An unexpected error."),
    "no-language": (404, f"{PROBLEM_TYPE}language", "No such language", "The language is not there."),
    "no-voice": (404, f"{PROBLEM_TYPE}voice", "No such voice", "The voice is not there."),
    "redirect": (307, "about:blank", "Elsewhere", "It is not here."),
    "gzip-bomb": (200, "about:blank", "", ""),
    "quota": (402, f"{PROBLEM_TYPE}quota", "Quota used up", "Nothing is left of this month's quota."),
}
_DELAY_S: Final = 5.0
_RETRY_S: Final = 1
_PIECES: Final = 3_000


@dataclass(slots=True)
class Faults:
    """Which faults are made, with which share of requests (1: every one). The same seed makes the same choices."""

    shares: dict[str, float] = field(default_factory=dict)
    seed: int = 0
    retry_after_s: int = _RETRY_S
    delay_s: float = _DELAY_S
    drip_s: float = 0.5
    made: dict[str, int] = field(default_factory=dict)
    """How often each was made so far."""
    _random: random.Random = field(init=False)
    _lock: threading.Lock = field(init=False, default_factory=threading.Lock)

    def __post_init__(self) -> None:
        self._random = random.Random(self.seed)

    def drawn(self, path: str) -> str | None:
        """The fault for the next request, if any. What an engine says of itself and of its account is never spoilt."""
        if path in ("/v1/engine", "/v1/usage", "/openapi.json") or not self.shares:
            return None
        with self._lock:
            point = self._random.random()
            for name, share in self.shares.items():
                point -= share
                if point < 0:
                    self.made[name] = self.made.get(name, 0) + 1
                    return name
        return None


def parsed_faults(text: str) -> Faults:
    """Faults from ``name=share,name`` (no share: always).

    >>> parsed_faults("limit=0.25,cut").shares
    {'limit': 0.25, 'cut': 1.0}
    """
    shares = {}
    for part in filter(None, (piece.strip() for piece in text.split(","))):
        name, equals, share = part.partition("=")
        if name not in FAULTS:
            raise ZweistimmeError("There is no fault “{name}”. Faults: {names}.", name=name, names=", ".join(FAULTS))
        try:
            shares[name] = float(share) if equals else 1.0
        except ValueError:
            raise ZweistimmeError(
                "“{part}” wants a share between 0 and 1, such as {name}=0.1.", part=part, name=name
            ) from None
        if not 0 <= shares[name] <= 1:
            raise ZweistimmeError("“{part}” wants a share between 0 and 1, such as {name}=0.1.", part=part, name=name)
    return Faults(shares)


class FaultyApp:
    """An ASGI application around another one, which it spoils now and then."""

    def __init__(self, app: Any, faults: Faults) -> None:
        self._app, self._faults = app, faults

    async def __call__(self, scope: Message, receive: Receive, send: Send) -> None:
        fault = self._faults.drawn(scope["path"]) if scope["type"] == "http" else None
        if fault is None or fault == "never-ends":
            scope.setdefault("state", {})["fault"] = fault
            await self._app(scope, receive, send)
        elif fault in _LATE:
            await self._spoilt(fault, scope, receive, send)
        elif fault == "delay":
            await asyncio.sleep(self._faults.delay_s)
            await self._app(scope, receive, send)
        elif fault in ("drip", "endless"):
            await self._for_ever(fault, receive, send)
        else:
            await self._refused(fault, send)

    async def _refused(self, fault: str, send: Send) -> None:
        status, kind, title, detail = _REFUSALS[fault]
        body = written(Problem(title, max(400, status), detail, kind))
        headers = [(b"content-type", b"application/problem+json"), (b"content-length", str(len(body)).encode())]
        if fault == "redirect":
            headers = [(b"location", b"http://127.0.0.1:9/elsewhere"), (b"content-length", b"0")]
            body = b""
        if fault == "gzip-bomb":
            body = _bomb()
            headers = [(b"content-encoding", b"gzip"), (b"content-length", str(len(body)).encode())]
        if fault in ("limit", "busy"):
            headers.append((b"retry-after", str(self._faults.retry_after_s).encode()))
        await send({"type": "http.response.start", "status": status, "headers": headers})
        await send({"type": "http.response.body", "body": body})

    async def _for_ever(self, fault: str, receive: Receive, send: Send) -> None:
        """Send on and on, until nobody listens any more."""
        piece, pause_s = (b" ", self._faults.drip_s) if fault == "drip" else (bytes(1 << 20), 0.0)

        async def gone() -> None:
            while (await receive())["type"] != "http.disconnect":
                pass

        leaving = asyncio.ensure_future(gone())
        await send({"type": "http.response.start", "status": 200, "headers": [(b"content-type", b"application/json")]})
        for _ in range(_PIECES):
            if leaving.done():
                break
            await send({"type": "http.response.body", "body": piece, "more_body": True})
            await asyncio.sleep(pause_s)
        leaving.cancel()

    async def _spoilt(self, fault: str, scope: Message, receive: Receive, send: Send) -> None:
        """Let the engine answer, and be paid; then spoil the answer."""
        start: Message = {}
        body = b""

        async def hold(message: Message) -> None:
            nonlocal body
            if message["type"] == "http.response.start":
                start.update(message)
            else:
                body += message.get("body", b"")

        await self._app(scope, receive, hold)
        if start.get("status") != 200:
            await send(start)
            await send({"type": "http.response.body", "body": body})
            return
        length = len(body)
        body = body[: length // 2] if fault == "cut" else spoilt(fault, body)
        if fault != "cut":
            length = len(body)
        headers = [(k, v) for k, v in start["headers"] if k.lower() != b"content-length"]
        start["headers"] = [*headers, (b"content-length", str(length).encode())]
        await send(start)
        await send({"type": "http.response.body", "body": body, "more_body": fault == "cut"})
        if fault == "cut":
            raise ConnectionAbortedError("cut on purpose")


@lru_cache(maxsize=1)
def _bomb() -> bytes:
    """A gzip stream (RFC 1952) of 512 MiB of nothing: one packed block over and over."""
    import zlib

    packer = zlib.compressobj(1, zlib.DEFLATED, -zlib.MAX_WBITS)
    block = packer.compress(bytes(4 << 20)) + packer.flush(zlib.Z_FULL_FLUSH)
    return b"\x1f\x8b\x08" + bytes(6) + b"\xff" + 128 * block + packer.flush()


def spoilt(fault: str, body: bytes) -> bytes:
    """An answer with a fault in it; an answer this fault cannot be put into stays as it is."""
    if fault == "not-json":
        return b"<html>Welcome</html>"
    answer = json.loads(body)
    if fault in ("wrong-field", "missing-field"):
        key = next((k for k in ("items", "words", "sound", "id", "texts", "turns", "voice") if k in answer), None)
        if key and fault == "wrong-field":
            answer[key] = 7
        elif key and key != "words":
            del answer[key]
        elif key:
            answer.pop("sound", None)
    elif fault in ("duplicate-ids", "missing-ids", "unknown-ids") and answer.get("items"):
        items = answer["items"]
        more = {"duplicate-ids": items[:1], "missing-ids": [], "unknown-ids": [{**items[0], "id": "another"}]}[fault]
        answer["items"] = (items[1:] if fault == "missing-ids" else items) + more
    elif "sound" in answer:
        answer["sound"] = _spoilt_sound(fault)
    return json.dumps(answer).encode()


def _spoilt_sound(fault: str) -> str:
    import base64
    import io

    import soundfile

    if fault == "not-sound":
        return base64.b64encode(b"nothing that anybody could hear" * 40).decode()
    seconds = 1300 if fault == "far-too-long" else 1
    samples = np.zeros(seconds * RATE, dtype=np.float32)
    if fault == "wrong-rate":
        buffer = io.BytesIO()
        soundfile.write(buffer, 0.3 * np.sin(np.arange(11_025) / 9), 11_025, format="WAV")
        return base64.b64encode(buffer.getvalue()).decode()
    return speech_answer(Speech(samples, ())).sound
